// Package spec is the API as one file, openapi.yaml, and the Go types and routes
// made from it. The interface's TypeScript types are made from the same file. It
// knows no other package of this project.
package spec

import _ "embed"

//go:generate go tool oapi-codegen -config config.yaml openapi.yaml

// OpenAPI is the file itself.
//
//go:embed openapi.yaml
var OpenAPI []byte
