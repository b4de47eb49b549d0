package main

import (
	"os"

	"github.com/spf13/cobra"

	"mantilla/grid"
	"mantilla/source/apart"
)

// Commands that a service runs by itself, for what could take all memory.
const (
	readColumns = "read-columns" // of a file that is packed
	readSource  = "read-source"  // for a run
)

// ownCommand is a command of this program, for a process of its own.
func ownCommand(name string) []string {
	program, err := os.Executable()
	if err != nil {
		program = os.Args[0]
	}
	return []string{program, name}
}

// readApart lets files that are packed be read by processes of their own.
func readApart() { grid.Apart = ownCommand(readColumns) }

func apartCommands() []*cobra.Command {
	columns := &cobra.Command{
		Use:    readColumns + " [heads]",
		Short:  "Write the columns and rows of a Parquet or Arrow file as lines of JSON",
		Hidden: true,
		Args:   cobra.MaximumNArgs(1),
		Run: func(cmd *cobra.Command, given []string) {
			if err := grid.Convert(cmd.InOrStdin(), cmd.OutOrStdout(), given...); err != nil {
				cmd.PrintErr(grid.Refusal(err))
				os.Exit(1)
			}
		},
	}
	source := &cobra.Command{
		Use:    readSource,
		Short:  "Read a source for a run, as the service asks",
		Hidden: true,
		Args:   cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return apart.Serve(cmd.Context(), cmd.InOrStdin(), cmd.OutOrStdout())
		},
	}
	return []*cobra.Command{columns, source}
}
