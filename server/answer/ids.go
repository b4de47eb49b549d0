package answer

import (
	"context"
	"encoding/json"
	"fmt"
	"mime"
	"net/http"
	"strconv"
	"strings"
	"time"

	"mantilla/api"
	"mantilla/core/checks"
	"mantilla/model"
	"mantilla/source"
)

// RunID is how a run is called outside.
func RunID(number int64) string { return fmt.Sprintf("RUN-%06d", number) }

// ResultID is how a result is called outside.
func ResultID(number int64) string { return fmt.Sprintf("R-%06d", number) }

// Number reads the number of an id, with its letters or without.
func Number(what, prefix, id string) (int64, error) {
	digits := strings.TrimPrefix(strings.ToUpper(id), prefix)
	n, err := strconv.ParseInt(digits, 10, 64)
	if err != nil || n < 1 {
		return 0, &BadRequest{Field: what, Err: fmt.Errorf("%q is not a %s; write it as %s000017", id, what, prefix)}
	}
	return n, nil
}

// OptionalNumber reads the number of an id that may be left out, as 0.
func OptionalNumber(what, prefix string, id *string) (int64, error) {
	if Value(id) == "" {
		return 0, nil
	}
	return Number(what, prefix, *id)
}

// Facts are values as they were typed and what they came to.
func Facts(list []model.Fact) []api.Fact {
	out := make([]api.Fact, len(list))
	for i, f := range list {
		out[i] = api.Fact{Parameter: f.Parameter, Label: f.Label, Typed: f.Typed, Resolved: f.Resolved, Says: f.Says}
	}
	return out
}

// heartbeat keeps proxies from closing a stream on which nothing happens.
const heartbeat = 15 * time.Second

// Stream writes server-sent events: what there is now, and again after each
// change, until it has ended, the listener has gone or the service closes.
func Stream[T any](ctx context.Context, closing <-chan struct{}, w http.ResponseWriter, name string, changes <-chan T,
	now func() (data any, ended bool, err error)) error {
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(http.StatusOK)
	beat := time.NewTicker(heartbeat)
	defer beat.Stop()
	for {
		if !CallOf(ctx).Still(ctx) {
			return nil // whoever listens may no longer
		}
		what, ended, err := now()
		if err != nil {
			return err
		}
		data, err := json.Marshal(what)
		if err != nil {
			return err
		}
		if _, err := fmt.Fprintf(w, "event: %s\ndata: %s\n\n", name, data); err != nil {
			return nil // the listener has gone
		}
		w.(http.Flusher).Flush()
		if ended {
			return nil
		}
		select {
		case <-changes:
		case <-beat.C:
		case <-closing:
			return nil
		case <-ctx.Done():
			return nil
		}
	}
}

// CriteriaID is how criteria are called outside.
func CriteriaID(number int64) string { return fmt.Sprintf("C-%d", number) }

// ResultLine is a result in a list.
func ResultLine(x model.Result) api.ResultLine {
	return api.ResultLine{
		Id:       ResultID(x.Number),
		Report:   x.Report,
		Title:    x.Title,
		Sentence: x.Sentence,
		AskedBy:  x.Manifest.AskedBy,
		KeptAt:   x.KeptAt,
		Rows:     x.Rows,
		Bytes:    x.Bytes,
		KeptTill: Moment(x.KeptTill),
		Marked:   Truth(checks.Marks(x.Manifest.Checks)),
		How:      how(x.Manifest.Made),
		Signed:   Truth(x.Signed),
		Held:     Truth(x.Held),
	}
}

// how a result was made of others.
func how(m *model.Making) *api.ResultLineHow {
	if m == nil {
		return nil
	}
	out := api.ResultLineHow(m.How)
	return &out
}

// Fenced keeps a browser from running anything that a file has in it.
func Fenced() *string {
	policy := "sandbox; default-src 'none'"
	return &policy
}

// StatementID is how a statement is called outside.
func StatementID(number int64) string { return fmt.Sprintf("S-%06d", number) }

// Made is what a result was made of, as the contract has it; nil where its rows were read.
func Made(m *model.Making) *api.Made {
	if m == nil {
		return nil
	}
	out := api.Made{How: api.MadeHow(m.How), Key: List(m.Key), Restates: Truth(m.Restates)}
	for _, of := range m.Of {
		out.Of = append(out.Of, api.MadeOf{Result: ResultID(of.Result), Report: of.Report, Dataset: of.Dataset,
			Seal: of.Seal})
	}
	if a := m.Against; a != nil {
		out.Statement = &api.Against{Id: StatementID(a.Statement), Name: a.Name, Digest: a.Digest, Until: a.Until}
	}
	if s := m.Series; s != nil {
		out.Series = &api.SeriesOf{Control: s.Control, Track: List(s.Track), Gaps: []api.Gap{}}
		for _, g := range s.Gaps {
			out.Series.Gaps = append(out.Series.Gaps, api.Gap{Day: g.Day, Reason: g.Reason})
		}
	}
	return &out
}

// Checks are outcomes as the contract has them.
func Checks(all []checks.Outcome) []api.CheckOutcome {
	out := []api.CheckOutcome{}
	for _, o := range all {
		out = append(out,
			api.CheckOutcome{Id: o.ID, Else: api.CheckOutcomeElse(o.Else), State: api.CheckOutcomeState(o.State),
				Says: o.Says(), Figure: Given(o.Figure), Before: Given(o.Before)})
	}
	return out
}

// Statement is what a source was asked, with what was bound, as people read it.
func Statement(st source.Statement) api.Statement {
	values := []string{}
	for _, arg := range st.Args {
		if arg == nil {
			arg = "no value"
		}
		values = append(values, fmt.Sprint(arg))
	}
	return api.Statement{Dataset: st.Dataset.ID, Text: st.Text, Values: values}
}

// Moment is left out where it is none.
// GetResult answers GET /results/{result}: A result, how it was made, and the views of its page.
func Moment(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

// List returns a list that is never null.
func List[T any](items []T) []T {
	if items == nil {
		return []T{}
	}
	return items
}

// Given is left out where it is empty.
func Given[T comparable](v T) *T {
	var none T
	if v == none {
		return nil
	}
	return &v
}

// Truth leaves out what is not so.
func Truth(yes bool) *bool {
	if !yes {
		return nil
	}
	return &yes
}

// Attachment tells a browser to keep a file under a name.
func Attachment(name string) *string {
	text := mime.FormatMediaType("attachment", map[string]string{"filename": name})
	return &text
}
