// Package api is the contract between the service and its faces: openapi.yaml
// and the Go types, server interface and client generated from it.
package api

//go:generate go tool oapi-codegen -config oapi-codegen.yaml openapi.yaml

import _ "embed"

// Contract is the OpenAPI document itself.
//
//go:embed openapi.yaml
var Contract []byte
