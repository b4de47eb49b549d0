package catalog

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"

	"mantilla/model"
	"mantilla/store/db"
)

// Desks are the tiles of people and groups.
type Desks struct{ *db.DB }

// Desk returns a desk; one that nobody made yet is empty.
func (s Desks) Desk(ctx context.Context, kind, owner string) (model.Desk, error) {
	d := model.Desk{Kind: kind, Owner: owner, Tiles: json.RawMessage("[]")}
	var tiles string
	err := s.Read.QueryRowContext(ctx, `select tiles, revision from desk where kind = ? and owner = ?`, kind,
		owner).Scan(&tiles, &d.Revision)
	if errors.Is(err, sql.ErrNoRows) {
		return d, nil
	}
	d.Tiles = json.RawMessage(tiles)
	return d, db.Explain(err)
}

// PutDesk keeps a desk, unless it was changed since the revision seen; with what was taken
// off it and what came back.
func (s Desks) PutDesk(ctx context.Context, d model.DeskChange) error {
	return s.Change(ctx, func(tx *sql.Tx) error {
		query, args := `update desk set tiles = ?, revision = revision + 1 where kind = ? and owner = ? and revision = ?`,
			[]any{string(d.Tiles), d.Kind, d.Owner, d.Revision}
		if d.Revision == 0 {
			query, args = `insert into desk (tiles, kind, owner) values (?, ?, ?) on conflict do nothing`, args[:3]
		}
		done, err := tx.ExecContext(ctx, query, args...)
		if err := db.OnlyIf(done, db.Explain(err), model.ErrStale); err != nil {
			return err
		}
		for _, t := range d.Thrown {
			if _, err := tx.ExecContext(ctx, `insert into thrown_tile (kind, owner, tile, title, at) values (?, ?, ?, ?, ?)`,
				d.Kind, d.Owner, string(t.Tile), t.Title, db.Stamp(t.At)); err != nil {
				return db.Explain(err)
			}
		}
		if d.Returned == 0 {
			return nil
		}
		done, err = tx.ExecContext(ctx, `delete from thrown_tile where number = ?`, d.Returned)
		return db.OnlyIf(done, db.Explain(err), model.ErrNotFound)
	})
}

// ThrownTile returns a tile that was taken off a desk.
func (s Desks) ThrownTile(ctx context.Context, number int64) (t model.Tile, err error) {
	var tile string
	var at sql.NullString
	err = s.Read.QueryRowContext(ctx, `select number, kind, owner, tile, title, at from thrown_tile where number = ?`,
		number).Scan(&t.Number, &t.Kind, &t.Owner, &tile, &t.Title, &at)
	t.Tile, t.At = json.RawMessage(tile), db.Unstamp(at)
	return t, db.Explain(err)
}

// LatestOf returns the numbers of the newest results of a step of a control, of
// a part by its key or name, that are in sight.
func (s Desks) LatestOf(ctx context.Context, sees model.Sight, control string, step int, part string,
	limit int) ([]int64, error) {
	test, args := db.SeenWhere(sees, "k")
	rows, err := s.Read.QueryContext(ctx, `select k.number from control_run c join run r on r.control_run = c.number
		join result k on k.run = r.number and k.trashed_at is null
		where c.control = ? and r.step = ? and (? in (c.part, c.part_name)) and `+test+` order by k.number desc
			limit ?`, append(append([]any{control, step, part}, args...), limit)...)
	return db.Collect(rows, err, func(r *sql.Rows) (n int64, err error) { return n, r.Scan(&n) })
}
