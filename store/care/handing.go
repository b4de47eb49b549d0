package care

import (
	"context"
	"database/sql"
	"fmt"

	"mantilla/store/db"
)

// owned is what people keep, by the word for it.
var owned = []struct{ what, change string }{
	{"criteria", `update criteria set owner = ?2, name = case when exists (select 1 from criteria o where o.owner = ?2
		and o.report = criteria.report and o.name = criteria.name and o.deleted_at is null)
		then name || ' (' || ?1 || ')' else name end, revision = revision + 1 where owner = ?1`},
	{"kept views", `update kept_view set owner = ?2, name = case when exists (select 1 from kept_view o where o.owner = ?2
		and o.report = kept_view.report and o.name = kept_view.name and o.deleted_at is null) then name || ' (' || ?1 ||
			')' else name end,
		revision = revision + 1 where owner = ?1`},
	{"run controls", `update control set owner = ?2, revision = revision + 1 where owner = ?1`},
	{"drafts", `update draft set owner = ?2, revision = revision + 1 where owner = ?1`},
	{"reports", `update report set owner = ?2 where owner = ?1`},
	{"terms", `update term set owner = ?2, revision = revision + 1 where owner = ?1`},
	{"addresses", `update address set owner = ?2, revision = revision + 1 where owner = ?1`},
}

// HandOver gives what a person keeps to another, all or nothing, and tells how much of what
// it was. The tiles of the desk are added to the other's own.
func (s Care) HandOver(ctx context.Context, from, to string) (moved []string, err error) {
	err = s.Change(ctx, func(tx *sql.Tx) error {
		for _, o := range owned {
			done, err := tx.ExecContext(ctx, o.change, from, to)
			if err != nil {
				return fmt.Errorf("handing over %s: %w", o.what, err)
			}
			if n, err := done.RowsAffected(); err == nil && n > 0 {
				moved = append(moved, fmt.Sprintf("%s: %d", o.what, n))
			}
		}
		n, err := moveTiles(ctx, tx, from, to)
		if n > 0 {
			moved = append(moved, fmt.Sprintf("tiles: %d", n))
		}
		return err
	})
	return moved, db.Explain(err)
}

// moveTiles puts the tiles of one desk after those of another.
func moveTiles(ctx context.Context, tx *sql.Tx, from, to string) (tiles int, err error) {
	err = tx.QueryRowContext(ctx, `select coalesce(sum(json_array_length(tiles)), 0) from desk
		where kind = 'person' and owner = ? and json_valid(tiles)`, from).Scan(&tiles)
	if err != nil || tiles == 0 {
		return 0, err
	}
	if _, err := tx.ExecContext(ctx, `insert into desk (kind, owner, tiles) values ('person', ?2,
		(select tiles from desk where kind = 'person' and owner = ?1))
		on conflict (kind, owner) do update set revision = revision + 1,
			tiles = (select json_group_array(json(value)) from (
			select value from json_each(desk.tiles) union all
			select value from json_each((select tiles from desk where kind = 'person' and owner = ?1))))`,
		from, to); err != nil {
		return 0, fmt.Errorf("handing over the desk: %w", err)
	}
	_, err = tx.ExecContext(ctx, `delete from desk where kind = 'person' and owner = ?`, from)
	return tiles, err
}
