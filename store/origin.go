package store

import "context"

// Origin returns what the service was set to when it was first asked, and keeps
// it if it is asked for the first time.
func (s Results) Origin(ctx context.Context, name, present string) (text string, err error) {
	if _, err = s.write.ExecContext(ctx, `insert into origin (name, text) values (?, ?) on conflict do nothing`, name,
		present); err != nil {
		return "", explain(err)
	}
	err = s.read.QueryRowContext(ctx, `select text from origin where name = ?`, name).Scan(&text)
	return text, explain(err)
}
