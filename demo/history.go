package demo

import (
	"context"
	"errors"
	"fmt"
	"hash/fnv"
	"path/filepath"
	"slices"
	"time"

	"github.com/ncruces/go-sqlite3"

	"mantilla/core/period"
	"mantilla/core/timetable"
	"mantilla/library"
	"mantilla/library/controls"
	"mantilla/model"
)

// TrainingMonth is the run control that keeps the stages of training on the first of each month.
const TrainingMonth = "training-month"

// stages are those of the training, in their order.
var stages = []string{"applied", "theory", "practice", "assessed", "certified"}

// trained is the stage that a keeper reached, and when.
type trained struct {
	keeper, stage string
	reached       period.Day
}

// back is where a keeper was on an earlier day: each stage took some months. Ok is false before
// the first.
func (t trained) back(day period.Day) (trained, bool) {
	sum := fnv.New32a()
	sum.Write([]byte(t.keeper))
	took := period.Day(40 + sum.Sum32()%130)
	at := slices.Index(stages, t.stage)
	for ; at >= 0 && t.reached > day; at-- {
		t.reached -= took + period.Day(7*at)
	}
	if at < 0 {
		return t, false
	}
	t.stage = stages[at]
	return t, true
}

// Opener opens the service's library at a moment, on which its clock goes on.
type Opener func(ctx context.Context, at time.Time) (l *library.Library, end func() error, err error)

// KeepHistory lets a year go by: the service is there on the first of each month, when the run
// control keeps who is at which stage, and the source is overwritten in between. On the first of
// March it was down. At the end the source holds what is now.
func KeepHistory(ctx context.Context, dir string, open Opener) (err error) {
	source, err := sqlite3.Open(filepath.Join(dir, SourceFile))
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, source.Close()) }()
	if err := source.Exec("pragma busy_timeout = 10000"); err != nil {
		return err
	}
	now, err := trainings(source)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, overwrite(source, now)) }()
	begin := period.Date(2025, time.September, 1)
	for month := begin; month < Today; month = (period.Calendar{}).Shift(period.Months, month, 1).First {
		if month == period.Date(2026, time.March, 1) {
			continue
		}
		var then []trained
		for _, t := range now {
			if was, ok := t.back(month); ok {
				then = append(then, was)
			}
		}
		if err := overwrite(source, then); err != nil {
			return err
		}
		if err := keepMonth(ctx, month, month == begin, open); err != nil {
			return fmt.Errorf("keeping %s: %w", month, err)
		}
	}
	return nil
}

// keepMonth has the service there on a day, until what was due is kept.
func keepMonth(ctx context.Context, day period.Day, first bool, open Opener) (err error) {
	l, end, err := open(ctx, day.Time().Add(6*time.Hour)) // an hour or two after it was due, by the zone
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, end()) }()
	if first {
		return begin(ctx, l, day)
	}
	lila, err := l.AsPerson(ctx, "lila")
	if err != nil {
		return err
	}
	for {
		runs, err := lila.Controls.ControlRuns(ctx, TrainingMonth, 1)
		if err != nil {
			return err
		}
		if len(runs) > 0 && period.DayOf(runs[0].Moment, time.UTC) >= day-1 && runs[0].Runs[0].State.Ended() {
			if runs[0].Runs[0].State != model.Done {
				return errors.New(runs[0].Runs[0].Reason)
			}
			return nil
		}
		select {
		case <-time.After(20 * time.Millisecond):
		case <-ctx.Done():
			return context.Cause(ctx)
		}
	}
}

// begin takes in what the year needs: its report, people, and the run control.
func begin(ctx context.Context, l *library.Library, day period.Day) error {
	if err := errors.Join(loadReports(ctx, l.AsService(), "training-progress"),
		loadPeople(ctx, l.AsService())); err != nil {
		return err
	}
	lila, err := l.AsPerson(ctx, "lila")
	if err != nil {
		return err
	}
	_, err = lila.Controls.PutControl(ctx, controls.Control{
		Control: model.Control{ID: TrainingMonth, Title: "Training, month by month", Shared: "everyone"},
		Outputs: []string{"kept"},
		Steps:   []controls.Step{{Report: "training-progress", Typed: map[string]string{"as_of": "today"}}},
		Timetable: &timetable.Timetable{Rule: "FREQ=MONTHLY;BYMONTHDAY=1", Start: day, At: 6 * 60, Zone: "Europe/Berlin",
			Missed: "once"},
	})
	if errors.Is(err, model.ErrTaken) {
		return nil
	}
	return err
}

// trainings reads who is at which stage.
func trainings(source *sqlite3.Conn) (all []trained, err error) {
	stmt, _, err := source.Prepare("select keeper_no, stage, reached_on from training order by keeper_no")
	if err != nil {
		return nil, err
	}
	defer stmt.Close()
	for stmt.Step() {
		reached, err := period.ParseDay(stmt.ColumnText(2))
		if err != nil {
			return nil, err
		}
		all = append(all, trained{stmt.ColumnText(0), stmt.ColumnText(1), reached})
	}
	return all, stmt.Err()
}

// overwrite puts who is at which stage in the place of what the source held, as the office does.
func overwrite(source *sqlite3.Conn, all []trained) (err error) {
	if err := source.Exec("begin immediate; delete from training"); err != nil {
		return err
	}
	stmt, _, err := source.Prepare("insert into training values (?, ?, ?)")
	if err != nil {
		return errors.Join(err, source.Exec("rollback"))
	}
	defer stmt.Close()
	for _, t := range all {
		for i, text := range []string{t.keeper, t.stage, t.reached.String()} {
			err = errors.Join(err, stmt.BindText(i+1, text))
		}
		if err = errors.Join(err, stmt.Exec(), stmt.Reset()); err != nil {
			return errors.Join(err, source.Exec("rollback"))
		}
	}
	return source.Exec("commit")
}
