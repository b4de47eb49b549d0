package render

import (
	"errors"
	"fmt"

	"github.com/xuri/excelize/v2"

	"mantilla/core/drawn"
	"mantilla/core/frame"
	"mantilla/core/sheet"
	"mantilla/render/chart"
)

// chartInk is the colour of a chart's letters.
const chartInk = "2A2523"

// chartWide and chartTall are the pixels of a chart in a workbook; chartColumns
// are the columns that it covers.
const (
	chartWide, chartTall = 760, 420
	chartColumns         = 12
	chartRow             = 2  // where it begins
	rowPixels            = 17 // of a row, at the least
)

// nativeChart puts a chart beside its figures that the spreadsheet draws from them,
// in the form and the colours that it has in the console.
func (x *worksheet) nativeChart(last int) error {
	c := x.sheet.Chart
	if last < x.first {
		return nil
	}
	out := &excelize.Chart{
		Title:        chartTitle(x.sheet.View.Title),
		Dimension:    excelize.ChartDimension{Width: chartWide, Height: x.chartHeight()},
		Legend:       excelize.ChartLegend{Position: "bottom"},
		ShowBlanksAs: "gap",
		VaryColors:   new(c.Form == "pie"),
		Format:       excelize.GraphicOptions{AltText: x.sheet.View.Title + ": " + c.Says(x.document.Form, 1000)},
		XAxis: excelize.ChartAxis{
			Title:             chartTitle(c.X.Label),
			Font:              excelize.Font{Color: chartInk},
			TickLabelPosition: excelize.ChartTickLabelLow,
		},
		YAxis: excelize.ChartAxis{Title: chartTitle(c.Y.Label), Font: excelize.Font{Color: chartInk}, MajorGridLines: true},
	}
	switch {
	case c.Form == "scatter":
		out.Type = excelize.Scatter
		out.Legend.Position = "none"
		if f := chartDates[c.X.Field.Kind]; f != "" {
			out.XAxis.NumFmt = excelize.ChartNumFmt{CustomNumFmt: f}
		}
		out.Series = []excelize.ChartSeries{{Name: x.cellAt(3, x.first-1), Categories: x.span(2, last),
			Values: x.span(3, last),
			Fill:   filledWith(0), Line: excelize.LineOptions{Type: excelize.LineNone},
			Marker: excelize.ChartMarker{Symbol: "circle", Size: 5, Fill: filledWith(0)}}}
	default:
		out.Type, out.GapWidth = x.chartType(c)
		for i := range c.Series {
			s := excelize.ChartSeries{
				Name:       x.cellAt(i+2, x.first-1),
				Categories: x.span(1, last),
				Values:     x.span(i+2, last),
				Fill:       filledWith(i),
			}
			if c.Form == "line" {
				s.Line = excelize.LineOptions{Type: excelize.LineSolid, Width: 2, Fill: filledWith(i)}
			}
			if c.Form == "pie" {
				s.Fill = excelize.Fill{} // a colour for each place
			}
			out.Series = append(out.Series, s)
		}
		if len(out.Series) == 1 && c.Form != "pie" {
			out.Legend.Position = "none"
		}
		out.XAxis.ReverseOrder = chart.Lies(c) // from the top, as they are read
	}
	if len(out.Series) == 0 {
		return nil
	}
	over := x.limitLines(out, last)
	at, err := excelize.CoordinatesToCellName(len(x.row)+2, chartRow)
	if err != nil {
		return err
	}
	if err := x.file.AddChart(x.name, at, out, over...); err != nil {
		return fmt.Errorf("drawing %s: %w", x.sheet.View.Title, err)
	}
	return nil
}

// chartDates are how days and moments stand at an axis.
var chartDates = map[frame.Kind]string{frame.Date: "d mmm yyyy", frame.Timestamp: "d mmm yyyy hh:mm"}

// limited are the columns of a chart's figures with its limits beside them, which a
// spreadsheet needs to draw them.
func limited(c *drawn.Chart, columns []sheet.GridColumn) []sheet.GridColumn {
	for _, m := range c.Marks {
		columns = append(columns, sheet.GridColumn{Heading: m.Label, Field: c.Y.Field})
	}
	return columns
}

// limitLines draws the limits of a chart as lines over it: beside lines and points,
// or as a second chart over columns. Bars that lie and slices can have none.
func (x *worksheet) limitLines(out *excelize.Chart, last int) (over []*excelize.Chart) {
	marks := x.sheet.Chart.Marks
	if len(marks) == 0 || chart.Lies(x.sheet.Chart) || out.Type == excelize.Pie {
		return nil
	}
	out.Legend.Position = "bottom"
	first := len(x.columns) - len(marks) + 1
	var lines []excelize.ChartSeries
	for i := range marks {
		lines = append(lines,
			excelize.ChartSeries{Name: x.cellAt(first+i, x.first-1), Categories: out.Series[0].Categories,
				Values: x.span(first+i, last),
				Line: excelize.LineOptions{
					Type:  excelize.LineSolid,
					Dash:  excelize.LineDashDash,
					Width: 1.25,
					Fill:  filledWith(len(out.Series) + i),
				},
				Marker: excelize.ChartMarker{Symbol: "none"}})
	}
	if out.Type == excelize.Line || out.Type == excelize.Scatter {
		out.Series = append(out.Series, lines...)
		return nil
	}
	return []*excelize.Chart{{Type: excelize.Line, Series: lines}}
}

func (x *worksheet) chartHeight() uint {
	return uint(max(chartTall, chart.Height(x.sheet.Chart, chartTall)))
}

func (x *worksheet) chartType(c *drawn.Chart) (form excelize.ChartType, gap *uint) {
	switch {
	case c.Form == "pie":
		return excelize.Pie, nil
	case c.Form == "line":
		return excelize.Line, nil
	case c.Form == "area":
		return excelize.AreaStacked, nil
	case c.Form == "histogram":
		return excelize.Col, new(uint(4))
	case chart.Lies(c) && c.Stacked():
		return excelize.BarStacked, nil
	case chart.Lies(c):
		return excelize.Bar, nil
	case c.Stacked():
		return excelize.ColStacked, nil
	}
	return excelize.Col, nil
}

func chartTitle(text string) excelize.ChartTitle {
	return excelize.ChartTitle{Paragraph: []excelize.RichTextRun{{Text: text}}}
}

func filledWith(series int) excelize.Fill {
	return excelize.Fill{Type: "pattern", Pattern: 1, Color: []string{chart.Hex(series)}}
}

// sheetName is the worksheet's name as formulas write it.
func (x *worksheet) sheetName() string { return "'" + x.name + "'" }

func (x *worksheet) cellAt(column, row int) string {
	cell, _ := excelize.CoordinatesToCellName(column, row, true) // a sheet has fewer columns than a spreadsheet
	return x.sheetName() + "!" + cell
}

// span is a column of the figures.
func (x *worksheet) span(column, last int) string {
	to, _ := excelize.CoordinatesToCellName(column, last, true)
	return x.cellAt(column, x.first) + ":" + to
}

// onPaper says what is printed, and that the headings stand on every page.
func (x *worksheet) onPaper() error {
	columns, rows := len(x.row), max(x.at, x.first)
	if x.sheet.Chart != nil {
		columns, rows = columns+1+chartColumns, max(rows, chartRow+int(x.chartHeight())/rowPixels+1)
	}
	corner, err := excelize.CoordinatesToCellName(columns, rows, true)
	if err != nil {
		return err
	}
	return errors.Join(
		x.file.SetDefinedName(&excelize.DefinedName{
			Name:     "_xlnm.Print_Area",
			Scope:    x.name,
			RefersTo: x.cellAt(1, 1) + ":" + corner,
		}),
		x.file.SetDefinedName(&excelize.DefinedName{
			Name:     "_xlnm.Print_Titles",
			Scope:    x.name,
			RefersTo: fmt.Sprintf("%s!$%d:$%d", x.sheetName(), x.first-1-x.over(), x.first-1),
		}))
}
