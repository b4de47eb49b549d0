package paper

import (
	"errors"
	"math"
	"strings"

	"mantilla/core/frame"
	"mantilla/render/document"
)

// How columns are fitted, in points at the full size of letters.
const (
	padding    = 5.0  // at either side of a cell
	widestText = 190  // of a text column before it wraps
	widestWord = 150  // of a text column whose words are not to be cut
	leastText  = 46   // of a text column that gives way
	blankWidth = 96   // of a column to be filled in
	smallest   = 0.74 // of letters that can still be read: 6.3 points
	upright    = 0.86 // what an upright page may shrink letters to before it is turned
	sampled    = 3000 // lines that widths are taken from
)

// columns are the fitted columns of a table.
type columns struct {
	widths    []float64
	size      float64 // of letters
	pad       float64 // at either side of a cell
	landscape bool
	parts     [][]int // the columns of each of the pages that lie side by side
}

var errEnough = errors.New("enough lines seen")

// fit finds widths, the size of letters and the way the page lies.
func (p *press) fit(t *document.Table) (columns, error) {
	natural, least, err := p.wishes(t)
	if err != nil {
		return columns{}, err
	}
	ways := map[string][]bool{"auto": {false, true}, "portrait": {false}, "landscape": {true}}[p.setting.Orientation]
	for i, landscape := range ways {
		across := p.setting.area(landscape).across()
		scale := min(1, across/total(least))
		last := i == len(ways)-1
		switch {
		case scale < upright && !last:
			continue
		case scale < smallest && p.setting.Fit == "auto", scale < 1 && p.setting.Fit == "split":
			return p.split(t, natural, across, landscape), nil
		}
		return columns{shared(natural, least, across, scale), cellSize * scale, padding * scale, landscape,
			[][]int{every(len(natural))}}, nil
	}
	panic("a page lies one way or the other")
}

// wishes are the widths that columns would like and those they need.
func (p *press) wishes(t *document.Table) (natural, least []float64, err error) {
	content, words := make([]float64, len(t.Heads)), make([]float64, len(t.Heads))
	see := func(cells []string, bold bool, named bool) {
		for i, text := range cells {
			if i == 0 && named {
				continue
			}
			w := Width(text, cellSize, bold)
			content[i] = max(content[i], w)
			if t.Heads[i].Kind == frame.Text && strings.IndexByte(text, ' ') >= 0 {
				for word := range strings.FieldsSeq(text) {
					words[i] = max(words[i], Width(word, cellSize, bold))
				}
			} else {
				words[i] = max(words[i], w)
			}
		}
	}
	lines := 0
	names, overflow := 0.0, false
	err = t.Each(p.ctx, func(batch []document.Line) error {
		for _, l := range batch {
			named := t.Named && l.Kind != "row"
			see(l.Cells, named, named)
			if named {
				names = max(names, Width(l.Cells[0], cellSize, true)+float64(max(l.Level-1, 0))*9)
			}
			overflow = overflow || t.Named && l.Kind == "row"
			if lines++; lines == sampled {
				return errEnough
			}
		}
		return nil
	})
	if err != nil && !errors.Is(err, errEnough) {
		return nil, nil, err
	}
	see(t.Total, true, false)
	for row := range t.Over() {
		widenUnder(t, row, content)
		widenUnder(t, row, words)
	}
	if t.Named {
		content[0] = max(content[0], names)
		if overflow { // the names of groups run over the empty cells beside them
			content[0] = min(content[0], 40)
		}
	}
	for i, h := range t.Heads {
		word := 0.0
		for w := range strings.FieldsSeq(h.Text) {
			word = max(word, Width(w, cellSize, true))
		}
		n := max(content[i], word, min(Width(h.Text, cellSize, true), 64))
		l := n
		switch {
		case h.Blank:
			n = max(blankWidth, word)
			l = n
		case !h.Right:
			n = min(n, max(widestText, word))
			l = min(n, max(leastText, min(word, 90), min(words[i], widestWord)))
		}
		natural, least = append(natural, n+2*padding), append(least, l+2*padding)
	}
	return natural, least, nil
}

// shared gives columns their natural width, or less where there is not enough.
func shared(natural, least []float64, across, scale float64) []float64 {
	widths := make([]float64, len(natural))
	want, need := total(natural)*scale, total(least)*scale
	part := 1.0
	if want > across {
		part = max(0, (across-need)/(want-need))
	}
	for i := range widths {
		widths[i] = (least[i] + (natural[i]-least[i])*part) * scale
	}
	return widths
}

// split spreads columns over pages, the leading ones on each.
func (p *press) split(t *document.Table, natural []float64, across float64, landscape bool) columns {
	c := columns{widths: natural, size: cellSize, pad: padding, landscape: landscape}
	lead := p.setting.Lead
	if lead == 0 {
		lead = t.Leading()
	}
	lead = min(lead, len(natural)-1)
	for lead > 0 && total(natural[:lead]) > across/2 {
		lead--
	}
	for at := lead; at < len(natural); {
		part, used := every(lead), total(natural[:lead])
		for at < len(natural) && (len(part) == lead || used+natural[at] <= across) {
			c.widths[at] = min(c.widths[at], across-total(natural[:lead]))
			used += natural[at]
			part = append(part, at)
			at++
		}
		c.parts = append(c.parts, part)
	}
	return c
}

// widenUnder makes columns as wide together as what stands over them, such as the
// name of a month.
func widenUnder(t *document.Table, row int, widths []float64) {
	for n := 0; n < len(t.Heads); {
		end := n + 1
		for end < len(t.Heads) && same(t.Heads[end].Over, t.Heads[n].Over, row) {
			end++
		}
		if over := t.Heads[n].Over; len(over) > row {
			lacking := Width(over[row], cellSize, true) + 1
			for _, w := range widths[n:end] {
				lacking -= w
			}
			for i := n; i < end && lacking > 0; i++ {
				widths[i] += lacking / float64(end-n)
			}
		}
		n = end
	}
}

func total(widths []float64) (sum float64) {
	for _, w := range widths {
		sum += w
	}
	return math.Max(sum, 1)
}

func every(n int) []int {
	all := make([]int, n)
	for i := range all {
		all[i] = i
	}
	return all
}
