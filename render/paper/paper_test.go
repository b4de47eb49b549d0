package paper

import (
	"context"
	"fmt"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/apache/arrow-go/v18/arrow"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/kept"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/sheet"
	"mantilla/core/shown"
	"mantilla/core/table"
	"mantilla/render/document"
)

// rows makes a document of so many rows in groups, with further columns.
func rows(t *testing.T, n, further int, changes ask.Changes) *document.Document {
	t.Helper()
	set := report.Dataset{ID: "d", Columns: []report.Column{
		{ID: "group", Label: "Group", Kind: frame.Text}, {ID: "name", Label: "Name", Kind: frame.Text},
		{ID: "kg", Label: "Weight", Kind: frame.Decimal, Scale: 3, Unit: "kg", Total: frame.Sum}}}
	for i := range further {
		set.Columns = append(set.Columns,
			report.Column{ID: fmt.Sprintf("more%d", i), Label: fmt.Sprintf("Further %d", i), Kind: frame.Integer})
	}
	var records []arrow.RecordBatch
	b := frame.NewBuilder(set.Schema(), 1000, func(r arrow.RecordBatch) error { records = append(records, r); return nil })
	r := rand.New(rand.NewPCG(uint64(n), 1))
	for i := range n {
		b.Text(0, []byte(fmt.Sprintf("group-%03d", i/(3+n/40))))
		name := fmt.Sprintf("row-%05d", i)
		if r.IntN(7) == 0 {
			name += strings.Repeat(" and more of it", r.IntN(20))
		}
		b.Text(1, []byte(name))
		for col := 2; col < len(set.Columns); col++ {
			if err := b.Int(col, int64(r.IntN(1_000_000_000))); err != nil {
				t.Fatal(err)
			}
		}
		if err := b.EndRow(); err != nil {
			t.Fatal(err)
		}
	}
	if err := b.Close(); err != nil {
		t.Fatal(err)
	}
	f, err := frame.New(set.Schema(), records...)
	if err != nil {
		t.Fatal(err)
	}
	s, err := sheet.Lay(t.Context(), kept.Of(f, table.Fresh{}), &set,
		&report.View{ID: "v", Title: "All rows", Of: "d", Show: report.Table}, changes,
		ready.Setting{Cache: table.Fresh{}})
	if err != nil {
		t.Fatal(err)
	}
	at := time.Date(2026, 10, 15, 12, 0, 0, 0, time.UTC)
	return &document.Document{
		Organisation: "Brackenfell",
		Title:        "Made rows",
		Sentence:     "All of them.",
		Number:       "R-000007",
		AskedBy:      "runa",
		RanAt:        at,
		WrittenAt:    at,
		Form:         shown.Form{Zone: time.UTC},
		Sheets:       []*sheet.Sheet{s},
	}
}

func pages(t *testing.T, d *document.Document, s Setting) (all []*Page) {
	t.Helper()
	if err := s.Check(); err != nil {
		t.Fatal(err)
	}
	if err := Lay(t.Context(), d, s, func(p *Page) error { all = append(all, p); return nil }); err != nil {
		t.Fatal(err)
	}
	return all
}

// texts are those of a page from top to bottom.
func texts(p *Page) []Item {
	out := slices.DeleteFunc(slices.Clone(p.Items), func(i Item) bool { return i.Kind != Text })
	slices.SortStableFunc(out, func(a, b Item) int {
		if a.Y != b.Y {
			return map[bool]int{true: -1, false: 1}[a.Y < b.Y]
		}
		return map[bool]int{true: -1, false: 1}[a.X < b.X]
	})
	return out
}

func has(p *Page, text string) bool {
	return slices.ContainsFunc(p.Items, func(i Item) bool { return i.Kind == Text && i.Text == text })
}

var rowName = regexp.MustCompile(`^row-\d{5}`)

// TestNothingIsTornApart lays out grouped tables of many sizes: every row comes
// once and in order, heads stand on every page, no group's name ends a page,
// what goes on is named again, and the total is never alone.
func TestNothingIsTornApart(t *testing.T) {
	open := 2
	for n := 1; n < 400; n += 13 {
		d := rows(t, n, 2, ask.Changes{Group: []string{"group"}, Open: &open})
		next := 0
		all := pages(t, d, Setting{Size: "a5"})
		for at, p := range all {
			if !has(p, "Weight, kg") || !has(p, fmt.Sprintf("Page %d of %s", at+1, Pages)) {
				t.Fatalf("%d rows: page %d has no head or no number", n, at+1)
			}
			body := slices.DeleteFunc(texts(p), func(i Item) bool { return i.Y > p.Height-50 || i.Size != all[0].cells(t) })
			last := body[len(body)-1]
			lowest := slices.DeleteFunc(slices.Clone(body), func(i Item) bool { return i.Y != last.Y })
			if strings.HasPrefix(lowest[0].Text, "group-") {
				t.Fatalf("%d rows: page %d ends with %s", n, at+1, lowest[0].Text)
			}
			names := 0
			for _, i := range body {
				if rowName.MatchString(i.Text) {
					if want := fmt.Sprintf("row-%05d", next); !strings.HasPrefix(i.Text, want) {
						t.Fatalf("%d rows: page %d has %s where %s is due", n, at+1, i.Text, want)
					}
					next++
					names++
				}
			}
			if names == 0 {
				t.Fatalf("%d rows: page %d has no row: %v", n, at+1, body)
			}
			if first := body[slices.IndexFunc(body, func(i Item) bool { return strings.HasPrefix(i.Text, "group-") })]; at > 0 &&
				first.Y > all[0].Height/3 {
				t.Fatalf("%d rows: page %d does not name its group", n, at+1)
			}
		}
		if next != n || !has(all[len(all)-1], "Total") {
			t.Fatalf("%d rows: %d are there, and the total is %t", n, next, has(all[len(all)-1], "Total"))
		}
	}
}

// Every group begins a page where the view says so.
func TestGroupsBeginPages(t *testing.T) {
	open := 2
	d := rows(t, 30, 2, ask.Changes{Group: []string{"group"}, Open: &open})
	together := len(pages(t, d, Setting{Size: "a4"}))
	d.Sheets[0].View.Break = true
	all := pages(t, d, Setting{Size: "a4"})
	if together == len(all) || len(all) != 10 {
		t.Fatalf("%d pages for 10 groups, %d without breaks", len(all), together)
	}
	for at, p := range all {
		if !has(p, fmt.Sprintf("group-%03d", at)) || at < 9 && has(p, fmt.Sprintf("group-%03d", at+1)) {
			t.Errorf("page %d is not that of its group alone", at+1)
		}
	}
}

// cells is the size of the letters of the table.
func (p *Page) cells(t *testing.T) float64 {
	at := slices.IndexFunc(p.Items, func(i Item) bool { return rowName.MatchString(i.Text) })
	if at < 0 {
		t.Fatal("the first page has no row")
	}
	return p.Items[at].Size
}

func TestColumnsGoOnOverSeveralPages(t *testing.T) {
	d := rows(t, 30, 30, ask.Changes{})
	all := pages(t, d, Setting{Fit: "split", Orientation: "portrait", Lead: 2})
	seen := map[string]bool{}
	for at, p := range all {
		if !has(p, "Group") || !has(p, "Name") ||
			!slices.ContainsFunc(p.Items, func(i Item) bool { return strings.HasPrefix(i.Text, "row-00000") }) {
			t.Errorf("page %d does not repeat the leading columns", at+1)
		}
		right := 0.0
		for _, i := range p.Items {
			if i.Kind == Text && !strings.Contains(i.Text, Pages) {
				seen[i.Text] = true
				right = max(right, i.X+Width(i.Text, i.Size, i.Bold))
			}
		}
		if right > p.Width-14*perMillimetre+0.5 {
			t.Errorf("page %d reaches to %.1f of %.1f", at+1, right, p.Width)
		}
	}
	for i := range 30 {
		if !seen[fmt.Sprintf("Further %d", i)] {
			t.Errorf("column %d is nowhere", i)
		}
	}
	if one := pages(t, d, Setting{Fit: "width"}); len(one) != 1 && one[0].Width < one[0].Height {
		t.Errorf("made smaller it still takes %d pages", len(one))
	}
}

func TestCoverAndOutline(t *testing.T) {
	open := 2
	d := rows(t, 60, 0, ask.Changes{Group: []string{"group"}, Open: &open})
	all := pages(t, d, Setting{Cover: true})
	if !has(all[0], "Made rows") || has(all[0], "Weight, kg") || !has(all[0], "R-000007") {
		t.Errorf("the cover is not a page of its own")
	}
	var marks []string
	for _, p := range all {
		for _, m := range p.Marks {
			marks = append(marks, fmt.Sprint(m.Level, " ", m.Title))
		}
	}
	if len(marks) != 2+15 || marks[0] != "0 Cover" || marks[1] != "0 All rows" || marks[2] != "1 group-000" {
		t.Errorf("the outline is %q", marks)
	}
}

func TestAStopEndsTheLayout(t *testing.T) {
	ctx, cancel := context.WithCancel(t.Context())
	s := Setting{}
	if err := s.Check(); err != nil {
		t.Fatal(err)
	}
	err := Lay(ctx, rows(t, 3000, 0, ask.Changes{}), s, func(*Page) error { cancel(); return nil })
	if err != context.Canceled {
		t.Errorf("got %v", err)
	}
}

func TestWrapping(t *testing.T) {
	for _, c := range []struct {
		text  string
		width float64
		most  int
		want  string
	}{
		{"short", 100, 3, "short"}, {"some longer words", 60, 3, "some longer|words"},
		{"some longer words that go on", 60, 2, "some longer|words that g…"},
		{"unbreakable-name", 40, 2, "unbrea…"}, {"two\nlines", 100, 3, "two|lines"}, {"two\nlines", 100, 1, "two lines"},
	} {
		if got := strings.Join(wrap(c.text, c.width, 9, false, c.most), "|"); got != c.want {
			t.Errorf("%q in %g: got %q, want %q", c.text, c.width, got, c.want)
		}
	}
}

func TestSettingsAreChecked(t *testing.T) {
	for want, s := range map[string]Setting{"paper:": {Size: "b7"}, "margin: 90": {Margin: 90}, "fit:": {Fit: "somehow"},
		"orientation:": {Orientation: "askew"}, "lead:": {Lead: 40}} {
		if err := s.Check(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("want %q, got %v", want, err)
		}
	}
}

func TestPreviewIsThePage(t *testing.T) {
	p := pages(t, rows(t, 5, 0, ask.Changes{}), Setting{})[0]
	drawing := SVG(p, 1)
	for _, want := range []string{`viewBox="0 0 595.28 841.89"`, ">Page 1 of 1</text>", ">Weight, kg</text>"} {
		if !strings.Contains(drawing, want) {
			t.Errorf("%q is not in the drawing", want)
		}
	}
}
