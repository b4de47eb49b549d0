package store

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"hash"
	"strings"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/store/cache"
)

// Manifest tells how a result was made.
type Manifest struct {
	Report      string            `json:"report"`
	Version     string            `json:"version"`
	Typed       map[string]string `json:"typed"`
	Facts       []Fact            `json:"facts"`
	AskedBy     string            `json:"asked_by"`
	StartedAt   time.Time         `json:"started_at"`
	Duration    time.Duration     `json:"duration"` // nanoseconds
	Source      string            `json:"source"`
	Fingerprint string            `json:"fingerprint"`
	Reach       report.Reach      `json:"reach"` // what the rows are cut to
	Datasets    []Kept            `json:"datasets"`
	Seal        string            `json:"seal"` // see [Store.CheckSeal], in hex

	// What the service was set to: what the cells mean depends on it. Results of
	// the first form do not have it, and their seals cover the batches only.
	Form        int        `json:"form,omitempty"` // 0 the first
	Title       string     `json:"title,omitempty"`
	Sentence    string     `json:"sentence,omitempty"`
	Currency    string     `json:"currency,omitempty"` // of money whose column names none
	Zone        string     `json:"zone,omitempty"`
	FiscalStart time.Month `json:"fiscal_start,omitempty"`

	// Settled is the SHA-256, in hex, of the settled definition that is kept with the
	// result; see [Result.Settled].
	Settled string `json:"settled,omitempty"`
}

// The forms of manifests. The first seals the batches only; the second all of the
// manifest; the third, which is made now, the settled definition too.
const (
	wholeForm   = 2
	presentForm = 3
)

// sealed returns the seal of a manifest over batches whose own seal is given.
func (m Manifest) sealed(batches []byte) (string, error) {
	if m.Form < wholeForm {
		return hex.EncodeToString(batches), nil
	}
	m.Seal = ""
	text, err := json.Marshal(m)
	if err != nil {
		return "", err
	}
	sum := sha256.Sum256(append(batches, text...))
	return hex.EncodeToString(sum[:]), nil
}

// ErrBroken says that a result is not what was sealed.
var ErrBroken = errors.New("is not as it was sealed: its record or its rows were changed; take it from a back-up, or run the report again")

// Kept tells how many rows and batches of a dataset were kept.
type Kept struct {
	Dataset string   `json:"dataset"`
	Rows    int64    `json:"rows"`
	Batches int      `json:"batches"`
	Digests []string `json:"digests,omitempty"` // SHA-256 of each batch, in hex; not of the first form
	Reason  string   `json:"reason,omitempty"`  // why the dataset could not be read; "" where it could
}

// Result is a kept result without its rows.
type Result struct {
	Number   int64
	Run      int64
	Report   string
	Title    string
	Sentence string
	KeptAt   time.Time
	Rows     int64
	Bytes    int64
	KeptTill time.Time // when it is deleted; zero for never
	Manifest Manifest
	Settled  []byte // the settled definition, only of [Store.Result]; none of the earlier forms
}

// Capture keeps the rows of a run while they come in.
type Capture struct {
	store *Store
	run   int64
	seal  hash.Hash
	kept  []Kept
	rows  int64
	bytes int64
}

// Capture begins to keep the rows of a run.
func (s *Store) Capture(run int64) *Capture {
	return &Capture{store: s, run: run, seal: sha256.New()}
}

// Dataset begins the next dataset; one that gets no batch is kept as empty.
func (c *Capture) Dataset(id string) { c.kept = append(c.kept, Kept{Dataset: id}) }

// Add keeps one batch of the dataset under way.
func (c *Capture) Add(ctx context.Context, record arrow.RecordBatch) error {
	defer record.Release()
	k := &c.kept[len(c.kept)-1]
	blob, err := pack(record)
	if err != nil {
		return err
	}
	digest := sha256.Sum256(blob)
	err = c.store.lightly(ctx, `insert into batch (run, dataset, place, rows, digest, data) values (?, ?, ?, ?, ?, ?)`,
		c.run, k.Dataset, k.Batches, record.NumRows(), hex.EncodeToString(digest[:]), blob)
	if err != nil {
		return fmt.Errorf("keeping a batch: %w", explain(err))
	}
	sealBatch(c.seal, k.Dataset, k.Batches, record.NumRows(), digest[:])
	k.Batches++
	k.Digests = append(k.Digests, hex.EncodeToString(digest[:]))
	k.Rows += record.NumRows()
	c.rows, c.bytes = c.rows+record.NumRows(), c.bytes+int64(len(blob))
	return nil
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

// sealBatch adds one batch to a seal: its place and the SHA-256 of its bytes.
func sealBatch(seal hash.Hash, dataset string, place int, rows int64, digest []byte) {
	fmt.Fprintf(seal, "%s %d %d %x\n", dataset, place, rows, digest)
}

// Seal ends the run as done and makes what was kept its result, in one
// transaction. It returns the result's number. Settled is the settled definition;
// it and the marks that the run leaves are kept with it.
func (c *Capture) Seal(ctx context.Context, run Run, m Manifest, settled []byte, marks []Mark, now time.Time) (number int64, err error) {
	m.Datasets, m.Form, m.Settled = c.kept, presentForm, digestOf(settled)
	m.StartedAt = m.StartedAt.UTC().Truncate(time.Millisecond) // as it is read back
	if m.Seal, err = m.sealed(c.seal.Sum(nil)); err != nil {
		return 0, err
	}
	manifest, err := json.Marshal(m)
	if err != nil {
		return 0, err
	}
	err = c.store.change(ctx, func(tx *sql.Tx) error {
		done, err := tx.ExecContext(ctx, `update run set state = 'done', ended_at = ?, rows = ?, note = ? where number = ? and state = 'running'`, stamp(now), c.rows, run.Note, c.run)
		if err != nil {
			return err
		}
		if n, err := done.RowsAffected(); err != nil || n != 1 {
			return fmt.Errorf("run %d is no longer running", c.run)
		}
		if err := putMarks(ctx, tx, marks); err != nil {
			return err
		}
		units, _ := json.Marshal(append([]string{}, run.Reach.Units...))
		var till sql.NullString
		if run.Terms.Keep > 0 {
			till = sql.NullString{String: stamp(now.AddDate(0, 0, run.Terms.Keep)), Valid: true}
		}
		return tx.QueryRowContext(ctx, `insert into result (run, report, title, sentence, kept_at, rows, bytes, seal, manifest, limited, units, asked_by, facts, fingerprint, keep_until, settled)
			values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?) returning number`,
			c.run, run.Report, run.Title, run.Sentence, stamp(now), c.rows, c.bytes, m.Seal, string(manifest),
			run.Reach.Limited, string(units), run.AskedBy, FactsDigest(run), m.Fingerprint, till, settled).Scan(&number)
	})
	if err != nil {
		return 0, fmt.Errorf("sealing the result: %w", err)
	}
	return number, nil
}

// FactsDigest identifies what a run is of: report, version, resolved values and
// reach. Runs of the same digest give the same rows while the source is the same.
func FactsDigest(run Run) string {
	resolved := map[string]string{}
	for _, f := range run.Facts {
		resolved[f.Parameter] = f.Resolved
	}
	text, _ := json.Marshal([]any{run.Report, run.Version, resolved, run.Reach.Limited, append([]string{}, run.Reach.Units...)})
	sum := sha256.Sum256(text)
	return hex.EncodeToString(sum[:])
}

// SameResult returns the newest result of the digest and fingerprint.
func (s *Store) SameResult(ctx context.Context, digest, fingerprint string) (Result, error) {
	return scanResult(s.read.QueryRowContext(ctx, `select `+resultColumns+` where k.facts = ? and k.fingerprint = ? order by k.number desc limit 1`, digest, fingerprint))
}

// DeleteExpired deletes the results that were to be kept until now at most,
// and returns their numbers.
func (s *Store) DeleteExpired(ctx context.Context, now time.Time) (numbers []int64, err error) {
	rows, err := s.read.QueryContext(ctx, `select number from result where keep_until <= ?`, stamp(now))
	numbers, err = collect(rows, err, func(r *sql.Rows) (n int64, err error) { return n, r.Scan(&n) })
	for _, n := range numbers {
		if err == nil {
			err = s.DeleteResult(ctx, n)
		}
	}
	return numbers, err
}

const resultColumns = `k.number, k.run, k.report, k.title, k.sentence, k.kept_at, k.rows, k.bytes, k.manifest, k.keep_until from result k`

func scanResult(row interface{ Scan(...any) error }) (r Result, err error) {
	var at, till sql.NullString
	var manifest string
	if err = row.Scan(&r.Number, &r.Run, &r.Report, &r.Title, &r.Sentence, &at, &r.Rows, &r.Bytes, &manifest, &till); err != nil {
		return r, explain(err)
	}
	r.KeptAt, r.KeptTill = unstamp(at), unstamp(till)
	if err := json.Unmarshal([]byte(manifest), &r.Manifest); err != nil {
		return r, fmt.Errorf("result R-%06d %w", r.Number, ErrBroken)
	}
	if r.Manifest.Form > 0 {
		r.Title, r.Sentence = r.Manifest.Title, r.Manifest.Sentence
	}
	return r, nil
}

// digestOf is the SHA-256 of what is kept, in hex.
func digestOf(kept []byte) string {
	sum := sha256.Sum256(kept)
	return hex.EncodeToString(sum[:])
}

// Result returns one result with its settled definition, checked against its seal:
// it fails with [ErrBroken] where it was changed.
func (s *Store) Result(ctx context.Context, number int64) (Result, error) {
	r, err := scanResult(s.read.QueryRowContext(ctx, `select `+resultColumns+` where k.number = ?`, number))
	if err != nil || r.Manifest.Form < wholeForm {
		return r, err
	}
	if r.Settled, err = s.settledOf(ctx, r); err != nil {
		return r, err
	}
	batches := sha256.New()
	for _, k := range r.Manifest.Datasets {
		if err := k.reseal(batches); err != nil {
			return r, fmt.Errorf("result R-%06d %w", number, err)
		}
	}
	if seal, err := r.Manifest.sealed(batches.Sum(nil)); err != nil || seal != r.Manifest.Seal || r.Report != r.Manifest.Report {
		return r, fmt.Errorf("result R-%06d %w", number, ErrBroken)
	}
	return r, nil
}

// settledOf reads the settled definition of a result.
func (s *Store) settledOf(ctx context.Context, r Result) (settled []byte, err error) {
	if r.Manifest.Form < presentForm {
		return nil, nil
	}
	if err := s.read.QueryRowContext(ctx, `select settled from result where number = ?`, r.Number).Scan(&settled); err != nil {
		return nil, explain(err)
	}
	if digestOf(settled) != r.Manifest.Settled {
		return nil, fmt.Errorf("result R-%06d %w", r.Number, ErrBroken)
	}
	return settled, nil
}

// reseal adds the batches of a dataset to a seal by their kept digests.
func (k Kept) reseal(seal hash.Hash) error {
	if len(k.Digests) != k.Batches {
		return ErrBroken
	}
	left := k.Rows
	for place, text := range k.Digests {
		digest, err := hex.DecodeString(text)
		if err != nil {
			return ErrBroken
		}
		rows := min(left, frame.BatchRows)
		left -= rows
		sealBatch(seal, k.Dataset, place, rows, digest)
	}
	return nil
}

// ResultWish says which results are wanted; empty fields mean all.
type ResultWish struct {
	Sees   Sight
	Report string
	Search string // in title and sentence
	Before int64  // only results with a smaller number
	Limit  int
}

// Results returns results, the newest first.
func (s *Store) Results(ctx context.Context, w ResultWish) ([]Result, error) {
	test, args := w.Sees.test("k")
	tests := []string{test}
	if w.Report != "" {
		tests, args = append(tests, "k.report = ?"), append(args, w.Report)
	}
	if w.Before > 0 {
		tests, args = append(tests, "k.number < ?"), append(args, w.Before)
	}
	for _, word := range strings.Fields(strings.ToLower(w.Search)) {
		tests, args = append(tests, "instr(lower(k.report || ' ' || k.title || ' ' || k.sentence || ' ' || printf('R-%06d', k.number)), ?) > 0"), append(args, word)
	}
	rows, err := s.read.QueryContext(ctx, `select `+resultColumns+` where `+strings.Join(tests, " and ")+` order by k.number desc limit ?`, append(args, w.Limit)...)
	return collect(rows, err, func(rows *sql.Rows) (Result, error) { return scanResult(rows) })
}

// DeleteResult deletes a result with its rows; its run remains.
func (s *Store) DeleteResult(ctx context.Context, number int64) error {
	var run int64
	err := s.change(ctx, func(tx *sql.Tx) error {
		if err := tx.QueryRowContext(ctx, `delete from result where number = ? returning run`, number).Scan(&run); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `delete from batch where run = ?`, run)
		return err
	})
	s.batches.Forget(fmt.Sprintf("%d/", run))
	return err
}

// Frame returns the kept rows of a dataset. Batches are read and decoded when
// they are needed and kept in memory within the store's budget.
func (s *Store) Frame(ctx context.Context, r Result, dataset string, schema frame.Schema) (*frame.Frame, error) {
	for _, k := range r.Manifest.Datasets {
		if k.Dataset != dataset {
			continue
		}
		return frame.Lazy(schema, int(k.Rows), frame.BatchRows, func(place int) (*frame.Batch, error) {
			key := fmt.Sprintf("%d/%s/%d", r.Run, dataset, place)
			b, err := s.batches.Get(key, func() (cache.Sized, error) { return s.batch(context.WithoutCancel(ctx), r, k, place, schema) })
			if err != nil {
				return nil, err
			}
			return b.(*frame.Batch), nil
		}), nil
	}
	return nil, fmt.Errorf("result %d has no dataset %s: %w", r.Number, dataset, ErrNotFound)
}

// batch reads one batch, which must be the one that was sealed.
func (s *Store) batch(ctx context.Context, r Result, k Kept, place int, schema frame.Schema) (*frame.Batch, error) {
	var blob []byte
	var digest string
	err := s.read.QueryRowContext(ctx, `select data, digest from batch where run = ? and dataset = ? and place = ?`, r.Run, k.Dataset, place).Scan(&blob, &digest)
	if err != nil {
		return nil, fmt.Errorf("reading batch %d of %s: %w", place, k.Dataset, explain(err))
	}
	if place < len(k.Digests) {
		digest = k.Digests[place]
	}
	if sum := sha256.Sum256(blob); hex.EncodeToString(sum[:]) != digest {
		return nil, fmt.Errorf("batch %d of %s of the result R-%06d %w", place, k.Dataset, r.Number, ErrBroken)
	}
	record, err := unpack(blob)
	if err != nil {
		return nil, fmt.Errorf("batch %d of %s: %w", place, k.Dataset, err)
	}
	return frame.NewBatch(schema, record)
}

// CheckSeal reads every batch of a result again and tells whether they and the
// manifest are the ones that were sealed. The seal of the present form is the
// SHA-256 over that of the batches, each by place, rows and digest, and the
// manifest as JSON without its seal.
func (s *Store) CheckSeal(ctx context.Context, r Result) (bool, error) {
	seal := sha256.New()
	for _, k := range r.Manifest.Datasets {
		rows, err := s.read.QueryContext(ctx, `select place, rows, data from batch where run = ? and dataset = ? order by place`, r.Run, k.Dataset)
		_, err = collect(rows, err, func(rows *sql.Rows) (struct{}, error) {
			var place int
			var n int64
			var blob []byte
			if err := rows.Scan(&place, &n, &blob); err != nil {
				return struct{}{}, err
			}
			digest := sha256.Sum256(blob)
			sealBatch(seal, k.Dataset, place, n, digest[:])
			return struct{}{}, nil
		})
		if err != nil {
			return false, err
		}
	}
	if _, err := s.settledOf(ctx, r); err != nil {
		if errors.Is(err, ErrBroken) {
			return false, nil
		}
		return false, err
	}
	whole, err := r.Manifest.sealed(seal.Sum(nil))
	return whole == r.Manifest.Seal, err
}

// Warm returns how many bytes of decoded rows are in memory.
func (s *Store) Warm() int { return s.batches.Used() }
