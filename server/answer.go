package server

import (
	"context"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"
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

func limit(asked *int) int {
	if asked == nil {
		return 100
	}
	return min(max(*asked, 1), 1000)
}

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

// unchanged tells whether the caller has the answer with that tag already.
func unchanged(ctx context.Context, tag string) bool {
	for _, known := range strings.Split(ctx.(*gin.Context).GetHeader("If-None-Match"), ",") {
		if strings.TrimPrefix(strings.TrimSpace(known), "W/") == tag {
			return true
		}
	}
	return false
}

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
