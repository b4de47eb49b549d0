package main

import (
	"context"
	"fmt"
	"os/exec"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"

	"golang.org/x/sync/errgroup"

	"mantilla/bench/measure"
	"mantilla/core/ask"
	"mantilla/core/formula"
	"mantilla/core/frame"
)

// sums are the columns whose totals are asked for.
var sums = []string{"amount", "weight", "pieces"}

// wide are the columns of the crosstab: 400 down and 48 across.
var wide = []string{"Place = substr(item, 1, 8)", "Slot = mod(pieces, 48)"}

// work is one piece of reading, and the reference engine's name for the same.
type work struct {
	name, reference string
	changes         ask.Changes
	whole           bool // hand on all rows, not one page
	cross           bool // held beside the reference engine's run on the crosstab's columns
}

var groupWorks = []work{
	{
		name:      "group by two columns, three sums",
		reference: "group",
		changes:   ask.Changes{Group: []string{"region", "status"}, Columns: sums},
	},
	{
		name:      "the same with subtotals, all unfolded",
		reference: "rollup",
		changes:   ask.Changes{Group: []string{"region", "status"}, Columns: sums, Open: new(2)},
	},
	{name: "first 100 rows sorted", reference: "sort-first-100", changes: ask.Changes{Sort: []string{"-amount"}}},
	{
		name:      "sort of all rows, handed on",
		reference: "sort-all",
		changes:   ask.Changes{Sort: []string{"-amount"}},
		whole:     true,
	},
	{
		name:      "crosstab 400 by 48",
		reference: "rollup",
		changes: ask.Changes{
			Add:    wide,
			Show:   "crosstab",
			Down:   []string{"own_place"},
			Across: []string{"own_slot"},
			Cells:  []string{"amount"},
		},
		cross: true,
	},
}

// groups times what readers do to a million kept rows: cold with nothing
// decoded, warm with the rows decoded but nothing of the view known.
func (b *bench) groups(ctx context.Context) error {
	fmt.Println("\nReading 1,000,000 kept rows by 10 columns")
	reference, err := b.referenceTimes(ctx)
	if err != nil {
		return err
	}
	for _, w := range groupWorks {
		read := func() error { return b.read(ctx, w) }
		cold, err := several(func() (float64, error) {
			if err := b.reopen(ctx, 1); err != nil {
				return 0, err
			}
			return measure.Took(read)
		})
		if err != nil {
			return fmt.Errorf("%s: %w", w.name, err)
		}
		warm, err := several(func() (float64, error) {
			if err := b.reopenLibrary(ctx, 1); err != nil {
				return 0, err
			}
			b.forget()
			return measure.Took(read)
		})
		if err != nil {
			return fmt.Errorf("%s: %w", w.name, err)
		}
		line := fmt.Sprintf("cold %7.1f ms   warm %7.1f ms", cold, warm)
		if beside := reference[fmt.Sprint(w.cross, w.reference)]; beside > 0 {
			line += fmt.Sprintf("   reference %7.1f ms   ratio cold %.2f, warm %.2f", beside, cold/beside, warm/beside)
		}
		fmt.Printf("  %-40s %s\n", w.name, line)
	}
	return b.formulas(ctx)
}

func (b *bench) read(ctx context.Context, w work) error {
	s, err := b.sheet(ctx, w.changes)
	if err != nil {
		return err
	}
	if w.whole {
		return s.Each(ctx, func(*frame.Batch) error { return nil })
	}
	_, err = s.Read(ctx, 0, 100)
	return err
}

func several(once func() (float64, error)) (float64, error) {
	var all []float64
	for range measure.Times {
		t, err := once()
		if err != nil {
			return 0, err
		}
		all = append(all, t)
	}
	return measure.Median(all), nil
}

// formulas times a column of three operations on decimals, alone and within a
// sheet.
func (b *bench) formulas(ctx context.Context) error {
	r, err := b.library.AsService().Reading.Result(ctx, b.result)
	if err != nil {
		return err
	}
	d := r.Definition.Dataset("rows")
	rows, err := b.store.Results().Frame(ctx, r.Result, d.ID, d.Schema())
	if err != nil {
		return err
	}
	f, err := formula.Parse("amount * 1.19 + weight - price", formula.Scope{Columns: d.Schema()})
	if err != nil {
		return err
	}
	alone := func() error { // by both cores, as a sheet does
		var all errgroup.Group
		all.SetLimit(runtime.GOMAXPROCS(0))
		for i := range rows.Batches() {
			all.Go(func() error {
				batch, err := rows.Batch(ctx, i, nil)
				if err == nil {
					_, err = f.Rows(batch)
				}
				return err
			})
		}
		return all.Wait()
	}
	if err := alone(); err != nil { // decodes the rows
		return err
	}
	t, err := several(func() (float64, error) { return measure.Took(alone) })
	measure.Row("formula of three operations on decimals", t)
	return err
}

// referenceTimes runs the reference engine on the rows and on the crosstab's
// columns, and returns its times by "crosstab? work"; none without it.
func (b *bench) referenceTimes(ctx context.Context) (map[string]float64, error) {
	out := map[string]float64{}
	if *reference == "" {
		fmt.Println("  No reference program was given; see -reference.")
		return out, nil
	}
	for _, run := range []struct {
		cross        bool
		file         string
		changes      ask.Changes
		groups, sums string
	}{
		{false, "own.csv", ask.Changes{}, "Region,Status", "Amount,Weight,Pieces"},
		{true, "cross.csv", ask.Changes{Add: wide, Columns: []string{"amount"}}, "Place,Slot", "Amount"},
	} {
		s, err := b.sheet(ctx, run.changes)
		if err != nil {
			return nil, err
		}
		if err := toFile(run.file, func(to writer) error { return takeAway(ctx, to, s, "csv") }); err != nil {
			return nil, err
		}
		said, err := exec.CommandContext(ctx, *reference, filepath.Join(*dataDir, run.file), run.groups, run.sums,
			"Amount").CombinedOutput()
		if err != nil {
			return nil, fmt.Errorf("the reference engine: %w: %s", err, said)
		}
		for line := range strings.Lines(string(said)) {
			if fields := strings.Fields(line); len(fields) == 3 {
				t, err := strconv.ParseFloat(fields[1], 64)
				if err != nil {
					return nil, fmt.Errorf("the reference engine said %q: %w", line, err)
				}
				out[fmt.Sprint(run.cross, fields[0])] = t
			}
		}
	}
	return out, nil
}
