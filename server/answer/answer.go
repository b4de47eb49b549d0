// Package answer is what the handlers of all rooms share: who calls, ids, optional fields,
// and what is wrong with a request.
package answer

import (
	"fmt"
	"log/slog"
	"net/http"
	"strconv"
	"strings"

	"mantilla/identity"
	"mantilla/library"
)

// Value returns what an optional field holds, or its zero value.
func Value[T any](optional *T) (v T) {
	if optional != nil {
		v = *optional
	}
	return v
}

// Filled returns nil for an empty text, so that the field is left out.
func Filled(text string) *string {
	if text == "" {
		return nil
	}
	return &text
}

// Or returns what an optional field holds, or what stands for nothing.
func Or[T any](optional *T, otherwise T) T {
	if optional != nil {
		return *optional
	}
	return otherwise
}

// Limit is how many of a list are wanted; the contract bounds it.
func Limit(asked *int) int { return Or(asked, 100) }

// Revision reads the revision of an If-Match header; 0 where there is none.
func Revision(header *string) (int64, error) {
	text := strings.Trim(Value(header), `"`)
	if text == "" {
		return 0, nil
	}
	n, err := strconv.ParseInt(text, 10, 64)
	if err != nil || n < 1 {
		return 0, &BadRequest{Field: "If-Match", Err: fmt.Errorf("%q is not a revision such as 3", text)}
	}
	return n, nil
}

// Quoted writes a tag as headers have it.
func Quoted(tag string) string { return `"` + tag + `"` }

// NotModified answers that the caller's copy, with this tag, is good.
type NotModified string

func (tag NotModified) answer(w http.ResponseWriter) error {
	w.Header().Set("ETag", string(tag))
	w.WriteHeader(http.StatusNotModified)
	return nil
}

// VisitGetReportResponse answers that the copy of a report is good.
func (tag NotModified) VisitGetReportResponse(w http.ResponseWriter) error { return tag.answer(w) }

// VisitGetResultResponse answers that the copy of a result is good.
func (tag NotModified) VisitGetResultResponse(w http.ResponseWriter) error { return tag.answer(w) }

// VisitReadViewResponse answers that the copy of a view is good.
func (tag NotModified) VisitReadViewResponse(w http.ResponseWriter) error { return tag.answer(w) }

// Service is what handlers are made with.
type Service struct {
	Library *library.Library
	Below   string // path below which people reach it; "" for none
	Version string
	Log     *slog.Logger
	Closing <-chan struct{} // closed when the service shuts down; ends streams
	// Provider tells who somebody is; nil where there is none.
	Provider *identity.Provider
	Local    bool // people sign in by passwords too
}
