package sheet

import (
	"bytes"
	"context"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/fold"
	"mantilla/core/frame"
	"mantilla/core/table"
)

// Found is where a text was found: the line, the column (-1 for the name of a
// group), which of the matching lines it is, from 1, and how many there are.
type Found struct {
	Line, Column int
	At, Of       int
}

// found are the lines that hold a text, in order.
type found []uint32

// Bytes returns how much memory the lines take.
func (f found) Bytes() int { return 4 * len(f) }

// Find finds the next line that holds a text, as it is shown and whatever the
// case and accents, from a line on, or the one before it when back is set; at
// an end it goes on from the other. Of is 0 where no line has it. Lines within
// folded groups are not looked at.
func (s *Sheet) Find(ctx context.Context, text string, from int, back bool) (Found, error) {
	sought := fold.Text(strings.TrimSpace(text))
	if sought == "" {
		return Found{}, nil
	}
	kept, err := s.of.Setting.Cache.Get(fmt.Sprintf("%s/find%q/%q/%v/%q/%s", s.of.Key, sought, s.of.Shown, s.Sort,
		s.changes.Fold,
		s.laid()), func() (table.Sized, error) {
		return s.matching(ctx, sought)
	})
	if err != nil {
		return Found{}, err
	}
	lines := kept.(found)
	if len(lines) == 0 {
		return Found{}, nil
	}
	at, exact := slices.BinarySearch(lines, uint32(max(from, 0)))
	if back && !exact {
		at--
	}
	at = (at + len(lines)) % len(lines)
	out := Found{Line: int(lines[at]), At: at + 1, Of: len(lines), Column: -1}
	read, err := s.Read(ctx, out.Line, 1)
	if err != nil || len(read) == 0 {
		return out, err
	}
	for i, v := range read[0].Cells {
		if s.holds(v, sought) {
			out.Column = i
			break
		}
	}
	return out, nil
}

// laid tells apart what decides which lines a sheet has.
func (s *Sheet) laid() string {
	v := s.of.As
	return table.Digest(fmt.Sprintf("%q %q %q %q %d %d %v %q %q %q %v %v", v.Levels, v.Down, v.Across, v.Cells,
		v.Open, v.Limit, v.Show, v.Drawn, v.Zeros, v.Names, v.Stacked, v.Fill))
}

func (s *Sheet) holds(v frame.Value, sought string) bool {
	return !v.Null && strings.Contains(fold.Text(s.shownText(v)), sought)
}

// shownText is the text of a cell with an ordinary minus sign.
func (s *Sheet) shownText(v frame.Value) string {
	return strings.ReplaceAll(s.KeyText(v), "−", "-")
}

// matching finds all lines that hold a text.
func (s *Sheet) matching(ctx context.Context, sought string) (found, error) {
	if s.cross != nil || s.outline != nil {
		return s.matchingLines(ctx, sought)
	}
	lines, err := s.of.Rows.Find(ctx, s.order, s.of.PlacesOf(s.of.Shown), sayings{s, sought})
	return found(lines), err
}

// sayings are values that hold a text as they are shown.
type sayings struct {
	sheet *Sheet
	text  string
}

// In tells of the cells of a kind whether they hold the text. Numbers have no letters,
// and are written without a text being made of each.
func (x sayings) In(field frame.Field) func(c *frame.Column, row int) bool {
	if !field.Kind.Numeric() || field.Names != nil {
		return func(c *frame.Column, row int) bool { return x.sheet.holds(c.Value(field, row), x.text) }
	}
	if strings.Trim(x.text, "-0123456789.,’\u00a0") != "" {
		return nil
	}
	sought, form := []byte(x.text), x.sheet.of.Setting.Form
	var plain, text []byte
	return func(c *frame.Column, row int) bool {
		plain = frame.AppendPlain(plain[:0], field.Kind, field.Scale, c.Int(row))
		text = form.AppendGrouped(text[:0], plain)
		return bytes.Contains(text, sought)
	}
}

func (s *Sheet) matchingLines(ctx context.Context, sought string) (found, error) {
	out, at := found{}, 0
	err := s.LinesInTurn(ctx, func(lines []Line) error {
		for _, line := range lines {
			hit := line.Kind != RowLine && s.holds(line.Key, sought)
			for _, v := range line.Cells {
				hit = hit || s.holds(v, sought)
			}
			if hit {
				out = append(out, uint32(at))
			}
			at++
		}
		return nil
	})
	return out, err
}

// Outlined is an entry of the outline: a group and the line where it begins.
type Outlined struct {
	Name  string
	Path  string
	Level int
	Size  int
	Line  int
}

// Outline lists the groups of a sheet in its order, at most so many; the
// deepest levels are left out first.
func (s *Sheet) Outline(most int) (out []Outlined, more bool) {
	if s.outline == nil || s.Chart != nil {
		return nil, false
	}
	each := 1
	if s.cross != nil && s.cross.stacked {
		each = len(s.cross.measures)
	}
	counts := make([]int, len(s.outline.Groups.Levels)+1)
	for _, b := range s.outline.blocks {
		if !b.rows {
			counts[max(b.level, 1)]++
		}
	}
	deepest, n := 1, counts[1]
	for deepest+1 < len(counts) && n+counts[deepest+1] <= most {
		deepest++
		n += counts[deepest]
	}
	for _, b := range s.outline.blocks {
		if b.rows || b.level > deepest {
			continue
		}
		if len(out) == most {
			return out, true
		}
		line := s.groupLine(b)
		out = append(out, Outlined{s.KeyText(line.Key), line.Path, line.Level, line.Size, b.first * each})
	}
	return out, false
}
