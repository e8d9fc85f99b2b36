//go:build !(js && wasm)

package main

import (
	"fmt"
	"os"
)

// main outside the browser has no page to answer.
func main() {
	fmt.Fprintln(os.Stderr, "sheetcore runs in the browser: make build makes it for that")
	os.Exit(1)
}
