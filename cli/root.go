// Package cli is the command-line client. It reaches the service only over
// HTTP, prints for people by default and for programs with --output json, and
// ends with exit codes that scripts can trust.
package cli

import (
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"mantilla/cli/asking"
	"mantilla/cli/audit"
	"mantilla/cli/backup"
	"mantilla/cli/capture"
	"mantilla/cli/care"
	"mantilla/cli/catalog"
	"mantilla/cli/controls"
	"mantilla/cli/desk"
	"mantilla/cli/drafting"
	"mantilla/cli/entering"
	"mantilla/cli/files"
	"mantilla/cli/guide"
	"mantilla/cli/health"
	"mantilla/cli/history"
	"mantilla/cli/keeping"
	"mantilla/cli/meaning"
	"mantilla/cli/moving"
	"mantilla/cli/people"
	"mantilla/cli/reading"
	"mantilla/cli/reconciling"
	"mantilla/cli/secrets"
	"mantilla/cli/sending"
	"mantilla/cli/shelf"
	"mantilla/cli/standing"
	"mantilla/cli/talk"
	"mantilla/cli/trash"
)

// Root makes the command that holds all others.
func Root(version string) *cobra.Command {
	c := &talk.Program{}
	root := &cobra.Command{
		Use:   "mantilla",
		Short: "Find, run, read and take away reports",
		Long: `Find a report in the catalog, run it, read its result and take it away.

  mantilla catalog honey
  mantilla describe intake-lots
  mantilla run intake-lots received="last month" unit="Hollin; Marr"
  mantilla show R-000001 --sort=-value
  mantilla export R-000001 --to lots.csv

` + talk.ExitHelp,
		Version:       version,
		SilenceUsage:  true,
		SilenceErrors: true,
		PersistentPreRunE: func(cmd *cobra.Command, _ []string) error {
			c.Out, c.Err = cmd.OutOrStdout(), cmd.ErrOrStderr()
			if !slices.Contains([]string{"human", "json", "csv"}, c.Output) {
				return talk.Usage("--output: %q is not human, json or csv", c.Output)
			}
			return nil
		},
	}
	root.SetFlagErrorFunc(func(_ *cobra.Command, err error) error { return talk.Usage("%v", err) })
	service := os.Getenv("MANTILLA_SERVICE")
	if service == "" {
		service = "http://127.0.0.1:8480"
	}
	root.PersistentFlags().StringVar(&c.Service, "service", service, "address of the service; also MANTILLA_SERVICE")
	root.PersistentFlags().StringVar(&c.Output, "output", "human", "human, json, or csv for what is a table")
	talk.Must(root.RegisterFlagCompletionFunc("output", talk.Fixed("human", "json", "csv")))
	root.AddGroup(&cobra.Group{ID: "reports", Title: "Reports:"}, &cobra.Group{ID: "results", Title: "Runs and results:"},
		&cobra.Group{ID: "sending", Title: "Sending and timetable:"}, &cobra.Group{ID: "account", Title: "Your account:"},
		&cobra.Group{ID: "office", Title: "For librarians:"})
	definition, source := catalog.DefinitionCommand(catalog.Of(c)), catalog.SourceCommand(catalog.Of(c))
	shared := catalog.SharedCommand(catalog.Of(c))
	shared.AddCommand(drafting.SharedEffectsCommand(drafting.Of(c)))
	definition.AddCommand(drafting.VersionCommands(drafting.Of(c))...)
	definition.AddCommand(drafting.TryCommand(drafting.Of(c)), drafting.FormatCommand(drafting.Of(c)),
		drafting.RenameCommand(drafting.Of(c)))
	definition.AddCommand(care.Command(care.Of(c)), keeping.SignersCommand(keeping.Of(c)))
	seals := reading.SealCommand(reading.Of(c))
	seals.AddCommand(keeping.ProofCommands(keeping.Of(c))...)
	folk, groups, book := people.PeopleCommand(people.Of(c)), people.GroupsCommand(people.Of(c)),
		sending.BookCommand(sending.Of(c))
	for kind, command := range map[string]*cobra.Command{"source": source, "parameter": shared, "group": groups,
		"address": book, "account": folk} {
		command.AddCommand(care.RenameCommand(care.Of(c), kind))
	}
	folk.AddCommand(care.HandOverCommand(care.Of(c)))
	definition.AddCommand(moving.FilesCommand(moving.Of(c)))
	source.AddCommand(drafting.LookCommand(drafting.Of(c)))
	for group, commands := range map[string][]*cobra.Command{
		"reports": {catalog.CatalogCommand(catalog.Of(c)), catalog.DescribeCommand(catalog.Of(c)),
			catalog.FavouriteCommand(catalog.Of(c)),
			meaning.GlossaryCommand(meaning.Of(c)), meaning.ColumnsCommand(meaning.Of(c)),
			shelf.Command(shelf.Of(c)),
			capture.RunCommand(capture.Of(c)), asking.CriteriaCommand(asking.Of(c)), asking.MarksCommand(asking.Of(c)),
			controls.ControlCommand(controls.Of(c))},
		"account": {people.LoginCommand(people.Of(c)), people.LogoutCommand(people.Of(c)), people.WhoCommand(people.Of(c)),
			people.PasswordCommand(people.Of(c)), people.ZoneCommand(people.Of(c)), people.WaysCommand(people.Of(c)),
			people.SessionsCommand(people.Of(c)), guide.Command(guide.Of(c)),
			people.TokenCommand(people.Of(c)), people.SecondCommand(people.Of(c)), people.PasskeysCommand(people.Of(c)),
			people.PurposeCommand(people.Of(c)),
			drafting.NoticesCommand(drafting.Of(c)), drafting.FeedbackCommand(drafting.Of(c)),
			care.RequestsCommand(care.Of(c))},
		"results": {capture.RunsCommand(capture.Of(c)), capture.StopCommand(capture.Of(c)),
			capture.FollowCommand(capture.Of(c)),
			reading.ResultsCommand(reading.Of(c)), reading.ShowCommand(reading.Of(c)), reading.FigureCommand(reading.Of(c)),
			reading.ValuesCommand(reading.Of(c)), keeping.CompareCommand(keeping.Of(c)),
			keeping.SignCommand(keeping.Of(c)), keeping.HoldCommand(keeping.Of(c)), keeping.NotesCommand(keeping.Of(c)),
			trash.Command(trash.Of(c)), trash.ReturnCommand(trash.Of(c)), reconciling.ReconcileCommand(reconciling.Of(c)),
			reconciling.StatementCommand(reconciling.Of(c)), history.Command(history.Of(c)),
			entering.Command(entering.Of(c)),
			reading.FindCommand(reading.Of(c)), reading.CompletenessCommand(reading.Of(c)), reading.ViewsCommand(reading.Of(c)),
			reading.FunctionsCommand(reading.Of(c)), reading.ExportCommand(reading.Of(c)), reading.FormatsCommand(reading.Of(c)),
			reading.DeleteCommand(reading.Of(c)), seals},
		"sending": {desk.DeskCommand(desk.Of(c)), desk.NeedsCommand(desk.Of(c)), sending.SendCommand(sending.Of(c)),
			sending.ParcelsCommand(sending.Of(c)),
			book, sending.MailboxCommand(sending.Of(c)), controls.TimetableCommand(controls.Of(c)),
			controls.CalendarsCommand(controls.Of(c))},
		"office": {backup.Command(backup.Of(c)), audit.Command(audit.Of(c)), standing.Command(standing.Of(c)),
			secrets.Command(secrets.Of(c)),
			files.Command(files.Of(c)),
			drafting.DraftCommand(drafting.Of(c)),
			moving.BundleCommand(moving.Of(c)), definition,
			health.Command(health.Of(c)),
			shared, source, care.RetiredCommand(care.Of(c)),
			people.OpenCommand(people.Of(c)), folk, groups},
	} {
		for _, cmd := range commands {
			cmd.GroupID = group
			root.AddCommand(cmd)
		}
	}
	for _, cmd := range root.Commands() {
		refuseUnknown(cmd)
	}
	return root
}

// refuseUnknown makes a command that only has others below it refuse a word that
// is none of these.
func refuseUnknown(cmd *cobra.Command) {
	if !cmd.HasSubCommands() || cmd.Runnable() {
		return
	}
	cmd.RunE = func(cmd *cobra.Command, given []string) error {
		if len(given) == 0 {
			return cmd.Help()
		}
		return talk.Unknown(cmd, given[0])
	}
}

// Execute runs the command line and returns its exit code.
func Execute(ctx context.Context, root *cobra.Command) int {
	err := root.ExecuteContext(ctx)
	if err == nil {
		return 0
	}
	fmt.Fprintln(root.ErrOrStderr(), "mantilla:", err)
	var coded *talk.Coded
	if errors.As(err, &coded) && coded.Code == talk.ExitStale {
		return talk.ExitOther
	}
	if errors.As(err, &coded) {
		return coded.Code
	}
	if strings.HasPrefix(err.Error(), "unknown command") {
		return talk.ExitInput
	}
	return talk.ExitOther
}
