package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"mantilla/bench/made"
	"mantilla/bench/measure"
	"mantilla/core/ask"
	"mantilla/library/catalog"
	"mantilla/library/keeping"
)

// changedDefinition reads the same rows with another amount in one of a hundred, and with
// another id in one of a thousand.
var changedDefinition = strings.NewReplacer(
	"{id: id, is: id,", "{id: id, is: id + (id % 1000 = 0) * 1000000000,",
	"{id: amount, is: amount,", "{id: amount, is: amount + (id % 100 = 7) * 1000,").Replace(made.Report)

// join is the comparison in SQL, over the rows and the rows as they are changed.
const join = `create or replace table h as select coalesce(a."Id", b."Id") as k, a."Region" is distinct from b."Region"
	or a."Item" is distinct from b."Item" or a."Day" is distinct from b."Day" or a."Status" is distinct from b."Status"
	or a."Quantity" is distinct from b."Quantity" or a."Pieces" is distinct from b."Pieces"
	or a."Amount" is distinct from b."Amount" or a."Weight" is distinct from b."Weight"
	or a."Price" is distinct from b."Price" as c,
	a.*, b.* from rows a full outer join
	(select * replace ("Id" + case when "Id" % 1000 = 0 then 1000000000 else 0 end as "Id",
	"Amount" + case when "Id" % 100 = 7 then 1 else 0 end as "Amount") from rows) b on a."Id" = b."Id"`

// comparison compares a result of a million rows with another of as many.
func comparison(ctx context.Context) error {
	if err := made.Table(ctx, *dataDir, 1); err != nil {
		return err
	}
	fmt.Println("\nComparing 1,000,000 kept rows by 10 columns with as many, of which 1 % changed")
	dir := filepath.Join(*dataDir, "compared")
	if err := os.RemoveAll(dir); err != nil {
		return err
	}
	b := &bench{dir: dir}
	if err := os.MkdirAll(dir, 0o750); err != nil {
		return err
	}
	if err := b.reopen(ctx, 1); err != nil {
		return err
	}
	defer b.close()
	if err := b.captureOnce(ctx); err != nil {
		return err
	}
	before := b.result
	beside, err := b.engineTimes(ctx, []asked{{name: "full outer join", sql: join}})
	if err != nil {
		return err
	}
	if _, err := b.library.AsService().Catalog.PutReport(ctx, []byte(changedDefinition),
		catalog.Put{Was: "*"}); err != nil {
		return err
	}
	capture, err := measure.Took(func() error { return b.captureOnce(ctx) })
	if err != nil {
		return err
	}
	after := b.result
	whole, err := thrice(func() (float64, error) {
		return measure.Took(func() error { return b.compareOnce(ctx, before, after) })
	})
	if err != nil {
		return err
	}
	line := fmt.Sprintf("%9.1f ms, %.2f of capturing one side", whole, whole/capture)
	if of, ok := beside["full outer join"]; ok {
		line += fmt.Sprintf(" (%.2f of the join)", whole/of[1])
	}
	fmt.Printf("  %-36s %s\n  peak memory ", "asked to sealed result", line)
	return printPeak()
}

// compareOnce compares two results and waits for what changed.
func (b *bench) compareOnce(ctx context.Context, before, after int64) error {
	service := b.library.AsService()
	run, err := service.Keeping.Compare(ctx, keeping.Comparison{Before: keeping.Side{Result: before},
		After: keeping.Side{Result: after}})
	if err != nil {
		return err
	}
	if err != nil {
		return err
	}
	if run, err = b.ended(ctx, run); err != nil {
		return err
	}
	r, err := service.Reading.Result(ctx, run.Result)
	if err != nil {
		return err
	}
	s, err := service.Reading.Sheet(ctx, r, "changes", ask.Changes{})
	if err != nil {
		return err
	}
	const want = " changed, 1000 new, 1000 gone, " // some amounts that would have changed are none
	if !strings.Contains(s.View.Says, want) {
		return fmt.Errorf("it says %s, which does not have%s", s.View.Says, want)
	}
	return nil
}
