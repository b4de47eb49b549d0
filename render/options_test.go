package render

import (
	"bytes"
	"strings"
	"testing"

	"mantilla/core/ask"
)

func TestCSVOptions(t *testing.T) {
	columns := ask.Changes{Columns: []string{"name", "kg"}, Filters: []string{"name~=1"}}
	for name, c := range map[string]struct {
		options Options
		want    string
	}{
		"usual": {Options{}, "Name,\"Weight, kg\"\r\n'=1+1,2.750\r\n"},
		"raw":   {Options{Table: TableForm{Raw: true}}, "Name,\"Weight, kg\"\r\n=1+1,2.750\r\n"},
		"continent": {Options{Table: TableForm{Separator: "semicolon", Decimal: "comma"}},
			"Name;Weight, kg\r\n'=1+1;2,750\r\n"},
		"tab":  {Options{Table: TableForm{Separator: "tab", Headings: "names"}}, "name\tkg\r\n'=1+1\t2.750\r\n"},
		"bar":  {Options{Table: TableForm{Separator: "bar", Headings: "none"}}, "'=1+1|2.750\r\n"},
		"mark": {Options{Table: TableForm{Mark: true, Headings: "none"}}, "\ufeff'=1+1,2.750\r\n"},
		"told": {Options{Told: true, Table: TableForm{Headings: "none"}},
			"Made rows\r\nRows of 2026. Of which name with “=1” in it: 1 of 6 rows.\r\nR-000007\r\n\r\n'=1+1,2.750\r\n"},
	} {
		var b bytes.Buffer
		if err := write(&b, "csv", c.options, lay(t, columns)); err != nil || b.String() != c.want {
			t.Errorf("%s: got %q, %v; want %q", name, b.String(), err, c.want)
		}
	}
}

// Texts that a spreadsheet could take for formulas, and such as it does not.
func TestTextsThatCouldRun(t *testing.T) {
	for text, want := range map[string]bool{"=1": true, "+1": true, "-1": true, "@a": true, "\uff1d1": true,
		"\uff0b1": true, "\uff20a": true, "\n=1": true, " =1": true, "\u3000=1": true,
		"\tx": true, "\rx": true, "\nx": true, "": false, "a=1": false, " a": false, "1-2": false} {
		if Runs(text) != want {
			t.Errorf("%q: %t", text, !want)
		}
	}
}

func TestOptionsThatContradict(t *testing.T) {
	for want, o := range map[string]Options{
		"a comma cannot be": {Table: TableForm{Decimal: "comma"}}, "separator:": {Table: TableForm{Separator: "dash"}},
		"headings:": {Table: TableForm{Headings: "few"}},
	} {
		if err := write(&bytes.Buffer{}, "csv", o, lay(t, ask.Changes{})); err == nil ||
			!strings.Contains(err.Error(), want) {
			t.Errorf("want %q, got %v", want, err)
		}
	}
	for _, format := range []string{"svg", "png"} {
		if err := write(&bytes.Buffer{}, format, Options{}, lay(t, ask.Changes{})); err == nil ||
			!strings.Contains(err.Error(), "only charts") {
			t.Errorf("%s of rows: %v", format, err)
		}
	}
}

func TestSafeNames(t *testing.T) {
	for text, want := range map[string]string{
		"Intake / lots: 2026": "Intake lots 2026", "con": "report con", "": "report ", "..\\..\\x": "x", "a\tb\x00c": "a b c",
		"Lórrin “q”": "Lórrin “q”", " end. ": "end",
	} {
		if got := SafeName(text); got != want {
			t.Errorf("%q: got %q, want %q", text, got, want)
		}
	}
	if got := SafeName(strings.Repeat("é", 400)); len(got) > 180 || !strings.HasSuffix(got, "é") {
		t.Errorf("a long name is %d bytes", len(got))
	}
	if got := FileName("{report} {unknown} {date}", map[string]string{"report": "a/b", "date": "2026-10-15"},
		"pdf"); got != "a b 2026-10-15.pdf" {
		t.Errorf("got %q", got)
	}
}

func TestTextAndPage(t *testing.T) {
	open := 2
	s := lay(t, ask.Changes{Group: []string{"ok"}, Open: &open, Columns: []string{"name", "kg"}})
	var text, page bytes.Buffer
	if err := write(&text, "text", Options{}, s); err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"OK      Name                   Weight, kg", "no                                  3.500",
		"        plain                      −0.250", "Total                              11.750"} {
		if !strings.Contains(text.String(), want) {
			t.Errorf("%q is not in\n%s", want, text.String())
		}
	}
	if err := write(&page, "html", Options{}, s); err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{"<h1>Made rows</h1>", `with &#34;quotes&#34;, commas`, `<td class="n">11.750</td>`,
		"<dt>Seal</dt>", "@media print"} {
		if !strings.Contains(page.String(), want) {
			t.Errorf("%q is not in the page", want)
		}
	}
	if rows := strings.Count(page.String(), `<tr class="row`); rows != 6 {
		t.Errorf("%d rows", rows)
	}
}
