package main

import (
	"os"

	"github.com/spf13/cobra"

	"mantilla/grid"
)

// apart is the command that a service runs to read a file which could take all memory.
const apart = "read-columns"

// readApart lets files that are packed be read by processes of their own.
func readApart() {
	if program, err := os.Executable(); err == nil {
		grid.Apart = []string{program, apart}
	}
}

func apartCommand() *cobra.Command {
	return &cobra.Command{
		Use:    apart + " [heads]",
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
}
