package controls

import (
	"context"
	"database/sql"
	"encoding/json"

	"mantilla/core/period"
	"mantilla/model"
	"mantilla/store/db"
	"mantilla/store/people"
)

// Calendars returns all calendars of days off.
func (s Controls) Calendars(ctx context.Context) ([]model.Calendar, error) {
	rows, err := s.Read.QueryContext(ctx, `select id, title, text, days, revision from calendar order by id`)
	return db.Collect(rows, err, func(r *sql.Rows) (c model.Calendar, err error) {
		var days string
		if err = r.Scan(&c.ID, &c.Title, &c.Text, &days, &c.Revision); err != nil {
			return c, err
		}
		return c, json.Unmarshal([]byte(days), &c.Days)
	})
}

// PutCalendar keeps a calendar, in the place of one of the same id.
func (s Controls) PutCalendar(ctx context.Context, c model.Calendar) error {
	days, err := json.Marshal(append([]period.Day{}, c.Days...))
	if err != nil {
		return err
	}
	_, err = s.Write.ExecContext(ctx, `insert into calendar (id, title, text, days) values (?1, ?2, ?3, ?4)
		on conflict (id) do update set title = ?2, text = ?3, days = ?4,
		revision = revision + 1`, c.ID, c.Title, c.Text, string(days))
	return db.Explain(err)
}

// DeleteCalendar deletes a calendar, so that it can be put back.
func (s Controls) DeleteCalendar(ctx context.Context, t model.Thrown) error {
	return s.Throw(ctx, t, db.Part{Table: "calendar", Where: "id = ?1", How: db.Removed})
}

// PutFeed keeps the digest of a person's secret, in the place of an earlier one.
func (s Controls) PutFeed(ctx context.Context, person, digest string) error {
	_, err := s.Write.ExecContext(ctx,
		`insert into feed (person, digest) values (?1, ?2) on conflict (person) do update set digest = ?2`, person, digest)
	return db.Explain(err)
}

// FeedPerson returns whose secret has a digest.
func (s Controls) FeedPerson(ctx context.Context, digest string) (model.Person, error) {
	return people.ScanPerson(s.Read.QueryRowContext(ctx,
		people.PersonColumns+` where name = (select person from feed where digest = ?) and not closed`, digest))
}
