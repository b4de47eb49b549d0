package catalog

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"mantilla/core/definition"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/source"
	"mantilla/source/lookup"
)

// CheckReport reads a definition and checks it against its source. When it is
// not right, the error is a [definition.Faults] that lists all that is wrong: with the
// text, and with what its source says of the parts that are right.
func (a *Access) CheckReport(ctx context.Context, text []byte) (*report.Definition, error) {
	if err := a.May(access.Write); err != nil {
		return nil, err
	}
	return a.room.check(ctx, text, a.room.present())
}

// ReadReport reads a definition without asking its source.
func (a *Access) ReadReport(text []byte) (*report.Definition, definition.Faults, error) {
	if err := a.May(access.Write); err != nil {
		return nil, nil, err
	}
	d, faults := definition.Read(text, a.room.defaults(a.room.present()))
	return d, faults, nil
}

// ReadWith reads a definition as it would be beside other shared parameters.
func (a *Access) ReadWith(text []byte, shared *definition.Shared) (*report.Definition, definition.Faults) {
	return definition.Parse(text, a.room.defaults(shared))
}

// present are the shared parameters of now.
func (room *Room) present() *definition.Shared {
	room.mu.RLock()
	defer room.mu.RUnlock()
	return room.shared
}

func (room *Room) defaults(shared *definition.Shared) definition.Defaults {
	return definition.Defaults{Currency: room.org.Currency, Shared: shared, Dialect: room.dialect,
		Dialects: source.Dialects()}
}

// longestCheck is how long a source may take to understand a definition. A check
// reads no rows, so that it ends in a moment unless a list never ends.
const longestCheck = 30 * time.Second

func (room *Room) check(ctx context.Context, text []byte, shared *definition.Shared) (*report.Definition, error) {
	d, faults := definition.Read(text, room.defaults(shared))
	if d == nil {
		return nil, faults
	}
	src, err := room.Source(d.Source)
	if err != nil {
		return nil, append(faults, definition.Fault{Line: 1, Column: 1, Message: err.Error()})
	}
	ctx, cancel := context.WithTimeoutCause(ctx, longestCheck,
		fmt.Errorf("the source took longer than %s to understand it", longestCheck))
	defer cancel()
	c := checker{room: room, of: d, src: src, faults: faults}
	if err := c.ask(ctx); err != nil {
		return nil, err
	}
	if len(c.faults) > 0 {
		return nil, c.sorted()
	}
	return d, nil
}

// dialect is what a source speaks.
func (room *Room) dialect(id string) definition.Dialect {
	s, err := room.Source(id)
	if err != nil {
		return definition.Dialect{Quotes: report.AnyQuotes}
	}
	return definition.Dialect{Name: s.Dialect().String(), Quotes: s.Dialect().Quotes()}
}

// checker asks a source about a definition, of which something may be wrong.
type checker struct {
	room   *Room
	of     *report.Definition
	src    Source
	faults definition.Faults
}

func (c *checker) fault(line, column int, format string, args ...any) {
	c.faults = append(c.faults, definition.Fault{Line: max(line, 1), Column: max(column, 1),
		Message: fmt.Sprintf(format, args...)})
}

func (c *checker) sorted() definition.Faults {
	slices.SortStableFunc(c.faults, func(a, b definition.Fault) int {
		return cmp.Or(cmp.Compare(a.Line, b.Line), cmp.Compare(a.Column, b.Column))
	})
	return slices.Compact(c.faults)
}

// ask looks whether lists exist, defaults resolve and the source understands every
// query, with each way that its pieces can be switched.
func (c *checker) ask(ctx context.Context) error {
	lists := c.src.Book.For(report.Reach{})
	var known []param.Parameter
	for _, p := range c.of.Parameters {
		if p.From != "" {
			if _, err := lists.Entries(ctx, p.From, lookup.Wish{Limit: 1}); err != nil {
				c.fault(c.of.ParameterLine(p.ID), 1, "parameter %s: %v", p.ID, err)
				continue
			}
		}
		known = append(known, p)
	}
	calendar := c.room.org.Calendar()
	calendar.Last = period.Last{At: c.room.org.Now(), Of: "the check"} // since last run has something to begin at
	values, wrong, err := param.Resolve(ctx, known, nil, param.Setting{Calendar: calendar, Lists: lists})
	if err != nil {
		return err
	}
	for _, f := range wrong {
		if p := c.of.Parameter(f.Parameter); p != nil && p.Default == "" {
			continue // a required parameter without a default is for the person to fill in
		}
		c.fault(c.of.ParameterLine(f.Parameter), 1, "the default of parameter %s: %s", f.Parameter, f.Message)
	}
	for _, p := range c.of.Parameters { // one with a fault stands for no value
		if _, ok := values.Of(p.ID); !ok {
			values = append(values, param.Value{Parameter: &p})
		}
	}
	for i := range c.of.Datasets {
		if set := &c.of.Datasets[i]; set.Keep == report.InEngine && c.src.Engine() == nil {
			c.fault(set.From.Line, set.From.Col, "dataset %s is to stay in the engine, and the source %s %v", set.ID,
				c.src.Config.ID,
				source.ErrKeepsNothing)
		}
	}
	for _, settled := range c.of.Ways(values) {
		if err := c.prepare(ctx, settled, values); err != nil {
			return err
		}
	}
	return nil
}

// prepare has the source understand every query of a settled definition.
func (c *checker) prepare(ctx context.Context, d *report.Definition, values param.Values) error {
	for i := range d.Datasets {
		set := &d.Datasets[i]
		err := c.understood(ctx, set, values)
		if unable(err) {
			return err
		}
		if err == nil {
			continue
		}
		if err := c.blame(ctx, set, values, err); err != nil {
			return err
		}
	}
	return nil
}

// unable tells whether an error is about the source itself, whatever is asked.
func unable(err error) bool {
	return errors.Is(err, source.ErrMissing) || errors.Is(err, source.ErrLocked) || errors.Is(err, context.Canceled)
}

func (c *checker) understood(ctx context.Context, set *report.Dataset, values param.Values) error {
	quotes := c.src.Dialect().Quotes()
	queries, err := query.PlanAll(&report.Definition{Datasets: []report.Dataset{*set}}, values, quotes)
	if err != nil {
		return err
	}
	return c.src.Prepare(ctx, queries[0])
}

// ordered is how a piece of an order ends.
var ordered = regexp.MustCompile(`(?i)\s+(asc|desc)\s*$|\s+nulls\s+(first|last)\s*$`)

// blame finds the pieces of a dataset that the source does not accept, asking for
// each alone; where each alone is right, what is said of the whole stands at the top.
func (c *checker) blame(ctx context.Context, set *report.Dataset, values param.Values, whole error) error {
	bare := report.Dataset{ID: set.ID, From: set.From, Columns: []report.Column{{ID: "one", Is: report.Piece{SQL: "1"}}}}
	if err := c.understood(ctx, &bare, values); unable(err) {
		return err
	} else if err != nil && ctx.Err() == nil {
		c.fault(set.From.Line, set.From.Col, "dataset %s: the source does not accept where it reads from: %v", set.ID, err)
		return nil
	}
	before := len(c.faults)
	try := func(piece report.Piece, what string, change func(d *report.Dataset)) {
		probe := bare
		change(&probe)
		if err := c.understood(ctx, &probe, values); err != nil && ctx.Err() == nil {
			c.fault(piece.Line, piece.Col, "dataset %s: the source does not accept %s: %v", set.ID, what, err)
		}
	}
	for _, column := range set.Read() {
		try(column.Is, "the SQL of column "+column.ID, func(d *report.Dataset) { d.Columns = []report.Column{column} })
	}
	for i, w := range set.Where {
		try(w.Piece, fmt.Sprintf("condition %d", i+1), func(d *report.Dataset) { d.Where = []report.Condition{w} })
	}
	if set.Scope.SQL != "" && set.Scope.SQL != report.Everyone {
		try(set.Scope, "the scope", func(d *report.Dataset) { d.Scope = set.Scope })
	}
	for _, g := range set.Group {
		if strings.Trim(g.SQL, "0123456789") == "" { // the number of a column, which means nothing alone
			continue
		}
		try(g, "what it is grouped by", func(d *report.Dataset) { d.Group = []report.Piece{g} })
	}
	for _, o := range slices.Concat(set.Order, set.Each) { // asked as a group, since an order needs a number of rows
		piece := o
		piece.SQL = ordered.ReplaceAllString(o.SQL, "")
		try(o, "its order", func(d *report.Dataset) { d.Group = []report.Piece{piece} })
	}
	if len(c.faults) == before {
		c.fault(set.From.Line, set.From.Col, "dataset %s: the source does not accept its SQL: %v", set.ID, whole)
	}
	return nil
}
