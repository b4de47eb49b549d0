package server

import (
	"context"
	"net/http"
	"strings"

	"github.com/getkin/kin-openapi/openapi3"

	"mantilla/library/acting"
	"mantilla/server/answer"
)

// noting says how the audit takes a call of the contract, which says so with x-audit: every call
// that changes something is noted, but those that only ask; of the others, those that read rows or
// take something away.
type noting struct {
	act     string // under which it is noted
	refused bool   // only that it was refused is noted
	reading bool   // of rows, which is noted once in a while
	path    string // as the contract has it
}

// notings are those of all calls of the contract, by their operations.
func notings(document *openapi3.T) map[string]noting {
	out := map[string]noting{}
	for path, item := range document.Paths.Map() {
		for method, operation := range item.Operations() {
			n := noting{act: operation.OperationID, path: path}
			said, _ := operation.Extensions["x-audit"].(string)
			switch {
			case said == "reading":
				n.act, n.reading = "readView", true
			case said == "no", said == "" && method == http.MethodGet:
				n.refused = true
			}
			out[operation.OperationID] = n
		}
	}
	return out
}

// faceOf tells by what somebody calls: a browser has a cookie, the command line names itself.
func faceOf(r *http.Request) string {
	switch {
	case strings.HasPrefix(r.UserAgent(), answer.CommandLine):
		return "command line"
	case r.Header.Get("Authorization") == "":
		return "console"
	}
	return "program"
}

// note keeps a line of a call that was answered, or refused.
func (s *service) note(ctx context.Context, n noting, of func(name string) string, err error) {
	if n.refused && err == nil {
		return
	}
	w := acting.Done{Act: n.act, Reading: n.reading}
	if who := answer.As(ctx); who != nil {
		w.Person = who.Person().Name
	}
	w.Kind, w.ID, w.Part = subject(n.path, of)
	if err != nil {
		switch p := problem(err); {
		case p.Status == http.StatusUnauthorized || p.Status == http.StatusForbidden ||
			p.Status == http.StatusTooManyRequests:
			w.Outcome = "refused"
			w.Why = p.Title
		case p.Status >= http.StatusInternalServerError && !n.refused:
			w.Outcome = "failed"
			w.Why = p.Title
		default:
			return // nothing was done: the call was not as it should be
		}
	}
	s.Library.Note(ctx, w)
}

// subject is what a call is about, by the names in its path: a result, and a view of it as a part.
func subject(path string, of func(name string) string) (kind, id, part string) {
	var parts []string
	for piece := range strings.SplitSeq(path, "/") {
		name, ok := strings.CutPrefix(piece, "{")
		if !ok {
			continue
		}
		name = strings.TrimSuffix(name, "}")
		switch value := of(name); {
		case kind == "" && name == "kind": // which the path names itself
			kind = value
		case kind == "":
			kind, id = name, value
		case id == "":
			id = value
		default:
			parts = append(parts, name+" "+value)
		}
	}
	if kind == "result" {
		if n, err := answer.Number("result", "R-", id); err == nil {
			id = answer.ResultID(n)
		}
	}
	return kind, id, strings.Join(parts, ", ")
}

// Acts are the calls of the contract in words, by their operations.
func acts(document *openapi3.T) map[string]string {
	out := map[string]string{}
	for _, item := range document.Paths.Map() {
		for _, operation := range item.Operations() {
			says, _, _ := strings.Cut(operation.Summary, ". ")
			if at := strings.IndexAny(says, ",;:("); at > 0 {
				says = says[:at]
			}
			out[operation.OperationID] = strings.TrimRight(strings.TrimSpace(says), ".")
		}
	}
	return out
}
