// Package web holds the built interface.
package web

import "embed"

// Dist is the output of the front end's build.
//
//go:embed all:dist
var Dist embed.FS
