package paper

import (
	"fmt"

	"github.com/boombuler/barcode/qr"
)

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
		if err := p.pair(m.Column, m.Says, label); err != nil {
			return err
		}
	}
	p.page.decor()
	return nil
}

const meaningsTitle = "What the columns mean"

// module is the edge of a square of the code, in points: 0.7 mm, which cameras read from paper.
const module = 2.0

// proof writes at the end which result the pages are of, its whole seal, and where it is: as text
// and as a code (QR, ISO/IEC 18004) that leads to it.
func (p *press) proof() error {
	d := p.document
	if d.Base == "" || d.Number == "" || d.Seal == "" {
		return nil
	}
	address := d.Base + "/results/" + d.Number
	code, err := qr.Encode(address, qr.M, qr.Auto)
	if err != nil {
		return fmt.Errorf("the code of %s: %w", address, err)
	}
	side := float64(code.Bounds().Dx()) * module
	if p.page == nil || p.room() < side+34 {
		if err := p.turn(p.page != nil && p.frame.width > p.frame.height); err != nil {
			return err
		}
	}
	p.y += 22
	left, top := p.frame.left, p.y
	p.page.decor()
	for y := range code.Bounds().Dy() {
		for x, run := 0, 0; x < code.Bounds().Dx(); x += max(run, 1) {
			for run = 0; x+run < code.Bounds().Dx() && dark(code.At(x+run, y).RGBA()); run++ {
			}
			if run > 0 {
				p.page.box(left+float64(x)*module, top+float64(y)*module, float64(run)*module, module, Ink)
			}
		}
	}
	p.page.link(left, top, side, side, address)
	p.page.read(Tag{Role: Paragraph})
	x, across := left+side+14, p.frame.across()-side-14
	p.y = top + 10
	p.page.text(x, p.y, textSize, true, Ink, d.Number)
	p.y += 13
	lines := append(wrap(address, across, textSize, false, whole), "Seal")
	lines = append(lines, wrap(d.SealSays(), across, textSize, false, whole)...)
	if err := p.lines(lines, x, textSize, 12.5, false, Faint); err != nil {
		return err
	}
	p.page.decor()
	p.y = max(p.y, top+side)
	return nil
}

// dark tells whether a point of the code is black.
func dark(r, _, _, _ uint32) bool { return r < 0x8000 }
