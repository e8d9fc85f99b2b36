//go:build !(js && wasm)

package main

import (
	"bufio"
	"fmt"
	"os"
	"slices"
)

// main outside the browser answers calls on standard input, one to a line: the
// method, a space and its arguments, for trying calls by hand. With the word contract it
// describes what calls take and give.
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
	e := &engine{}
	in := bufio.NewReader(os.Stdin)
	for {
		line, err := in.ReadBytes('\n')
		for i, b := range line {
			if b == ' ' {
				fmt.Println(string(e.call(string(line[:i]), line[i+1:])))
				break
			}
		}
		if err != nil {
			return
		}
	}
}
