package render

import (
	"archive/zip"
	"bytes"
	"html"
	"io"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"mantilla/core/ask"
	"mantilla/core/report"
)

// TestWorkbooksDrawTheirCharts reads the charts of a workbook: each draws the cells
// that hold its figures, under their headings, in the form that the view has.
func TestWorkbooksDrawTheirCharts(t *testing.T) {
	for name, c := range map[string]struct {
		view   report.View
		form   string   // the element of the drawing and how its series stand
		values []string // the cells that are drawn
		marked bool
	}{
		"columns": {report.View{Drawn: "bar", Levels: []string{"day"}, Cells: []string{"kg", "pay"}},
			"barChart clustered", []string{"B2:B3", "C2:C3"}, false},
		"parts of columns": {report.View{Drawn: "bar", Levels: []string{"day", "ok"}, Cells: []string{"kg"}},
			"barChart stacked", []string{"B2:B3", "C2:C3", "D2:D3"}, false},
		"bars": {report.View{Drawn: "bar", Levels: []string{"name"}, Cells: []string{"kg"}}, "barChart", []string{"B2:B7"},
			false},
		"a line with its limit": {report.View{
			Drawn:  "line",
			Levels: []string{"day"},
			Cells:  []string{"kg"},
			Marks:  []report.Mark{{At: "5", Label: "Upper"}},
		},
			"lineChart", []string{"B2:B3", "C2:C3"}, true},
		"columns with a limit": {report.View{
			Drawn:  "bar",
			Levels: []string{"day"},
			Cells:  []string{"kg"},
			Marks:  []report.Mark{{At: "5", Label: "Upper"}},
		},
			"barChart", []string{"B2:B3", "C2:C3"}, true},
		"slices": {report.View{Drawn: "pie", Levels: []string{"day"}, Cells: []string{"kg"}}, "pieChart", []string{"B2:B3"},
			false},
		"points": {report.View{Drawn: "scatter", X: "n", Y: "kg", Label: "name"}, "scatterChart", []string{"C2:C6"}, false},
	} {
		t.Run(name, func(t *testing.T) {
			c.view.ID, c.view.Title, c.view.Of, c.view.Show = "c", "It's drawn", "d", report.Chart
			var b bytes.Buffer
			if err := write(&b, "xlsx", Options{}, layView(t, c.view), lay(t, ask.Changes{})); err != nil {
				t.Fatal(err)
			}
			drawn := html.UnescapeString(inside(t, b.Bytes(), "xl/charts/chart1.xml"))
			var values []string
			for _, m := range regexp.MustCompile(`<(?:val|yVal)><numRef><f>'It’s drawn'!([^<]+)</f>`).FindAllStringSubmatch(
				drawn, -1) {
				values = append(values, strings.ReplaceAll(m[1], "$", ""))
			}
			form, stand, _ := strings.Cut(c.form, " ")
			if !strings.Contains(drawn, "<"+form+">") || stand != "" && !strings.Contains(drawn, `<grouping val="`+stand+`">`) ||
				!slices.Equal(values, c.values) {
				t.Errorf("draws %v in\n%.300s", values, drawn)
			}
			book, err := excelize.OpenReader(bytes.NewReader(b.Bytes()))
			if err != nil {
				t.Fatal(err)
			}
			cells, err := book.GetRows("It’s drawn")
			if err != nil {
				t.Fatal(err)
			}
			last := len(cells[0]) - 1
			if (cells[0][last] == "Upper") != c.marked || c.marked && cells[1][last] != "5.000" {
				t.Errorf("the limit: %q", cells[:2])
			}
			names := map[string]string{}
			for _, n := range book.GetDefinedName() {
				names[n.Scope+" "+n.Name] = n.RefersTo
			}
			if got := names["It’s drawn _xlnm.Print_Titles"]; got != "'It’s drawn'!$1:$1" {
				t.Errorf("repeats %q of %v", got, names)
			}
			if got := names["A (view)  of too many letters f _xlnm.Print_Area"]; got != "'A (view)  of too many letters "+
				"f'!$A$1:$G$8" {
				t.Errorf("prints %q of %v", got, names)
			}
		})
	}
}

// inside is the text of a file within an archive.
func inside(t *testing.T, archive []byte, name string) string {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(archive), int64(len(archive)))
	if err != nil {
		t.Fatal(err)
	}
	f, err := z.Open(name)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	text, err := io.ReadAll(f)
	if err != nil {
		t.Fatal(err)
	}
	return string(text)
}
