package access

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"mantilla/library/acting"
	"mantilla/model"
)

// Unsaid says that a report asks who reads its rows what for, and that the person has not said.
type Unsaid struct{ report, title string }

func (u *Unsaid) Error() string {
	return fmt.Sprintf("%s (%s) says of people what not everybody is to see; say first what you read it for", u.title,
		u.report)
}

// lastsFor is how long what somebody reads a report for counts: about a day's work.
const lastsFor = 12 * time.Hour

// What a purpose has, in characters, so that it says something.
const (
	leastPurpose   = 5
	longestPurpose = 200
)

// purposes are what people read reports for, by person and report. The audit keeps them; here they are
// until the service ends, after which people say it again.
type purposes struct {
	mu  sync.Mutex
	all map[[2]string]purpose
}

type purpose struct {
	text string
	at   time.Time
}

func (p *purposes) said(person, report string, now time.Time) string {
	p.mu.Lock()
	defer p.mu.Unlock()
	said := p.all[[2]string{person, report}]
	if now.Sub(said.at) > lastsFor {
		return ""
	}
	return said.text
}

// say keeps a purpose, and forgets those that count no more.
func (p *purposes) say(person, report, text string, now time.Time) {
	p.mu.Lock()
	defer p.mu.Unlock()
	for of, other := range p.all {
		if now.Sub(other.at) > lastsFor {
			delete(p.all, of)
		}
	}
	p.all[[2]string{person, report}] = purpose{text, now}
}

// SayPurpose says what the person reads the results of a report for, from now on and for some hours.
func (a *Access) SayPurpose(ctx context.Context, report, text string) error {
	if !slices.Contains(a.room.catalog.ReportIDs(), report) || !a.Opens(report) {
		return model.NoSuch("report", report, nil)
	}
	text = strings.Join(strings.Fields(text), " ")
	if n := len([]rune(text)); n < leastPurpose || n > longestPurpose {
		return model.Refuse("purpose", "say in %d to %d characters what you read it for, such as yearly talk with the team",
			leastPurpose, longestPurpose)
	}
	acting.Changes(ctx, "", text)
	a.room.purposes.say(a.person.Name, report, text, a.room.org.Now())
	return nil
}

// Purposed is why the person may not read rows of a report that asks what for: somebody who signed in has
// to say so first. What the service does on their behalf is asked for nothing.
func (a *Access) Purposed(ctx context.Context, report, title string) error {
	if !a.present {
		return nil
	}
	said := a.room.purposes.said(a.person.Name, report, a.room.org.Now())
	if said == "" {
		return &Unsaid{report, title}
	}
	acting.Changes(ctx, "", "for: "+said)
	return nil
}
