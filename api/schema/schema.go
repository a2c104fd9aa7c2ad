// Package schema holds the JSON Schemas (2020-12) of the open formats, as the service
// serves them.
package schema

import "embed"

// Files are the schemas, by name.
//
//go:embed *.schema.json
var Files embed.FS
