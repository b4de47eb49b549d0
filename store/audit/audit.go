// Package audit keeps the book of who did what. Lines are added, and go when their time is over;
// the records themselves refuse anything else.
package audit

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"mantilla/core/audit"
	"mantilla/model"
	"mantilla/store/db"
)

// Audit is the book.
type Audit struct{ *db.DB }

const columns = `select number, at, person, face, address, request, act, kind, id, part, before, after, outcome, why,
	digest, salt, erased from audit`

// Add adds a line, with its number and digest. What is lightly added may be undone by a power cut.
func (a Audit) Add(ctx context.Context, l audit.Line, lightly bool) (audit.Line, error) {
	add := func(tx *sql.Tx) error {
		before, err := last(ctx, tx)
		if err != nil {
			return err
		}
		l.Number = before.Number + 1
		l.At = l.At.UTC().Truncate(time.Millisecond)
		l.Salt = audit.NewSalt()
		l.Digest = l.Sealed(before.Digest)
		_, err = tx.ExecContext(ctx,
			`insert into audit (number, at, person, face, address, request, act, kind, id, part, before,
			after, outcome, why, digest, salt) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`, l.Number,
			db.Stamp(l.At), l.Person, l.Face, l.Address, l.Request, l.Act, l.Kind, l.ID, l.Part, l.Before, l.After, l.Outcome,
			l.Why, l.Digest, l.Salt)
		return err
	}
	if lightly {
		return l, a.Lightly(ctx, add)
	}
	return l, a.Change(ctx, add)
}

// last is the number and the digest of the last line, or of the one before the first.
func last(ctx context.Context, tx db.Carrying) (l audit.Line, err error) {
	err = tx.QueryRowContext(ctx, `select number, digest from audit order by number desc limit 1`).Scan(&l.Number,
		&l.Digest)
	if errors.Is(err, sql.ErrNoRows) {
		err = tx.QueryRowContext(ctx, `select first - 1, before from audit_book`).Scan(&l.Number, &l.Digest)
	}
	return l, err
}

// Lines returns lines that meet a search, the newest first.
func (a Audit) Lines(ctx context.Context, q model.AuditSearch) ([]audit.Line, error) {
	rows, err := a.Read.QueryContext(ctx, columns+` where (?1 = 0 or number < ?1) and (?2 = '' or person = ?2)
		and (?3 = '' or kind = ?3) and (?4 = '' or id = ?4) and (?5 = '' or act = ?5) and (?6 = '' or outcome = ?6)
		and (?7 = '' or at >= ?7) and (?8 = '' or at < ?8) and (?9 = '' or face = ?9)
		and (?10 = '' or instr(lower(id || ' ' || part || ' ' || before || ' ' || after || ' ' || why || ' ' || address),
			lower(?10)))
		order by number desc limit ?11`, q.Before, q.Person, q.Kind, q.ID, q.Act, q.Outcome, stamped(q.Since),
		stamped(q.Until), q.Face, q.Text, q.Limit)
	return db.Collect(rows, err, scan)
}

func stamped(at time.Time) string {
	if at.IsZero() {
		return ""
	}
	return db.Stamp(at)
}

func scan(r *sql.Rows) (l audit.Line, err error) {
	var at, erased sql.NullString
	err = r.Scan(&l.Number, &at, &l.Person, &l.Face, &l.Address, &l.Request, &l.Act, &l.Kind, &l.ID, &l.Part, &l.Before,
		&l.After, &l.Outcome, &l.Why, &l.Digest, &l.Salt, &erased)
	l.At = db.Unstamp(at)
	if err == nil && erased.Valid {
		err = json.Unmarshal([]byte(erased.String), &l.Erased)
	}
	return l, err
}

// Each visits the lines behind one, in order, as they are now.
func (a Audit) Each(ctx context.Context, behind int64, visit func(audit.Line) error) error {
	rows, err := a.Read.QueryContext(ctx, columns+` where number > ? order by number`, behind)
	if err != nil {
		return db.Explain(err)
	}
	defer rows.Close()
	for rows.Next() {
		l, err := scan(rows)
		if err != nil {
			return err
		}
		if err := visit(l); err != nil {
			return err
		}
	}
	return db.Explain(rows.Err())
}

// Check looks through the whole book. It fails with [*audit.Broken] where that is not whole.
func (a Audit) Check(ctx context.Context) (c audit.Chain, err error) {
	return Whole(ctx, a.Read)
}

// Whole looks through the book in a file of the records.
func Whole(ctx context.Context, read *sql.DB) (c audit.Chain, err error) {
	tx, err := read.BeginTx(ctx, &sql.TxOptions{ReadOnly: true}) // one state, whatever is added meanwhile
	if err != nil {
		return c, db.Explain(err)
	}
	defer tx.Rollback()
	var first int64
	if err := tx.QueryRowContext(ctx, `select first, before from audit_book`).Scan(&first, &c.Digest); err != nil {
		return c, db.Explain(err)
	}
	rows, err := tx.QueryContext(ctx, columns+` order by number`)
	if err != nil {
		return c, db.Explain(err)
	}
	defer rows.Close()
	for rows.Next() {
		l, err := scan(rows)
		if err != nil {
			return c, err
		}
		if c.Lines == 0 && l.Number != first {
			return c, &audit.Broken{Number: first, Why: "is missing"}
		}
		if err := c.Add(l); err != nil {
			return c, err
		}
	}
	return c, db.Explain(rows.Err())
}

// Readers returns who read a result or took it away, and when last.
func (a Audit) Readers(ctx context.Context, result string) ([]model.Reading, error) {
	rows, err := a.Read.QueryContext(ctx, `select person, face, act, count(*), min(at), max(at) from audit
		where kind = 'result' and id = ? and outcome = 'done' and act in (select value from json_each(?))
		group by person, face, act order by max(at) desc, person`, result, model.ReadingActs())
	return db.Collect(rows, err, func(r *sql.Rows) (x model.Reading, err error) {
		var first, last sql.NullString
		err = r.Scan(&x.Person, &x.Face, &x.Act, &x.Times, &first, &last)
		x.First, x.Last = db.Unstamp(first), db.Unstamp(last)
		return x, err
	})
}

// Erase takes somebody out of every line that names them; they are called by an alias from now on.
func (a Audit) Erase(ctx context.Context, name, title, alias string) (lines int, err error) {
	err = a.Change(ctx, func(tx *sql.Tx) error {
		rows, err := tx.QueryContext(ctx, columns+` where person = ?1 or instr(lower(id || ' ' || part || ' ' || before ||
			' ' || after || ' ' || why), lower(?1)) or ?2 <> '' and instr(lower(before || ' ' || after || ' ' || why),
			lower(?2))`, name, title)
		all, err := db.Collect(rows, err, scan)
		for _, l := range all {
			out, named := l.Without(name, title, alias)
			if err != nil || !named {
				continue
			}
			lines++
			var erased []byte
			if erased, err = json.Marshal(out.Erased); err == nil {
				_, err = tx.ExecContext(ctx, `update audit set person = ?, address = ?, id = ?, part = ?, before = ?, after = ?,
					why = ?, salt = '', erased = ? where number = ?`, out.Person, out.Address, out.ID, out.Part, out.Before,
					out.After, out.Why, string(erased), l.Number)
			}
		}
		return err
	})
	return lines, err
}

// Forget removes the lines from before a moment; the book begins behind them.
func (a Audit) Forget(ctx context.Context, before time.Time) (forgotten int64, err error) {
	err = a.Change(ctx, func(tx *sql.Tx) error {
		var number int64
		var digest string
		err := tx.QueryRowContext(ctx, `select number, digest from audit where at < ? order by number desc limit 1`,
			db.Stamp(before)).Scan(&number, &digest)
		if errors.Is(err, sql.ErrNoRows) {
			return nil
		}
		if err == nil {
			_, err = tx.ExecContext(ctx, `update audit_book set first = ?, before = ?`, number+1, digest)
		}
		if err != nil {
			return err
		}
		done, err := tx.ExecContext(ctx, `delete from audit where number <= ?`, number)
		if err != nil {
			return fmt.Errorf("removing lines of the audit whose time is over: %w", err)
		}
		forgotten, err = done.RowsAffected()
		return err
	})
	return forgotten, err
}

// Sent is how far the book was sent on.
func (a Audit) Sent(ctx context.Context) (number int64, err error) {
	err = a.Read.QueryRowContext(ctx, `select sent from audit_book`).Scan(&number)
	return number, db.Explain(err)
}

// SetSent says how far it was.
func (a Audit) SetSent(ctx context.Context, number int64) error {
	return a.Lightly(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `update audit_book set sent = ?`, number)
		return err
	})
}
