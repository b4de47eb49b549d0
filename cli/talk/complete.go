package talk

import (
	"time"

	"github.com/spf13/cobra"
)

// NoFiles keeps a shell from offering files.
const NoFiles = cobra.ShellCompDirectiveNoFileComp

// CompletionTime bounds how long a press of the tab key may take.
const CompletionTime = 2 * time.Second

// Fixed offers words that are always the same.
func Fixed(words ...string) cobra.CompletionFunc {
	return func(*cobra.Command, []string, string) ([]string, cobra.ShellCompDirective) { return words, NoFiles }
}
