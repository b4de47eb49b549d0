// Package needs keeps who follows which run controls.
package needs

import (
	"context"
	"database/sql"

	"mantilla/store/db"
)

// Needs is who follows what.
type Needs struct{ *db.DB }

// Follow notes that a person follows a run control, or no longer does.
func (s Needs) Follow(ctx context.Context, person, control string, on bool) error {
	text := `delete from follower where person = ? and control = ?`
	if on {
		text = `insert into follower (person, control) values (?, ?) on conflict do nothing`
	}
	_, err := s.Write.ExecContext(ctx, text, person, control)
	return db.Explain(err)
}

// Followers are the people who follow a run control.
func (s Needs) Followers(ctx context.Context, control string) ([]string, error) {
	return s.names(ctx, `select person from follower where control = ? order by 1`, control)
}

// Follows are the run controls that a person follows.
func (s Needs) Follows(ctx context.Context, person string) ([]string, error) {
	return s.names(ctx, `select control from follower where person = ? order by 1`, person)
}

func (s Needs) names(ctx context.Context, text, of string) ([]string, error) {
	rows, err := s.Read.QueryContext(ctx, text, of)
	return db.Collect(rows, err, func(r *sql.Rows) (name string, err error) { return name, r.Scan(&name) })
}
