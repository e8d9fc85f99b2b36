// Package page answers the calls that a page makes of a core built as WebAssembly: the name of a call with its
// arguments as JSON, and its result as JSON.
package page

import (
	"encoding/json"
	"fmt"
)

// reply is what a call gives: a value, or an error in words.
type reply struct {
	Value any    `json:"value,omitempty"`
	Error string `json:"error,omitempty"`
}

// Answer carries out a call of a core, which is called so. A panic becomes an error: the page says so and can go on.
func Answer(core string, call func() (any, error)) (out []byte) {
	defer func() {
		if v := recover(); v != nil {
			out = encode(nil, fmt.Errorf("the %s core failed: %v", core, v))
		}
	}()
	return encode(call())
}

func encode(v any, err error) []byte {
	r := reply{Value: v}
	if err != nil {
		r = reply{Error: err.Error()}
	}
	out, err := json.Marshal(r)
	if err != nil {
		out, _ = json.Marshal(reply{Error: "the result cannot be written: " + err.Error()}) // a string always can
	}
	return out
}
