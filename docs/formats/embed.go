// Package schemas holds the published JSON Schemas of the document formats.
package schemas

import "embed"

// Files are the schemas, named model, exercise, atlas and report .schema.json.
//
//go:embed *.schema.json
var Files embed.FS
