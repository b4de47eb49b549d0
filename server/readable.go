package server

import (
	"bytes"
	"cmp"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strings"

	"github.com/getkin/kin-openapi/openapi3"
)

// Version is that of the contract's paths: /api/v1/ and what follows stay as they are, but for what is
// added. /api/ without it is the present version, which the console uses.
const Version = "v1"

// versioned takes the version out of a path, which every call may have.
func versioned(next http.Handler) http.Handler {
	const prefix = "/api/" + Version + "/"
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if rest, ok := strings.CutPrefix(r.URL.Path, prefix); ok {
			plain := r.Clone(r.Context())
			plain.URL.Path, plain.URL.RawPath = "/api/"+rest, ""
			plain.RequestURI = plain.URL.RequestURI()
			r = plain
		}
		next.ServeHTTP(w, r)
	})
}

// readCall is a call of the contract, as people read it.
type readCall struct {
	Method, Path, ID, Says string
	Takes                  []taken
	Body, Gives            string
	Open                   bool
}

// taken is something that a call takes.
type taken struct {
	Name, In, Type, Says string
	Needed               bool
}

var documents = template.Must(template.New("").Parse(`<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>The calls of Mantilla</title>
<style>
body { font: 16px/1.5 system-ui, sans-serif; max-width: 62rem; margin: 2rem auto; padding: 0 1rem; color: #2b2622 }
h2 { font-size: 1rem; margin: 1.6rem 0 0; border-top: 1px solid #d9d0c7; padding-top: .8rem }
code { font-size: .95em } td { vertical-align: top; padding: .1rem .8rem .1rem 0 } .dim { color: #6b625a }
</style></head><body><main>
<h1>The calls of Mantilla</h1>
<p>What the console and the command line use,
	and any program may: <a href="/api/openapi.yaml">the contract</a> in OpenAPI
3.0. A program shows a token (<code>Authorization: Bearer …</code>, made by <code>mantilla token</code>) and calls
<code>/api/{{.Version}}/…</code>: calls, fields and what they mean stay as they are there; calls, optional parameters,
	fields of
answers and kinds of problems may be added. What cannot stay would be <code>/api/v2/</code>, beside it for a year.</p>
<p>What is not right is answered as RFC 9457 has it: <code>type</code>, <code>title</code>, <code>status</code>,
<code>detail</code>, the <code>fields</code> at fault, and the <code>request</code> that log and audit name.</p>
{{range .Calls}}<section><h2 id="{{.ID}}"><code>{{.Method}} {{.Path}}</code></h2>
<p>{{.Says}} <span class="dim">{{.ID}}{{if .Open}}; by anybody{{end}}</span></p>
{{if .Takes}}<table>{{range .Takes}}<tr><td><code>{{.Name}}</code></td><td class="dim">{{.In}}, {{.Type}}{{if .Needed}},
needed{{end}}</td><td>{{.Says}}</td></tr>{{end}}</table>{{end}}
{{if .Body}}<p>Takes <code>{{.Body}}</code>.</p>{{end}}{{if .Gives}}<p>Answers {{.Gives}}.</p>{{end}}</section>
{{end}}</main></body></html>`))

// readable writes the contract as people read it.
func readable(d *openapi3.T) ([]byte, error) {
	var calls []readCall
	for path, item := range d.Paths.Map() {
		for method, o := range item.Operations() {
			c := readCall{Method: method, Path: "/api/" + Version + path, ID: o.OperationID, Says: o.Summary,
				Open: o.Security != nil && len(*o.Security) == 0}
			for _, p := range slices.Concat(item.Parameters, o.Parameters) {
				c.Takes = append(c.Takes, taken{p.Value.Name, p.Value.In, typeOf(p.Value.Schema), p.Value.Description,
					p.Value.Required})
			}
			if o.RequestBody != nil {
				c.Body = contentOf(o.RequestBody.Value.Content)
			}
			c.Gives = givenBy(o)
			calls = append(calls, c)
		}
	}
	slices.SortFunc(calls, func(a, b readCall) int {
		return cmp.Or(strings.Compare(a.Path, b.Path), strings.Compare(a.Method, b.Method))
	})
	var b bytes.Buffer
	err := documents.Execute(&b, map[string]any{"Calls": calls, "Version": Version})
	return b.Bytes(), err
}

// givenBy says what a call answers where all is well.
func givenBy(o *openapi3.Operation) string {
	var all []string
	for status, r := range o.Responses.Map() {
		if status == "default" {
			continue
		}
		text := status
		if of := contentOf(r.Value.Content); of != "" {
			text += " with " + of
		}
		all = append(all, text)
	}
	slices.Sort(all)
	return strings.Join(all, ", or ")
}

func contentOf(c openapi3.Content) string {
	var all []string
	for kind, of := range c {
		text := kind
		if kind == "application/json" {
			text = typeOf(of.Schema)
		}
		all = append(all, text)
	}
	slices.Sort(all)
	return strings.Join(all, " or ")
}

// typeOf is what a schema is called.
func typeOf(s *openapi3.SchemaRef) string {
	switch {
	case s == nil || s.Value == nil:
		return ""
	case s.Ref != "":
		return s.Ref[strings.LastIndex(s.Ref, "/")+1:]
	case s.Value.Type.Is("array"):
		return "list of " + typeOf(s.Value.Items)
	case len(s.Value.Enum) > 0:
		return fmt.Sprintf("one of %v", s.Value.Enum)
	case s.Value.Type != nil && len(s.Value.Type.Slice()) > 0:
		return s.Value.Type.Slice()[0]
	}
	return "anything"
}
