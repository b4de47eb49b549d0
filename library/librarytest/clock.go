package librarytest

import (
	"sync/atomic"
	"time"
)

// Berlin is the zone of the demo.
var Berlin = func() *time.Location {
	zone, err := time.LoadLocation("Europe/Berlin")
	if err != nil {
		panic(err)
	}
	return zone
}()

// Clock is a clock that a test moves while workers look at it.
type Clock struct{ at atomic.Pointer[time.Time] }

// At makes a clock that stands at a moment.
func At(t time.Time) *Clock {
	c := &Clock{}
	c.Set(t)
	return c
}

// Set moves the clock.
func (c *Clock) Set(t time.Time) { c.at.Store(&t) }

// Time is what the clock shows.
func (c *Clock) Time() time.Time { return *c.at.Load() }
