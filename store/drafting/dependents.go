package drafting

import (
	"context"
	"database/sql"
	"encoding/json"

	"mantilla/model"
	"mantilla/store/db"
)

// Criteria returns everybody's criteria of a report.
func (s Drafting) Criteria(ctx context.Context, report string) ([]model.Criteria, error) {
	return s.criteria(ctx, `where report = ? and deleted_at is null`, report)
}

// AllCriteria returns everybody's criteria of all reports.
func (s Drafting) AllCriteria(ctx context.Context) ([]model.Criteria, error) {
	return s.criteria(ctx, `where deleted_at is null`)
}

func (s Drafting) criteria(ctx context.Context, which string, args ...any) ([]model.Criteria, error) {
	rows, err := s.Read.QueryContext(ctx,
		`select id, report, name, owner, shared, typed from criteria `+which+` order by name, owner`, args...)
	return db.Collect(rows, err, func(r *sql.Rows) (c model.Criteria, err error) {
		var typed string
		if err := r.Scan(&c.Number, &c.Report, &c.Name, &c.Owner, &c.Shared, &typed); err != nil {
			return c, err
		}
		return c, json.Unmarshal([]byte(typed), &c.Typed)
	})
}

// Step is one report of somebody's run control.
type Step struct {
	Control, Title, Owner string
	Step                  int // from 1
	Criteria              int64
	Typed                 map[string]string
	View                  string
}

// Steps returns the steps of everybody's run controls that run a report.
func (s Drafting) Steps(ctx context.Context, report string) ([]Step, error) {
	rows, err := s.Read.QueryContext(ctx, `select c.id, c.title, c.owner, j.key + 1, j.value from control c,
		json_each(case when json_valid(c.body) then c.body else '{}' end, '$.steps') j
		where c.deleted_at is null and j.value ->> 'report' = ? order by c.title, c.id, j.key`, report)
	return db.Collect(rows, err, func(r *sql.Rows) (step Step, err error) {
		var text string
		if err := r.Scan(&step.Control, &step.Title, &step.Owner, &step.Step, &text); err != nil {
			return step, err
		}
		return step, json.Unmarshal([]byte(text), &step)
	})
}

// Views returns everybody's kept views of a report.
func (s Drafting) Views(ctx context.Context, report string) ([]model.View, error) {
	rows, err := s.Read.QueryContext(ctx,
		`select id, view, name, owner, everyone, changes, seen from kept_view where report = ? and deleted_at is null
			order by name, owner`, report)
	return db.Collect(rows, err, func(r *sql.Rows) (v model.View, err error) {
		var changes, seen string
		if err := r.Scan(&v.Number, &v.Base, &v.Name, &v.Owner, &v.Everyone, &changes, &seen); err != nil {
			return v, err
		}
		v.Report = report
		if err := json.Unmarshal([]byte(changes), &v.Changes); err != nil {
			return v, err
		}
		return v, json.Unmarshal([]byte(seen), &v.Seen)
	})
}

// Tile is a view on somebody's desk.
type Tile struct {
	Kind, Owner          string // of the desk: person or group
	Control              string
	Step                 int
	View, Measure, Title string
}

// Tiles returns the tiles that show a step of some run controls.
func (s Drafting) Tiles(ctx context.Context) ([]Tile, error) {
	rows, err := s.Read.QueryContext(ctx, `select d.kind, d.owner, j.value from desk d,
		json_each(case when json_valid(d.tiles) then d.tiles else '[]' end) j order by d.kind, d.owner, j.key`)
	return db.Collect(rows, err, func(r *sql.Rows) (t Tile, err error) {
		var text string
		kind, owner := "", ""
		if err := r.Scan(&kind, &owner, &text); err != nil {
			return t, err
		}
		err = json.Unmarshal([]byte(text), &t)
		t.Kind, t.Owner = kind, owner
		return t, err
	})
}
