// Package naming knows where the records name accounts, groups, addresses, sources and shared
// parameters, and gives them other names there.
package naming

import (
	"context"
	"database/sql"
	"fmt"
	"strings"

	"mantilla/model"
	"mantilla/store/db"
)

// place is a column that names things of a kind, where more is needed to tell only in rows
// that meet a condition.
type place struct{ table, column, where string }

// spoken are the places that name things of a kind, that which it is kept under first. What
// is sealed, and who did what to a report or an address, keeps the name of then.
var spoken = map[string][]place{
	model.KindAccount: {
		{"person", "name", ""}, {"person", "owner", ""}, {"group_member", "person", ""}, {"opening", "name",
			"kind = 'person'"},
		{"session", "person", ""}, {"passkey", "person", ""}, {"criteria", "owner", ""}, {"usual", "person", ""}, {"control",
			"owner", ""},
		{"control", "changed_by", ""}, {"control_past", "changed_by", ""},
		{"control_run", "asked_by", ""}, {"run", "asked_by", ""}, {"result", "asked_by", ""}, {"kept_view", "owner", ""},
		{"address", "person", ""}, {"address", "owner", ""}, {"parcel", "owner", ""}, {"feed", "person", ""},
		{"desk", "owner", "kind = 'person'"}, {"thrown_tile", "owner", "kind = 'person'"}, {"draft", "owner", ""},
		{"notice", "person", ""},
		{"favourite", "person", ""}, {"feedback", "person", ""}, {"report", "owner", ""}, {"request", "person", ""},
		{"visit", "person", ""}, {"term", "owner", ""},
		{"result_note", "person", ""}, {"statement", "read_by", ""}, {"entry", "person", ""},
		{"quota", "id", "kind = 'person'"}, {"opening_wish", "by", ""}, {"keep_rule", "by", ""}, {"follower", "person", ""},
		{"thrown_thing", "by", ""}, {"thrown_cell", "value", "col in ('person', 'owner', 'by', 'changed_by')"},
	},
	model.KindGroup: {
		{"people_group", "id", ""}, {"group_member", "grp", ""}, {"opening", "name", "kind = 'group'"},
		{"criteria", "shared", ""}, {"control", "shared", ""}, {"control_past", "shared", ""},
		{"desk", "owner", "kind = 'group'"},
		{"thrown_tile", "owner", "kind = 'group'"}, {"quota", "id", "kind = 'group'"},
	},
	model.KindAddress: {{"address", "nickname", ""}, {"address_change", "nickname", ""}},
}

// Rename gives a thing of a kind another name wherever the records name it; all or nothing.
// Whoever calls it has seen that the name is not taken.
func Rename(ctx context.Context, records *db.DB, kind, from, to string) error {
	places := spoken[kind]
	if places == nil {
		return fmt.Errorf("nothing is known of where the records name a %s", kind)
	}
	return db.Explain(records.Change(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(ctx, `pragma defer_foreign_keys = on`); err != nil {
			return err
		}
		for _, p := range places {
			if err := p.rename(ctx, tx, from, to); err != nil {
				return fmt.Errorf("renaming in %s: %w", p.table, err)
			}
		}
		if err := renameRetired(ctx, tx, kind, from, to); err != nil {
			return err
		}
		switch kind {
		case model.KindAddress:
			return renameRecipients(ctx, tx, from, to)
		case model.KindGroup:
			return renameTesters(ctx, tx, "group", from, to)
		}
		if _, err := tx.ExecContext(ctx, `update mark set whose = 'person ' || ?2 where whose = 'person ' || ?1`, from,
			to); err != nil {
			return fmt.Errorf("renaming in mark: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `update draft set writers = (select json_group_array(
			case value when ?1 then ?2 else value end) from json_each(draft.writers))`, from, to); err != nil {
			return fmt.Errorf("renaming who writes drafts: %w", err)
		}
		return renameTesters(ctx, tx, "person", from, to)
	}))
}

func (p place) rename(ctx context.Context, tx *sql.Tx, from, to string) error {
	text := fmt.Sprintf(`update %s set %s = ? where %s = ?`, p.table, p.column, p.column)
	if p.where != "" {
		text += " and " + p.where
	}
	_, err := tx.ExecContext(ctx, text, to, from)
	return err
}

func renameRetired(ctx context.Context, tx *sql.Tx, kind, from, to string) error {
	for _, column := range []string{"id", "successor"} {
		if err := (place{"retired", column, "kind = '" + kind + "'"}).rename(ctx, tx, from, to); err != nil {
			return fmt.Errorf("renaming in retired: %w", err)
		}
	}
	return nil
}

// renameTesters renames people or groups to whom drafts are open, and who sign results off.
func renameTesters(ctx context.Context, tx *sql.Tx, kind, from, to string) error {
	for table, column := range map[string]string{"draft": "testers", "report": "signers"} {
		_, err := tx.ExecContext(ctx, strings.NewReplacer("TABLE", table, "COLUMN", column).Replace(`update TABLE
			set COLUMN = (select json_group_array(json(case when value ->> 'Kind' = ?1 and value ->> 'Name' = ?2
			then json_set(value, '$.Name', ?3) else value end)) from json_each(TABLE.COLUMN))
			where exists (select 1 from json_each(TABLE.COLUMN) where value ->> 'Kind' = ?1 and value ->> 'Name' = ?2)`),
			kind, from, to)
		if err != nil {
			return fmt.Errorf("renaming in %s of %s: %w", column, table, err)
		}
	}
	return nil
}

// recipients are where the body of a run control names addresses.
var recipients = []string{"$.send.to", "$.send.copy", "$.send.blind"}

// renameRecipients renames an address in run controls: among those that are sent everything,
// and those that are sent parts.
func renameRecipients(ctx context.Context, tx *sql.Tx, from, to string) error {
	if err := renameRecipientsIn(ctx, tx, "control_past", "", from, to); err != nil {
		return err
	}
	return renameRecipientsIn(ctx, tx, "control", "revision = revision + 1,", from, to)
}

// renameRecipientsIn renames an address in the bodies of a table, setting something else beside.
func renameRecipientsIn(ctx context.Context, tx *sql.Tx, table, beside, from, to string) error {
	const again = `(select json_group_array(case value when ?1 then ?2 else value end) from json_each(`
	for _, path := range recipients {
		statement := strings.NewReplacer("TABLE", table, "BESIDE", beside, "PATH", path).Replace(`update TABLE set BESIDE
			body = json_set(body, 'PATH', json(` + again + `TABLE.body, 'PATH'))))
			where json_valid(body) and exists (select 1 from json_each(TABLE.body, 'PATH') where value = ?1)`)
		if _, err := tx.ExecContext(ctx, statement, from, to); err != nil {
			return fmt.Errorf("renaming whom run controls send to: %w", err)
		}
	}
	statement := strings.NewReplacer("TABLE", table, "BESIDE", beside).Replace(`update TABLE set BESIDE
		body = json_set(body, '$.split.people', json((select json_group_object(part.key, json(` + again + `part.value))))
			from json_each(TABLE.body, '$.split.people') part)))
		where json_valid(body) and exists (select 1 from json_each(TABLE.body, '$.split.people') part,
			json_each(part.value) who where who.value = ?1)`)
	if _, err := tx.ExecContext(ctx, statement, from, to); err != nil {
		return fmt.Errorf("renaming whom run controls send parts to: %w", err)
	}
	return nil
}
