package main

import (
	"context"
	"time"

	"mantilla/core/sheet"
	"mantilla/render"
	"mantilla/render/document"
)

// takeAway writes a sheet in a format with the usual options.
func takeAway(ctx context.Context, w writer, s *sheet.Sheet, format string) error {
	f, err := render.FormatNamed(format)
	if err != nil {
		return err
	}
	d := &document.Document{Title: "Made lots", Number: "R-000001", AskedBy: "bench", RanAt: time.Unix(0, 0), WrittenAt: time.Unix(0, 0), Zone: time.UTC, Sheets: []*sheet.Sheet{s}}
	_, err = render.Write(ctx, w, d, f, render.Options{}, nil)
	return err
}
