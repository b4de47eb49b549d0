package paper

import (
	"encoding/xml"
	"fmt"
	"strings"
)

// SVG writes a page as a drawing for a browser. Its letters are those of the
// service's own font where the browser has it; each text is given its width, so
// that it stands where it does on paper.
func SVG(p *Page, pages int) string {
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %.2f %.2f" font-family="Liberation Sans, `+
		`Arimo, Arial, Helvetica, sans-serif">`, p.Width, p.Height)
	fmt.Fprintf(&b, `<rect width="%.2f" height="%.2f" fill="#fff"/>`, p.Width, p.Height)
	for i := range p.Items {
		item := &p.Items[i]
		if item.Kind == Text && strings.Contains(item.Text, Pages) {
			item.Text = strings.ReplaceAll(item.Text, Pages, fmt.Sprint(pages))
		}
		item.svg(&b)
	}
	b.WriteString("</svg>")
	return b.String()
}

func (c Color) css() string {
	if c == None {
		return "none"
	}
	return fmt.Sprintf("#%06x", int32(c))
}

func (i *Item) svg(b *strings.Builder) {
	switch i.Kind {
	case Text:
		i.words(b)
	case Box:
		fmt.Fprintf(b, `<rect x="%.2f" y="%.2f" width="%.2f" height="%.2f" fill="%s"/>`, i.X, i.Y, i.W, i.H, i.Color.css())
	case Line:
		fmt.Fprintf(b, `<line x1="%.2f" y1="%.2f" x2="%.2f" y2="%.2f" stroke="%s" stroke-width="%.2f"/>`, i.X, i.Y, i.X+i.W,
			i.Y+i.H, i.Color.css(), i.Pen)
	case Path:
		fmt.Fprintf(b, `<path fill="%s" stroke="%s" stroke-width="%.2f"`, i.Fill.css(), i.Color.css(), i.Pen)
		if len(i.Dash) > 0 {
			fmt.Fprintf(b, ` stroke-dasharray="%s"`, strings.Trim(fmt.Sprint(i.Dash), "[]"))
		}
		b.WriteString(` d="`)
		for _, s := range i.Steps {
			switch s.Op {
			case 'm', 'l':
				fmt.Fprintf(b, "%c%.2f %.2f", s.Op-'a'+'A', s.X, s.Y)
			case 'c':
				fmt.Fprintf(b, "C%.2f %.2f %.2f %.2f %.2f %.2f", s.X1, s.Y1, s.X2, s.Y2, s.X, s.Y)
			case 'z':
				b.WriteByte('Z')
			}
		}
		b.WriteString(`"/>`)
	}
}

func (i *Item) words(b *strings.Builder) {
	fmt.Fprintf(b, `<text x="%.2f" y="%.2f" font-size="%.2f" fill="%s" textLength="%.2f" lengthAdjust="spacingAndGlyphs"`,
		i.X, i.Y, i.Size, i.Color.css(), Width(i.Text, i.Size, i.Bold))
	if i.Bold {
		b.WriteString(` font-weight="bold"`)
	}
	if i.Angle != 0 {
		fmt.Fprintf(b, ` transform="rotate(%.2f %.2f %.2f)"`, -i.Angle, i.X, i.Y)
	}
	b.WriteByte('>')
	_ = xml.EscapeText(b, []byte(i.Text)) // a builder does not fail
	b.WriteString("</text>")
}
