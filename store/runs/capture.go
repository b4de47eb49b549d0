package runs

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/checks"
	"mantilla/core/frame"
	"mantilla/model"
	"mantilla/seal"
	"mantilla/store/catalog"
	"mantilla/store/db"
	"mantilla/store/results"
)

// Capture keeps the rows of a run while they come in.
type Capture struct {
	store *db.DB
	run   int64
	seal  hash.Hash
	kept  []model.Kept
	rows  int64
	bytes int64
}

// Capture begins to keep the rows of a run.
func (s Runs) Capture(run int64) *Capture {
	return &Capture{store: s.DB, run: run, seal: sha256.New()}
}

// Thin keeps the result of a run control before the newest as what it has that the one before it
// has not; see [results.Results.Thin].
func (s Runs) Thin(ctx context.Context, run model.Run, newest int64) error {
	return results.Results{DB: s.DB}.Thin(ctx, run, newest)
}

// Dataset begins the next dataset; one that gets no batch is kept as empty.
func (c *Capture) Dataset(id string) { c.kept = append(c.kept, model.Kept{Dataset: id}) }

// Add keeps one batch of the dataset under way, column by column.
func (c *Capture) Add(ctx context.Context, record arrow.RecordBatch) error {
	defer record.Release()
	k := &c.kept[len(c.kept)-1]
	packed, err := results.PackColumns(record)
	if err != nil {
		return err
	}
	digest, size := packed.Digest(), int64(len(packed.Known))
	err = c.store.Lightly(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx,
			`insert into batch (run, dataset, place, rows, digest, data) values (?, ?, ?, ?, ?, ?)`,
			c.run, k.Dataset, k.Batches, record.NumRows(), hex.EncodeToString(digest[:]), packed.Known); err != nil {
			return err
		}
		put, err := tx.PrepareContext(ctx, `insert into cells (run, dataset, place, col, data) values (?, ?, ?, ?, ?)`)
		if err != nil {
			return err
		}
		for col, blob := range packed.Cells {
			if _, err := put.ExecContext(ctx, c.run, k.Dataset, k.Batches, col, blob); err != nil {
				return err
			}
			size += int64(len(blob))
		}
		return nil
	})
	if err != nil {
		return fmt.Errorf("keeping a batch: %w", db.Explain(err))
	}
	seal.Add(c.seal, k.Dataset, k.Batches, record.NumRows(), digest[:])
	k.Batches++
	k.Lengths = append(k.Lengths, record.NumRows())
	k.Digests = append(k.Digests, hex.EncodeToString(digest[:]))
	k.Rows += record.NumRows()
	c.rows, c.bytes = c.rows+record.NumRows(), c.bytes+size
	return nil
}

// Stays notes that the rows of the dataset under way stay in the engine of their source.
func (c *Capture) Stays(stay model.Stay, rows int64) {
	k := &c.kept[len(c.kept)-1]
	k.Stay, k.Rows = &stay, rows
	c.rows, c.bytes = c.rows+rows, c.bytes+stay.Bytes
}

// Failed throws away what was kept of the dataset under way and notes why it
// could not be read.
func (c *Capture) Failed(ctx context.Context, reason string) error {
	k := &c.kept[len(c.kept)-1]
	if k.Batches > 0 {
		return fmt.Errorf("the dataset %s failed after rows of it were kept: %s", k.Dataset, reason)
	}
	k.Reason = reason
	return ctx.Err()
}

// Frame is the rows of a dataset that were kept so far. What is read of them is cached under
// a number that no result has.
func (c *Capture) Frame(ctx context.Context, dataset string, schema frame.Schema) (*frame.Frame, error) {
	for _, k := range c.kept {
		if k.Dataset == dataset && k.Reason != "" {
			return nil, fmt.Errorf("the dataset %s could not be read: %s", dataset, k.Reason)
		}
	}
	so := model.Result{Number: -c.run, Run: c.run, Manifest: model.Manifest{Datasets: c.kept, Form: seal.PresentForm}}
	return results.Results{DB: c.store}.Frame(ctx, so, dataset, schema)
}

// how a result was made of others; "" for one that was read.
func how(m *model.Making) string {
	if m == nil {
		return ""
	}
	return m.How
}

// Before is how the checks of the last result came out that was made by the same report
// with the same typed values and reach.
func (s Runs) Before(ctx context.Context, run model.Run) ([]checks.Outcome, error) {
	typed, err := json.Marshal(run.Typed)
	if err != nil {
		return nil, err
	}
	return s.checksOf(ctx, run, `u.typed = ?`, string(typed))
}

// Signed is how the checks of the last result of the report that was signed off came out,
// of the same reach.
func (s Runs) Signed(ctx context.Context, run model.Run) ([]checks.Outcome, error) {
	return s.checksOf(ctx, run, `r.signed`)
}

// checksOf is how the checks of the last result of a run's report and reach came out, of
// those that meet a test.
func (s Runs) checksOf(ctx context.Context, run model.Run, test string, args ...any) ([]checks.Outcome, error) {
	units, err := json.Marshal(append([]string{}, run.Reach.Units...))
	if err != nil {
		return nil, err
	}
	var text string
	err = s.Read.QueryRowContext(ctx, `select r.manifest from result r join run u on u.number = r.run
		where `+test+` and r.report = ? and r.made = '' and r.limited = ? and r.units = ? order by r.number desc limit 1`,
		append(args, run.Report, run.Reach.Limited, string(units))...).Scan(&text)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, db.Explain(err)
	}
	var m model.Manifest
	err = json.Unmarshal([]byte(text), &m)
	return m.Checks, err
}

// Seal ends the run as done and makes what was kept its result, in one
// transaction. It returns the result's number. Settled is the settled definition;
// it and the marks that the run leaves are kept with it.
func (c *Capture) Seal(ctx context.Context, run model.Run, m model.Manifest, settled []byte, marks []model.Mark,
	now time.Time) (number int64, err error) {
	m.Datasets, m.Form, m.Settled = c.kept, seal.PresentForm, seal.DigestOf(settled)
	m.StartedAt = m.StartedAt.UTC().Truncate(time.Millisecond) // as it is read back
	if m.Seal, err = seal.Over(m, c.seal.Sum(nil)); err != nil {
		return 0, err
	}
	manifest, err := json.Marshal(m)
	if err != nil {
		return 0, err
	}
	err = c.store.Change(ctx, func(tx *sql.Tx) error {
		ended, err := end(ctx, tx, ending{run: c.run, state: model.Done, note: run.Note, rows: c.rows,
			from: []model.State{model.Running}}, now)
		if err == nil && !ended {
			err = fmt.Errorf("run %d is no longer running", c.run)
		}
		if err != nil {
			return err
		}
		if err := catalog.PutMarks(ctx, tx, marks); err != nil {
			return err
		}
		units, _ := json.Marshal(append([]string{}, run.Reach.Units...))
		var till sql.NullString
		if run.Terms.Keep > 0 {
			till = sql.NullString{String: db.Stamp(now.AddDate(0, 0, run.Terms.Keep)), Valid: true}
		}
		return tx.QueryRowContext(ctx, `insert into result (run, report, title, sentence, kept_at, rows, bytes, seal,
			manifest, limited, units, asked_by, facts, fingerprint, keep_until, settled, made, beside)
			values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) returning number`,
			c.run, run.Report, run.Title, run.Sentence, db.Stamp(now), c.rows, c.bytes, m.Seal, string(manifest),
			run.Reach.Limited, string(units), run.AskedBy, model.FactsDigest(run), m.Fingerprint, till, settled,
			how(m.Made), m.Made.Beside(run.Report)).Scan(&number)
	})
	if err != nil {
		return 0, fmt.Errorf("sealing the result: %w", err)
	}
	return number, nil
}
