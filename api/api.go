// Package api is the contract between the service and its faces: openapi.yaml and
// the types generated from it. Those who answer it use api/handlers, those who
// call it api/client.
package api

//go:generate go tool oapi-codegen -config models.yaml openapi.yaml
//go:generate go tool oapi-codegen -config handlers/handlers.yaml openapi.yaml
//go:generate go tool oapi-codegen -config client/client.yaml openapi.yaml

import _ "embed"

// Contract is the OpenAPI document itself.
//
//go:embed openapi.yaml
var Contract []byte
