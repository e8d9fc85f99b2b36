//go:build js && wasm

package main

import "syscall/js"

func main() {
	e := &engine{}
	js.Global().Set("sketchCore", js.FuncOf(func(_ js.Value, args []js.Value) any {
		return string(e.call(args[0].String(), []byte(args[1].String())))
	}))
	js.Global().Get("sketchCoreReady").Invoke()
	select {}
}
