package demo_test

import (
	"encoding/json"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"go.yaml.in/yaml/v3"

	"mantilla/core/definition"
	"mantilla/core/nearest"
)

const schemaPath = "../docs/definition.schema.json"

// TestDefinitionsMeetThePublishedSchema validates every demo definition by the
// JSON Schema that is published for them.
func TestDefinitionsMeetThePublishedSchema(t *testing.T) {
	schema, err := jsonschema.NewCompiler().Compile(schemaPath)
	if err != nil {
		t.Fatal(err)
	}
	paths, err := filepath.Glob("catalog/reports/*.yaml")
	if err != nil || len(paths) < 20 {
		t.Fatalf("%d definitions, %v", len(paths), err)
	}
	for _, path := range paths {
		text, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		var content any
		if err := yaml.Unmarshal(text, &content); err != nil {
			t.Fatal(err)
		}
		if err := schema.Validate(content); err != nil {
			t.Errorf("%s: %v", path, err)
		}
	}
	if err := schema.Validate(map[string]any{"report": "x", "titel": "y"}); err == nil {
		t.Error("the schema allows anything")
	}
}

// TestSchemaHasEveryKey reads from the parser's refusals which keys it knows at
// each level, and holds the schema against them.
func TestSchemaHasEveryKey(t *testing.T) {
	text, err := os.ReadFile(schemaPath)
	if err != nil {
		t.Fatal(err)
	}
	type object struct {
		Properties map[string]any `json:"properties"`
	}
	var schema struct {
		object
		Defs map[string]object `json:"$defs"`
	}
	if err := json.Unmarshal(text, &schema); err != nil {
		t.Fatal(err)
	}
	_, faults := definition.Parse([]byte(`qqqqqqqqqq: 1
parameters: [{qqqqqqqqqq: 1}]
notes: [{qqqqqqqqqq: 1}]
datasets: {a: {qqqqqqqqqq: 1, columns: [{qqqqqqqqqq: 1, opens: {qqqqqqqqqq: 1}}, {id: b, entry: {qqqqqqqqqq: 1}}]}}
views: {a: {qqqqqqqqqq: 1}}
limits: {qqqqqqqqqq: 1}
statements: {a: {qqqqqqqqqq: 1}}
`), definition.Defaults{})
	for what, described := range map[string]object{"a report": schema.object, "a parameter": schema.Defs["parameter"],
		"a note": schema.Defs["note"], "a dataset": schema.Defs["dataset"],
		"a column": schema.Defs["column"], "opens": schema.Defs["opens"], "a view": schema.Defs["view"],
		"limits": schema.Defs["limits"], "a statement": schema.Defs["statement"]} {
		want := what + ` has no key "qqqqqqqqqq"; there are ` + nearest.And(slices.Sorted(maps.Keys(described.Properties)))
		if !strings.Contains(faults.Error(), want) {
			t.Errorf("the parser does not say %q but\n%v", want, faults)
		}
	}
}
