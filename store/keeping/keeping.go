// Package keeping keeps sign-offs, holds and notes of results.
package keeping

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

	"mantilla/model"
	"mantilla/store/db"
)

// Keeping is the records of what was said and done of results that are kept.
type Keeping struct{ *db.DB }

// act writes that something was done.
func act(ctx context.Context, tx *sql.Tx, result int64, a model.Act) error {
	_, err := tx.ExecContext(ctx, `insert into kept_act (result, what, person, at, says) values (?, ?, ?, ?, ?)`, result,
		a.What, a.Person, db.Stamp(a.At), a.Says)
	return err
}

// PutSigns puts who signed a result off in the place of those seen before, with what was done for
// that. It returns [model.ErrStale] where others had signed meanwhile.
func (s Keeping) PutSigns(ctx context.Context, result int64, seen, signs []model.Sign, whole bool, a model.Act) error {
	was, err := json.Marshal(append([]model.Sign{}, seen...))
	if err != nil {
		return err
	}
	is, err := json.Marshal(append([]model.Sign{}, signs...))
	if err != nil {
		return err
	}
	return db.Explain(s.Change(ctx, func(tx *sql.Tx) error {
		done, err := tx.ExecContext(ctx, `update result set signs = ?, signed = ? where number = ? and signs = ?
			and trashed_at is null`, string(is), whole, result, string(was))
		if err := db.OnlyIf(done, err, model.ErrStale); err != nil {
			return err
		}
		return act(ctx, tx, result, a)
	}))
}

// PutHold holds a result, or releases it.
func (s Keeping) PutHold(ctx context.Context, result int64, held bool, a model.Act) error {
	return db.Explain(s.Change(ctx, func(tx *sql.Tx) error {
		done, err := tx.ExecContext(ctx, `update result set held = ? where number = ? and held <> ?
			and trashed_at is null`, held, result, held)
		if err := db.OnlyIf(done, err, model.ErrStale); err != nil {
			return err
		}
		return act(ctx, tx, result, a)
	}))
}

// Acts are what was done about keeping a result, in their order.
func (s Keeping) Acts(ctx context.Context, result int64) ([]model.Act, error) {
	rows, err := s.Read.QueryContext(ctx, `select what, person, at, says from kept_act where result = ? order by number`,
		result)
	return db.Collect(rows, err, func(r *sql.Rows) (a model.Act, err error) {
		var at sql.NullString
		err = r.Scan(&a.What, &a.Person, &at, &a.Says)
		a.At = db.Unstamp(at)
		return a, err
	})
}

// SignRule is who may sign the results of a report off.
func (s Keeping) SignRule(ctx context.Context, report string) (model.SignRule, error) {
	rule := model.SignRule{Report: report}
	var who string
	err := s.Read.QueryRowContext(ctx, `select signers, sign_steps from report where id = ?`, report).Scan(&who,
		&rule.Steps)
	if err != nil {
		return rule, db.Explain(err)
	}
	return rule, json.Unmarshal([]byte(who), &rule.Who)
}

// PutSignRule says who may sign the results of a report off.
func (s Keeping) PutSignRule(ctx context.Context, rule model.SignRule) error {
	who, err := json.Marshal(append([]model.Opening{}, rule.Who...))
	if err != nil {
		return err
	}
	done, err := s.Write.ExecContext(ctx, `update report set signers = ?, sign_steps = ? where id = ?`, string(who),
		rule.Steps, rule.Report)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}

const noteColumns = `select number, result, answers, person, at, says, view, filters, about, settled_by, settled_at
	from result_note`

func scanNote(row interface{ Scan(...any) error }) (n model.ResultNote, err error) {
	var at, settled sql.NullString
	var filters string
	if err = row.Scan(&n.Number, &n.Result, &n.Answers, &n.Person, &at, &n.Says, &n.About.View, &filters, &n.About.Says,
		&n.SettledBy, &settled); err != nil {
		return n, db.Explain(err)
	}
	n.At, n.SettledAt = db.Unstamp(at), db.Unstamp(settled)
	return n, json.Unmarshal([]byte(filters), &n.About.Filters)
}

// Notes are those of a result, in their order.
func (s Keeping) Notes(ctx context.Context, result int64) ([]model.ResultNote, error) {
	rows, err := s.Read.QueryContext(ctx, noteColumns+` where result = ? order by number`, result)
	return db.Collect(rows, err, func(r *sql.Rows) (model.ResultNote, error) { return scanNote(r) })
}

// Note returns one note.
func (s Keeping) Note(ctx context.Context, number int64) (model.ResultNote, error) {
	return scanNote(s.Read.QueryRowContext(ctx, noteColumns+` where number = ?`, number))
}

// AddNote keeps a note and returns its number.
func (s Keeping) AddNote(ctx context.Context, n model.ResultNote) (number int64, err error) {
	filters, err := json.Marshal(append([]string{}, n.About.Filters...))
	if err != nil {
		return 0, err
	}
	err = s.Write.QueryRowContext(ctx, `insert into result_note (result, answers, person, at, says, view, filters, about)
		values (?, ?, ?, ?, ?, ?, ?, ?) returning number`, n.Result, n.Answers, n.Person, db.Stamp(n.At), n.Says,
		n.About.View, string(filters), n.About.Says).Scan(&number)
	return number, db.Explain(err)
}

// SettleNote settles a note, or opens it again where nobody settles it.
func (s Keeping) SettleNote(ctx context.Context, number int64, by string, at time.Time) error {
	var when sql.NullString
	if by != "" {
		when = sql.NullString{String: db.Stamp(at), Valid: true}
	}
	done, err := s.Write.ExecContext(ctx, `update result_note set settled_by = ?, settled_at = ? where number = ?`, by,
		when, number)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}
