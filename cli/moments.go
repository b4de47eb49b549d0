package cli

import (
	"context"
	"net/http"
	"time"

	"mantilla/api"
	"mantilla/api/client"
)

// at writes a moment in the person's zone, which is named: the same as the console
// and files write it, wherever the command line runs.
func (c *program) at(t time.Time) string { return t.In(c.zone()).Format("2 Jan 2006 15:04 MST") }

// onDay is at with the day of the week.
func (c *program) onDay(t time.Time) string {
	return t.In(c.zone()).Format("Mon 2 Jan 2006 15:04 MST")
}

// zone asks the service once for the person's zone, which is that of the
// organisation where they have none of their own; without an answer it is UTC.
func (c *program) zone() *time.Location {
	c.asked.Do(func() {
		c.location = time.UTC
		who, err := fetch[api.Who](c,
			func(a *client.Client) (*http.Response, error) { return a.GetSession(context.Background()) })
		if err != nil {
			return
		}
		if zone, err := time.LoadLocation(who.Zone); err == nil {
			c.location = zone
		}
	})
	return c.location
}
