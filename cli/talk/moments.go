package talk

import (
	"context"
	"net/http"
	"strconv"
	"time"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/core/shown"
)

// At writes a moment in the person's zone, which is named: the same as the console
// and files write it, wherever the command line runs.
func (c *Program) At(t time.Time) string { return c.form().Moment(t) }

// OnDay is at with the day of the week.
func (c *Program) OnDay(t time.Time) string {
	return t.In(c.Zone()).Format("Mon ") + c.form().Moment(t)
}

// Zone asks the service once for the person's zone, which is that of the
// organisation where they have none of their own; without an answer it is UTC.
func (c *Program) Zone() *time.Location {
	c.asked.Do(func() {
		c.location = time.UTC
		who, err := Fetch[api.Who](c,
			func(a *client.Client) (*http.Response, error) { return a.GetSession(context.Background()) })
		if err != nil {
			return
		}
		if zone, err := time.LoadLocation(who.Zone); err == nil {
			c.location = zone
		}
		c.days = who.Form.Days
	})
	return c.location
}

// form is how days are written for the person, and moments.
func (c *Program) form() shown.Form {
	zone := c.Zone()
	return shown.Form{Zone: zone, Days: c.days}
}

// Seconds writes how long something took.
func Seconds(s float64) string {
	switch {
	case s < 1:
		return strconv.FormatFloat(s*1000, 'f', 0, 64) + " ms"
	case s < 60:
		return strconv.FormatFloat(s, 'f', 1, 64) + " s"
	}
	return time.Duration(s * float64(time.Second)).Round(time.Second).String()
}
