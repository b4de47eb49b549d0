package ask

import (
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/table"
)

var calendar = period.Calendar{Today: period.Date(2026, 10, 15), Zone: time.UTC}

func TestFiltersAreRead(t *testing.T) {
	text := frame.Field{Name: "district", Kind: frame.Text}
	kg := frame.Field{Name: "kg", Kind: frame.Decimal, Scale: 3}
	day := frame.Field{Name: "received", Kind: frame.Date}
	month := frame.Field{Name: "month", Kind: frame.Date, Grain: "month"}
	moment := frame.Field{Name: "entered", Kind: frame.Timestamp}
	flag := frame.Field{Name: "paid", Kind: frame.Flag}
	weekday := frame.Field{Name: "weekday", Kind: frame.Integer, Names: []string{"Mon", "Tue"}}
	first, last := int64(period.Date(2026, 9, 1)), int64(period.Date(2026, 9, 30))
	micros := int64(86_400_000_000)
	for _, c := range []struct {
		field frame.Field
		text  string
		want  []table.Condition
	}{
		{text, "district=Hollin", []table.Condition{{Test: table.Is, Texts: []string{"Hollin"}}}},
		{text, "district<>'a;b'; c", []table.Condition{{Test: table.IsNot, Texts: []string{"a;b", "c"}}}},
		{text, "district~oll", []table.Condition{{Test: table.Contains, Texts: []string{"oll"}}}},
		{text, "district=", []table.Condition{{Test: table.Empty}}},
		{text, "district<>", []table.Condition{{Test: table.NotEmpty}}},
		{kg, "kg >= 12.5", []table.Condition{{Test: table.AtLeast, Ints: []int64{12_500}}}},
		{kg, "kg=1;2", []table.Condition{{Test: table.Is, Ints: []int64{1000, 2000}}}},
		{day, "received=2026-09", []table.Condition{{Test: table.AtLeast, Ints: []int64{first}},
			{Test: table.AtMost, Ints: []int64{last}}}},
		{day, "received=last month", []table.Condition{{Test: table.AtLeast, Ints: []int64{first}},
			{Test: table.AtMost, Ints: []int64{last}}}},
		{day, "received<=2026-09-30", []table.Condition{{Test: table.AtMost, Ints: []int64{last}}}},
		{month, "month<>2026-09", []table.Condition{{Test: table.IsNot, Ints: []int64{first}}}},
		{moment, "entered>=2026-09", []table.Condition{{Test: table.AtLeast, Ints: []int64{first * micros}}}},
		{flag, "paid=yes", []table.Condition{{Test: table.Is, Ints: []int64{1}}}},
		{weekday, "weekday=Tue", []table.Condition{{Test: table.Is, Ints: []int64{1}}}},
	} {
		f, err := ReadFilter(c.text)
		if err == nil {
			err = f.Over(c.field, calendar)
		}
		for i := range c.want {
			c.want[i].Column = c.field.Name
		}
		if err != nil || !reflect.DeepEqual(f.Conditions, c.want) {
			t.Errorf("%s: got %+v, %v; want %+v", c.text, f.Conditions, err, c.want)
		}
	}
}

func TestFiltersSayWhatIsWrong(t *testing.T) {
	for _, c := range []struct {
		field frame.Field
		text  string
		says  string
	}{
		{frame.Field{Name: "a", Kind: frame.Text}, "a", "has no test"},
		{frame.Field{Name: "a", Kind: frame.Text}, "a>=", "a value is missing after >="},
		{frame.Field{Name: "n", Kind: frame.Integer}, "n~3", "~ searches texts"},
		{frame.Field{Name: "n", Kind: frame.Integer}, "n=1.5", "a whole number is wanted"},
		{frame.Field{Name: "d", Kind: frame.Date}, "d=2026-13", "2026-13"},
		{frame.Field{Name: "d", Kind: frame.Date}, "d<>2026-09", "<> does not go with several days"},
		{frame.Field{Name: "f", Kind: frame.Flag}, "f=maybe", "neither yes nor no"},
		{frame.Field{Name: "w", Kind: frame.Integer, Names: []string{"Mon"}}, "w=Sun", "is none of Mon"},
	} {
		f, err := ReadFilter(c.text)
		if err == nil {
			err = f.Over(c.field, calendar)
		}
		if err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want %q", c.text, err, c.says)
		}
	}
}

func TestQuotedValuesAreReadBack(t *testing.T) {
	for _, values := range [][]string{{"a"}, {"a;b", "c"}, {" a "}, {"it's", "x"}, {"'"}, {"", "b"}, {";;", "''"}} {
		var list []string
		for _, v := range values {
			list = append(list, Quoted(v))
		}
		if got := Unquoted(strings.Join(list, ";")); !slices.Equal(got, values) {
			t.Errorf("%q is read back as %q", values, got)
		}
	}
}

func TestWhatIsFilteredIsFoundBeforeBrackets(t *testing.T) {
	for text, want := range map[string]string{
		"a=b": "a", " a <= 3": "a", "month(received)=2026-09": "month(received)", "band(age, 25)>=25": "band(age, 25)",
		"case(a = b)~x": "case(a = b)",
	} {
		if got := Filtered(text); got != want {
			t.Errorf("%s is on %q, not %q", text, got, want)
		}
	}
}

func TestChangesLieOverEarlierOnes(t *testing.T) {
	base := Changes{Group: []string{"a"}, Sort: []string{"-b"}, Show: "chart", Open: new(2), Add: []string{"X = 1"}}
	got := Changes{Group: []string{}, Filters: []string{"a=1"}, Add: []string{"Y = 2"}}.Over(base)
	want := Changes{Group: []string{}, Sort: []string{"-b"}, Show: "chart", Open: base.Open, Filters: []string{"a=1"},
		Add: []string{"Y = 2", "X = 1"}}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("got %+v", got)
	}
}

func TestChangesAreBounded(t *testing.T) {
	for part, c := range map[string]Changes{
		"filter": {Filters: slices.Repeat([]string{"a=1"}, mostFilters+1)},
		"group":  {Group: slices.Repeat([]string{"a"}, mostLevels+1)},
		"add":    {Add: []string{strings.Repeat("x", mostTyped+1)}},
		"sort":   {Sort: []string{"\xff"}},
		"open":   {Fold: slices.Repeat([]string{"a"}, mostFolded+1)},
	} {
		var fault *Fault
		if err := c.Check(); !errors.As(err, &fault) || fault.Part != part {
			t.Errorf("%s: %v", part, err)
		}
	}
	good := Changes{Filters: slices.Repeat([]string{"a=1"}, mostFilters)}
	if err := good.Check(); err != nil {
		t.Error(err)
	}
}

func ExampleReadFilter() {
	f, err := ReadFilter("net_kg>=100")
	if err != nil {
		panic(err)
	}
	if err := f.Over(frame.Field{Name: "net_kg", Kind: frame.Decimal, Scale: 3}, period.Calendar{}); err != nil {
		panic(err)
	}
	fmt.Println(f.Column, f.Test, f.Value, f.Conditions[0].Ints)
	// Output: net_kg >= 100 [100000]
}
