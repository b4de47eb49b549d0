package main

import (
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"
	"github.com/spf13/cobra/doc"
)

// manualCommand writes what a package brings beside the program: pages of the manual, and what
// completes its commands.
func manualCommand() *cobra.Command {
	return &cobra.Command{
		Use:    "manual DIR",
		Short:  "Write the pages of the manual and the completion of commands below a directory",
		Hidden: true,
		Args:   cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, given []string) error {
			root := cmd.Root()
			root.DisableAutoGenTag = true
			pages, completion := filepath.Join(given[0], "man"), filepath.Join(given[0], "completion")
			for _, dir := range []string{pages, completion} {
				if err := os.MkdirAll(dir, 0o750); err != nil {
					return fmt.Errorf("making a place for the manual: %w", err)
				}
			}
			if err := doc.GenManTree(root, &doc.GenManHeader{Section: "1", Source: "Mantilla", Manual: "Mantilla"},
				pages); err != nil {
				return fmt.Errorf("writing the manual: %w", err)
			}
			if err := root.GenBashCompletionFileV2(filepath.Join(completion, "mantilla.bash"), true); err != nil {
				return err
			}
			if err := root.GenZshCompletionFile(filepath.Join(completion, "_mantilla")); err != nil {
				return err
			}
			return root.GenFishCompletionFile(filepath.Join(completion, "mantilla.fish"), true)
		},
	}
}
