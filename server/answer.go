package server

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"
)

// value returns what an optional field holds, or its zero value.
func value[T any](optional *T) (v T) {
	if optional != nil {
		v = *optional
	}
	return v
}

// filled returns nil for an empty text, so that the field is left out.
func filled(text string) *string {
	if text == "" {
		return nil
	}
	return &text
}

// or returns what an optional field holds, or what stands for nothing.
func or[T any](optional *T, otherwise T) T {
	if optional != nil {
		return *optional
	}
	return otherwise
}

// limit is how many of a list are wanted; the contract bounds it.
func limit(asked *int) int { return or(asked, 100) }

// revision reads the revision of an If-Match header; 0 where there is none.
func revision(header *string) (int64, error) {
	text := strings.Trim(value(header), `"`)
	if text == "" {
		return 0, nil
	}
	n, err := strconv.ParseInt(text, 10, 64)
	if err != nil || n < 1 {
		return 0, &badRequest{"If-Match", fmt.Errorf("%q is not a revision such as 3", text)}
	}
	return n, nil
}

func quoted(tag string) string { return `"` + tag + `"` }

// notModified answers that the caller's copy, with this tag, is good.
type notModified string

func (tag notModified) answer(w http.ResponseWriter) error {
	w.Header().Set("ETag", string(tag))
	w.WriteHeader(http.StatusNotModified)
	return nil
}

func (tag notModified) VisitGetReportResponse(w http.ResponseWriter) error { return tag.answer(w) }
func (tag notModified) VisitGetResultResponse(w http.ResponseWriter) error { return tag.answer(w) }
func (tag notModified) VisitReadViewResponse(w http.ResponseWriter) error  { return tag.answer(w) }
