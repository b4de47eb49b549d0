package ask

import (
	"strings"
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
)

// Check refuses changes that ask for more than the bounds.
func (c *Changes) Check() error {
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
			return Faultf(part.name, "%d are too many here; at most %d can be read", len(part.list), part.most)
		}
		for _, text := range part.list {
			if len(text) > mostTyped {
				return Faultf(part.name, "%q is too long; at most %d characters can be read", shortened(text), mostTyped)
			}
			if !utf8.ValidString(text) {
				return Faultf(part.name, "%q is not text in UTF-8", shortened(text))
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
