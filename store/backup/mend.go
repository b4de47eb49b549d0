package backup

import (
	"context"
	"database/sql"
	"errors"
	"fmt"

	"mantilla/store/db"
	"mantilla/store/results"
)

// ErrOther says that a back-up has no such result, or another of its number.
var ErrOther = errors.New("the back-up has another result of that number, or none")

// Good tells the seal of a result whose rows are those that were sealed; it fails where they are not.
func (s Backup) Good(ctx context.Context, number int64) (string, error) {
	of := results.Results(s)
	r, err := of.Result(ctx, number)
	if err != nil {
		return "", fmt.Errorf("R-%06d: %w", number, err)
	}
	good, err := of.CheckSeal(ctx, r)
	if err == nil && !good {
		err = fmt.Errorf("R-%06d is damaged there too", number)
	}
	return r.Manifest.Seal, err
}

// leans are the runs whose columns those of a run are kept by, with the run itself.
const leans = `with recursive leans(run) as (select ?1 union
	select c.base from other.cells c join leans l on c.run = l.run where c.base is not null)`

// Mend takes the rows of a result from other records, which are closed and lie in a file: those of a
// back-up in which the result, with that seal, is as it was sealed. Nothing else of it changes, and
// nothing of the others.
func (s Backup) Mend(ctx context.Context, number int64, seal, records string) error {
	r, err := results.Results(s).Result(ctx, number)
	if err != nil {
		return fmt.Errorf("R-%06d: %w", number, err)
	}
	if r.Manifest.Seal != seal {
		return fmt.Errorf("R-%06d: %w", number, ErrOther)
	}
	if _, err := s.Write.ExecContext(ctx, `attach database ? as other`, records); err != nil {
		return fmt.Errorf("opening the back-up beside the records: %w", db.Explain(err))
	}
	err = s.Change(ctx, func(tx *sql.Tx) error {
		var gone int
		err := tx.QueryRowContext(ctx, leans+` select count(*) from leans where run not in (select run from main.result)`,
			r.Run).Scan(&gone)
		if err == nil && gone > 0 {
			err = fmt.Errorf("R-%06d: in the back-up its rows lean on a result that is deleted since; restore the back-up "+
				"into a directory of its own, and read it there", number)
		}
		for _, step := range []string{
			` delete from main.cells where run in leans`,
			` insert into main.cells select * from other.cells where run in leans`,
			` delete from main.batch where run in leans`,
			` insert into main.batch select * from other.batch where run in leans`,
		} {
			if err == nil {
				_, err = tx.ExecContext(ctx, leans+step, r.Run)
			}
		}
		return err
	})
	s.Cache.Forget(fmt.Sprintf("%d/", number))
	_, closed := s.Write.ExecContext(context.WithoutCancel(ctx), `detach database other`)
	return errors.Join(err, closed)
}
