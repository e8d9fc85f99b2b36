//go:build !(js && wasm)

package main

import (
	"fmt"
	"os"
	"slices"

	"hammerset/cmd/page"
)

// main outside the browser answers calls by hand. With the word contract it describes what calls take and give.
func main() {
	if slices.Equal(os.Args[1:], []string{"contract"}) {
		out, err := contract()
		if err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		fmt.Println(string(out))
		return
	}
	page.Serve((&engine{}).call)
}
