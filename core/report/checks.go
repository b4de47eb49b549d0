package report

// What is done when a check does not hold.
const (
	NoteIt = "note" // it is told with the result
	MarkIt = "mark" // the result is marked wherever it is listed
	FailIt = "fail" // the run fails, and nothing is kept
)

// Check is what should hold of the figures of a result.
type Check struct {
	ID      string
	Of      string   // a dataset; "" where Holds speaks of With alone
	Each    []string // columns: it should hold of each of their groups; none for all rows as one
	Holds   string   // a condition over the rows of the dataset, or over With
	With    []Named  // figures that Holds speaks of by name
	Figure  string   // where it is compared with that of the run before
	Within  string   // so many percent of the figure of the run before; "" where Holds is given
	Against string   // which run before: before, that of the same values; signed, the last that was signed off
	Else    string   // note, mark or fail
	Say     string
}

// What a figure is compared with: the last result of the same values, or the last that was
// signed off.
const (
	AgainstBefore = "before"
	AgainstSigned = "signed"
)

// Named is a figure of a dataset under a name.
type Named struct{ Name, Of, Is string }

// Expected is a test of a definition: figures that are known for some values.
type Expected struct {
	Name    string
	Values  map[string]string // as they are typed
	Figures []Figured
}

// Figured is a figure of a dataset with what it is expected to be, as it is written
// without separators: 1234.567, 2026-10-15, true.
type Figured struct{ Of, Is, Equals string }
