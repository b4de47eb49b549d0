package reading

import (
	"context"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/cli/talk"
)

// Reading is what the options say about how a view is laid out: the changes of
// the contract, which all operations on views take alike.
type Reading struct {
	lists map[string]*[]string // by the contract's name
	words map[string]*string
	open  *int
	most  *int
}

// listOptions are the options that name several things: commas stand between,
// but those in brackets belong to a formula.
var listOptions = []struct{ option, name, help string }{
	{"columns", "column", "columns to show, in order, commas between"},
	{"group", "group",
		"what to group by, outermost first: columns, month(received), band(age, 25, 50); none for no groups"},
	{"sort", "sort", "columns to sort by; a minus sign before one for descending order"},
	{"down", "down", "levels down of a crosstab"},
	{"across", "across", "levels across of a crosstab; none for none"},
	{"cells", "cell", "measures of a crosstab or chart"},
}

// wholeOptions are given once for each thing.
var wholeOptions = []struct{ option, name, help string }{
	{"filter", "filter", "test such as 'net_kg>=100', 'net_kg<5', 'district=Hollin;Marr', 'keeper~brell', " +
		"'month(received)=2026-09'; none for none of a kept view; may be repeated"},
	{"add", "add", "further column, as 'Margin = value - cost'; may be repeated"},
	{"total", "total", "another total of a column, as 'net_kg:avg'; of sum, avg, min, max, count, distinct, median, " +
		"stddev, " +
		"first, last and none; may be repeated"},
	{"fold", "fold", "path of a group that is not as --open says; may be repeated"},
}

var wordOptions = []struct{ option, name, help string }{
	{"show", "show", "another form: table, crosstab or chart"},
	{"drawn", "drawn", "another form of chart: bar, line, area or pie"},
	{"names", "names", "names, codes or both"},
	{"zeros", "zeros", "show or omit groups whose figures are all nothing"},
	{"entries", "entries", "as of which day or moment what people typed in counts; otherwise now"},
}

// Flags declares the options of a reading.
func (r *Reading) Flags(cmd *cobra.Command) {
	r.lists, r.words = map[string]*[]string{}, map[string]*string{}
	for _, o := range slices.Concat(listOptions, wholeOptions) {
		r.lists[o.name] = new([]string)
		cmd.Flags().StringArrayVar(r.lists[o.name], o.option, nil, o.help)
	}
	for _, o := range wordOptions {
		r.words[o.name] = new(string)
		cmd.Flags().StringVar(r.words[o.name], o.option, "", o.help)
	}
	r.open = cmd.Flags().Int("open", -1, "how many levels of groups to unfold; one more than there are unfolds the rows")
	r.most = cmd.Flags().Int("most", -1, "how many groups of the first level to show; the others are one line")
	talk.Must(cmd.RegisterFlagCompletionFunc("show", talk.Fixed("table", "crosstab", "chart")))
	talk.Must(cmd.RegisterFlagCompletionFunc("drawn", talk.Fixed("bar", "line", "area", "pie")))
	talk.Must(cmd.RegisterFlagCompletionFunc("names", talk.Fixed("names", "codes", "both")))
	talk.Must(cmd.RegisterFlagCompletionFunc("zeros", talk.Fixed("show", "omit")))
}

// completeReading offers the columns of the view where options name some.
func (c *Program) completeReading(cmd *cobra.Command) {
	for option, around := range map[string][2]string{"columns": {}, "group": {}, "sort": {}, "down": {}, "across": {},
		"cells": {}, "filter": {"", "="}} {
		talk.Must(cmd.RegisterFlagCompletionFunc(option, c.completeColumns(around[0], around[1])))
	}
	for _, option := range []string{"add", "fold"} {
		talk.Must(cmd.RegisterFlagCompletionFunc(option, talk.Fixed()))
	}
}

// Values are the options as the contract's query.
func (r *Reading) Values() url.Values {
	q := url.Values{}
	if r.lists == nil {
		return q // a command without these options
	}
	for _, o := range listOptions {
		for _, list := range *r.lists[o.name] {
			q[o.name] = append(q[o.name], splitOutside(list)...)
		}
	}
	for _, o := range wholeOptions {
		if list := *r.lists[o.name]; len(list) > 0 {
			q[o.name] = list
		}
	}
	for name, word := range r.words {
		if *word != "" {
			q.Set(name, *word)
		}
	}
	for name, n := range map[string]*int{"open": r.open, "most": r.most} {
		if *n >= 0 {
			q.Set(name, strconv.Itoa(*n))
		}
	}
	return q
}

// query adds the options to a request.
func (r *Reading) query(_ context.Context, request *http.Request) error {
	q := request.URL.Query()
	for name, list := range r.Values() {
		q[name] = append(q[name], list...)
	}
	request.URL.RawQuery = q.Encode()
	return nil
}

// changes are the options as a view keeps them.
func (r *Reading) changes() api.Changes {
	q := r.Values()
	list := func(name string) *[]string {
		if len(q[name]) == 0 {
			return nil
		}
		items := q[name]
		return &items
	}
	word := func(name string) *string {
		if !q.Has(name) {
			return nil
		}
		w := q.Get(name)
		return &w
	}
	c := api.Changes{Columns: list("column"), Add: list("add"), Group: list("group"), Sort: list("sort"),
		Filters: list("filter"), Down: list("down"), Across: list("across"),
		Cells: list("cell"), Totals: list("total"), Show: word("show"), Drawn: word("drawn"), Names: word("names"),
		Zeros: word("zeros")}
	if q.Has("open") {
		c.Open = r.open
	}
	if q.Has("most") {
		c.Most = r.most
	}
	return c
}

// splitOutside splits at the commas that do not stand in brackets or quotes.
func splitOutside(list string) (items []string) {
	depth, quoted, start := 0, false, 0
	for i, c := range list {
		switch {
		case c == '\'':
			quoted = !quoted
		case quoted:
		case c == '(':
			depth++
		case c == ')':
			depth--
		case c == ',' && depth <= 0:
			items = append(items, strings.TrimSpace(list[start:i]))
			start = i + 1
		}
	}
	return append(items, strings.TrimSpace(list[start:]))
}
