package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"mantilla/bench/made"
	"mantilla/bench/measure"
	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/sheet"
)

// asked is one thing that readers ask of many rows, and the same in SQL.
type asked struct {
	name, sql string
	warm      bool // is asked again of what is in memory, too
	ask       func(ctx context.Context, b *bench) error
	before    func(ctx context.Context, b *bench) error // was asked before and is not timed; nil for nothing
}

// times asks once, after what comes before.
func (a *asked) times(ctx context.Context, b *bench) (float64, error) {
	if a.before != nil {
		if err := a.before(ctx, b); err != nil {
			return 0, err
		}
	}
	return measure.Took(func() error { return a.ask(ctx, b) })
}

// laid lays a sheet out and reads a page of it.
func laid(first int, c ask.Changes) func(context.Context, *bench) error {
	return func(ctx context.Context, b *bench) error {
		s, err := b.sheet(ctx, c)
		if err == nil {
			_, err = s.Read(ctx, first, 100)
		}
		return err
	}
}

// handedOn lays a sheet out and hands on all its rows.
func handedOn(c ask.Changes) func(context.Context, *bench) error {
	return func(ctx context.Context, b *bench) error {
		s, err := b.sheet(ctx, c)
		if err == nil {
			err = s.Each(ctx, func(*frame.Batch) error { return nil })
		}
		return err
	}
}

// found looks for a text.
func found(text string) func(context.Context, *bench) error {
	return func(ctx context.Context, b *bench) error {
		s, err := b.sheet(ctx, ask.Changes{})
		if err == nil {
			_, err = s.Find(ctx, text, 0, false)
		}
		return err
	}
}

// opened opens a figure of a grouped sheet and reads its first rows.
func opened(c ask.Changes, at sheet.Cell) func(context.Context, *bench) error {
	return func(ctx context.Context, b *bench) error {
		s, err := b.sheet(ctx, c)
		if err != nil {
			return err
		}
		o, err := s.Open(ctx, at)
		if err != nil {
			return err
		}
		if !o.Agree() {
			return fmt.Errorf("the figure %v opens as %v", o.Before, o.After)
		}
		return laid(0, ask.Changes{Filters: o.Filters})(ctx, b)
	}
}

const three = `sum("Amount"), sum("Weight"), sum("Pieces"), count(*)`

// ofTen are asked of ten million rows by ten columns.
var ofTen = []asked{
	{"first page, as kept", `select * from rows limit 100`, true, laid(0, ask.Changes{}), nil},
	{"page from the middle", `select * from rows limit 100 offset 5000000`, true, laid(5_000_000, ask.Changes{}), nil},
	{"group by two columns, three sums", `select "Region", "Status", ` + three + ` from rows group by 1, 2`, true,
		laid(0, ask.Changes{Group: []string{"region", "status"}, Columns: sums}), nil},
	{"the same with subtotals", `select "Region", "Status", ` + three + ` from rows group by rollup(1, 2)`, true,
		laid(0, ask.Changes{Group: []string{"region", "status"}, Columns: sums, Open: new(2)}), nil},
	{"crosstab 400 by 48",
		`select substr("Item", 1, 8), "Pieces" % 48, sum("Amount") from rows group by rollup(1, 2)`, true,
		laid(0, ask.Changes{Add: wide, Show: "crosstab", Down: []string{"own_place"}, Across: []string{"own_slot"},
			Cells: []string{"amount"}}), nil},
	{"first 100 sorted", `select * from rows order by "Amount" desc limit 100`, true,
		laid(0, ask.Changes{Sort: []string{"-amount"}}), nil},
	{"sort of all, handed on", `select * from rows order by "Amount" desc`, true,
		handedOn(ask.Changes{Sort: []string{"-amount"}}), nil},
	{"filter on a text", `select ` + three + ` from rows where "Item" = 'item-0042'`, true,
		laid(0, ask.Changes{Filters: []string{"item=item-0042"}}), nil},
}

// ofThirty are asked of thirty million rows by six columns.
var ofThirty = []asked{
	{"first page, as kept", `select * from rows limit 100`, false, laid(0, ask.Changes{}), nil},
	{"group by one column, three sums", `select "Region", ` + three + ` from rows group by 1`, true,
		laid(0, ask.Changes{Group: []string{"region"}, Columns: sums}), nil},
	{"month by region, three sums",
		`select date_trunc('month', "Day"), "Region", ` + three + ` from rows group by 1, 2`, true,
		laid(0, ask.Changes{Group: []string{"month(day)", "region"}, Columns: sums}), nil},
	{"crosstab, region by month",
		`select "Region", date_trunc('month', "Day"), sum("Amount") from rows group by rollup(1, 2)`, true,
		laid(0, ask.Changes{Show: "crosstab", Down: []string{"region"}, Across: []string{"month(day)"},
			Cells: []string{"amount"}}), nil},
	{"sorted first page", `select * from rows order by "Amount" desc limit 100`, true,
		laid(0, ask.Changes{Sort: []string{"-amount"}}), nil},
	{"opening a figure",
		`select count(*), sum("Amount"), count(distinct "Day"), count(distinct "Region") from rows
			where "Region" = 'region-2' and date_trunc('month', "Day") = date '2024-03-01'`, true,
		opened(ask.Changes{Group: []string{"region", "month(day)"}, Columns: sums},
			sheet.Cell{Path: "region-2/2024-03-01", Column: "amount"}),
		laid(0, ask.Changes{Group: []string{"region", "month(day)"}, Columns: sums})},
	{"find a text", `select count(*) from rows where "Region" ilike '%gion-3%' or "Day"::text ilike '%gion-3%'`, true,
		found("gion-3"), nil},
	{"find digits", `select count(*) from rows where "Region" ilike '%4711%' or "Day"::text ilike '%4711%'
		or "Amount"::text like '%4711%' or "Weight"::text like '%4711%' or "Pieces"::text like '%4711%'
		or "Id"::text like '%4711%'`, true, found("4711"), nil},
}

// manyRows reads results of ten and of thirty million rows.
func manyRows(ctx context.Context) error {
	if err := large(ctx, 10, ofTen); err != nil {
		return err
	}
	if err := large(ctx, 30, ofThirty); err != nil {
		return err
	}
	return besideCaptures(ctx)
}

// large reads a result of so many millions of rows: cold with nothing decoded, warm
// with the rows decoded as far as the cache holds them and nothing of the view known.
func large(ctx context.Context, millions int, works []asked) error {
	fmt.Printf("\nReading %d,000,000 kept rows with a cache of %d MiB\n", millions, cacheBytes>>20)
	dir := filepath.Join(*dataDir, fmt.Sprintf("kept-%dm", millions))
	if err := captureInto(ctx, dir, millions); err != nil {
		return err
	}
	b := &bench{dir: dir, result: 1}
	if err := b.reopen(ctx, millions); err != nil {
		return err
	}
	beside, err := b.engineTimes(ctx, works)
	if err != nil {
		return err
	}
	for _, w := range works {
		cold, err := thrice(func() (float64, error) {
			if err := b.reopen(ctx, millions); err != nil {
				return 0, err
			}
			return w.times(ctx, b)
		})
		if err != nil {
			return fmt.Errorf("%s: %w", w.name, err)
		}
		line := fmt.Sprintf("cold %9.1f ms", cold)
		if of, ok := beside[w.name]; ok {
			line += fmt.Sprintf(" (%.2f)", cold/of[0])
		}
		if w.warm {
			warm, err := thrice(func() (float64, error) {
				if err := b.reopenLibrary(ctx, millions); err != nil {
					return 0, err
				}
				b.forget()
				return w.times(ctx, b)
			})
			if err != nil {
				return fmt.Errorf("%s: %w", w.name, err)
			}
			line += fmt.Sprintf("   warm %9.1f ms", warm)
			if of, ok := beside[w.name]; ok {
				line += fmt.Sprintf(" (%.2f)", warm/of[1])
			}
		}
		fmt.Printf("  %-36s %s\n", w.name, line)
		if held := b.store.Results().Warm(); held > cacheBytes {
			return fmt.Errorf("the cache holds %d bytes, more than its budget", held)
		}
	}
	if err := errors.Join(b.library.Close(), b.store.Close()); err != nil {
		return err
	}
	fmt.Print("  peak memory ")
	return printPeak()
}

// forget drops what was computed of the result, not its decoded rows.
func (b *bench) forget() {
	// What is computed is kept by the reader's day, and the service itself has the zero one.
	b.store.Results().Cache().Forget(fmt.Sprintf("%d/%s/", b.result, period.DayOf(time.Time{}, time.UTC)))
}

func thrice(once func() (float64, error)) (float64, error) {
	var all []float64
	for range 3 {
		t, err := once()
		if err != nil {
			return 0, err
		}
		all = append(all, t)
	}
	return measure.Median(all), nil
}

// captureInto captures a table in a process of its own, unless that was done before:
// so that its memory is not counted as that of reading.
func captureInto(ctx context.Context, dir string, millions int) error {
	if _, err := os.Stat(filepath.Join(dir, "done")); err == nil {
		return nil
	}
	if err := os.RemoveAll(dir); err != nil {
		return err
	}
	if err := made.Table(ctx, *dataDir, made.TableOf(millions)); err != nil {
		return err
	}
	c := exec.CommandContext(ctx, os.Args[0], "-data", *dataDir, "-capture", fmt.Sprint(millions), "-into", dir)
	c.Stderr = os.Stderr
	out, err := c.Output()
	if err != nil {
		return fmt.Errorf("capturing %d,000,000 rows: %w", millions, err)
	}
	fmt.Printf("  captured, %s\n", strings.Join(strings.Fields(string(out)), " "))
	return os.WriteFile(filepath.Join(dir, "done"), nil, 0o600)
}

// engineTimes has the engine answer the same in SQL over the same rows as a Parquet
// file: how long it takes from the file and from memory, by the name of the work.
func (b *bench) engineTimes(ctx context.Context, works []asked) (map[string][2]float64, error) {
	out := map[string][2]float64{}
	if *engine == "" {
		fmt.Println("  No engine was given; see -engine.")
		return out, nil
	}
	file := b.dir + ".parquet"
	if _, err := os.Stat(file); err != nil {
		s, err := b.sheet(ctx, ask.Changes{})
		if err != nil {
			return nil, err
		}
		if err := toFile(filepath.Base(file), func(w writer) error { return takeAway(ctx, w, s, "parquet") }); err != nil {
			return nil, err
		}
	}
	var statements strings.Builder
	for _, w := range works {
		fmt.Fprintf(&statements, "%s\t%s\n", w.name, strings.Join(strings.Fields(w.sql), " "))
	}
	c := exec.CommandContext(ctx, *engine, file)
	c.Stdin, c.Stderr = strings.NewReader(statements.String()), os.Stderr
	said, err := c.Output()
	if err != nil {
		return nil, fmt.Errorf("the engine: %w", err)
	}
	for line := range strings.Lines(string(said)) {
		fields := strings.Split(strings.TrimSpace(line), "\t")
		if len(fields) != 3 {
			return nil, fmt.Errorf("the engine said %q", line)
		}
		var times [2]float64
		for i, text := range fields[1:] {
			if times[i], err = strconv.ParseFloat(text, 64); err != nil {
				return nil, fmt.Errorf("the engine said %q: %w", line, err)
			}
		}
		out[fields[0]] = times
	}
	if len(out) != len(works) {
		return nil, fmt.Errorf("the engine answered %d of %d", len(out), len(works))
	}
	return out, nil
}
