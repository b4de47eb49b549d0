package audit

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
)

// ReadFile looks through lines as they are taken away, a line of JSON each. Where they do not
// begin with the first line of the book, the digest of their own first is taken as it stands. It
// fails with [*Broken] where they are not whole.
func ReadFile(r io.Reader) (c Chain, err error) {
	lines := json.NewDecoder(r)
	for {
		var l Line
		switch err := lines.Decode(&l); {
		case errors.Is(err, io.EOF):
			return c, nil
		case err != nil:
			return c, fmt.Errorf("what follows line %d of the audit is no line of it: %w", c.Last, err)
		}
		if c.Lines == 0 && l.Number != 1 {
			c = Chain{Lines: 1, First: l.Number, Last: l.Number, Digest: l.Digest}
			continue
		}
		if err := c.Add(l); err != nil {
			return c, err
		}
	}
}
