package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/ncruces/go-sqlite3"
)

// ErrTaken says that a name is in use already.
var ErrTaken = errors.New("the name is taken; choose another, or change what has it")

// Criteria are values kept under a name, as typed.
type Criteria struct {
	Number    int64
	Report    string
	Name      string
	Owner     string
	Shared    string // group it is shared with, everyone, or "" for nobody
	Typed     map[string]string
	Version   string // of the report when they were kept
	Revision  int64
	ChangedAt time.Time
	Deleted   bool
	Usual     bool      // they are the asking person's usual
	LastRun   time.Time // zero when they never ran well
	LastRows  int64     // -1 where they are not told
}

const criteriaColumns = `select c.id, c.report, c.name, c.owner, c.shared, c.typed, c.version, c.revision, c.changed_at, c.deleted_at is not null,
	u.person is not null, r.ended_at, coalesce(r.rows, 0)
	from criteria c left join usual u on u.criteria = c.id and u.person = ?
	left join run r on r.number = (select max(number) from run where criteria = c.id and state = 'done')`

func scanCriteria(row interface{ Scan(...any) error }) (c Criteria, err error) {
	var typed string
	var changed, last sql.NullString
	if err = row.Scan(&c.Number, &c.Report, &c.Name, &c.Owner, &c.Shared, &typed, &c.Version, &c.Revision, &changed, &c.Deleted, &c.Usual, &last, &c.LastRows); err != nil {
		return c, explain(err)
	}
	c.ChangedAt, c.LastRun = unstamp(changed), unstamp(last)
	return c, json.Unmarshal([]byte(typed), &c.Typed)
}

// CriteriaOf returns one set of criteria, also a deleted one, as a person has it.
func (s *Store) CriteriaOf(ctx context.Context, number int64, person string) (Criteria, error) {
	return scanCriteria(s.read.QueryRowContext(ctx, criteriaColumns+` where c.id = ?`, person, number))
}

// Seen says whose criteria and controls are wanted: a person's own and those
// shared with everyone or one of the groups.
type Seen struct {
	Person string
	Groups []string
	All    bool // whoever owns them
}

func (w Seen) test(of string) (string, []any) {
	groups, _ := json.Marshal(append([]string{"everyone"}, w.Groups...))
	return fmt.Sprintf(`(%[1]s.owner = ? or %[1]s.shared in (select value from json_each(?)) or ?)`, of), []any{w.Person, string(groups), w.All}
}

// CriteriaFor returns the criteria of a report that a person sees and whose
// names hold a search, their usual first, then by name; at most limit.
func (s *Store) CriteriaFor(ctx context.Context, report string, w Seen, search string, limit int) ([]Criteria, error) {
	test, args := w.test("c")
	rows, err := s.read.QueryContext(ctx, criteriaColumns+` where c.id in (select c.id from criteria c left join usual u on u.criteria = c.id and u.person = ?
		where c.report = ? and c.deleted_at is null and instr(lower(c.name), lower(?)) > 0 and `+test+` order by u.person is null, c.name collate nocase, c.id limit ?)
		order by u.person is null, c.name collate nocase, c.id`, append(append([]any{w.Person, w.Person, report, search}, args...), limit)...)
	return collect(rows, err, func(r *sql.Rows) (Criteria, error) { return scanCriteria(r) })
}

// AddCriteria keeps new criteria. It fails with [ErrTaken] when the owner has
// others of that name for the report.
func (s *Store) AddCriteria(ctx context.Context, c Criteria) (Criteria, error) {
	typed, _ := json.Marshal(c.Typed)
	err := s.write.QueryRowContext(ctx, `insert into criteria (report, name, owner, shared, typed, version, changed_at) values (?, ?, ?, ?, ?, ?, ?) returning id`,
		c.Report, c.Name, c.Owner, c.Shared, string(typed), c.Version, stamp(c.ChangedAt)).Scan(&c.Number)
	if err != nil {
		return c, taken(err)
	}
	return s.CriteriaOf(ctx, c.Number, c.Owner)
}

func taken(err error) error {
	if errors.Is(err, sqlite3.CONSTRAINT_UNIQUE) || errors.Is(err, sqlite3.CONSTRAINT_PRIMARYKEY) {
		return ErrTaken
	}
	return explain(err)
}

// keptPast is how many earlier values of criteria are kept.
const keptPast = 50

// PutCriteria changes criteria whose revision is still the one seen. Values that
// are overwritten are kept; see [Store.PastCriteria].
func (s *Store) PutCriteria(ctx context.Context, c Criteria) error {
	typed, _ := json.Marshal(c.Typed)
	err := s.change(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `insert into criteria_past (criteria, revision, typed, version, changed_at)
			select id, revision, typed, version, changed_at from criteria where id = ? and revision = ? and deleted_at is null and typed <> ?`, c.Number, c.Revision, string(typed))
		if err == nil {
			_, err = tx.ExecContext(ctx, `delete from criteria_past where criteria = ?1 and revision not in
				(select revision from criteria_past where criteria = ?1 order by revision desc limit ?2)`, c.Number, keptPast)
		}
		if err != nil {
			return err
		}
		done, err := tx.ExecContext(ctx, `update criteria set name = ?, shared = ?, typed = ?, version = ?, changed_at = ?, revision = revision + 1
			where id = ? and revision = ? and deleted_at is null`, c.Name, c.Shared, string(typed), c.Version, stamp(c.ChangedAt), c.Number, c.Revision)
		return onlyIf(done, err, ErrStale)
	})
	return taken(err)
}

// PastCriteria returns the values that criteria had before they were overwritten,
// with the revision, the report's version and the time of each, the newest first.
func (s *Store) PastCriteria(ctx context.Context, number int64) ([]Criteria, error) {
	rows, err := s.read.QueryContext(ctx, `select criteria, revision, typed, version, changed_at from criteria_past where criteria = ? order by revision desc`, number)
	return collect(rows, err, func(r *sql.Rows) (c Criteria, err error) {
		var typed string
		var changed sql.NullString
		if err := r.Scan(&c.Number, &c.Revision, &typed, &c.Version, &changed); err != nil {
			return c, err
		}
		c.ChangedAt = unstamp(changed)
		return c, json.Unmarshal([]byte(typed), &c.Typed)
	})
}

// DeleteCriteria takes criteria out of sight, from where [Store.RestoreCriteria]
// brings them back.
func (s *Store) DeleteCriteria(ctx context.Context, number int64, now time.Time) error {
	done, err := s.write.ExecContext(ctx, `update criteria set deleted_at = ? where id = ? and deleted_at is null`, stamp(now), number)
	return onlyIf(done, explain(err), ErrNotFound)
}

// RestoreCriteria brings deleted criteria back; [ErrTaken] when their name is
// in use meanwhile.
func (s *Store) RestoreCriteria(ctx context.Context, number int64) error {
	done, err := s.write.ExecContext(ctx, `update criteria set deleted_at = null where id = ? and deleted_at is not null`, number)
	if err != nil {
		return taken(err)
	}
	return onlyIf(done, nil, ErrNotFound)
}

// SetUsual makes criteria a person's usual ones for their report; number 0
// means that there are none from now on.
func (s *Store) SetUsual(ctx context.Context, person, report string, number int64) error {
	return s.change(ctx, func(tx *sql.Tx) error {
		_, err := tx.ExecContext(ctx, `delete from usual where person = ? and report = ?`, person, report)
		if err == nil && number > 0 {
			_, err = tx.ExecContext(ctx, `insert into usual (person, report, criteria) values (?, ?, ?)`, person, report, number)
		}
		return err
	})
}

// Usual returns a person's usual values for a report; nil when there are none.
func (s *Store) Usual(ctx context.Context, person, report string) (typed map[string]string, err error) {
	var text string
	err = s.read.QueryRowContext(ctx, `select typed from criteria where deleted_at is null and id = (select criteria from usual where person = ? and report = ?)`, person, report).Scan(&text)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, explain(err)
	}
	return typed, json.Unmarshal([]byte(text), &typed)
}
