package revision

import (
	"cmp"
	"slices"
	"strings"

	"mantilla/core/report"
)

// Signature is what a report reads, whatever it is called and however it is shown: its
// source, and of each dataset where it reads from, the columns' SQL and kinds and the
// conditions, in whatever order. Two reports with the same signature give the same rows.
func Signature(d *report.Definition) string {
	var sets []string
	for i := range d.Datasets {
		sets = append(sets, signature(&d.Datasets[i]))
	}
	slices.Sort(sets)
	return d.Source + "\n" + strings.Join(sets, "\n")
}

func signature(d *report.Dataset) string {
	var columns, conditions []string
	for _, c := range d.Columns {
		columns = append(columns, cmp.Or(sql(c.Is), c.Formula)+" "+typed(&c))
	}
	for _, w := range d.Where {
		conditions = append(conditions, sql(w.Piece))
	}
	slices.Sort(columns)
	slices.Sort(conditions)
	return strings.Join([]string{sql(d.From), strings.Join(columns, "|"), strings.Join(conditions, "|"),
		strings.Join(pieces(d.Group), "|")}, "\n")
}
