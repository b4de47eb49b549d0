package paper

import (
	"fmt"
	"slices"
)

// Setting is how pages are to look.
type Setting struct {
	Size        string  // a3, a4, a5, letter or legal
	Orientation string  // portrait, landscape, or auto: as the widest sheet needs
	Margin      float64 // in millimetres
	// width: smaller until all columns fit; split: over several pages; auto: smaller as long as it can be read, then split
	Fit   string
	Lead  int // leading columns that are repeated where columns are split; 0 for those that tell rows apart
	Cover bool
}

// Sizes, orientations and ways to fit, as they are written.
var (
	Sizes        = []string{"a4", "a3", "a5", "letter", "legal"}
	Orientations = []string{"auto", "portrait", "landscape"}
	Fits         = []string{"auto", "width", "split"}
)

// sizes are widths and heights upright, in points (ISO 216; ANSI/ASME Y14.1).
var sizes = map[string][2]float64{"a3": {841.89, 1190.55}, "a4": {595.28, 841.89}, "a5": {419.53, 595.28},
	"letter": {612, 792}, "legal": {612, 1008}}

const perMillimetre = 72 / 25.4

// Check fills in what is left out and says what is wrong.
func (s *Setting) Check() error {
	for _, f := range []struct {
		name  string
		value *string
		known []string
	}{{"paper", &s.Size, Sizes}, {"orientation", &s.Orientation, Orientations}, {"fit", &s.Fit, Fits}} {
		if *f.value == "" {
			*f.value = f.known[0]
		}
		if !slices.Contains(f.known, *f.value) {
			return fmt.Errorf("%s: %q is none of %v", f.name, *f.value, f.known)
		}
	}
	if s.Margin == 0 {
		s.Margin = 14
	}
	switch {
	case s.Margin < 5 || s.Margin > 60:
		return fmt.Errorf("margin: %g mm is not from 5 to 60", s.Margin)
	case s.Lead < 0 || s.Lead > 20:
		return fmt.Errorf("lead: %d is not a number of columns from 0 to 20", s.Lead)
	}
	return nil
}

// area is what lies of a page within its margins, below the running head and
// above the foot.
type area struct {
	width, height            float64 // of the page
	left, right, top, bottom float64
}

func (s *Setting) area(landscape bool) area {
	size := sizes[s.Size]
	if landscape {
		size[0], size[1] = size[1], size[0]
	}
	m := s.Margin * perMillimetre
	return area{size[0], size[1], m, size[0] - m, m + 16, size[1] - m - 16}
}

func (f area) across() float64 { return f.right - f.left }
