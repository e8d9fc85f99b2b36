//go:build js && wasm

package page

import "syscall/js"

// Serve answers the calls of the page for as long as it is there.
func Serve(call func(method string, body []byte) []byte) {
	js.Global().Set("coreCall", js.FuncOf(func(_ js.Value, args []js.Value) any {
		return string(call(args[0].String(), []byte(args[1].String())))
	}))
	js.Global().Get("coreReady").Invoke()
	select {}
}
