package capture

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"
	"time"

	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/core/table"
	"mantilla/library/background"
	"mantilla/library/catalog"
	"mantilla/model"
	"mantilla/source"
)

// mostStaying is how many rows of a dataset may stay in an engine where its report says nothing:
// as many as can be told apart.
const mostStaying = math.MaxUint32

// staying is the rows of a run that stay in the engine of its source.
type staying struct {
	run     int64
	service string
	most    int64 // rows of one dataset

	tables   []model.Stay
	rows     []int64        // of each table
	datasets map[string]int // their tables
}

// tableName is what a run's table is called in an engine, and runOf reads it. The service is part of
// it, since several may keep results in one engine.
func tableName(service string, run int64, place int) string {
	return fmt.Sprintf("run_%s_%d_%d", service, run, place)
}

func runOf(service, table string) (run int64, ok bool) {
	var place int
	n, _ := fmt.Sscanf(strings.TrimPrefix(table, "run_"+service+"_"), "%d_%d", &run, &place)
	return run, n == 2
}

// keep lets the rows of a query stay where they lie.
func (s *staying) keep(ctx context.Context, session source.Session, q query.Query, keep Keeper, c *counting) error {
	keeper, ok := session.(source.Keeper)
	if !ok {
		return fmt.Errorf("the dataset %s stays in the engine of its source, which %w", q.Dataset.ID, source.ErrKeepsNothing)
	}
	stay, rows, err := keeper.Keep(ctx, q, source.Keeping{Service: s.service, Table: tableName(s.service, s.run,
		len(s.tables)+1),
		Most: s.most})
	if errors.Is(err, source.ErrMore) {
		return &limitReached{limit: s.most, expected: c.expected}
	}
	if err != nil {
		return err
	}
	if s.datasets == nil {
		s.datasets = map[string]int{}
	}
	s.datasets[q.Dataset.ID] = len(s.tables)
	s.tables, s.rows = append(s.tables, stay), append(s.rows, rows)
	keep.Stays(stay, rows)
	c.stayed += rows
	c.tell()
	return nil
}

// drop removes the tables of a run that became no result. What cannot be removed now is found by
// [Room.Sweep].
func (s *staying) drop(ctx context.Context, src catalog.Source, room *Room) {
	for _, stay := range s.tables {
		if err := src.Engine().Drop(context.WithoutCancel(ctx), stay.Table); err != nil {
			room.log.WarnContext(ctx, "rows of a run that failed stay in the engine for now", "run", s.run, "table", stay.Table,
				"error", err)
		}
	}
}

// of asks the rows of a dataset of the run that stay in the engine; nil where they do not.
func (s *staying) of(src catalog.Source) func(d *report.Dataset) table.Table {
	return func(d *report.Dataset) table.Table {
		at, ok := s.datasets[d.ID]
		if !ok {
			return nil
		}
		return src.Engine().Table(s.tables[at], s.rows[at], d.Schema(), table.Fresh{})
	}
}

// Sweep removes, now and every hour, what stays in engines of results that are deleted and of runs
// that came to nothing.
func (room *Room) Sweep(work *background.Work) {
	for more := true; more; more = work.Sleep(time.Hour, nil) {
		if err := room.SweepNow(work.Context()); err != nil && work.Context().Err() == nil {
			room.log.Warn("looking for rows in engines that nobody wants", "error", err)
		}
	}
}

// SweepNow looks through all sources; one that fails keeps none from being looked through.
func (room *Room) SweepNow(ctx context.Context) (err error) {
	for _, src := range room.catalog.AllSources() {
		if src.Engine() == nil {
			continue
		}
		if failed := room.sweep(ctx, src); failed != nil {
			err = errors.Join(err, fmt.Errorf("source %s: %w", src.Config.ID, failed))
		}
	}
	return err
}

func (room *Room) sweep(ctx context.Context, src catalog.Source) error {
	names, err := src.Engine().Kept(ctx, room.service)
	if err != nil {
		return err
	}
	byRun := map[int64][]string{}
	var numbers []int64
	for _, name := range names {
		if run, ok := runOf(room.service, name); ok {
			if byRun[run] == nil {
				numbers = append(numbers, run)
			}
			byRun[run] = append(byRun[run], name)
		}
	}
	wanted, err := room.records.WithRows(ctx, numbers)
	if err != nil {
		return err
	}
	for _, run := range wanted {
		delete(byRun, run)
	}
	for run, tables := range byRun {
		for _, name := range tables {
			if err := src.Engine().Drop(ctx, name); err != nil {
				return err
			}
			room.log.InfoContext(ctx, "rows that nobody wants were removed from an engine", "source", src.Config.ID, "run", run,
				"table",
				name)
		}
	}
	return nil
}
