package sqlite

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/ncruces/go-sqlite3/driver"

	"mantilla/core/nearest"
	"mantilla/model"
	"mantilla/source"
	"mantilla/source/cells"
)

// How long looking at tables may take: to count the rows of all, and to read the
// first of one.
const (
	longestCount  = time.Second
	longestSample = 5 * time.Second
)

// looking opens the file for statements of ours alone, which ask about its schema;
// the connections of definitions may not.
func (f *File) looking(ctx context.Context) (*sql.DB, error) {
	if _, _, err := f.present(); err != nil {
		return nil, err
	}
	db, err := driver.Open((&url.URL{Scheme: "file", Opaque: (&url.URL{Path: f.path}).EscapedPath(),
		RawQuery: "mode=ro&_pragma=busy_timeout(3000)&_pragma=query_only(1)&_pragma=trusted_schema(0)"}).String())
	return db, f.explain(ctx, err)
}

// Tables are the tables and views of the file. Rows of views are not counted, nor
// those of tables when that takes longer than a second for all.
func (f *File) Tables(ctx context.Context) (tables []source.Table, err error) {
	db, err := f.looking(ctx)
	if err != nil {
		return nil, err
	}
	defer db.Close()
	if tables, err = namesOf(ctx, db); err != nil {
		return nil, f.explain(ctx, err)
	}
	counting, cancel := context.WithTimeout(ctx, longestCount)
	defer cancel()
	for i := range tables {
		t := &tables[i]
		if t.Columns, err = columnsOf(ctx, db, t.Name); err != nil {
			return nil, f.explain(ctx, err)
		}
		if t.View || counting.Err() != nil {
			continue
		}
		if err := db.QueryRowContext(counting, "select count(*) from "+dialect{}.Name(t.Name)).Scan(&t.Rows); err != nil {
			t.Rows = -1 // it took too long, or cannot be read, which reading it will tell
		}
	}
	return tables, nil
}

// namesOf are the tables and views without their columns.
func namesOf(ctx context.Context, db *sql.DB) (tables []source.Table, err error) {
	rows, err := db.QueryContext(ctx, `select name, type = 'view' from sqlite_schema
		where type in ('table', 'view') and name not like 'sqlite\_%' escape '\' order by name`)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		t := source.Table{Rows: -1}
		if err := rows.Scan(&t.Name, &t.View); err != nil {
			return nil, err
		}
		tables = append(tables, t)
	}
	return tables, rows.Err()
}

// columnsOf are the columns of a table; a view's are known by names and types alone.
func columnsOf(ctx context.Context, db *sql.DB, table string) (columns []source.TableColumn, err error) {
	rows, err := db.QueryContext(ctx, `select c.name, c.type, c.pk > 0, c."notnull" or c.pk > 0,
		coalesce((select f."table" from pragma_foreign_key_list(?1) f where f."from" = c.name), '')
		from pragma_table_info(?1) c order by c.cid`, table)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var c source.TableColumn
		if err := rows.Scan(&c.Name, &c.Type, &c.Key, &c.Required, &c.References); err != nil {
			return nil, err
		}
		columns = append(columns, c)
	}
	return columns, rows.Err()
}

// Sample reads the first rows of a table or view.
func (f *File) Sample(ctx context.Context, table string, most int) (s source.Sample, err error) {
	db, err := f.looking(ctx)
	if err != nil {
		return s, err
	}
	defer db.Close()
	tables, err := namesOf(ctx, db)
	if err != nil {
		return s, f.explain(ctx, err)
	}
	var names []string
	for _, t := range tables {
		names = append(names, t.Name)
	}
	if !slices.Contains(names, table) {
		return s, model.NoSuch("table", table, names)
	}
	ctx, cancel := context.WithTimeoutCause(ctx, longestSample,
		fmt.Errorf("reading the first rows of %s took longer than %s", table, longestSample))
	defer cancel()
	rows, err := db.QueryContext(ctx, "select * from "+dialect{}.Name(table)+" limit ?", most)
	if err != nil {
		return s, f.explain(ctx, err)
	}
	defer rows.Close()
	if s.Columns, err = rows.Columns(); err != nil {
		return s, err
	}
	for rows.Next() {
		row, to := make([]sql.RawBytes, len(s.Columns)), make([]any, len(s.Columns))
		for i := range row {
			to[i] = &row[i]
		}
		if err := rows.Scan(to...); err != nil {
			return s, f.explain(ctx, err)
		}
		s.Rows = append(s.Rows, texts(row))
	}
	err = rows.Err()
	if err != nil && ctx.Err() != nil {
		return s, context.Cause(ctx)
	}
	return s, f.explain(ctx, err)
}

// texts are cells as texts, cut where they are long.
func texts(row []sql.RawBytes) []*string {
	out := make([]*string, len(row))
	for i, c := range row {
		if c == nil {
			continue
		}
		out[i] = cells.Cut(c)
	}
	return out
}

var (
	said     = regexp.MustCompile(`(?s)SQL logic error: (.*)`)
	noSuch   = regexp.MustCompile(`no such (table|column): (.*)`)
	wordInIt = regexp.MustCompile(`\w+`)
)

// misnamed is what SQLite does not understand of a statement, without what stands
// around it; of a name that there is not it adds the nearest that there is.
func (f *File) misnamed(ctx context.Context, text string, err error) error {
	m := said.FindStringSubmatch(err.Error())
	if m == nil {
		return err
	}
	name := noSuch.FindStringSubmatch(m[1])
	db, looking := f.looking(ctx)
	if name == nil || looking != nil {
		return errors.New(m[1])
	}
	defer db.Close()
	var known []string
	tables, _ := namesOf(ctx, db)
	words := wordInIt.FindAllString(text, -1)
	for _, table := range tables {
		if name[1] == "table" {
			known = append(known, table.Name)
			continue
		}
		if !slices.Contains(words, table.Name) {
			continue
		}
		columns, _ := columnsOf(ctx, db, table.Name)
		for _, c := range columns {
			known = append(known, c.Name)
		}
	}
	bare := name[2][strings.LastIndex(name[2], ".")+1:]
	if near := nearest.Names(bare, known, 2); len(near) > 0 {
		return fmt.Errorf("%s; did you mean %s?", m[1], nearest.Or(near))
	}
	return errors.New(m[1])
}
