//go:build !(js && wasm)

package page

import (
	"bufio"
	"fmt"
	"os"
)

// Serve outside the browser answers calls on standard input, one to a line: the method, a space and its arguments, for
// trying calls by hand.
func Serve(call func(method string, body []byte) []byte) {
	in := bufio.NewReader(os.Stdin)
	for {
		line, err := in.ReadBytes('\n')
		for i, b := range line {
			if b == ' ' {
				fmt.Println(string(call(string(line[:i]), line[i+1:])))
				break
			}
		}
		if err != nil {
			return
		}
	}
}
