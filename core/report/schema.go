package report

import (
	"encoding/json"
	"fmt"
)

// Schema writes a settled definition as it is kept, and sealed, with a result: what
// the columns of its datasets mean, kinds, scales and currencies included, and how
// its views show them. Neither a later definition nor a later program reinterprets
// what is read by it. The text, and the SQL, which nothing reads again, stay with
// the version of the definition.
func (d *Definition) Schema() ([]byte, error) {
	kept := *d
	kept.Text, kept.Guide, kept.Follow, kept.Checks, kept.Expected = "", "", "", nil, nil
	kept.Datasets = make([]Dataset, len(d.Datasets))
	for i, set := range d.Datasets {
		set.From, set.Scope, set.Where, set.Group, set.Order, set.Each = Piece{}, Piece{}, nil, nil, nil, nil
		columns := make([]Column, len(set.Columns))
		copy(columns, set.Columns)
		for j := range columns {
			columns[j].Is = Piece{}
		}
		set.Columns = columns
		kept.Datasets[i] = set
	}
	text, err := json.Marshal(kept)
	if err != nil {
		return nil, fmt.Errorf("writing the schema of %s: %w", d.ID, err)
	}
	return text, nil
}

// FromSchema reads what [Definition.Schema] wrote.
func FromSchema(text []byte) (*Definition, error) {
	var d Definition
	if err := json.Unmarshal(text, &d); err != nil {
		return nil, fmt.Errorf("reading the schema of a result: %w", err)
	}
	return &d, nil
}
