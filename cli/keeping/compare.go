// Package keeping has the commands about what results are kept for.
package keeping

import (
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/capture"
	"mantilla/cli/talk"
)

// Program is what the commands of the room share.
type Program struct{ *talk.Program }

// Of returns the commands' program.
func Of(p *talk.Program) *Program { return &Program{p} }

// CompareCommand makes the command compare: what changed from one result to another.
func CompareCommand(c *Program) *cobra.Command {
	var key, to, moved string
	var of []string
	var versions []int
	var noWait bool
	cmd := &cobra.Command{
		Use:   "compare RESULT [RESULT] | REPORT NAME=VALUE... -- NAME=VALUE...",
		Short: "What changed from one result to another, as a result of its own",
		Long: `Find what changed from one result to another: rows that are only in one of them,
rows with other cells, from what to what and by how much, and the sums of both
sides. Or run a report twice, with other values after --, and compare that.

Rows are found by the dataset's key, or by the columns that --key names.

` + talk.ExitHelp,
		Example: `  mantilla compare R-000012 R-000034
  mantilla compare R-12 R-34 --key keeper_no,grade --to changed.xlsx
  mantilla compare intake-by-origin received=2026-08 -- received=2026-09
  mantilla compare R-34 --with "year before"
  mantilla compare R-12 R-34 --of lots,lots_then
  mantilla compare intake-lots received=2026-09 --versions 3,5`,
		Args: talk.Args(cobra.MinimumNArgs(1)),
		RunE: func(cmd *cobra.Command, given []string) error {
			body, err := comparison(given, cmd.ArgsLenAtDash())
			switch {
			case moved != "":
				body, err = ofMoved(given, moved)
			case len(versions) > 0:
				body, err = ofVersions(given, versions)
			}
			if err != nil {
				return err
			}
			if key != "" {
				columns := strings.Split(key, ",")
				body.Key = &columns
			}
			for i, dataset := range of {
				side := []*api.ComparedSide{&body.Before, &body.After}[min(i, 1)]
				side.Dataset = &dataset
			}
			if len(of) == 1 {
				body.After.Dataset = &of[0]
			}
			run, err := talk.Fetch[api.Run](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.Compare(cmd.Context(), body) })
			if err != nil {
				return err
			}
			return capture.Of(c.Program).AwaitMade(cmd.Context(), run, noWait, to)
		},
	}
	cmd.Flags().StringVar(&key, "key", "", "columns that find a row on the other side, with commas between")
	cmd.Flags().StringSliceVar(&of, "of", nil, "dataset to compare, or that of each side, with a comma between")
	cmd.Flags().IntSliceVar(&versions, "versions", nil, "two versions of the report, run with the same values: 3,5")
	cmd.Flags().StringVar(&to, "to", "", "also write what changed to this file, as run --to does")
	cmd.Flags().StringVar(&moved, "with", "",
		"of one result: its report is run with its values, its days moved so: year before, previous period, 2 years before")
	cmd.Flags().BoolVar(&noWait, "no-wait", false, "do not wait for the end")
	return cmd
}

// comparison reads two results, or a report with two sets of values and -- between.
func comparison(given []string, dash int) (body api.Comparison, err error) {
	if dash < 0 {
		if len(given) != 2 || strings.Contains(given[1], "=") {
			return body, talk.Usage("compare two results, as R-12 R-34, or a report with two sets of values and -- between")
		}
		return api.Comparison{Before: api.ComparedSide{Result: &given[0]}, After: api.ComparedSide{Result: &given[1]}}, nil
	}
	if dash < 1 {
		return body, talk.Usage("say which report is to be run, before its values")
	}
	sides := []*api.ComparedSide{&body.Before, &body.After}
	for i, pairs := range [][]string{given[1:dash], given[dash:]} {
		values, err := talk.Pairs(pairs)
		if err != nil {
			return body, err
		}
		*sides[i] = api.ComparedSide{Report: &given[0], Values: &values}
	}
	return body, nil
}

// ofMoved reads a result that is compared with what its report gives for other days.
func ofMoved(given []string, moved string) (body api.Comparison, err error) {
	if len(given) != 1 {
		return body, talk.Usage("--with: name one result, as R-34")
	}
	body.Before, body.After = api.ComparedSide{Result: &given[0], Moved: &moved}, api.ComparedSide{Result: &given[0]}
	return body, nil
}

// ofVersions reads a report with values that two versions of it are run with.
func ofVersions(given []string, versions []int) (body api.Comparison, err error) {
	if len(versions) != 2 {
		return body, talk.Usage("--versions: name two, as 3,5")
	}
	values, err := talk.Pairs(given[1:])
	if err != nil {
		return body, err
	}
	body.Before = api.ComparedSide{Report: &given[0], Values: &values, Version: &versions[0]}
	body.After = api.ComparedSide{Report: &given[0], Values: &values, Version: &versions[1]}
	return body, nil
}
