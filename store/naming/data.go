package naming

import (
	"context"
	"database/sql"
	"fmt"
	"slices"

	"mantilla/model"
	"mantilla/store/db"
)

// secret are columns that are nobody's to read, and those that hold rows of results.
var secret = []string{"password", "digest", "sealed", "codes", "subject", "data", "payload", "settled", "plan"}

// Data is what the records keep of an account: the rows that name it, by their tables, a value for each
// column.
func Data(ctx context.Context, read *sql.DB, name string) (map[string][]map[string]any, error) {
	out := map[string][]map[string]any{}
	for _, p := range append(slices.Clone(spoken[model.KindAccount]), place{"audit", "person", ""}) {
		text := fmt.Sprintf(`select * from %s where %s = ?`, p.table, p.column)
		if p.where != "" {
			text += " and " + p.where
		}
		rows, err := read.QueryContext(ctx, text, name)
		found, err := db.Collect(rows, err, told)
		if err != nil {
			return nil, fmt.Errorf("what %s has: %w", p.table, err)
		}
		if len(found) > 0 {
			out[p.table] = append(out[p.table], found...)
		}
	}
	return out, nil
}

// told is a row with its columns by their names, less those that are secret.
func told(r *sql.Rows) (map[string]any, error) {
	columns, err := r.Columns()
	if err != nil {
		return nil, err
	}
	values := make([]any, len(columns))
	into := make([]any, len(columns))
	for i := range values {
		into[i] = &values[i]
	}
	if err := r.Scan(into...); err != nil {
		return nil, err
	}
	row := map[string]any{}
	for i, c := range columns {
		if _, bytes := values[i].([]byte); !bytes && !slices.Contains(secret, c) {
			row[c] = values[i]
		}
	}
	return row, nil
}
