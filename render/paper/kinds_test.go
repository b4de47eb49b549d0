package paper

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"gonum.org/v1/plot/vg"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/frame/frametest"
	"mantilla/core/kept"
	"mantilla/core/period"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/sheet"
	"mantilla/core/shown"
	"mantilla/core/table"
	"mantilla/render/document"
)

var keepers = report.Dataset{ID: "keepers", Columns: []report.Column{
	{ID: "no", Label: "No.", Kind: frame.Text}, {ID: "name", Label: "Name", Kind: frame.Text, Under: "Who"},
	{ID: "notes", Label: "Notes", Kind: frame.Text, Under: "Who"},
	{ID: "began", Label: "Began", Kind: frame.Date}, {ID: "ends", Label: "Ends", Kind: frame.Date},
	{ID: "kg", Label: "Weight", Kind: frame.Integer, Unit: "kg", Total: frame.Sum},
}}

// shown is a document of one view of keepers.
func shownAs(t *testing.T, v report.View, lines ...[]any) *document.Document {
	t.Helper()
	v.ID, v.Title, v.Of = "v", "Keepers", "keepers"
	s, err := sheet.Lay(t.Context(), kept.Of(frametest.Rows(keepers.Schema(), 7, lines...), table.Fresh{}), &keepers, &v,
		ask.Changes{}, ready.Setting{Cache: table.Fresh{}})
	if err != nil {
		t.Fatal(err)
	}
	at := time.Date(2026, 10, 15, 12, 0, 0, 0, time.UTC)
	return &document.Document{Organisation: "Brackenfell", Title: "Keepers", Sentence: "All of them.", Number: "R-000007",
		Seal: strings.Repeat("0123456789abcdef", 4), Base: "https://mantilla.example", AskedBy: "runa", RanAt: at,
		WrittenAt: at, Form: shown.Form{Zone: time.UTC}, Sheets: []*sheet.Sheet{s}}
}

// keeper is a row of the number of a keeper.
func keeper(n int, notes string) []any {
	began := period.Date(2026, 1, 1) + period.Day(n)
	return []any{fmt.Sprintf("K-%03d", n), fmt.Sprintf("Keeper %d", n), notes, int64(began), int64(began + 90), n * 10}
}

func many(n int, notes func(int) string) (all [][]any) {
	for i := range n {
		all = append(all, keeper(i, notes(i)))
	}
	return all
}

// words are the texts of pages in the order in which they are drawn, with a space between each two.
func words(all ...*Page) string {
	var out []string
	for _, p := range all {
		for _, i := range p.Items {
			if i.Kind == Text {
				out = append(out, i.Text)
			}
		}
	}
	return strings.Join(out, " ")
}

// inside fails where anything stands outside the page's margins, but for the heads and feet.
func inside(t *testing.T, all []*Page, s Setting) {
	t.Helper()
	margin := s.Margin
	if margin == 0 {
		margin = 14
	}
	edge := margin*perMillimetre - 0.6
	for at, p := range all {
		for _, i := range p.Items {
			x, y, right, bottom := i.X, i.Y, i.X+i.W, i.Y+i.H
			switch i.Kind {
			case Text:
				if i.Angle != 0 || strings.Contains(i.Text, Pages) {
					continue
				}
				right, y = x+Width(i.Text, i.Size, i.Bold), y-i.Size
			case Path:
				x, y, right, bottom = math.Inf(1), math.Inf(1), 0, 0
				for _, step := range i.Steps {
					if step.Op == 'z' {
						continue
					}
					x, y = min(x, step.X), min(y, step.Y)
					right, bottom = max(right, step.X), max(bottom, step.Y)
				}
			default:
			}
			if x < edge || y < edge-8 || right > p.Width-edge || bottom > p.Height-edge {
				t.Fatalf("page %d: %q (%d) reaches from %.1f, %.1f to %.1f, %.1f of a page of %.1f by %.1f", at+1, i.Text, i.Kind,
					x, y, right, bottom, p.Width, p.Height)
			}
		}
	}
}

// A form has every word of its fields, is not torn apart where it fits a page, and goes on over
// pages where it does not; lines stand for what is filled in by hand.
func TestForms(t *testing.T) {
	long := func(n int) string { return strings.TrimSpace(strings.Repeat(fmt.Sprintf("word%d ", n), 60)) }
	for name, c := range map[string]struct {
		setting Setting
		rows    [][]any
		torn    bool
	}{
		"short":               {Setting{}, many(40, func(int) string { return "none" }), false},
		"long":                {Setting{}, many(12, long), false},
		"long, upon its side": {Setting{Orientation: "landscape", Size: "a5"}, many(6, long), false},
		"longer than a page":  {Setting{}, [][]any{keeper(1, strings.TrimSpace(strings.Repeat("word1 ", 3000)))}, true},
		"one word":            {Setting{}, [][]any{keeper(1, strings.Repeat("unbroken", 40))}, false},
	} {
		t.Run(name, func(t *testing.T) {
			d := shownAs(t, report.View{Show: report.Form, Blanks: []string{"Seen on", "By"}}, c.rows...)
			all := pages(t, d, c.setting)
			said := words(all...)
			frames := 0
			for at, p := range all {
				if c.torn {
					continue
				}
				if a, b := strings.Count(words(p), "K-"), strings.Count(words(p), "Seen on"); a != b {
					t.Errorf("page %d begins %d forms and ends %d", at+1, a, b)
				}
			}
			for _, row := range c.rows {
				if !strings.Contains(said, row[0].(string)) {
					t.Fatalf("%s is nowhere", row[0])
				}
				notes := row[2].(string)
				if got := strings.Count(said, strings.Fields(notes)[0]); !strings.Contains(name, "word") &&
					got < len(strings.Fields(notes)) {
					t.Fatalf("%d of %d words of the notes of %s are there", got, len(strings.Fields(notes)), row[0])
				}
			}
			if name == "one word" && !strings.Contains(strings.ReplaceAll(said, " ", ""), strings.Repeat("unbroken", 40)) {
				t.Error("the word that is longer than a line is cut")
			}
			if strings.Contains(said, "…") {
				t.Error("something is cut")
			}
			for _, p := range all {
				for _, i := range p.Items {
					if i.Kind == Path && i.Fill == None && len(i.Steps) == 5 {
						frames++
					}
				}
			}
			if want := len(c.rows); frames != want && !c.torn || c.torn && frames < 3 {
				t.Errorf("%d frames around %d forms", frames, want)
			}
			inside(t, all, c.setting)
		})
	}
}

// A form says what its parts are called and marks what has no value.
func TestFieldsStandUnderTheirHeadings(t *testing.T) {
	row := keeper(3, "")
	row[2], row[4] = nil, nil
	said := words(pages(t, shownAs(t, report.View{Show: report.Form}, row), Setting{})...)
	for _, want := range []string{"No. K-003", "Who Name Keeper 3 Notes –", "Began 4 Jan 2026 Ends –", "Weight, kg 30"} {
		if !strings.Contains(said, want) {
			t.Errorf("%q is not in %q", want, said)
		}
	}
}

// Bars lie where their days are, each with its name, on every page under the same scale.
func TestTimelines(t *testing.T) {
	d := shownAs(t, report.View{Show: report.Timeline, Start: "began", End: "ends", Label: "name"},
		many(120, func(int) string { return "" })...)
	all := pages(t, d, Setting{})
	if len(all) < 3 || all[0].Width < all[0].Height {
		t.Fatalf("%d pages, %g wide", len(all), all[0].Width)
	}
	type bar struct {
		says string
		item Item
	}
	var bars []bar
	for at, p := range all {
		heads := strings.Count(words(p), " Name ")
		named := 0
		for _, i := range p.Items {
			if i.Tag > 0 && p.Tags[i.Tag-1].Role == Figure {
				named++
				bars = append(bars, bar{p.Tags[i.Tag-1].Alt, i})
			}
		}
		if named > 0 && (heads != 1 || !has(p, "Jan 2026")) {
			t.Errorf("page %d has %d bars and %d heads", at+1, named, heads)
		}
	}
	if len(bars) != 120 {
		t.Fatalf("%d bars of 120", len(bars))
	}
	scale := (bars[119].item.X - bars[0].item.X) / 119 // a day more each
	for n, b := range bars {
		began := period.Date(2026, 1, 1) + period.Day(n)
		if want := fmt.Sprintf("Keeper %d: %s to %s", n, began, began+90); b.says != want {
			t.Fatalf("bar %d says %q and not %q", n, b.says, want)
		}
		if x := bars[0].item.X + float64(n)*scale; math.Abs(b.item.X-x) > 0.1 || math.Abs(b.item.W-91*scale) > 0.1 {
			t.Fatalf("%s lies at %.1f, %.1f wide, and not at %.1f, %.1f wide", b.says, b.item.X, b.item.W, x, 91*scale)
		}
	}
	inside(t, all, Setting{})
}

// The scale names months where there is room for them, and fewer days the longer it is.
func TestTicks(t *testing.T) {
	for days, want := range map[int]string{40: "Jan Feb", 200: "Jan Apr Jul", 700: "Jan Apr Jul Oct Jan Apr Jul Oct",
		900: "Jan Jul Jan Jul Jan", 4500: "Jan Jan Jan Jan Jan Jan Jan Jan Jan Jan Jan Jan Jan"} {
		s := scale{from: period.Date(2026, 1, 1), to: period.Date(2026, 1, 1) + period.Day(days)}
		var got []string
		for _, d := range s.ticks() {
			got = append(got, d.Time().Format("Jan"))
		}
		if strings.Join(got, " ") != want {
			t.Errorf("%d days have the ticks %v", days, got)
		}
	}
}

// What was done to the figures is on paper whole, however long it is, with a cover and without.
func TestWhatWasDoneIsNeverCut(t *testing.T) {
	d := shownAs(t, report.View{Show: report.Table, Says: strings.Repeat("said of the view ", 60)},
		many(5, func(int) string { return "none" })...)
	var filters []string
	for n := range 400 {
		filters = append(filters, fmt.Sprintf("place-%03d", n))
	}
	d.Sentence = "Of which " + strings.Join(filters, ", ") + "."
	d.Notes = []string{strings.Repeat("noted by the author ", 40)}
	d.Values = []document.Value{{Label: "Place", Says: strings.Join(filters, "; ")}}
	d.Columns = []document.Meaning{{Column: "Weight", Says: strings.Repeat("meant by it ", 2000)}}
	for _, s := range []Setting{{}, {Cover: true}, {Size: "a5", Orientation: "landscape", Cover: true}, {Margin: 50}} {
		all := pages(t, d, s)
		said := words(all...)
		for text, times := range map[string]int{"place-000": 1, "place-399": 1, "said of the view": 60, "noted by the": 40,
			"meant by it": 1000, "Run by runa": 1, d.Seal: 1} {
			if s.Cover && text == "Run by runa" {
				text = "by runa on"
			}
			within := said
			if text == d.Seal { // which may be longer than a line
				within = strings.ReplaceAll(said, " ", "")
			}
			if got := strings.Count(within, text); got < times {
				t.Errorf("%+v: %q is there %d times instead of %d", s, text, got, times)
			}
		}
		if s.Cover && !slices.ContainsFunc(all, func(p *Page) bool { return has(p, "Views") }) {
			t.Errorf("%+v: what comes whole onto the next page goes on there", s)
		}
		if !slices.ContainsFunc(all, func(p *Page) bool { return has(p, "K-004") }) {
			t.Errorf("%+v: the rows are not there", s)
		}
		inside(t, all, s)
	}
}

// Every kind of view stays within the page, on every paper.
func TestNothingLeavesThePage(t *testing.T) {
	texts := func(n int) string { return strings.Repeat("a longer note ", n%9) }
	for _, v := range []report.View{{Show: report.Table}, {Show: report.Form},
		{Show: report.Crosstab, Down: []string{"name"}, Across: []string{"month(began)"}, Cells: []string{"kg"}},
		{Show: report.Timeline, Start: "began", End: "ends", Label: "name"},
		{Show: report.Chart, Drawn: "bar", Levels: []string{"month(began)"}, Cells: []string{"kg"}},
		{Show: report.Chart, Drawn: "pie", Levels: []string{"month(began)"}, Cells: []string{"kg"}},
	} {
		for _, size := range Sizes {
			for _, lies := range Orientations {
				s := Setting{Size: size, Orientation: lies, Margin: 8}
				inside(t, pages(t, shownAs(t, v, many(33, texts)...), s), s)
			}
		}
	}
}

// A document that nobody could read on paper ends with what to do instead.
func TestTooManyPages(t *testing.T) {
	p := &press{ctx: t.Context(), document: &document.Document{}, setting: Setting{Size: "a5", Margin: 10},
		emit: func(*Page) error { return nil }, number: MostPages}
	if err := errors.Join(p.turn(false), p.turn(false)); !errors.Is(err, ErrTooManyPages) {
		t.Errorf("got %v", err)
	}
}

// The code at the end leads to the result, and the seal is written whole beside it.
func TestTheEndLeadsToTheResult(t *testing.T) {
	d := shownAs(t, report.View{Show: report.Table}, keeper(1, ""))
	all := pages(t, d, Setting{})
	last := all[len(all)-1]
	if !has(last, "https://mantilla.example/results/R-000007") || !strings.Contains(words(last), d.Seal) {
		t.Errorf("the last page says %s", words(last))
	}
	leads := func(i Item) bool { return i.Kind == Link && strings.HasSuffix(i.Text, "/R-000007") }
	if !slices.ContainsFunc(last.Items, leads) {
		t.Fatal("nothing leads to the result")
	}
	d.Base = ""
	if all := pages(t, d, Setting{}); has(all[0], "Seal") {
		t.Error("a document without an address tells one")
	}
}

// A drawing is turned, moved and made larger as the plotting library asks, and comes back.
func TestCanvas(t *testing.T) {
	c := &canvas{}
	c.state = state{scaleX: 1, scaleY: 1}
	c.Push()
	c.Translate(vg.Point{X: 10, Y: 20})
	c.Scale(2, 3)
	x0, y0 := c.at(vg.Point{})
	x1, y1 := c.at(vg.Point{X: 1, Y: 1})
	if math.Abs(x1-x0-2) > 1e-9 || math.Abs(math.Abs(y1-y0)-3) > 1e-9 {
		t.Errorf("a point became %g, %g from %g, %g", x1, y1, x0, y0)
	}
	c.Pop()
	c.Rotate(math.Pi / 2)
	x0, y0 = c.at(vg.Point{})
	x1, y1 = c.at(vg.Point{X: 5})
	if math.Abs(x1-x0) > 1e-9 || math.Abs(math.Abs(y1-y0)-5) > 1e-9 {
		t.Errorf("turned it is %g, %g", x1-x0, y1-y0)
	}
	var arc vg.Path
	arc.Move(vg.Point{X: 10})
	arc.Arc(vg.Point{}, 10, 0, 2*math.Pi)
	for _, step := range c.steps(arc) {
		if step.Op == 'z' {
			continue
		}
		if r := math.Hypot(step.X-x0, step.Y-y0); math.Abs(r-10) > 1e-6 {
			t.Fatalf("a point of the circle is %g from its centre", r)
		}
	}
}
