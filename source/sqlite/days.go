package sqlite

import (
	"fmt"
	"math"

	"github.com/ncruces/go-sqlite3"

	"mantilla/source/cells"
)

// SQLite has no days and moments of its own: sources spell them as they like.
// Cells are read, and compared with the days and times of a parameter, by what
// they are, not as texts.

// readable gives a connection the functions day(x, where) and moment(x, where):
// days since 1970-01-01 and microseconds since then in UTC, null of null. What
// cannot be read as such is an error that says where it stands.
func readable(c *sqlite3.Conn) error {
	err := c.CreateFunction("day", 2, sqlite3.DETERMINISTIC, func(ctx sqlite3.Context, arg ...sqlite3.Value) {
		if arg[0].Type() == sqlite3.NULL {
			return
		}
		day, err := int64(0), error(nil)
		if arg[0].Type() == sqlite3.TEXT {
			day, err = cells.Day(arg[0].RawText())
		} else {
			err = cells.NotDay(arg[0].Text())
		}
		if err != nil {
			ctx.ResultError(fmt.Errorf("%s: %w", arg[1].Text(), err))
			return
		}
		ctx.ResultInt64(day)
	})
	if err != nil {
		return err
	}
	return c.CreateFunction("moment", 2, sqlite3.DETERMINISTIC, func(ctx sqlite3.Context, arg ...sqlite3.Value) {
		if arg[0].Type() == sqlite3.NULL {
			return
		}
		at, err := momentOf(arg[0].Type(), arg[0].Float, arg[0].Int64, arg[0].RawText)
		if err != nil {
			ctx.ResultError(fmt.Errorf("%s: %w", arg[1].Text(), err))
			return
		}
		ctx.ResultInt64(at)
	})
}

// momentOf reads a moment, in microseconds: a text in ISO 8601, or a number of
// seconds since 1970; numbers beyond the year 5000 are taken as milliseconds or
// microseconds.
func momentOf(kind sqlite3.Datatype, real func() float64, whole func() int64, text func() []byte) (int64, error) {
	switch kind {
	case sqlite3.INTEGER:
		return stamped(whole())
	case sqlite3.FLOAT:
		seconds := real()
		if math.Abs(seconds) >= farStamp*1e6 {
			return 0, cells.NotMoment(string(text()))
		}
		if math.Abs(seconds) >= farStamp {
			return stamped(int64(seconds))
		}
		return int64(math.Round(seconds * 1e6)), nil
	case sqlite3.TEXT:
		return cells.Moment(text())
	}
	return 0, cells.NotMoment(string(text()))
}

// farStamp is how many seconds since 1970 a stamp can mean: beyond, it counts
// something smaller.
const farStamp = 100_000_000_000

func stamped(n int64) (int64, error) {
	size := n
	if size < 0 {
		size = -size
	}
	switch {
	case size < farStamp:
		return n * 1_000_000, nil
	case size < farStamp*1000:
		return n * 1000, nil
	case size < farStamp*1_000_000:
		return n, nil
	}
	return 0, fmt.Errorf("%d is no number of seconds, milliseconds or microseconds since 1970", n)
}
