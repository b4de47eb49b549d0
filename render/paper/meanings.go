package paper

// meanings tells at the end what the columns mean, where that is known.
func (p *press) meanings() error {
	const label = 130.0
	if len(p.document.Columns) == 0 {
		return nil
	}
	if p.page == nil || p.room() < 80 {
		if err := p.turn(p.setting.Orientation == "landscape"); err != nil {
			return err
		}
	}
	p.y += 22
	p.page.Marks = append(p.page.Marks, Bookmark{0, meaningsTitle, p.y - 14})
	p.page.read(Tag{Role: Heading})
	p.page.text(p.frame.left, p.y, headingSize, true, Plum, meaningsTitle)
	p.y += 6
	p.page.decor()
	for _, m := range p.document.Columns {
		lines := wrap(m.Says, p.frame.across()-label, textSize, false, 12)
		if p.room() < float64(len(lines))*12.5+6 {
			if err := p.turn(p.frame.width > p.frame.height); err != nil {
				return err
			}
		}
		p.page.newRow()
		p.page.readCell(RowHead)
		p.page.text(p.frame.left, p.y+12.5, textSize, false, Faint, cut(m.Column, label-10, textSize, false))
		p.page.readCell(Cell)
		for _, line := range lines {
			p.y += 12.5
			p.page.text(p.frame.left+label, p.y, textSize, false, Ink, line)
		}
		p.y += 3
	}
	p.page.decor()
	return nil
}

const meaningsTitle = "What the columns mean"
