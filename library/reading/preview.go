package reading

import (
	"mantilla/core/entries"
	"mantilla/core/frame"
	"mantilla/core/kept"
	"mantilla/core/param"
	"mantilla/core/period"
	"mantilla/core/ready"
	"mantilla/core/report"
	"mantilla/core/table"
	"mantilla/model"
)

// Preview makes a reading of rows that are kept nowhere: of a view of a settled
// definition, with what a result of it would be.
func (a *Access) Preview(settled *report.Definition, values param.Values, rows *frame.Frame, view string) (*Result,
	*Reading, error) {
	x := &Result{Definition: settled, Values: values, zone: a.room.org.Zone, fiscalStart: a.room.org.FiscalStart,
		form: a.Form()}
	now := a.room.org.Now()
	x.Report, x.Manifest.Report, x.Manifest.StartedAt = settled.ID, settled.ID, now
	read := &Reading{View: ViewOf(settled, view), explains: a.room.explains}
	if read.View == nil {
		return nil, nil, model.NoSuch("view", view, ViewIDs(settled))
	}
	read.Dataset = settled.Dataset(read.View.Of)
	calendar := x.calendar(now)
	read.setting = ready.Setting{Given: settled.Given(values, period.DayOf(now, x.zone)), Calendar: calendar,
		Form:  x.Form(),
		Cache: table.Fresh{}}
	rows, read.Dataset = new(entries.Layer).Over(rows, read.Dataset)
	read.rows = kept.Of(rows, read.setting.Cache)
	return x, read, nil
}
