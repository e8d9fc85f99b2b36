//go:build !(js && wasm)

package main

import (
	"bufio"
	"fmt"
	"os"
)

// main outside the browser answers calls on standard input, one to a line: the
// method, a space and its arguments. It is there for trying calls by hand.
func main() {
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
