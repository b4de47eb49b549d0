package catalog

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// ErrBusy says that runs of a report wait or go on.
var ErrBusy = errors.New("runs of it wait or go on; rename it when they have ended")

// speaking are the columns that name a report.
var speaking = []struct{ table, column string }{
	{"report", "id"}, {"report", "successor"}, {"report_version", "report"}, {"report_change", "report"},
	{"opening", "report"}, {"run", "report"}, {"result", "report"}, {"criteria", "report"}, {"usual", "report"},
	{"kept_view", "report"}, {"mark", "report"}, {"draft", "report"}, {"favourite", "report"}, {"feedback", "report"},
	{"request", "report"}, {"visit", "report"}, {"resource", "report"}, {"report_name", "report"},
}

// Renaming is a report that gets another id.
type Renaming struct {
	From, To string
	Was      string              // the version that it has
	Changed  []model.Report      // new versions, of it and of reports that link to it
	Draft    func(string) string // rewrites the text of a draft
}

// Rename gives a report another id wherever the records name it, run controls and drafts among
// them, and makes new versions the present ones; all or nothing.
func (s Catalog) Rename(ctx context.Context, r Renaming, at time.Time) error {
	from, to := r.From, r.To
	return s.Change(ctx, func(tx *sql.Tx) error {
		var busy bool
		if err := tx.QueryRowContext(ctx, `select exists (select 1 from run where report = ? and state in
			('waiting', 'running'))`, from).Scan(&busy); err != nil {
			return err
		}
		if busy {
			return ErrBusy
		}
		for _, c := range speaking {
			if _, err := tx.ExecContext(ctx, fmt.Sprintf(`update %s set %s = ? where %s = ?`, c.table, c.column, c.column), to,
				from); err != nil {
				return fmt.Errorf("renaming in %s: %w", c.table, err)
			}
		}
		if _, err := tx.ExecContext(ctx, `delete from report_name where was = ?`, to); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `insert into report_name (was, report) values (?, ?)`, from, to); err != nil {
			return err
		}
		if err := renameSteps(ctx, tx, from, to); err != nil {
			return err
		}
		for _, changed := range r.Changed {
			if err := PutVersion(ctx, tx, changed, at); err != nil {
				return err
			}
			if changed.ID == to { // drafts of it go on from what it is now
				if _, err := tx.ExecContext(ctx, `update draft set base = ? where report = ? and base = ?`, changed.Version, to,
					r.Was); err != nil {
					return err
				}
			}
		}
		return r.drafts(ctx, tx)
	})
}

// drafts rewrites the texts of drafts.
func (r Renaming) drafts(ctx context.Context, tx *sql.Tx) error {
	rows, err := tx.QueryContext(ctx, `select number, text from draft`)
	texts := map[int64]string{}
	_, err = db.Collect(rows, err, func(rows *sql.Rows) (struct{}, error) {
		var number int64
		var text string
		err := rows.Scan(&number, &text)
		if again := r.Draft(text); again != text {
			texts[number] = again
		}
		return struct{}{}, err
	})
	if err != nil {
		return err
	}
	for number, text := range texts {
		if _, err := tx.ExecContext(ctx, `update draft set text = ?, revision = revision + 1 where number = ?`, text,
			number); err != nil {
			return err
		}
	}
	return nil
}

// Names are what reports are called now, by what they were called before.
func (s Catalog) Names(ctx context.Context) (map[string]string, error) {
	rows, err := s.Read.QueryContext(ctx, `select was, report from report_name`)
	names := map[string]string{}
	_, err = db.Collect(rows, err, func(r *sql.Rows) (struct{}, error) {
		var was, is string
		err := r.Scan(&was, &is)
		names[was] = is
		return struct{}{}, err
	})
	return names, err
}

// renameSteps names the report anew in the run controls that run it.
func renameSteps(ctx context.Context, tx *sql.Tx, from, to string) error {
	rows, err := tx.QueryContext(ctx, `select id, body from control where json_valid(body) and exists
		(select 1 from json_each(body, '$.steps') j where j.value ->> 'report' = ?)`, from)
	if err != nil {
		return err
	}
	defer rows.Close()
	bodies := map[string]string{}
	for rows.Next() {
		var id, text string
		if err := rows.Scan(&id, &text); err != nil {
			return err
		}
		var body map[string]json.RawMessage
		var steps []map[string]json.RawMessage
		if err := json.Unmarshal([]byte(text), &body); err != nil {
			return err
		}
		if err := json.Unmarshal(body["steps"], &steps); err != nil {
			return err
		}
		for _, step := range steps {
			var report string
			if json.Unmarshal(step["report"], &report) == nil && report == from {
				step["report"], _ = json.Marshal(to)
			}
		}
		if body["steps"], err = json.Marshal(steps); err != nil {
			return err
		}
		whole, err := json.Marshal(body)
		if err != nil {
			return err
		}
		bodies[id] = string(whole)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	for id, body := range bodies {
		if _, err := tx.ExecContext(ctx, `update control set body = ?, revision = revision + 1 where id = ?`, body,
			id); err != nil {
			return err
		}
	}
	return nil
}
