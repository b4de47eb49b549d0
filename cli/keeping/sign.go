package keeping

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/cli/catalog"
	"mantilla/cli/reading"
	"mantilla/cli/talk"
)

// do makes a step of keeping a result and tells how it is then.
func (c *Program) do(cmd *cobra.Command, result string, step api.KeepingStepDo, words []string) error {
	says := strings.Join(words, " ")
	k, err := talk.Fetch[api.Keeping](c.Program, func(a *client.Client) (*http.Response, error) {
		return a.KeepResult(cmd.Context(), result, api.KeepingStep{Do: step, Says: &says})
	})
	if err != nil {
		return err
	}
	return c.tellKeeping(result, k)
}

// tellKeeping tells of signs and holds.
func (c *Program) tellKeeping(result string, k api.Keeping) error {
	if c.JSON() {
		return c.PrintJSON(k)
	}
	state := "not signed"
	switch {
	case k.Signed:
		state = "signed off"
	case len(k.Signs) > 0:
		state = "signed, and waits for the second step"
	}
	if k.Held {
		state += ", held"
	}
	fmt.Fprintf(c.Out, "%s  %s\n", result, state)
	for _, a := range k.Acts {
		line := fmt.Sprintf("  %s  %-9s  %s", c.At(a.At), a.What, a.Person)
		if a.Says != "" {
			line += ": " + a.Says
		}
		fmt.Fprintln(c.Out, line)
	}
	return nil
}

// SignCommand makes the command sign: sign a result off, or withdraw that.
func SignCommand(c *Program) *cobra.Command {
	var withdraw, show bool
	cmd := &cobra.Command{
		Use:   "sign RESULT [WORDS...]",
		Short: "Give your word that a result was checked, or withdraw it",
		Long: `Sign a result off. It is held then, and says so wherever it is shown or taken. Who
may, and in how many steps by different people, is said per report with
mantilla definition signers.`,
		Example: `  mantilla sign R-000012 agrees with the ledger
  mantilla sign R-12 --withdraw two lots were corrected
  mantilla sign R-12 --show`,
		Args:              talk.Args(cobra.MinimumNArgs(1)),
		ValidArgsFunction: reading.Of(c.Program).CompleteResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			if show {
				k, err := c.keeping(cmd, given[0])
				if err != nil {
					return err
				}
				return c.tellKeeping(given[0], k)
			}
			step := api.KeepingStepDoSign
			if withdraw {
				step = api.KeepingStepDoWithdraw
			}
			return c.do(cmd, given[0], step, given[1:])
		},
	}
	cmd.Flags().BoolVar(&withdraw, "withdraw", false, "withdraw all signs; the words say why")
	cmd.Flags().BoolVar(&show, "show", false, "only tell who signed and held it")
	return cmd
}

func (c *Program) keeping(cmd *cobra.Command, result string) (api.Keeping, error) {
	return talk.Fetch[api.Keeping](c.Program,
		func(a *client.Client) (*http.Response, error) { return a.GetKeeping(cmd.Context(), result) })
}

// HoldCommand makes the command hold: keep a result from being deleted.
func HoldCommand(c *Program) *cobra.Command {
	var release bool
	cmd := &cobra.Command{
		Use:               "hold RESULT [WHY...]",
		Short:             "Keep a result from being deleted, or release it",
		Args:              talk.Args(cobra.MinimumNArgs(1)),
		ValidArgsFunction: reading.Of(c.Program).CompleteResult,
		RunE: func(cmd *cobra.Command, given []string) error {
			step := api.KeepingStepDoHold
			if release {
				step = api.KeepingStepDoRelease
			}
			return c.do(cmd, given[0], step, given[1:])
		},
	}
	cmd.Flags().BoolVar(&release, "release", false, "let it be deleted again")
	return cmd
}

// SignersCommand makes the command definition signers: who signs results of a report off.
func SignersCommand(c *Program) *cobra.Command {
	var groups, people []string
	var steps int
	cmd := &cobra.Command{
		Use:   "signers REPORT",
		Short: "Tell, or say, who signs the results of a report off",
		Example: `  mantilla definition signers trial-balance
  mantilla definition signers trial-balance --groups accounts --people lila --steps 2`,
		Args:              talk.Args(cobra.ExactArgs(1)),
		ValidArgsFunction: catalog.Of(c.Program).CompleteReport,
		RunE: func(cmd *cobra.Command, given []string) error {
			rule, err := talk.Fetch[api.SignRule](c.Program,
				func(a *client.Client) (*http.Response, error) { return a.GetSignRule(cmd.Context(), given[0]) })
			if err != nil {
				return err
			}
			f := cmd.Flags()
			if f.Changed("groups") {
				rule.Who.Groups = append([]string{}, groups...)
			}
			if f.Changed("people") {
				rule.Who.People = append([]string{}, people...)
			}
			if f.Changed("steps") {
				rule.Steps = steps
			}
			if f.Changed("groups") || f.Changed("people") || f.Changed("steps") {
				if err := c.Done("", func(a *client.Client) (*http.Response, error) {
					return a.PutSignRule(cmd.Context(), given[0], rule)
				}); err != nil {
					return err
				}
			}
			return c.tellRule(given[0], rule)
		},
	}
	cmd.Flags().StringSliceVar(&groups, "groups", nil, "these groups, and no others")
	cmd.Flags().StringSliceVar(&people, "people", nil, "these people, and no others")
	cmd.Flags().IntVar(&steps, "steps", 1, "1, or 2 by different people")
	return cmd
}

func (c *Program) tellRule(report string, rule api.SignRule) error {
	if c.JSON() {
		return c.PrintJSON(rule)
	}
	who := append(rule.Who.Groups, rule.Who.People...)
	if len(who) == 0 {
		who = []string{"its owner and librarians"}
	}
	steps := "in one step"
	if rule.Steps > 1 {
		steps = "in two steps, by different people"
	}
	fmt.Fprintf(c.Out, "Results of %s are signed off by %s, %s.\n", report, strings.Join(who, ", "), steps)
	return nil
}
