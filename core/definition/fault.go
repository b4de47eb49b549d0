package definition

import (
	"fmt"
	"strings"
)

// Fault is one thing that is wrong with a definition. Lines and columns count
// from 1.
type Fault struct {
	Line, Column int
	Message      string
}

func (f Fault) String() string {
	return fmt.Sprintf("line %d, column %d: %s", f.Line, f.Column, f.Message)
}

// Faults are all that is wrong with a definition, in the file's order.
type Faults []Fault

// Error lists the faults, one a line.
func (fs Faults) Error() string {
	all := make([]string, len(fs))
	for i, f := range fs {
		all[i] = f.String()
	}
	return strings.Join(all, "\n")
}
