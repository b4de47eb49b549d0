// Package render writes what people take away: views of a result as
// spreadsheets, pages, web pages, plain texts, and tables for other programs.
// All are drawn from the same sheets. Writers stream: the rows of a sheet are
// never in memory together, but for the pages of a PDF.
package render

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"mantilla/core/nearest"
	"mantilla/render/document"
	"mantilla/render/paper"
)

// Format is one form in which results are taken away.
type Format struct {
	ID      string
	Label   string
	Ending  string // of file names
	Type    string // of media
	Several bool   // several views are one file; otherwise they are an archive
	Chart   bool   // only charts can be written
	Import  bool   // what is written is declared in the definition

	write func(*job) error
}

// Formats are all forms, in the order in which they are offered.
var Formats = []Format{
	{
		ID:      "xlsx",
		Label:   "Spreadsheet",
		Ending:  "xlsx",
		Type:    "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
		Several: true,
		write:   writeXLSX,
	},
	{ID: "pdf", Label: "Pages (PDF)", Ending: "pdf", Type: "application/pdf", Several: true, write: writePDF},
	{ID: "csv", Label: "Comma-separated values", Ending: "csv", Type: "text/csv", write: writeCSV},
	{ID: "html", Label: "Web page", Ending: "html", Type: "text/html", Several: true, write: writeHTML},
	{ID: "text", Label: "Plain text", Ending: "txt", Type: "text/plain", Several: true, write: writeText},
	{ID: "json", Label: "JSON", Ending: "json", Type: "application/json", Several: true, write: writeJSON},
	{ID: "ndjson", Label: "JSON, a line for each row", Ending: "ndjson", Type: "application/x-ndjson", write: writeNDJSON},
	{ID: "parquet", Label: "Parquet", Ending: "parquet", Type: "application/vnd.apache.parquet", write: writeParquet},
	{ID: "arrow", Label: "Arrow", Ending: "arrow", Type: "application/vnd.apache.arrow.file", write: writeArrow},
	{ID: "import", Label: "Import-ready file", Ending: "csv", Type: "text/csv", Import: true, write: writeImport},
	{ID: "svg", Label: "Chart as a drawing (SVG)", Ending: "svg", Type: "image/svg+xml", Chart: true, write: writeSVG},
	{ID: "png", Label: "Chart as a picture (PNG)", Ending: "png", Type: "image/png", Chart: true, write: writePNG},
}

// FormatNamed returns the format with that id.
func FormatNamed(id string) (Format, error) {
	for _, f := range Formats {
		if f.ID == id {
			return f, nil
		}
	}
	var ids []string
	for _, f := range Formats {
		ids = append(ids, f.ID)
	}
	return Format{}, fmt.Errorf("%q is not a format; use %s", id, nearest.Or(ids))
}

// Options are what can be chosen about a file. The zero value is what most
// people want.
type Options struct {
	Told     bool          // title and values stand in the file itself
	Notes    bool          // what people wrote on the result stands with it
	Table    TableForm     // of comma-separated values
	Page     paper.Setting // of pages
	Zip      bool          // pack the file
	Password string        // of the archive, which a password asks for
}

// TableForm is how comma-separated values are written.
type TableForm struct {
	Separator string // comma, semicolon, tab or bar
	Decimal   string // point or comma
	Mark      bool   // begin with a byte-order mark
	Headings  string // labels, names or none
	Raw       bool   // leave texts that a spreadsheet would run as formulas
}

var separators = map[string]byte{"comma": ',', "semicolon": ';', "tab": '\t', "bar": '|'}

// Check fills in what is left out and says what is wrong.
func (o *Options) Check() error {
	for _, f := range []struct {
		name  string
		value *string
		known []string
	}{{"separator", &o.Table.Separator, []string{"comma", "semicolon", "tab", "bar"}},
		{"decimal", &o.Table.Decimal, []string{"point", "comma"}},
		{"headings", &o.Table.Headings, []string{"labels", "names", "none"}}} {
		if *f.value == "" {
			*f.value = f.known[0]
		}
		if !slices.Contains(f.known, *f.value) {
			return fmt.Errorf("%s: %q is none of %s", f.name, *f.value, strings.Join(f.known, ", "))
		}
	}
	if o.Table.Decimal == "comma" && o.Table.Separator == "comma" {
		return fmt.Errorf("decimal: a comma cannot be decimal sign and separator; choose another separator")
	}
	if o.Password != "" {
		o.Zip = true
	}
	return o.Page.Check()
}

// job is a file under way.
type job struct {
	ctx      context.Context
	to       *counted
	document *document.Document
	options  Options
	progress func(Progress)
	done     Progress
}

// Progress is how far a file has come.
type Progress struct {
	Lines   int   // written
	Of      int   // lines of all views
	Bytes   int64 // written
	Defused int   // texts that a spreadsheet would have run
}

// lines counts lines as written. It fails when the context has ended.
func (j *job) lines(n int) error {
	j.done.Lines += n
	j.done.Bytes = j.to.bytes
	j.progress(j.done)
	if j.ctx.Err() != nil {
		return context.Cause(j.ctx)
	}
	return nil
}
