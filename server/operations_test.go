package server_test

import (
	"strings"
	"testing"

	"go.yaml.in/yaml/v3"

	"mantilla/api"
)

// operations reads the contract: the method of every call by its id, and
// which need nobody to be signed in.
func operations(t *testing.T) (methods map[string]string, open map[string]bool) {
	t.Helper()
	var contract struct {
		Paths map[string]map[string]yaml.Node `yaml:"paths"`
	}
	if err := yaml.Unmarshal(api.Contract, &contract); err != nil {
		t.Fatal(err)
	}
	methods, open = map[string]string{}, map[string]bool{}
	for _, path := range contract.Paths {
		for method, node := range path {
			var operation struct {
				ID       string `yaml:"operationId"`
				Security *[]any `yaml:"security"`
			}
			if method == "parameters" || node.Decode(&operation) != nil || operation.ID == "" {
				continue
			}
			methods[operation.ID] = strings.ToUpper(method)
			open[operation.ID] = operation.Security != nil && len(*operation.Security) == 0
		}
	}
	return methods, open
}
