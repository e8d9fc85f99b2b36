//go:build js && wasm

package main

import "hammerset/cmd/page"

func main() { page.Serve((&engine{}).call) }
