package apart

import (
	"errors"
	"slices"

	"mantilla/core/period"
	"mantilla/core/query"
	"mantilla/core/report"
	"mantilla/model"
	"mantilla/source"
)

// request is what a worker is asked, as a line of JSON; one of these.
type request struct {
	Begin  *beginning   `json:"begin,omitempty"`
	Read   *query.Query `json:"read,omitempty"`
	Reckon *query.Query `json:"reckon,omitempty"`
	Keep   *keeping     `json:"keep,omitempty"`
	Stop   bool         `json:"stop,omitempty"` // the rows that are being read are not wanted any more
}

// beginning is what a worker needs to open a source.
type beginning struct {
	Declaration string `json:"declaration"`
	Dir         string `json:"dir"`
	Password    string `json:"password,omitempty"`
	Keeps       string `json:"keeps,omitempty"` // the password of the account that keeps results
}

// keeping is a query whose rows are to stay in the engine.
type keeping struct {
	Query query.Query    `json:"query"`
	As    source.Keeping `json:"as"`
}

// answer is what a worker answers: batches, and then what it came to or what was wrong.
type answer struct {
	Batch       []byte // an Arrow stream of one batch; nil in the last answer
	Fingerprint string
	Reckons     bool // the source can tell how many rows there will be
	Keeps       bool // it can let rows stay where they lie
	Rows        int64
	Stay        model.Stay
	Fault       *fault
}

// fault is an error that came from a worker, as what it is.
type fault struct {
	Text string
	Is   string // which of the named ones; "" for none
}

func (f *fault) Error() string { return f.Text }

// Unwrap is the error that callers know.
func (f *fault) Unwrap() error { return named[f.Is] }

// named are the errors of sources that callers tell apart.
var named = map[string]error{"missing": source.ErrMissing, "locked": source.ErrLocked, "silent": source.ErrSilent,
	"more": source.ErrMore, "keeps nothing": source.ErrKeepsNothing}

func faultOf(err error) *fault {
	out := &fault{Text: err.Error()}
	for name, known := range named {
		if errors.Is(err, known) {
			out.Is = name
		}
	}
	return out
}

// wired is a query with what a worker needs of it, and moments in UTC: offsets of long ago had
// seconds, which JSON has no place for. What is read of the dataset is what it has then.
func wired(q query.Query) *query.Query {
	set := &report.Dataset{ID: q.Dataset.ID}
	for _, c := range q.Dataset.Read() {
		set.Columns = append(set.Columns, report.Column{ID: c.ID, Label: c.Label, Kind: c.Kind, Scale: c.Scale,
			Currency: c.Currency, Stored: c.Stored})
	}
	q.Dataset, q.Companions, q.Begins = set, nil, nil
	q.Where = slices.Clone(q.Where)
	for i, w := range q.Where {
		if w.Within == nil {
			continue
		}
		within := *w.Within
		within.Spans = nil
		for _, span := range w.Within.Spans {
			within.Spans = append(within.Spans, period.Interval{From: span.From.UTC(), To: span.To.UTC()})
		}
		q.Where[i].Within = &within
	}
	return &q
}
