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
	{"opening", "report"}, {"run", "report"}, {"result", "report"}, {"run", "beside"}, {"result", "beside"},
	{"criteria", "report"}, {"usual", "report"}, {"kept_view", "report"}, {"mark", "report"},
	{"draft", "report"}, {"favourite", "report"}, {"feedback", "report"},
	{"request", "report"}, {"visit", "report"}, {"resource", "report"}, {"report_name", "report"},
	{"statement", "report"}, {"entry", "report"}, {"opening_wish", "report"},
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
		if err := idle(ctx, tx, from); err != nil {
			return err
		}
		for _, c := range speaking {
			if _, err := tx.ExecContext(ctx, fmt.Sprintf(`update %s set %s = ? where %s = ?`, c.table, c.column, c.column), to,
				from); err != nil {
				return fmt.Errorf("renaming in %s: %w", c.table, err)
			}
		}
		if _, err := tx.ExecContext(ctx, `update keep_rule set id = ? where kind = 'report' and id = ?`, to,
			from); err != nil {
			return err
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
		was := map[string]string{to: r.Was}
		return Rewriting{Changed: r.Changed, Was: was, Draft: r.Draft}.write(ctx, tx, at)
	})
}

// Rewriting is texts of the catalog that change together.
type Rewriting struct {
	Kind, From, To string              // of the thing that gets another id; "" for none
	Source         string              // how a source is declared under its new id; "" where none changes
	Shared         string              // the file of shared parameters; "" where it stays
	Changed        []model.Report      // new versions
	Was            map[string]string   // the versions that they had, where drafts go on from them
	Draft          func(string) string // rewrites the text of a draft
}

// Rewrite puts texts of the catalog in the places of others, in drafts too; all or nothing.
func (s Catalog) Rewrite(ctx context.Context, r Rewriting, at time.Time) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		for _, changed := range r.Changed {
			if err := idle(ctx, tx, changed.ID); err != nil {
				return fmt.Errorf("%s: %w", changed.ID, err)
			}
		}
		for _, column := range []string{"id", "successor"} {
			if _, err := tx.ExecContext(ctx, fmt.Sprintf(`update retired set %s = ? where kind = ? and %s = ?`, column, column),
				r.To, r.Kind, r.From); err != nil {
				return err
			}
		}
		if r.Source != "" {
			if _, err := tx.ExecContext(ctx, `update source set id = ?, text = ? where id = ?`, r.To, r.Source,
				r.From); err != nil {
				return err
			}
			for _, table := range []string{"file_version", "file_look"} {
				if _, err := tx.ExecContext(ctx, `update `+table+` set source = ? where source = ?`, r.To,
					r.From); err != nil {
					return err
				}
			}
		}
		if r.Shared != "" {
			if _, err := tx.ExecContext(ctx, `insert into shared (text, at) values (?, ?)`, r.Shared,
				db.Stamp(at)); err != nil {
				return err
			}
		}
		return r.write(ctx, tx, at)
	})
}

// write makes new versions the present ones, with the drafts that go on from those before.
func (r Rewriting) write(ctx context.Context, tx *sql.Tx, at time.Time) error {
	for _, changed := range r.Changed {
		if err := PutVersion(ctx, tx, changed, at); err != nil {
			return err
		}
		if was := r.Was[changed.ID]; was != "" {
			if _, err := tx.ExecContext(ctx, `update draft set base = ? where report = ? and base = ?`, changed.Version,
				changed.ID, was); err != nil {
				return err
			}
		}
	}
	return r.drafts(ctx, tx)
}

// idle returns [ErrBusy] while runs of a report wait or go on.
func idle(ctx context.Context, tx *sql.Tx, report string) error {
	var busy bool
	if err := tx.QueryRowContext(ctx, `select exists (select 1 from run where report = ? and state in
		('waiting', 'running'))`, report).Scan(&busy); err != nil {
		return err
	}
	if busy {
		return ErrBusy
	}
	return nil
}

// drafts rewrites the texts of drafts.
func (r Rewriting) drafts(ctx context.Context, tx *sql.Tx) error {
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

// renameSteps names the report anew in the run controls that run it, also in what they were
// before they were overwritten.
func renameSteps(ctx context.Context, tx *sql.Tx, from, to string) error {
	if err := renameStepsIn(ctx, tx, "control_past", from, to); err != nil {
		return err
	}
	if err := renameStepsIn(ctx, tx, "control", from, to); err != nil {
		return err
	}
	_, err := tx.ExecContext(ctx, `update control set revision = revision + 1 where json_valid(body) and exists
		(select 1 from json_each(body, '$.steps') j where j.value ->> 'report' = ?)`, to)
	return err
}

func renameStepsIn(ctx context.Context, tx *sql.Tx, table, from, to string) error {
	rows, err := tx.QueryContext(ctx, `select rowid, body from `+table+` where json_valid(body) and exists
		(select 1 from json_each(body, '$.steps') j where j.value ->> 'report' = ?)`, from)
	if err != nil {
		return err
	}
	defer rows.Close()
	bodies := map[int64]string{}
	for rows.Next() {
		var id int64
		var text string
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
		if _, err := tx.ExecContext(ctx, `update `+table+` set body = ? where rowid = ?`, body, id); err != nil {
			return err
		}
	}
	return nil
}
