package asking

import (
	"bufio"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/catalog"
	"mantilla/cli/talk"
)

// AskValues asks for each needed value of a report. An empty line takes what
// stands in brackets; ? shows what can be chosen, ?word searches it, and a
// number picks from what was shown.
func (c *Program) AskValues(cmd *cobra.Command, report string, values api.Values) error {
	r, err := catalog.Of(c.Program).Report(cmd.Context(), report)
	if err != nil {
		return err
	}
	form, err := talk.Fetch[api.Form](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.GetForm(cmd.Context(), report) })
	if err != nil {
		return err
	}
	asking := asker{Program: c, cmd: cmd, report: report, form: form, in: bufio.NewScanner(cmd.InOrStdin())}
	for _, p := range r.Parameters {
		if p.Required && !p.Hidden && !p.Locked {
			if values[p.Id], err = asking.ask(p, values); err != nil {
				return err
			}
		}
	}
	return nil
}

type asker struct {
	*Program
	cmd    *cobra.Command
	report string
	form   api.Form
	in     *bufio.Scanner
	shown  []string // what numbers stand for
}

// ask asks for one value until it is right.
func (a *asker) ask(p api.Parameter, values api.Values) (string, error) {
	a.shown = nil
	if p.Help != "" {
		fmt.Fprintf(a.Err, "  %s\n", p.Help)
	}
	for {
		prompt := p.Label
		if standing := a.form.Defaults[p.Id]; standing != "" {
			prompt += " [" + standing + "]"
		}
		fmt.Fprintf(a.Err, "%s: ", prompt)
		if !a.in.Scan() {
			fmt.Fprintln(a.Err)
			return "", &talk.Coded{Code: talk.ExitInput, Text: "no value is given for " + p.Id}
		}
		text := strings.TrimSpace(a.in.Text())
		if search, asked := strings.CutPrefix(text, "?"); asked {
			if err := a.show(p, strings.TrimSpace(search)); err != nil {
				return "", err
			}
			continue
		}
		if text = a.picked(text); text == "" {
			text = a.form.Defaults[p.Id]
		}
		said, fault, err := a.check(p, text, values)
		if err != nil {
			return "", err
		}
		if fault == "" {
			fmt.Fprintf(a.Err, "  = %s\n", said)
			return text, nil
		}
		fmt.Fprintf(a.Err, "  %s\n", fault)
		if len(a.form.Lists[p.Id]) > 0 || p.Type == api.ParameterTypeEntity {
			fmt.Fprintln(a.Err, "  ? shows what can be chosen, ?word searches it")
		}
	}
}

// picked replaces numbers by the entries that were shown beside them.
func (a *asker) picked(text string) string {
	parts := strings.Split(text, ";")
	for i, part := range parts {
		parts[i] = strings.TrimSpace(part)
		if n, err := strconv.Atoi(parts[i]); err == nil && n >= 1 && n <= len(a.shown) {
			parts[i] = a.shown[n-1]
		}
	}
	return strings.Join(parts, "; ")
}

// show lists the entries of a list, or the named ranges, with numbers.
func (a *asker) show(p api.Parameter, search string) error {
	a.shown = nil
	add := func(value, says string) {
		a.shown = append(a.shown, value)
		fmt.Fprintf(a.Err, "  %3d  %s\n", len(a.shown), says)
	}
	switch p.Type {
	case api.ParameterTypeRange, api.ParameterTypeRanges:
		service, err := talk.Fetch[api.Service](a.Program.Program,
			func(c *client.Client) (*http.Response, error) { return c.GetService(a.cmd.Context()) })
		for _, preset := range service.Presets {
			if strings.Contains(preset.Name, search) {
				add(preset.Name, fmt.Sprintf("%-20s %s", preset.Name, preset.Says))
			}
		}
		return err
	case api.ParameterTypePeriod:
		for _, period := range a.form.Periods[p.Id] {
			add(period.Name, fmt.Sprintf("%-20s %s", period.Name, period.Says))
		}
		return nil
	}
	most := 30
	list, err := talk.Fetch[[]api.Entry](a.Program.Program, func(c *client.Client) (*http.Response, error) {
		return c.GetEntries(a.cmd.Context(), a.report, p.Id, &api.GetEntriesParams{Search: &search, Limit: &most})
	})
	for _, e := range list {
		detail := ""
		if e.Detail != nil {
			detail = *e.Detail
		}
		add(e.Code, fmt.Sprintf("%-12s %s  %s", e.Code, e.Label, detail))
	}
	return err
}

// check resolves one value beside those given already.
func (a *asker) check(p api.Parameter, text string, values api.Values) (said, fault string, err error) {
	typed := api.Values{p.Id: text}
	for name, v := range values {
		typed[name] = v
	}
	typed[p.Id] = text
	r, err := talk.Fetch[api.Resolution](a.Program.Program, func(c *client.Client) (*http.Response, error) {
		return c.ResolveValues(a.cmd.Context(), a.report, api.Typed{Values: typed})
	})
	if err != nil {
		return "", "", err
	}
	if at := slices.IndexFunc(r.Faults, func(f api.Fault) bool { return f.Field == p.Id }); at >= 0 {
		return "", r.Faults[at].Message, nil
	}
	at := slices.IndexFunc(r.Facts, func(f api.Fact) bool { return f.Parameter == p.Id })
	return r.Facts[at].Says, "", nil
}
