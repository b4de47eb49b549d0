package capture

import (
	"context"
	"fmt"

	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/core/shown"
	"mantilla/runner"
	"mantilla/source"
)

// counting counts the rows of all datasets of a run against its limit.
type counting struct {
	before   int64 // rows of earlier datasets
	rows     int64
	limit    int64
	expected int64 // as the source reckons, before anything is read; 0 where it cannot
	says     string
	stayed   int64 // rows that stay in the engine of the source, which are not among those that may be kept here
	engine   bool  // the source could let rows stay in its engine
	progress func(runner.Far)
}

// reckon asks the source, where it can tell, how many rows there will be, so that whoever waits
// for more than there may be knows it before they are read. It decides nothing: sources are
// wrong by far.
func (c *counting) reckon(ctx context.Context, session source.Session, queries []query.Query) {
	reckoner, ok := session.(source.Reckoner)
	if !ok {
		return
	}
	for _, q := range queries {
		if q.Dataset.Keep == report.InEngine {
			continue
		}
		rows, err := reckoner.Reckon(ctx, q)
		if err != nil {
			c.expected = 0
			return // what is wrong with the query is told when it is read
		}
		c.expected += rows
	}
	if c.expected > c.limit {
		c.says = fmt.Sprintf("The source reckons with about %s rows; the limit is %s, at which the run would fail%s.",
			whole(rounded(c.expected)), whole(c.limit), c.offer())
	}
	c.tell()
}

func (c *counting) tick(rows int64) error {
	c.rows = c.before + rows
	c.tell()
	if c.rows > c.limit {
		return &limitReached{c.limit, c.expected, c.offer()}
	}
	return nil
}

// offer says what else could be done with many rows; "" for nothing.
func (c *counting) offer() string {
	if !c.engine {
		return ""
	}
	return "; its author can let the rows stay in the source (keep: {in: engine})"
}

func (c *counting) tell() {
	c.progress(runner.Far{Rows: c.rows + c.stayed, Expected: rounded(c.expected), Says: c.says})
}

// limitReached says that a run gives too many rows.
type limitReached struct {
	limit, expected int64
	offer           string
}

func (l *limitReached) Error() string {
	reckoned := ""
	if l.expected > l.limit {
		reckoned = fmt.Sprintf(" (about %s, as the source reckons)", whole(rounded(l.expected)))
	}
	return fmt.Sprintf("the run gives more than %d rows%s, the limit of this report; choose less, a shorter range for "+
		"one%s",
		l.limit, reckoned, l.offer)
}

func whole(n int64) string { return shown.Grouped(fmt.Sprint(n)) }

// rounded is a number that is only reckoned, to two digits.
func rounded(n int64) int64 {
	tens := int64(1)
	for n/tens >= 100 {
		tens *= 10
	}
	return (n + tens/2) / tens * tens
}
