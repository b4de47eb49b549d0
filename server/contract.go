package server

import (
	"context"
	"errors"
	"fmt"
	"mime"
	"net/http"
	"regexp"
	"strings"
	"unicode/utf8"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/gorillamux"

	"mantilla/api"
)

// rules hold requests against the contract, so that no handler checks by hand
// what the contract says: types, bounds, patterns, what is required.
type rules struct {
	router  routers.Router
	notings map[string]noting // by operation
	acts    map[string]string // what operations are in words
	pages   []byte            // the contract as people read it
}

// readContract fails only where the contract itself is wrong.
func readContract() (*rules, error) {
	document, err := openapi3.NewLoader().LoadFromData(api.Contract)
	if err != nil {
		return nil, fmt.Errorf("reading the contract: %w", err)
	}
	if err := document.Validate(context.Background()); err != nil {
		return nil, fmt.Errorf("the contract is not right: %w", err)
	}
	router, err := gorillamux.NewRouter(document)
	if err != nil {
		return nil, fmt.Errorf("reading the contract's paths: %w", err)
	}
	pages, err := readable(document)
	if err != nil {
		return nil, fmt.Errorf("writing the contract for people: %w", err)
	}
	return &rules{router, notings(document), acts(document), pages}, nil
}

// open tells whether a call needs nobody to be signed in.
func (x *rules) open(r *http.Request) bool {
	if r.URL.Path == "/api/openapi.yaml" || r.URL.Path == "/api/" {
		return r.Method == http.MethodGet
	}
	route, _, err := x.router.FindRoute(r)
	return err == nil && route.Operation.Security != nil && len(*route.Operation.Security) == 0
}

// asContracted refuses a request that is not as the contract says. Where there is
// no such call, the router says so.
func (s *service) asContracted(_ http.ResponseWriter, r *http.Request) error {
	route, parts, err := s.rules.router.FindRoute(r)
	if err != nil {
		return nil
	}
	kind, _, _ := mime.ParseMediaType(r.Header.Get("Content-Type"))
	options := &openapi3filter.Options{MultiError: true, SkipSettingDefaults: true,
		AuthenticationFunc: openapi3filter.NoopAuthenticationFunc, // see signedIn
		ExcludeRequestBody: kind != "application/json"}            // texts of other kinds are for their readers
	err = openapi3filter.ValidateRequest(r.Context(),
		&openapi3filter.RequestValidationInput{Request: r, PathParams: parts, Route: route, Options: options})
	if err == nil {
		return nil
	}
	if faults := faultsIn("", err); len(faults) > 0 {
		return &offContract{faults}
	}
	return unreadable(err)
}

// offContract is a request that the contract does not allow, with each place.
type offContract struct{ faults []api.Fault }

func (o *offContract) Error() string {
	var all []string
	for _, f := range o.faults {
		all = append(all, f.Message)
	}
	return strings.Join(all, "; ")
}

// faultsIn says what of a request is not as the contract has it.
func faultsIn(part string, err error) (faults []api.Fault) {
	var several openapi3.MultiError
	var request *openapi3filter.RequestError
	var schema *openapi3.SchemaError
	switch {
	case errors.As(err, &request):
		if request.Parameter != nil {
			part = request.Parameter.Name
		}
		if inner := faultsIn(part, request.Err); len(inner) > 0 {
			return inner
		}
		if part != "" {
			return []api.Fault{{Field: part, Message: part + ": " + reason(request)}}
		}
		return nil
	case errors.As(err, &several):
		for _, one := range several {
			faults = append(faults, faultsIn(part, one)...)
		}
		return faults
	case errors.As(err, &schema):
		return schemaFaults(parted(part), schema)
	}
	return nil
}

// schemaFaults says where and why something is not as its schema wants it.
func schemaFaults(part []string, e *openapi3.SchemaError) (faults []api.Fault) {
	at := strings.Join(append(part, e.JSONPointer()...), ".")
	if lacking, ok := strings.CutPrefix(plain(e.Reason), "missing propert"); ok {
		for _, name := range apostrophes.FindAllStringSubmatch(lacking, -1) {
			field := strings.TrimPrefix(at+"."+name[1], ".")
			faults = append(faults, api.Fault{Field: field, Message: field + ": it is missing"})
		}
		return faults
	}
	return []api.Fault{{Field: at, Message: strings.TrimPrefix(at+": ", ": ") + unfit(e)}}
}

// apostrophes finds names between single quotes.
var apostrophes = regexp.MustCompile(`'([^']*)'`)

func parted(part string) []string {
	if part == "" {
		return nil
	}
	return []string{part}
}

// reason says why a parameter could not be read.
func reason(e *openapi3filter.RequestError) string {
	var unread *openapi3filter.ParseError
	switch {
	case errors.As(e.Err, &unread) && e.Parameter.Schema != nil:
		return fmt.Sprintf("%q is not %s", fmt.Sprint(unread.Value), kindOf(e.Parameter.Schema.Value))
	case errors.Is(e.Err, openapi3filter.ErrInvalidRequired):
		return "it is missing"
	case e.Err != nil:
		return plain(e.Err.Error())
	}
	return plain(e.Reason)
}

// unfit says why a value is not as its schema wants it, and what would be.
func unfit(e *openapi3.SchemaError) string {
	number, isNumber := numberIn(e.Value)
	text, isText := e.Value.(string)
	s := e.Schema
	switch {
	case s == nil:
	case len(s.Enum) > 0:
		return fmt.Sprintf("%q is none of these; use %s", fmt.Sprint(e.Value), among(s.Enum))
	case isNumber && s.Min != nil && number < *s.Min:
		return fmt.Sprintf("%v is not %s of at least %v", e.Value, kindOf(s), *s.Min)
	case isNumber && s.Max != nil && number > *s.Max:
		return fmt.Sprintf("%v is not %s of at most %v", e.Value, kindOf(s), *s.Max)
	case isText && s.MaxLength != nil && uint64(utf8.RuneCountInString(text)) > *s.MaxLength:
		return fmt.Sprintf("it has more than %d characters", *s.MaxLength)
	case e.Value == nil:
		return "it is null; leave it out, or give it a value"
	case s.Type != nil && len(s.Type.Slice()) == 1 && wrongKind(s.Type.Slice()[0], e.Value):
		return fmt.Sprintf("%v is not %s", e.Value, kindOf(s))
	}
	return plain(e.Reason)
}

func numberIn(value any) (float64, bool) {
	switch n := value.(type) {
	case float64:
		return n, true
	case int64:
		return float64(n), true
	case int32:
		return float64(n), true
	case int:
		return float64(n), true
	}
	return 0, false
}

func kindOf(s *openapi3.Schema) string {
	switch {
	case s.Type.Is("integer"):
		return "a whole number"
	case s.Type.Is("number"):
		return "a number"
	case s.Type.Is("boolean"):
		return "true or false"
	}
	if types := s.Type.Slice(); len(types) > 0 && kinds[types[0]] != "" {
		return kinds[types[0]]
	}
	return "what is wanted here"
}

// kinds are what the contract's types are called.
var kinds = map[string]string{"string": "a text", "array": "a list", "object": "an object"}

// wrongKind tells that a value is none of a type.
func wrongKind(kind string, value any) bool {
	ok := value == nil
	switch kind {
	case "string":
		_, ok = value.(string)
	case "array":
		_, ok = value.([]any)
	case "object":
		_, ok = value.(map[string]any)
	case "boolean":
		_, ok = value.(bool)
	case "integer", "number":
		_, ok = numberIn(value)
	}
	return !ok
}

func among(values []any) string {
	var all []string
	for _, v := range values {
		all = append(all, fmt.Sprint(v))
	}
	return strings.Join(all, ", ")
}

// plain takes out of the words of the validation what only its writers need.
func plain(reason string) string {
	reason = strings.TrimPrefix(reason, "validation failed due to: ")
	if rest, ok := strings.CutPrefix(reason, "error at "); ok {
		if _, after, ok := strings.Cut(rest, ": "); ok {
			reason = after
		}
	}
	if rest, ok := strings.CutPrefix(reason, "at '"); ok {
		if _, after, ok := strings.Cut(rest, "': "); ok {
			reason = after
		}
	}
	return reason
}
