package capture

import (
	"context"
	"fmt"
	"slices"

	"mantilla/core/checks"
	"mantilla/core/entries"
	"mantilla/core/kept"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/table"
	"mantilla/model"
)

// check looks whether what should hold of a run's rows does, before they are sealed. The
// error of a check that makes the run fail is that it does not hold.
func (room *Room) check(ctx context.Context, run model.Run, settled *report.Definition, values param.Values,
	keep Keeper, stays func(d *report.Dataset) table.Table) ([]checks.Outcome, error) {
	if len(settled.Checks) == 0 {
		return nil, nil
	}
	before, err := room.before(ctx, run, settled)
	if err != nil {
		return nil, err
	}
	rows := func(ctx context.Context, d *report.Dataset) (table.Table, error) {
		if t := stays(d); t != nil {
			return t, nil
		}
		f, err := keep.Frame(ctx, d.ID, d.Schema())
		if err != nil {
			return nil, err
		}
		f, _ = new(entries.Layer).Over(f, d) // checks are of what was read
		return kept.Of(f, table.Fresh{}), nil
	}
	out, err := checks.Of(ctx, settled, rows, room.setting(settled, values), before)
	if err != nil {
		return nil, err
	}
	if failed := checks.Failed(out); failed != nil {
		return nil, fmt.Errorf("a check of the report does not hold, and nothing was kept: %s", failed.Says())
	}
	return out, nil
}

// before is how the figures of the run before came out, where a check compares with them.
func (room *Room) before(ctx context.Context, run model.Run, settled *report.Definition) (map[string]checks.Outcome,
	error) {
	if !slices.ContainsFunc(settled.Checks, func(c report.Check) bool { return c.Figure != "" }) {
		return nil, nil
	}
	before := map[string]checks.Outcome{}
	for against, find := range map[string]func(context.Context, model.Run) ([]checks.Outcome, error){
		report.AgainstBefore: room.records.Before, report.AgainstSigned: room.records.Signed} {
		earlier, err := find(ctx, run)
		if err != nil {
			return nil, fmt.Errorf("finding the run before: %w", err)
		}
		for _, o := range earlier {
			if o.Figure != "" && slices.ContainsFunc(settled.Checks, func(c report.Check) bool {
				return c.ID == o.ID && c.Against == against
			}) {
				before[o.ID] = o
			}
		}
	}
	return before, nil
}

// setting is what formulas over rows that are read now may speak of.
func (room *Room) setting(settled *report.Definition, values param.Values) ready.Setting {
	calendar := room.org.Calendar()
	return ready.Setting{Given: settled.Given(values, period.DayOf(room.org.Now(), room.org.Zone)), Calendar: calendar,
		Cache: table.Fresh{}}
}
