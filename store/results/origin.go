package results

import (
	"context"

	"mantilla/store/db"
)

// Origin returns what the service was set to when it was first asked, and keeps
// it if it is asked for the first time.
func (s Results) Origin(ctx context.Context, name, present string) (text string, err error) {
	if _, err = s.Write.ExecContext(ctx, `insert into origin (name, text) values (?, ?) on conflict do nothing`, name,
		present); err != nil {
		return "", db.Explain(err)
	}
	err = s.Read.QueryRowContext(ctx, `select text from origin where name = ?`, name).Scan(&text)
	return text, db.Explain(err)
}
