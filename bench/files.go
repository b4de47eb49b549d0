package main

import (
	"context"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"time"

	"github.com/xuri/excelize/v2"

	"mantilla/bench/made"
	"mantilla/bench/measure"
	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/sheet"
	"mantilla/core/shown"
	"mantilla/render"
	"mantilla/render/document"
	"mantilla/render/paper"
)

// documentOf is a sheet ready to be taken away.
func documentOf(s *sheet.Sheet) *document.Document {
	return &document.Document{
		Title:     "Made lots",
		Number:    "R-000001",
		AskedBy:   "bench",
		RanAt:     time.Unix(0, 0),
		WrittenAt: time.Unix(0, 0),
		Form:      shown.Form{Zone: time.UTC},
		Sheets:    []*sheet.Sheet{s},
	}
}

// takeAway writes a sheet in a format with the usual options.
func takeAway(ctx context.Context, w writer, s *sheet.Sheet, format string) error {
	f, err := render.FormatNamed(format)
	if err != nil {
		return err
	}
	_, err = render.Write(ctx, w, documentOf(s), f, render.Options{}, nil)
	return err
}

// filesAlone measures only what is taken away.
func filesAlone(ctx context.Context) error {
	if err := made.Table(ctx, *dataDir, 1); err != nil {
		return err
	}
	b, err := open(ctx, 1)
	if err != nil {
		return err
	}
	defer b.close()
	if err := b.captureOnce(ctx); err != nil {
		return err
	}
	return b.files(ctx)
}

// files measures what is taken away, beside the reference engine or the plain
// library writing the same content.
func (b *bench) files(ctx context.Context) error {
	reference, err := b.referenceTimes(ctx)
	if err != nil {
		return err
	}
	fmt.Println("\nFiles of all rows")
	for _, format := range []string{"csv", "parquet"} {
		var own []float64
		for range measure.Times {
			s, err := b.sheet(ctx, ask.Changes{})
			if err != nil {
				return err
			}
			t, err := measure.Took(func() error {
				return toFile("own."+format, func(w writer) error { return takeAway(ctx, w, s, format) })
			})
			if err != nil {
				return err
			}
			own = append(own, t)
		}
		measure.Row(format, measure.Median(own))
		if t := reference["falsewrite-"+format]; t > 0 {
			measure.Row("the reference engine", t)
			fmt.Printf("  %-46s %9.2f\n", "ratio", measure.Median(own)/t)
		}
	}
	if err := b.workbook(ctx); err != nil {
		return err
	}
	return b.pdf(ctx)
}

// someRows are as many rows as take a while but not minutes.
const someRows = "region=region-1"

func (b *bench) workbook(ctx context.Context) error {
	var own, bare []float64
	rows := 0
	for range 3 {
		s, err := b.sheet(ctx, ask.Changes{Filters: []string{someRows}})
		if err != nil {
			return err
		}
		rows = s.Rows
		t, err := measure.Took(func() error {
			return toFile("own.xlsx", func(w writer) error { return takeAway(ctx, w, s, "xlsx") })
		})
		if err != nil {
			return err
		}
		own = append(own, t)
		if t, err = measure.Took(func() error {
			return toFile("bare.xlsx", func(w writer) error { return bareCells(ctx, w, s) })
		}); err != nil {
			return err
		}
		bare = append(bare, t)
	}
	measure.Row(fmt.Sprintf("xlsx of %d rows", rows), measure.Median(own))
	measure.Row("the library streaming the bare cells", measure.Median(bare))
	fmt.Printf("  %-46s %9.2f\n", "ratio", measure.Median(own)/measure.Median(bare))
	return nil
}

// bareCells streams the same cells with nothing around them.
func bareCells(ctx context.Context, w writer, s *sheet.Sheet) error {
	file := excelize.NewFile()
	defer file.Close()
	stream, err := file.NewStreamWriter("Sheet1")
	if err != nil {
		return err
	}
	at := 0
	err = s.Each(ctx, func(batch *frame.Batch) error {
		cells := make([]any, len(batch.Schema()))
		for r := range batch.Rows {
			for c, f := range batch.Schema() {
				cells[c] = nil
				switch {
				case batch.Null(c, r):
				case f.Kind == frame.Text:
					cells[c] = batch.Text(c, r)
				case f.Scale > 0:
					n, err := strconv.ParseFloat(batch.Value(c, r).String(), 64)
					if err != nil {
						return err
					}
					cells[c] = n
				default:
					cells[c] = batch.Int(c, r)
				}
			}
			at++
			if err := stream.SetRow("A"+strconv.Itoa(at), cells); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	if err := stream.Flush(); err != nil {
		return err
	}
	return file.Write(w)
}

// pdf measures table pages a second.
func (b *bench) pdf(ctx context.Context) error {
	s, err := b.sheet(ctx, ask.Changes{Filters: []string{someRows, "pieces>=" + strconv.Itoa(fewPieces)}})
	if err != nil {
		return err
	}
	setting := paper.Setting{}
	if err := setting.Check(); err != nil {
		return err
	}
	pages := 0
	t, err := measure.Took(func() error {
		return paper.PDF(ctx, io.Discard, documentOf(s), setting, func(n int) { pages = n })
	})
	if err != nil {
		return err
	}
	measure.Row(fmt.Sprintf("pdf of %d rows, %d pages", s.Rows, pages), t)
	fmt.Printf("  %-46s %9.0f\n", "pages a second", float64(pages)/t*1000)
	if info, err := os.Stat(filepath.Join(*dataDir, "own.parquet")); err == nil {
		fmt.Printf("  %-46s %9.1f MB\n", "the Parquet file", float64(info.Size())/1e6)
	}
	return nil
}

// fewPieces leaves some ten thousand rows of the made table.
const fewPieces = 80
