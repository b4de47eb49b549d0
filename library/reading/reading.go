package reading

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"mantilla/core/ask"
	"mantilla/core/entries"
	"mantilla/core/formula"
	"mantilla/core/frame"
	"mantilla/core/kept"
	"mantilla/core/mask"
	"mantilla/core/period"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/sheet"
	"mantilla/core/table"
	"mantilla/model"
	"mantilla/store/cache"
)

// First names the first view of a result's page, whatever its id.
const First = "*"

// Reading is a view of a result with what a reader changed about it, ready to
// be laid out.
type Reading struct {
	View    *report.View
	Dataset *report.Dataset
	Changes ask.Changes
	Kept    *KeptView // the view that somebody kept, if it is one
	Dropped []string  // what of it no longer fits

	rows     table.Table
	stays    *model.Kept // where the rows are that stay in an engine; nil for here
	most     int64       // rows that may come from there
	setting  ready.Setting
	explains func(c *report.Column) string
}

// Meaning is what a column means; "" where nobody said.
func (r *Reading) Meaning(c report.Column) string { return r.explains(&c) }

// Read finds a view of a result: one of its definition, one that was kept
// (V-12), or all rows of a dataset (lots.rows).
func (a *Access) Read(ctx context.Context, r *Result, view string, c ask.Changes) (*Reading, error) {
	if err := a.purposed(ctx, r); err != nil {
		return nil, err
	}
	read := &Reading{Changes: c, explains: a.room.explains}
	base := view
	if number, ok := KeptNumber(view); ok {
		kept, err := a.Kept(ctx, number)
		if err == nil && kept.Report != r.Report {
			err = model.NoSuch("view", view, ViewIDs(r.Definition))
		}
		if err != nil {
			return nil, err
		}
		read.Kept, base = &kept, kept.Base
	}
	if read.View = ViewOf(r.Definition, base); read.View == nil {
		return nil, model.NoSuch("view", base, ViewIDs(r.Definition))
	}
	read.Dataset = r.Definition.Dataset(read.View.Of)
	if reason := r.FailedOf(read.View.Of); reason != "" {
		failed := *read.View
		failed.Says = "This block could not be read: " + reason
		read.View = &failed
	}
	if read.Kept != nil {
		var kept ask.Changes
		kept, read.Dropped = read.Kept.Changes.Fit(read.Dataset, read.View, read.Kept.Seen)
		read.Changes = c.Over(kept)
	}
	now := a.Due()
	if now.IsZero() {
		now = a.room.org.Now()
	}
	calendar := r.calendar(now)
	layer, err := a.layer(ctx, r, read, calendar)
	if err != nil {
		return nil, err
	}
	day := period.DayOf(r.Manifest.StartedAt, r.zone)
	hidden := a.hidden(read.Dataset)
	apart := a.tellHidden(read, hidden)
	read.setting = ready.Setting{Given: r.Definition.Given(r.Values, day), Calendar: calendar, Form: r.Form(),
		Cache: computed{a.room.records.Cache(), fmt.Sprintf("%d/%s/%s/%d/%s", r.Number, calendar.Today, read.Dataset.ID,
			layer.Revision, apart)}}
	err = a.laidOver(ctx, r, read, layer, hidden)
	return read, err
}

// laidOver finds the rows of a reading: those that are kept here, with what people typed in beside
// them, or those that stay in an engine.
func (a *Access) laidOver(ctx context.Context, r *Result, read *Reading, layer *entries.Layer,
	hidden map[string]string) error {
	if k := r.kept(read.Dataset.ID); k != nil && k.Stay != nil {
		if err := masked(read.Dataset, hidden); err != nil {
			return err
		}
		read.stays, read.most = k, a.room.most
		engine, err := a.room.engine(k)
		if err == nil {
			read.rows = engine.Table(*k.Stay, k.Rows, read.Dataset.Schema(), read.setting.Cache)
		}
		return err
	}
	rows, err := a.room.records.Frame(ctx, r.Result, read.Dataset.ID, read.Dataset.Schema())
	if err != nil {
		return err
	}
	rows, read.Dataset = layer.Over(rows, read.Dataset)
	read.rows = kept.Of(mask.Over(rows, hidden, a.room.key), read.setting.Cache)
	return nil
}

// ViewOf finds a view of a report, or all rows of a dataset; nil for none.
func ViewOf(d *report.Definition, id string) *report.View {
	if id == First {
		id = d.Page[0]
	}
	if dataset, ok := strings.CutSuffix(id, ".rows"); ok && d.Dataset(dataset) != nil {
		return d.Dataset(dataset).Rows()
	}
	return d.View(id)
}

// FigureScope is what a formula over all rows of a view may speak of.
func (a *Access) FigureScope(d *report.Definition, v *report.View) formula.Scope {
	_, _, scope, _ := d.Dataset(v.Of).Calculate(formula.Scope{
		Given:    d.Given(nil, a.Calendar().Today),
		Calendar: a.Calendar(),
	})
	scope.Groups = true
	return scope
}

// FirstView is the view that opens first: the one wanted, or that of the page.
func FirstView(d *report.Definition, view string) string {
	if view == "" {
		return d.Page[0]
	}
	return view
}

// Sheet lays out a view of a result; see [Access.Read].
func (a *Access) Sheet(ctx context.Context, r *Result, view string, c ask.Changes) (*sheet.Sheet, error) {
	read, err := a.Read(ctx, r, view, c)
	if err != nil {
		return nil, err
	}
	return read.Lay(ctx)
}

// Lay lays the view out. What is laid is kept, so that further pages of it need not
// settle anything anew.
func (r *Reading) Lay(ctx context.Context) (*sheet.Sheet, error) {
	return r.lay(ctx, r.View, r.Changes)
}

func (r *Reading) lay(ctx context.Context, v *report.View, c ask.Changes) (*sheet.Sheet, error) {
	asked, err := json.Marshal(c)
	if err != nil {
		return nil, err
	}
	key := model.Digest(fmt.Sprintf("%s\n%s\n%s\n%q", v.ID, v.Says, asked, c.Fold))
	laid, err := r.setting.Cache.Get("laid/"+key, func() (table.Sized, error) {
		return sheet.Lay(ctx, r.rows, r.Dataset, v, c, r.setting)
	})
	if err != nil {
		return nil, err
	}
	return laid.(*sheet.Sheet), nil
}

// Values lists what a column holds under the filters on other columns.
func (r *Reading) Values(ctx context.Context, column, search string, limit int) (*sheet.Values, error) {
	return sheet.ValuesOf(ctx, r.rows, r.Dataset, r.View, r.Changes, r.setting, column, search, limit)
}

// Figure computes a formula of all rows of the view.
func (r *Reading) Figure(ctx context.Context, text string) (frame.Value, error) {
	return sheet.FigureOf(ctx, r.rows, r.Dataset, r.View, r.Changes, r.setting, text)
}

// Holds tells whether a condition over all rows of the view is true.
func (r *Reading) Holds(ctx context.Context, condition string) (bool, error) {
	return sheet.Holds(ctx, r.rows, r.Dataset, r.View, r.Changes, r.setting, condition)
}

// Completeness counts the rows without a value, by column.
func (r *Reading) Completeness(ctx context.Context) ([]sheet.Filled, error) {
	return sheet.Completeness(ctx, r.rows, r.Dataset, r.Changes, r.setting)
}

// Row reads all columns of one kept row.
func (r *Reading) Row(ctx context.Context, number int) ([]sheet.Column, sheet.Line, error) {
	if number < 0 || number >= r.rows.Rows() {
		return nil, sheet.Line{}, model.Refuse("number", "the dataset %s has the rows 0 to %d", r.Dataset.ID, r.rows.Rows()-1)
	}
	all := ask.Changes{Add: r.Changes.Add}
	s, err := r.lay(ctx, r.Dataset.Rows(), all)
	if err != nil {
		return nil, sheet.Line{}, err
	}
	lines, err := s.Read(ctx, number, 1)
	if err != nil {
		return nil, sheet.Line{}, err
	}
	return s.Columns, lines[0], nil
}

// Batches are the cells of columns in all rows of the view's dataset, as they were kept, with
// what is computed of rows; and what the columns are.
func (r *Reading) Batches(ctx context.Context, columns []string) (batches []*frame.Batch, schema frame.Schema,
	err error) {
	if err := r.mayCome(); err != nil {
		return nil, nil, err
	}
	v, err := ready.Of(ctx, r.rows, r.Dataset, r.Dataset.Rows(), ask.Changes{}, r.setting)
	if err != nil {
		return nil, nil, err
	}
	places := v.PlacesOf(columns)
	for _, at := range places {
		schema = append(schema, v.Rows.Schema()[at])
	}
	err = v.Rows.Each(ctx, table.Order{}, places, func(b *frame.Batch) error {
		batches = append(batches, b)
		return nil
	})
	return batches, schema, err
}

// CheckFormula reads a formula for a further column of the view and tells what
// it would give. The error is a [*formula.Fault].
func (r *Reading) CheckFormula(text string) (*formula.Formula, error) {
	_, _, scope, _ := r.Dataset.Calculate(formula.Scope{Given: r.setting.Given, Calendar: r.setting.Calendar})
	return formula.Parse(text, scope)
}

// computed keeps what is dear to compute of a dataset in the cache of results.
type computed struct {
	cache  *cache.Cache
	prefix string
}

// Get returns what is kept or makes it.
func (c computed) Get(key string, make func() (table.Sized, error)) (table.Sized, error) {
	return c.cache.Get(c.prefix+key, func() (cache.Sized, error) { return make() })
}

// Today is the day that the result's formulas call today: that of its run.
func (r *Reading) Today() period.Day { return period.Day(r.setting.Given["today"].Int()) }
