package results

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"mantilla/model"
	"mantilla/seal"
	"mantilla/store/db"
)

// leastSaved is how much less a column has to be over another than by itself, to be kept so.
const leastSaved = 0.5

// Thin keeps the last result but one of a run control as what it has that the result before it has
// not; the newest stays whole, since it is read most. Nothing of what was sealed changes. It does
// nothing where there are not three.
func (s Results) Thin(ctx context.Context, run model.Run, newest int64) error {
	rows, err := s.Read.QueryContext(ctx, `select k.number, k.run, k.manifest from result k join run u on u.number = k.run
		join control_run c on c.number = u.control_run where c.control = (select control from control_run where number = ?)
		and k.report = ? and k.made = '' and k.number < ? order by k.number desc limit 2`, run.ControlRun, run.Report, newest)
	before, err := db.Collect(rows, err, func(r *sql.Rows) (x model.Result, err error) {
		var manifest string
		if err = r.Scan(&x.Number, &x.Run, &manifest); err == nil {
			err = json.Unmarshal([]byte(manifest), &x.Manifest)
		}
		return x, err
	})
	if err != nil || len(before) < 2 {
		return err
	}
	later, earlier := before[0], before[1]
	if later.Manifest.Form < seal.StreamForm || earlier.Manifest.Form < seal.StreamForm {
		return nil
	}
	for _, k := range later.Manifest.Datasets {
		for place := range k.Batches {
			if err := s.thinBatch(ctx, later, earlier.Run, k.Dataset, place); err != nil {
				return fmt.Errorf("thinning R-%06d: %w", later.Number, err)
			}
		}
	}
	return nil
}

// thinBatch keeps the columns of a batch over those of an earlier run, where that is less.
func (s Results) thinBatch(ctx context.Context, r model.Result, earlier int64, dataset string, place int) error {
	type thinned struct {
		col  int
		data []byte
	}
	var less []thinned
	saved := 0
	for col := 0; ; col++ {
		c := cell{r.Run, dataset, place, col}
		blob, base, err := s.kept(ctx, c)
		if errors.Is(err, model.ErrNotFound) {
			break // there are no more columns
		}
		if err != nil {
			return err
		}
		c.run = earlier
		over, err := s.stream(ctx, c)
		if errors.Is(err, model.ErrNotFound) {
			continue // it had fewer batches, or columns
		}
		if err != nil {
			return err
		}
		if base != 0 || len(over) > mostBase {
			continue
		}
		stream, err := unsqueeze(blob)
		if err != nil {
			return err
		}
		data, err := squeezeOver(stream, over)
		if err != nil {
			return err
		}
		if float64(len(data)) < leastSaved*float64(len(blob)) {
			less, saved = append(less, thinned{col, data}), saved+len(blob)-len(data)
		}
	}
	if len(less) == 0 {
		return nil
	}
	return db.Explain(s.Change(ctx, func(tx *sql.Tx) error {
		for _, t := range less {
			if _, err := tx.ExecContext(ctx, `update cells set data = ?, base = ? where run = ? and dataset = ? and place = ?
				and col = ? and base is null and exists (select 1 from result where run = ?2)`, t.data, earlier, r.Run, dataset,
				place, t.col); err != nil {
				return err
			}
		}
		_, err := tx.ExecContext(ctx, `update result set bytes = bytes - ? where number = ?`, saved, r.Number)
		return err
	}))
}

// unhook keeps what is compressed over the columns of a run over what these are compressed over
// themselves, or by itself, before they are deleted.
func (s Results) unhook(ctx context.Context, tx *sql.Tx, run int64) error {
	rows, err := tx.QueryContext(ctx, `select run, dataset, place, col from cells where base = ?`, run)
	over, err := db.Collect(rows, err, func(r *sql.Rows) (c cell, err error) {
		return c, r.Scan(&c.run, &c.dataset, &c.place, &c.col)
	})
	if err != nil {
		return err
	}
	for _, c := range over {
		stream, err := s.stream(ctx, c)
		if err != nil {
			return err
		}
		below := c
		below.run = run
		_, base, err := s.kept(ctx, below)
		if err != nil {
			return err
		}
		data := squeeze(stream)
		if base != 0 {
			below.run = base
			under, err := s.stream(ctx, below)
			if err != nil {
				return err
			}
			if data, err = squeezeOver(stream, under); err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `update cells set data = ?, base = nullif(?, 0) where run = ? and dataset = ?
			and place = ? and col = ?`, data, base, c.run, c.dataset, c.place, c.col); err != nil {
			return err
		}
	}
	return nil
}
