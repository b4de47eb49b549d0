package people

import (
	"context"
	"database/sql"
	"encoding/json"

	"mantilla/model"
	"mantilla/store/db"
)

// Second returns the second factor of an account; [ErrNotFound] where it has none.
func (s People) Second(ctx context.Context, person string) (x model.Second, err error) {
	var codes string
	err = s.Read.QueryRowContext(ctx, `select person, sealed, confirmed, step, codes from second where person = ?`,
		person).Scan(&x.Person, &x.Sealed, &x.Confirmed, &x.Step, &codes)
	if err == nil {
		err = json.Unmarshal([]byte(codes), &x.Codes)
	}
	return x, db.Explain(err)
}

// PutSecond keeps the second factor of an account. Of two uses of the same step one fails, with
// [ErrStale].
func (s People) PutSecond(ctx context.Context, x model.Second, was int64) error {
	codes, err := json.Marshal(append([]string{}, x.Codes...))
	if err != nil {
		return err
	}
	return s.Change(ctx, func(tx *sql.Tx) error {
		done, err := tx.ExecContext(ctx, `insert into second (person, sealed, confirmed, step, codes) values (?, ?, ?, ?, ?)
			on conflict (person) do update set sealed = excluded.sealed, confirmed = excluded.confirmed, step = excluded.step,
				codes = excluded.codes where step = ?`, x.Person, x.Sealed, x.Confirmed, x.Step, string(codes), was)
		return db.OnlyIf(done, err, model.ErrStale)
	})
}

// DeleteSecond takes the second factor of an account away.
func (s People) DeleteSecond(ctx context.Context, person string) error {
	done, err := s.Write.ExecContext(ctx, `delete from second where person = ?`, person)
	return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
}
