package chart

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"image/png"
	"io"
	"strings"
	"testing"

	"mantilla/core/drawn"
	"mantilla/core/frame"
	"mantilla/core/shown"
)

func value(n int64) frame.Value {
	return frame.Value{Kind: frame.Decimal, Number: frame.Exact(n, 0)}
}

// charts are one of every form.
func charts() map[string]*drawn.Chart {
	places := []drawn.Place{{Name: "Hollin"}, {Name: "Marr"}, {Name: "Ovenden Reach with a name that goes on and on"}}
	one := []drawn.Series{{Label: "Weight", Figures: []frame.Value{value(1200), {Null: true}, value(-300)}}}
	two := append(one, drawn.Series{Label: "Value", Figures: []frame.Value{value(10), value(20), value(30)}})
	text, number := drawn.Axis{Label: "District", Field: frame.Field{Kind: frame.Text}},
		drawn.Axis{Label: "Weight, kg", Field: frame.Field{Kind: frame.Decimal}}
	month := drawn.Axis{Label: "Month", Field: frame.Field{Kind: frame.Date, Grain: "month"}}
	return map[string]*drawn.Chart{
		"bar":     {Form: "bar", X: text, Y: number, Places: places, Series: two},
		"upright": {Form: "bar", X: month, Y: number, Places: places, Series: one},
		"line": {
			Form:   "line",
			X:      month,
			Y:      number,
			Places: places,
			Series: two,
			Marks:  []drawn.Mark{{Label: "limit", Value: value(500)}},
		},
		"area":      {Form: "area", X: month, Y: number, Places: places, Series: one},
		"histogram": {Form: "histogram", X: number, Y: number, Places: places, Series: one},
		"pie": {
			Form:   "pie",
			X:      text,
			Y:      number,
			Places: places,
			Series: []drawn.Series{{Figures: []frame.Value{value(30), value(50), value(20)}}},
		},
		"scatter": {
			Form:   "scatter",
			X:      number,
			Y:      number,
			Points: []drawn.Point{{X: value(1), Y: value(2)}, {X: value(3), Y: value(5)}},
		},
	}
}

func drawnSVG(t *testing.T, c *drawn.Chart) string {
	t.Helper()
	var b bytes.Buffer
	if err := SVG(&b, c, shown.Form{}, 600, 300); err != nil {
		t.Fatal(err)
	}
	return b.String()
}

// TestEveryFormIsDrawn holds that each drawing is XML that a browser reads, and
// names what it shows.
func TestEveryFormIsDrawn(t *testing.T) {
	for form, c := range charts() {
		svg := drawnSVG(t, c)
		texts, paths := "", 0
		for decoder := xml.NewDecoder(strings.NewReader(svg)); ; {
			token, err := decoder.Token()
			if errors.Is(err, io.EOF) {
				break
			}
			if err != nil {
				t.Fatalf("%s: %v", form, err)
			}
			switch x := token.(type) {
			case xml.CharData:
				texts += string(x) + "|"
			case xml.StartElement:
				if x.Name.Local == "path" {
					paths++
				}
			}
		}
		want := []string{"Hollin", "Marr"}
		if form == "scatter" {
			want = []string{"Weight, kg"}
		}
		if form == "pie" {
			want = []string{"Hollin  30.0 %", "Marr  50.0 %"}
		}
		if len(c.Series) > 1 {
			want = append(want, "Weight", "Value")
		}
		for _, m := range c.Marks {
			want = append(want, m.Label)
		}
		for _, w := range want {
			if !strings.Contains(texts, w) {
				t.Errorf("%s: %q is not in %s", form, w, texts)
			}
		}
		if paths < 3 {
			t.Errorf("%s: only %d paths", form, paths)
		}
	}
}

func TestLongNamesAreShortened(t *testing.T) {
	if svg := drawnSVG(t, charts()["bar"]); strings.Contains(svg, "goes on and on") ||
		!strings.Contains(svg, "Ovenden Reach with a name that go…") {
		t.Error("the long name is not shortened")
	}
}

// TestAMissingFigureIsAGap draws a line of three places whose middle has no
// figure: there is no line from the first to the last.
func TestAMissingFigureIsAGap(t *testing.T) {
	c := charts()["line"]
	c.Series, c.Marks = c.Series[:1], nil
	c.Series[0].Figures = []frame.Value{value(1), {Null: true}, value(3)}
	with := strings.Count(drawnSVG(t, c), "stroke:#7D3369")
	c.Series[0].Figures[1] = value(2)
	if whole := strings.Count(drawnSVG(t, c), "stroke:#7D3369"); whole <= 0 || with == whole {
		t.Errorf("%d lines with a gap, %d without", with, whole)
	}
}

func TestPictureIsSharp(t *testing.T) {
	var b bytes.Buffer
	if err := PNG(&b, charts()["bar"], shown.Form{}, 600, 300); err != nil {
		t.Fatal(err)
	}
	picture, err := png.Decode(&b)
	if err != nil {
		t.Fatal(err)
	}
	if size := picture.Bounds().Size(); size.X != 1200 || size.Y != 600 {
		t.Errorf("the picture is %v", size)
	}
	if r, g, bl, _ := picture.At(1, 599).RGBA(); r>>8 != 255 || g>>8 != 255 || bl>>8 != 255 {
		t.Error("its ground is not white")
	}
}

func TestHeight(t *testing.T) {
	c := charts()["bar"]
	few := Height(c, 250)
	for i := range 40 {
		c.Places = append(c.Places, drawn.Place{Name: fmt.Sprint(i)})
	}
	if many := Height(c, 250); many <= few || Height(charts()["line"], 250) != 250 {
		t.Errorf("bars of 3 places are %g high, of 43 %g", few, many)
	}
}

func TestGroupedTicks(t *testing.T) {
	for v, want := range map[float64]string{0: "0", 1234567: "1,234,567", -1200.5: "−1,200.5", 0.1 + 0.2: "0.3",
		999: "999"} {
		if got := (shown.Form{}).Grouped(rounded(v)); got != want {
			t.Errorf("%g: got %q, want %q", v, got, want)
		}
	}
}
