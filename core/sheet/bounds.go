package sheet

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Bounds of what a reader may ask of a sheet. They are far beyond what can be
// read, and keep one reader from taking what others need.
const (
	mostAdded   = 50     // own columns
	mostFilters = 100    // filters
	mostLevels  = 12     // levels of groups, or across
	mostChosen  = 2_000  // columns named in one list
	mostFolded  = 10_000 // groups folded by hand
	mostTyped   = 20_000 // characters of one filter, formula or name
	mostPlaces  = 2_000  // places of a chart
	mostCells   = 20_000 // figures of a chart
)

// check refuses changes that ask for more than the bounds.
func (c *Changes) check() error {
	for _, part := range []struct {
		name string
		list []string
		most int
	}{
		{"add", c.Add, mostAdded}, {"filter", c.Filters, mostFilters}, {"group", c.Group, mostLevels},
		{"down", c.Down, mostLevels}, {"across", c.Across, mostLevels}, {"columns", c.Columns, mostChosen},
		{"cells", c.Cells, mostChosen}, {"sort", c.Sort, mostFilters}, {"open", c.Fold, mostFolded},
	} {
		if len(part.list) > part.most {
			return &Fault{part.name, fmt.Errorf("%d are too many here; at most %d can be read", len(part.list), part.most)}
		}
		for _, text := range part.list {
			if len(text) > mostTyped {
				return &Fault{part.name,
					fmt.Errorf("%q is too long; at most %d characters can be read", shortened(text), mostTyped)}
			}
			if !utf8.ValidString(text) {
				return &Fault{part.name, fmt.Errorf("%q is not text in UTF-8", shortened(text))}
			}
		}
	}
	return nil
}

func shortened(text string) string {
	if len(text) <= 60 {
		return text
	}
	return strings.ToValidUTF8(text[:60], "") + "…"
}

// uncapitalised writes a label as it stands within a sentence.
func uncapitalised(label string) string { return firstAs(label, unicode.ToLower) }

func capitalised(label string) string { return firstAs(label, unicode.ToUpper) }

func firstAs(label string, change func(rune) rune) string {
	first, size := utf8.DecodeRuneInString(label)
	if size == 0 {
		return ""
	}
	return string(change(first)) + label[size:]
}
