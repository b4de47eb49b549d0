// Command bench measures what the service is made for, as ratios within one
// run: capture beside bare reading, CSV beside the sqlite3 shell, pages of a
// million kept rows, peak memory as results grow, ten and thirty million rows beside an
// engine on a Parquet file, and readers beside captures.
//
//	go run ./bench [-data DIRECTORY] [-reference PROGRAM] [-engine PROGRAM]
package main

import (
	"context"
	"flag"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"mantilla/bench/made"
	"mantilla/bench/office"
)

var (
	dataDir   = flag.String("data", "bench-data", "directory for the made tables")
	reference = flag.String("reference", "", "program that does the same columnar work on a CSV of the rows, if "+
		"there is one")
	engine = flag.String("engine", "", "program that is given a Parquet file of the table rows, reads statements of SQL "+
		"with their names before them, and prints of each its name and how many milliseconds it took from the file and "+
		"from memory, with tabs between")
	only = flag.String("only", "",
		"capture, forms, reading, files, due, compare, series, sources, office, many (results of ten and of thirty "+
			"million rows), staying (rows that stay in an engine), or beside (readers while captures run): measure nothing else")
	child   = flag.Int("capture", 0, "capture so many million rows, print the peak memory and end")
	staying = flag.Int("staying", 10,
		"how many million rows stay in an engine where that is measured; 100 take 20 GB and "+
			"half an hour")
	into = flag.String("into", "", "directory for what is captured, which remains")
)

func main() {
	flag.Parse()
	err := run(context.Background())
	if err != nil {
		fmt.Fprintln(os.Stderr, "bench:", err)
		os.Exit(1)
	}
}

func run(ctx context.Context) error {
	if err := os.MkdirAll(*dataDir, 0o750); err != nil {
		return err
	}
	if *child > 0 {
		return captureAlone(ctx, *child)
	}
	switch *only {
	case "forms":
		return office.Forms(ctx, *dataDir)
	case "reading":
		return reading(ctx)
	case "many":
		return manyRows(ctx)
	case "beside":
		return besideCaptures(ctx)
	case "staying":
		return stays(ctx, *staying)
	case "files":
		return filesAlone(ctx)
	case "compare":
		return comparison(ctx)
	case "series":
		return series(ctx)
	case "due":
		return office.Due(ctx, *dataDir)
	case "sources":
		return sources(ctx)
	case "office":
		return office.Catalog(ctx, *dataDir)
	}
	for _, millions := range []int{1, 2, 4} {
		if err := made.Table(ctx, *dataDir, millions); err != nil {
			return err
		}
	}
	bare, err := compareReading(ctx)
	if err != nil {
		return err
	}
	b, err := open(ctx, 1)
	if err != nil {
		return err
	}
	defer b.close()
	if err := b.capture(ctx, bare); err != nil || *only == "capture" {
		return err
	}
	parts := []func(context.Context) error{
		b.pages, b.groups, b.overHTTP, b.inBrowser, b.csv, b.files,
		func(ctx context.Context) error { return office.Forms(ctx, *dataDir) },
		func(ctx context.Context) error { return office.Due(ctx, *dataDir) },
		memory, comparison, series, sources,
		func(ctx context.Context) error { return stays(ctx, *staying) }, manyRows,
	}
	for _, part := range parts {
		if err := part(ctx); err != nil {
			return err
		}
	}
	return nil
}

// writer is what files are written to.
type writer = io.Writer

func toFile(name string, write func(writer) error) error {
	f, err := os.Create(filepath.Join(*dataDir, name))
	if err != nil {
		return err
	}
	defer f.Close()
	return write(f)
}

// reading measures only what is done to kept rows.
func reading(ctx context.Context) error {
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
	for _, part := range []func(context.Context) error{b.groups, b.overHTTP, b.inBrowser} {
		if err := part(ctx); err != nil {
			return err
		}
	}
	return nil
}
