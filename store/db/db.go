package db

import (
	"database/sql"
	"errors"
	"time"

	"github.com/ncruces/go-sqlite3"

	"mantilla/model"
)

// Optional is null for the zero time.
func Optional(t time.Time) sql.NullString {
	if t.IsZero() {
		return sql.NullString{}
	}
	return sql.NullString{String: Stamp(t), Valid: true}
}

// Taken tells that a name is taken already, where that is why a change failed.
func Taken(err error) error {
	if errors.Is(err, sqlite3.CONSTRAINT_UNIQUE) || errors.Is(err, sqlite3.CONSTRAINT_PRIMARYKEY) {
		return model.ErrTaken
	}
	return Explain(err)
}

// OnlyIf turns a change of no row into an error.
func OnlyIf(done sql.Result, err error, otherwise error) error {
	if err != nil {
		return err
	}
	if n, err := done.RowsAffected(); err != nil || n == 0 {
		return otherwise
	}
	return nil
}
