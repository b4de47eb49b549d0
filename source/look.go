package source

// Table is a table or view of a source, as those who write reports look at it.
type Table struct {
	Name    string
	View    bool
	Rows    int64 // -1 where counting would take too long
	Columns []TableColumn
}

// TableColumn is a column of a table.
type TableColumn struct {
	Name       string
	Type       string // as the source declares it; "" where it does not
	Key        bool   // part of the primary key
	Required   bool   // never without a value
	References string // the table that it is a key of; "" for none
}

// Sample is some rows of a table, a cell nil where it has no value.
type Sample struct {
	Columns []string
	Rows    [][]*string
}
