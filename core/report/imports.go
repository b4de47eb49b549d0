package report

// Import is a file of rows that is ready to be read by another program: its
// columns, their order and headings, and how they are written.
type Import struct {
	ID        string
	Title     string
	Of        string // dataset
	Columns   []ImportColumn
	Sort      []string
	Unpivot   []string // columns that become lines: each row has a line for each of them
	Name      string   // heading of the names of such columns
	Value     string   // heading of their values
	Separator string   // comma, semicolon, tab or bar
	Decimal   string   // point or comma
	Headings  bool
}

// ImportColumn is a column with its heading in the file.
type ImportColumn struct{ Is, As string }

// Import returns the import-ready file with that id, or nil.
func (d *Definition) Import(id string) *Import {
	for i := range d.Imports {
		if d.Imports[i].ID == id {
			return &d.Imports[i]
		}
	}
	return nil
}
