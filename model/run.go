package model

import (
	"encoding/json"
	"time"

	"mantilla/core/report"
)

// State is how far a run has come.
type State string

// The states of a run. The last three are ends.
const (
	Waiting State = "waiting"
	Running State = "running"
	Done    State = "done"
	Failed  State = "failed"
	Stopped State = "stopped"
)

// Ended tells whether the state is an end.
func (s State) Ended() bool { return s == Done || s == Failed || s == Stopped }

// Fact is one value of a run: as typed, as resolved, and as the sentence says
// it.
type Fact struct {
	Parameter string `json:"parameter"`
	Label     string `json:"label"`
	Typed     string `json:"typed"`
	Resolved  string `json:"resolved"`
	Says      string `json:"says"`
}

// Run is one execution of a report.
type Run struct {
	Number     int64
	Report     string
	Title      string
	Version    string
	State      State
	Typed      map[string]string
	Facts      []Fact
	Values     []byte // what they came to, as param.Values.Pack writes them; none of older runs
	Sentence   string
	AskedBy    string
	AskedAt    time.Time
	StartedAt  time.Time // zero until it started
	EndedAt    time.Time // zero until it ended
	Rows       int64
	Expected   int64  // about how many there will be, while it runs; 0 where that is not known
	Reason     string // why it failed
	AfterCrash string // fail or again
	Result     int64  // number of its result, 0 for none
	Note       string // what is to be known of its end

	Reach      report.Reach // what its rows are cut to
	Criteria   int64        // that it ran with; 0 for none
	ControlRun int64        // that it is a part of; 0 for none
	Step       int          // its place there: it waits for those before it
	Making     *Making      // what it makes of other results; nil for a run of a report
	Terms      Terms
}

// Elapsed is how long the run took, or has taken until now.
func (r Run) Elapsed(now time.Time) time.Duration {
	switch {
	case r.StartedAt.IsZero():
		return 0
	case r.EndedAt.IsZero():
		return now.Sub(r.StartedAt)
	}
	return r.EndedAt.Sub(r.StartedAt)
}

// Resolved is what values came to, by parameter.
func Resolved(facts []Fact) map[string]string {
	out := map[string]string{}
	for _, f := range facts {
		out[f.Parameter] = f.Resolved
	}
	return out
}

// FactsDigest identifies what a run is of: report, version, resolved values and
// reach. Runs of the same digest give the same rows while the source is the same.
func FactsDigest(run Run) string {
	units := append([]string{}, run.Reach.Units...)
	of := []any{run.Report, run.Version, Resolved(run.Facts), run.Reach.Limited, units}
	if run.Making != nil {
		of = append(of, run.Making)
	}
	text, _ := json.Marshal(of)
	return Digest(string(text))
}

// Terms are what a run control demands of a run. Zero values demand nothing.
type Terms struct {
	Control string        `json:"control,omitempty"`
	Rows    int64         `json:"rows,omitempty"`
	Time    time.Duration `json:"time,omitempty"`
	Empty   string        `json:"empty,omitempty"`   // keep, note or fail
	Keep    int           `json:"keep,omitempty"`    // days that its result is kept
	Restate bool          `json:"restate,omitempty"` // its result is compared with the last that was signed off
	Hours   *Hours        `json:"hours,omitempty"`
}

// Hours are the minutes of the local day within which a run may start; Opens
// after Closes means through midnight.
type Hours struct {
	Opens  int `json:"opens"`
	Closes int `json:"closes"`
}

// RunWish says which runs are wanted; empty fields mean all.
type RunWish struct {
	Sees   Sight
	State  State
	Report string
	Before int64 // only runs with a smaller number
	Limit  int
}
