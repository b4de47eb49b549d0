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
	"log/slog"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"mantilla/library/catalog"

	"mantilla/core/ask"
	"mantilla/core/sheet"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/model"
	"mantilla/store"
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
			"million rows), or beside (readers while captures run): measure nothing else")
	child = flag.Int("capture", 0, "capture so many million rows, print the peak memory and end")
	into  = flag.String("into", "", "directory for what is captured, which remains")
)

const times = 5

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
		return (&bench{}).forms(ctx)
	case "reading":
		return reading(ctx)
	case "many":
		return manyRows(ctx)
	case "beside":
		return besideCaptures(ctx)
	case "files":
		return filesAlone(ctx)
	case "compare":
		return comparison(ctx)
	case "series":
		return series(ctx)
	case "due":
		return due(ctx)
	case "sources":
		return sources(ctx)
	case "office":
		return office(ctx)
	}
	for _, millions := range []int{1, 2, 4} {
		if err := makeTable(ctx, millions); err != nil {
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
		b.pages, b.groups, b.overHTTP, b.inBrowser, b.csv, b.files, b.forms, due, memory, comparison, series, sources,
		manyRows,
	}
	for _, part := range parts {
		if err := part(ctx); err != nil {
			return err
		}
	}
	return nil
}

// bench is a library with one report on a made table.
type bench struct {
	dir     string
	store   *store.Store
	library *library.Library
	result  int64
	workers int              // captures at a time; 0 is one
	now     func() time.Time // its clock; nil for that of the machine
}

func open(ctx context.Context, millions int) (*bench, error) {
	dir, err := *into, error(nil)
	if dir == "" {
		dir, err = os.MkdirTemp(*dataDir, "records")
	} else {
		err = os.MkdirAll(dir, 0o750)
	}
	if err != nil {
		return nil, err
	}
	b := &bench{dir: dir}
	return b, b.reopen(ctx, millions)
}

// reopen opens the records anew, with nothing in memory.
func (b *bench) reopen(ctx context.Context, millions int) (err error) {
	if b.library != nil {
		if err := b.library.Close(); err != nil {
			return err
		}
		if err := b.store.Close(); err != nil {
			return err
		}
	}
	if b.store, err = store.Open(ctx, b.dir, cacheBytes); err != nil {
		return err
	}
	return b.openLibrary(ctx, millions)
}

// cacheBytes is the budget of decoded rows.
const cacheBytes = 512 << 20

// clock is the benchmark's own, where it has one.
func (b *bench) clock() func() time.Time {
	if b.now != nil {
		return b.now
	}
	return time.Now
}

func (b *bench) openLibrary(ctx context.Context, millions int) error {
	path, err := filepath.Abs(tablePath(tableOf(millions)))
	if err != nil {
		return err
	}
	b.library, err = library.Open(ctx, b.store, library.Settings{
		Organisation: model.Organisation{Zone: time.UTC, Currency: "EUR", Now: b.clock()},
		Limits:       capture.Limits{Rows: 1 << 31, Time: time.Hour, Workers: max(b.workers, 1)},
		DataDir:      filepath.Dir(path),
	},
		slog.New(slog.DiscardHandler))
	if err != nil {
		return err
	}
	if err := b.library.AsService().Catalog.PutSource(ctx, "made",
		[]byte("source: made\nkind: sqlite\nfile: "+filepath.Base(path)+"\n")); err != nil {
		return err
	}
	_, err = b.library.AsService().Catalog.PutReport(ctx, []byte(definitionOf(millions)), catalog.Put{Was: "*"})
	return err
}

// reopenLibrary opens the library anew on the same records, so that decoded
// rows stay and what was computed of them goes.
func (b *bench) reopenLibrary(ctx context.Context, millions int) error {
	if err := b.library.Close(); err != nil {
		return err
	}
	return b.openLibrary(ctx, millions)
}

func (b *bench) close() {
	b.library.Close()
	b.store.Close()
	if *into == "" {
		os.RemoveAll(b.dir)
	}
}

// captureOnce runs the report from query to sealed result.
func (b *bench) captureOnce(ctx context.Context) error {
	run, err := b.library.AsService().Capture.StartRun(ctx, capture.Ask{Report: "made"})
	if err != nil {
		return err
	}
	run, err = b.ended(ctx, run)
	b.result = run.Result
	return err
}

func (b *bench) capture(ctx context.Context, bare func() error) error {
	fmt.Println("\nCapture of 1,000,000 rows by 10 columns, query to sealed result")
	var reading, capture, ratios []float64
	for range times { // in turn, so that both see the same machine
		r, err := took(bare)
		if err != nil {
			return err
		}
		c, err := took(func() error { return b.captureOnce(ctx) })
		if err != nil {
			return err
		}
		reading, capture, ratios = append(reading, r), append(capture, c), append(ratios, c/r)
		if len(ratios) < times {
			if err := b.library.AsService().Reading.DeleteResult(ctx, b.result); err != nil {
				return err
			}
		}
	}
	row("read and thrown away", median(reading))
	row("captured", median(capture))
	fmt.Printf("  %-46s %9.2f  (each pair: %s)\n", "ratio", median(ratios), list(ratios))
	return nil
}

func (b *bench) sheet(ctx context.Context, reading ask.Changes) (*sheet.Sheet, error) {
	r, err := b.library.AsService().Reading.Result(ctx, b.result)
	if err != nil {
		return nil, err
	}
	return b.library.AsService().Reading.Sheet(ctx, r, "rows", reading)
}

// pages times what a reader waits for: cold is with nothing decoded, warm with
// the rows decoded but the order not known.
func (b *bench) pages(ctx context.Context) error {
	fmt.Println("\nPages of 100 of the 1,000,000 kept rows")
	page := func(first int, reading ask.Changes) func() error {
		return func() error {
			s, err := b.sheet(ctx, reading)
			if err == nil {
				_, err = s.Read(ctx, first, 100)
			}
			return err
		}
	}
	asked := 0
	// leaves all rows, but is a filter never seen before
	other := func() string { asked++; return fmt.Sprintf("amount<>%d", -asked) }
	for _, work := range []struct {
		name    string
		first   int
		reading func() ask.Changes
		cold    bool
	}{
		{"first page, as kept, cold", 0, func() ask.Changes { return ask.Changes{} }, true},
		{"page from the middle, as kept, cold", 500_000, func() ask.Changes { return ask.Changes{} }, true},
		{"page from the middle, as kept, warm", 500_000, func() ask.Changes { return ask.Changes{} }, false},
		{"first page sorted by a decimal, cold", 0, func() ask.Changes { return ask.Changes{Sort: []string{"-amount"}} },
			true},
		{"first page sorted by a decimal, warm, new order", 0,
			func() ask.Changes { return ask.Changes{Sort: []string{"-amount"}, Filters: []string{other()}} }, false},
		{"page from the middle, sorted, order known", 500_000,
			func() ask.Changes { return ask.Changes{Sort: []string{"-amount"}} }, false},
		{"filter on a text of 4,000 values, cold", 0,
			func() ask.Changes { return ask.Changes{Filters: []string{"item=item-0042"}} }, true},
		{"filter on a text of 4,000 values, warm, new", 0, func() ask.Changes {
			asked++
			return ask.Changes{Filters: []string{fmt.Sprintf("item=item-%04d", asked)}}
		}, false},
	} {
		var all []float64
		for range times {
			if work.cold {
				if err := b.reopen(ctx, 1); err != nil {
					return err
				}
			}
			t, err := took(page(work.first, work.reading()))
			if err != nil {
				return err
			}
			all = append(all, t)
		}
		if !work.cold {
			all = all[1:] // the first warms
		}
		row(work.name, median(all))
	}
	return nil
}

func (b *bench) csv(ctx context.Context) error {
	fmt.Println("\nCSV of all rows")
	var own, shell []float64
	for range times {
		s, err := b.sheet(ctx, ask.Changes{})
		if err != nil {
			return err
		}
		t, err := took(func() error { return toFile("own.csv", func(w writer) error { return takeAway(ctx, w, s, "csv") }) })
		if err != nil {
			return err
		}
		own = append(own, t)
		if t, err = took(func() error {
			return toFile("shell.csv", func(w writer) error {
				c := exec.CommandContext(ctx, "sqlite3", "-csv", "-header", tablePath(1), query)
				c.Stdout = w
				return c.Run()
			})
		}); err != nil {
			return fmt.Errorf("the sqlite3 shell: %w", err)
		}
		shell = append(shell, t)
	}
	row("written from the kept rows", median(own))
	row("written by the sqlite3 shell", median(shell))
	fmt.Printf("  %-46s %9.2f\n", "ratio", median(own)/median(shell))
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

func took(do func() error) (milliseconds float64, err error) {
	begun := time.Now()
	err = do()
	return float64(time.Since(begun).Microseconds()) / 1000, err
}

func median(all []float64) float64 {
	sorted := slices.Sorted(slices.Values(all))
	return sorted[len(sorted)/2]
}

func row(name string, milliseconds float64) {
	if milliseconds < 0.1 {
		fmt.Printf("  %-46s %9.1f µs\n", name, milliseconds*1000)
		return
	}
	fmt.Printf("  %-46s %9.1f ms\n", name, milliseconds)
}

func list(all []float64) string {
	var out []string
	for _, v := range all {
		out = append(out, fmt.Sprintf("%.2f", v))
	}
	return strings.Join(out, " ")
}

// reading measures only what is done to kept rows.
func reading(ctx context.Context) error {
	if err := makeTable(ctx, 1); err != nil {
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
