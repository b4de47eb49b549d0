package table

import (
	"fmt"

	"mantilla/core/frame"
)

// Test is what a condition asks of a cell.
type Test uint8

// The tests of a condition. Cells without a value pass only Empty and IsNot.
const (
	Is       Test = iota // equal to one of the values
	IsNot                // equal to none of the values
	Contains             // text holds the value, whatever the case and accents
	AtLeast              // not before the value
	AtMost               // not after the value
	Empty                // has no value
	NotEmpty             // has a value
)

// Condition is one test of one column. Values of text columns stand in Texts,
// those of all others, as [frame.Batch.Int] gives them, in Ints.
type Condition struct {
	Column string
	Test   Test
	Texts  []string
	Ints   []int64
}

// Fits tells what is wrong with asking the condition of cells of a kind.
func (c Condition) Fits(kind frame.Kind) error {
	switch {
	case c.Test == Empty || c.Test == NotEmpty:
		return nil
	case c.Test == Contains && kind != frame.Text:
		return fmt.Errorf("column %s holds %s, which cannot be searched for a text", c.Column, kind)
	case kind == frame.Text && len(c.Texts) == 0, kind != frame.Text && len(c.Ints) == 0:
		return fmt.Errorf("the filter on column %s has no value", c.Column)
	}
	return nil
}
