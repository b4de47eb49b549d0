package paper

import (
	"slices"
	"time"

	"mantilla/core/period"
	"mantilla/core/sheet"
)

const laneHeight = 15.0

// timeline prints bars from a first to a last day on a scale of days.
func (p *press) timeline(x *sheet.Sheet) error {
	landscape := p.setting.Orientation != "portrait"
	if err := p.section(x, landscape, 4*laneHeight); err != nil {
		return err
	}
	t := p.document.Read(x)
	label := max(slices.IndexFunc(x.Columns, func(c sheet.Column) bool { return c.ID == x.View.Label }), 0)
	s := &scale{press: p, lanes: p.frame.left + p.frame.across()*0.3}
	first := true
	return x.LinesInTurn(p.ctx, func(lines []sheet.Line) error {
		spans, from, to, err := x.Spans(p.ctx, lines)
		if err != nil {
			return err
		}
		s.from, s.to = from, to
		if first {
			s.heads(t.Heads[label].Text)
			first = false
		}
		for i, l := range lines {
			if p.room() < laneHeight {
				if err := p.turn(landscape); err != nil {
					return err
				}
				s.heads(t.Heads[label].Text)
			}
			s.lane(p.document.Form.Text(l.Cells[label]), l, spans[i])
		}
		return nil
	})
}

// scale places days between the beginning of the lanes and the right margin.
type scale struct {
	*press
	lanes    float64
	from, to period.Day
}

func (s *scale) at(d period.Day) float64 {
	return s.lanes + float64(d-s.from)/float64(s.to-s.from+1)*(s.frame.right-s.lanes)
}

// ticks are the firsts of months, quarters, half years or years, as there is
// room.
func (s *scale) ticks() (days []period.Day) {
	step := 12
	for _, w := range []struct{ days, months int }{{200, 1}, {800, 3}, {4000, 6}} {
		if int(s.to-s.from) < w.days {
			step = w.months
			break
		}
	}
	t := s.from.Time()
	t = time.Date(t.Year(), t.Month(), 1, 0, 0, 0, 0, time.UTC)
	for ; !t.After(s.to.Time()); t = t.AddDate(0, 1, 0) {
		if d := period.Date(t.Year(), t.Month(), 1); d >= s.from && (int(t.Month())-1)%step == 0 {
			days = append(days, d)
		}
	}
	return days
}

func (s *scale) heads(label string) {
	s.y += 12
	s.page.read(Tag{Role: Paragraph})
	s.page.text(s.frame.left+padding, s.y, cellSize, true, Ink, label)
	s.page.decor() // the bars say their days themselves
	for _, d := range s.ticks() {
		name := d.Time().Format("Jan 2006")
		if s.at(d)+Width(name, smallSize, false) < s.frame.right {
			s.page.text(s.at(d)+2, s.y, smallSize, false, Faint, name)
		}
	}
	s.y += 4
	s.page.line(s.frame.left, s.y, s.frame.across(), 0, 0.9, Ink)
}

func (s *scale) lane(name string, l sheet.Line, span sheet.Span) {
	for _, d := range s.ticks() {
		s.page.line(s.at(d), s.y, 0, laneHeight, 0.3, Hair)
	}
	color := toneColor(l.Tone)
	s.page.read(Tag{Role: Paragraph})
	s.page.text(s.frame.left+padding, s.y+10.5, cellSize, false, color,
		cut(name, s.lanes-s.frame.left-2*padding, cellSize, false))
	s.page.read(Tag{Role: Figure, Alt: name + ": " + span[0].String() + " to " + span[1].String()})
	if color == Ink {
		color = Sea
	}
	s.page.box(s.at(span[0]), s.y+3.5, max(s.at(span[1]+1)-s.at(span[0]), 1.5), laneHeight-7, color)
	s.page.decor()
	s.y += laneHeight
	s.page.line(s.frame.left, s.y, s.frame.across(), 0, 0.3, Hair)
}
