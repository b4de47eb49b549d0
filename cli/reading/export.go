package reading

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"path/filepath"
	"strings"

	"github.com/schollz/progressbar/v3"
	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/talk"
)

// TakeOptions are the options of what is taken away.
type TakeOptions struct {
	Format                       string
	also                         []string
	told, notes, zip, password   bool
	separator, decimal, headings string
	mark, raw                    bool
	paper, orientation, fit      string
	margin                       float32
	lead                         int
	cover                        bool
}

// Flags declares the options of a file.
func (o *TakeOptions) Flags(cmd *cobra.Command) {
	f := cmd.Flags()
	f.StringVar(&o.Format, "format", "", "format, one of mantilla formats; otherwise by the file's ending, csv on "+
		"standard output")
	f.StringSliceVar(&o.also, "also", nil, "further views, into the same file where the format holds several")
	f.BoolVar(&o.told, "told", false, "write title and values into the file itself")
	f.BoolVar(&o.zip, "zip", false, "pack the file")
	f.BoolVar(&o.notes, "notes", false, "open notes on the result stand with it")
	f.BoolVar(&o.password, "password", false, "ask for a password, or read it from standard input, and encrypt the "+
		"archive with it")
	f.StringVar(&o.separator, "separator", "", "of CSV: comma, semicolon, tab or bar")
	f.StringVar(&o.decimal, "decimal", "", "of CSV: point or comma")
	f.StringVar(&o.headings, "headings", "", "of CSV: labels, names or none")
	f.BoolVar(&o.mark, "mark", false, "of CSV: begin with a byte-order mark")
	f.BoolVar(&o.raw, "raw", false, "of CSV: leave texts that a spreadsheet would run as formulas")
	f.StringVar(&o.paper, "paper", "", "of PDF: a4, a3, a5, letter or legal")
	f.StringVar(&o.orientation, "orientation", "", "of PDF: auto, portrait or landscape")
	f.StringVar(&o.fit, "fit", "", "of PDF: width for all columns on a page, split for columns over several pages, auto")
	f.Float32Var(&o.margin, "margin", 0, "of PDF: margin in millimetres")
	f.IntVar(&o.lead, "lead", 0, "of PDF: leading columns repeated where columns are split")
	f.BoolVar(&o.cover, "cover", false, "of PDF: begin with a cover")
	for name, known := range map[string][]string{"separator": {"comma", "semicolon", "tab", "bar"},
		"decimal": {"point", "comma"}, "headings": {"labels", "names", "none"},
		"paper": {"a4", "a3", "a5", "letter", "legal"}, "orientation": {"auto", "portrait", "landscape"},
		"fit": {"auto", "width", "split"}} {
		talk.Must(cmd.RegisterFlagCompletionFunc(name, talk.Fixed(known...)))
	}
}

// Take is the options as the contract has them.
func (o *TakeOptions) Take(format api.Format, password string) api.Take {
	t := api.Take{Format: format, Told: &o.told, Notes: &o.notes, Zip: &o.zip}
	if len(o.also) > 0 {
		t.Also = &o.also
	}
	if password != "" {
		t.Password = &password
	}
	t.Table = &api.TableForm{
		Mark:      &o.mark,
		Raw:       &o.raw,
		Separator: talk.Word[api.TableFormSeparator](o.separator),
		Decimal:   talk.Word[api.TableFormDecimal](o.decimal),
		Headings:  talk.Word[api.TableFormHeadings](o.headings),
	}
	t.Page = &api.PageForm{
		Size:        talk.Word[api.PageFormSize](o.paper),
		Orientation: talk.Word[api.PageFormOrientation](o.orientation),
		Fit:         talk.Word[api.PageFormFit](o.fit),
		Cover:       &o.cover,
	}
	if o.margin > 0 {
		t.Page.Margin = &o.margin
	}
	if o.lead > 0 {
		t.Page.Lead = &o.lead
	}
	return t
}

// ExportCommand makes the command export: take a result away as a file.
func ExportCommand(c *Program) *cobra.Command {
	var view, to string
	var r Reading
	var o TakeOptions
	cmd := &cobra.Command{
		Use:   "export RESULT",
		Short: "Take a result away as a file",
		Example: `  mantilla export R-000001 --to lots.xlsx
  mantilla export R-000001 --format csv --separator semicolon --decimal comma > lots.csv
  mantilla export R-000001 --view lots --also months --to lots.pdf --cover --orientation landscape
  mantilla export R-000001 --to lots.zip --format parquet --password`,
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: c.CompleteResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			secret := ""
			if o.password {
				var err error
				if secret, err = c.AskSecret(cmd, "Password of the archive: "); err != nil {
					return err
				}
			}
			return c.exportWith(cmd.Context(), given[0], view, to, r, o, secret)
		},
	}
	cmd.Flags().StringVar(&view, "view", "", "view to take; otherwise the result's page, or its first view where the "+
		"format holds one")
	cmd.Flags().StringVar(&to, "to", "-", "file to write, - for standard output")
	o.Flags(cmd)
	talk.Must(cmd.RegisterFlagCompletionFunc("format", c.CompleteFormat))
	talk.Must(cmd.RegisterFlagCompletionFunc("view", c.completeView))
	r.Flags(cmd)
	c.completeReading(cmd)
	return cmd
}

// FormatsCommand makes the command formats: list the forms in which results are taken away.
func FormatsCommand(c *Program) *cobra.Command {
	return &cobra.Command{
		Use:   "formats",
		Short: "List the forms in which results are taken away",
		Args:  talk.Args(cobra.NoArgs),
		RunE: func(cmd *cobra.Command, _ []string) error {
			all, err := c.formats(cmd.Context())
			if err != nil {
				return err
			}
			if c.JSON() {
				return c.PrintJSON(all)
			}
			t := talk.Table{Headings: []string{"Format", "Ending", "Holds", "What it is"}}
			for _, f := range all {
				holds := "one view; several become an archive"
				if f.Several {
					holds = "several views"
				}
				t.Rows = append(t.Rows, []string{string(f.Id), "." + f.Ending, holds, f.Label})
			}
			_, err = c.Draw(&t)
			return err
		},
	}
}

func (c *Program) formats(ctx context.Context) ([]api.FormatLine, error) {
	return talk.Fetch[[]api.FormatLine](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.ListFormats(ctx) })
}

// CompleteFormat offers the forms of files.
func (c *Program) CompleteFormat(*cobra.Command, []string, string) (ids []string, _ cobra.ShellCompDirective) {
	ctx, cancel := context.WithTimeout(context.Background(), talk.CompletionTime)
	defer cancel()
	all, _ := c.formats(ctx)
	for _, f := range all {
		ids = append(ids, string(f.Id)+"\t"+f.Label)
	}
	return ids, talk.NoFiles
}

// FormatOf settles the format of a file to be written.
func (c *Program) FormatOf(ctx context.Context, to, format string) (api.FormatLine, error) {
	if format == "" {
		format = strings.TrimPrefix(strings.ToLower(filepath.Ext(to)), ".")
		if to == "-" || to == "" {
			format = "csv"
		}
	}
	all, err := c.formats(ctx)
	if err != nil {
		return api.FormatLine{}, err
	}
	var known []string
	for _, f := range all {
		if string(f.Id) == format || f.Ending == format {
			return f, nil
		}
		known = append(known, string(f.Id))
	}
	return api.FormatLine{},
		talk.Usage("%q is not a format; use %s as --format or as the file's ending", format, strings.Join(known, ", "))
}

// Export writes a view with the usual options.
func (c *Program) Export(ctx context.Context, result, view, to string) error {
	return c.exportWith(ctx, result, view, to, Reading{}, TakeOptions{}, "")
}

// exportWith has a file written, looks on with a bar, and fetches it.
func (c *Program) exportWith(ctx context.Context, result, view, to string, r Reading, o TakeOptions,
	password string) error {
	if strings.EqualFold(filepath.Ext(to), ".zip") {
		o.zip = true
		if o.Format == "" {
			return talk.Usage("an archive holds files of some format: name it with --format")
		}
	}
	f, err := c.FormatOf(ctx, to, o.Format)
	if err != nil {
		return err
	}
	var others []string
	if view == "" && f.Import {
		if view, err = c.onlyImport(ctx, result); err != nil {
			return err
		}
	}
	if view == "" {
		x, err := c.result(ctx, result)
		if err != nil {
			return err
		}
		if len(x.Page) == 0 {
			return &talk.Coded{Code: talk.ExitInput, Text: "no view of the result has rows"}
		}
		view = x.Page[0].Id
		for _, v := range x.Page[1:] { // the whole page, unless something is said of a view
			if f.Several && len(o.also) == 0 && len(r.Values()) == 0 {
				others = append(others, v.Id)
			}
		}
	}
	o.also = append(o.also, others...)
	e, err := talk.Fetch[api.Export](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.StartExport(ctx, result, view, nil, o.Take(f.Id, password), r.query)
	})
	if err != nil {
		return err
	}
	if e, err = c.waitExport(ctx, e); err != nil {
		return err
	}
	answer, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.FetchExport(ctx, e.Id) })
	if err != nil {
		return err
	}
	defer answer.Body.Close()
	if e.Defused > 0 {
		fmt.Fprintf(c.Err, "%d texts that a spreadsheet would run as formulas have an apostrophe before them; --raw leaves "+
			"them.\n", e.Defused)
	}
	if to == "-" || to == "" {
		_, err = io.Copy(c.Out, answer.Body)
		return err
	}
	bytes, err := talk.WriteWhole(to, answer.Body)
	if err != nil {
		return fmt.Errorf("writing %s: %w", to, err)
	}
	fmt.Fprintf(c.Err, "%s: %d bytes\n", to, bytes)
	return nil
}

// onlyImport finds the import-ready file of a result that declares one, or tells
// which there are.
func (c *Program) onlyImport(ctx context.Context, result string) (string, error) {
	x, err := c.result(ctx, result)
	if err != nil {
		return "", err
	}
	var ids []string
	for _, f := range x.Imports {
		ids = append(ids, f.Id)
	}
	switch len(ids) {
	case 0:
		return "", talk.Usage("the report %s declares no import-ready file; see mantilla formats for other forms", x.Report)
	case 1:
		return ids[0], nil
	}
	return "", talk.Usage("the report declares several import-ready files; name one with --view: %s",
		strings.Join(ids, ", "))
}

// waitExport follows a file to its end. When the command is interrupted, the
// file is stopped too.
func (c *Program) waitExport(ctx context.Context, e api.Export) (api.Export, error) {
	r, err := c.Send(func(a *client.Client) (*http.Response, error) { return a.WatchExport(ctx, e.Id) })
	if err != nil {
		return e, err
	}
	defer r.Body.Close()
	bar := progressbar.NewOptions64(int64(max(e.Of, 1)), progressbar.OptionSetWriter(c.Err),
		progressbar.OptionSetDescription("writing"),
		progressbar.OptionSetVisibility(talk.WidthOf(c.Err) > 0 && !c.JSON()), progressbar.OptionShowCount(),
		progressbar.OptionSetItsString("lines"), progressbar.OptionClearOnFinish())
	defer bar.Finish()
	err = talk.Follow(r.Body, func(now api.Export) {
		e = now
		_ = bar.Set64(int64(min(e.Lines, e.Of))) // a bar that cannot be drawn is no reason to stop
	})
	if ctx.Err() != nil {
		stopped, stopErr := c.Send(func(a *client.Client) (*http.Response, error) {
			return a.StopExport(context.WithoutCancel(ctx), e.Id)
		})
		if stopErr == nil {
			stopped.Body.Close()
		}
		return e, &talk.Coded{Code: talk.ExitOther, Text: "the file was stopped"}
	}
	switch {
	case err != nil:
		return e, fmt.Errorf("following the file: %w", err)
	case e.State == api.StateFailed && e.Reason != nil:
		return e, &talk.Coded{Code: talk.ExitOther, Text: *e.Reason}
	case e.State != api.StateDone:
		return e, &talk.Coded{Code: talk.ExitOther, Text: "the file was stopped"}
	}
	return e, nil
}
