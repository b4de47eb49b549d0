package sheet

import (
	"fmt"
	"strings"
	"time"

	"mantilla/core/shown"
)

// Says tells a chart's figures in words, for people who do not see it: each series
// with its places, of at most so many bytes. The view's own table has them all.
func (c *Chart) Says(zone *time.Location, most int) string {
	var said []string
	for _, x := range c.Series {
		var figures []string
		for i, v := range x.Figures {
			if i < len(c.Places) && !v.Null {
				figures = append(figures, c.Places[i].Name+" "+shown.Text(v, zone))
			}
		}
		said = append(said, x.Label+": "+strings.Join(figures, ", "))
	}
	if c.Form == "scatter" {
		said = append(said, fmt.Sprintf("%d points of %s by %s", c.Of, c.Y.Label, c.X.Label))
	}
	for _, m := range c.Marks {
		said = append(said, "limit "+m.Label+" "+shown.Text(m.Value, zone))
	}
	out := strings.Join(said, "; ")
	if len(out) > most {
		at := strings.LastIndexAny(out[:most], ",;")
		out = out[:max(at, 0)] + " and more"
	}
	return out
}
