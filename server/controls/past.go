package controls

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/server/answer"
)

// ListPastControls answers GET /controls/{control}/past: what a run control was, each version with
// what bringing it back would change.
func (s Controls) ListPastControls(ctx context.Context,
	r handlers.ListPastControlsRequestObject) (handlers.ListPastControlsResponseObject, error) {
	now, err := answer.As(ctx).Controls.Control(ctx, r.Control)
	if err != nil {
		return nil, err
	}
	past, err := answer.As(ctx).Controls.PastControls(ctx, r.Control)
	out := handlers.ListPastControls200JSONResponse{}
	for _, p := range past {
		was := control(p)
		differences, err := differing(control(now), was)
		if err != nil {
			return nil, err
		}
		out = append(out, api.PastControl{Control: was, Differences: differences})
	}
	return out, err
}

// differing tells where what a run control consists of is now another than it was, in the words
// of the contract.
func differing(now, was api.Control) ([]api.ControlDifference, error) {
	is, err := places(now)
	if err != nil {
		return nil, err
	}
	before, err := places(was)
	if err != nil {
		return nil, err
	}
	all := maps.Clone(before)
	maps.Copy(all, is)
	out := []api.ControlDifference{}
	for _, place := range slices.Sorted(maps.Keys(all)) {
		if is[place] != before[place] {
			out = append(out, api.ControlDifference{Place: place, Is: is[place], Was: before[place]})
		}
	}
	return out, nil
}

// places are the values that a run control consists of, each by its place, such as
// steps.2.values.received.
func places(c api.Control) (map[string]string, error) {
	text, err := json.Marshal(api.ControlChange{Title: c.Title, Shared: c.Shared, Steps: c.Steps, Outputs: c.Outputs,
		Rows: c.Rows, Seconds: c.Seconds, Hours: c.Hours, Empty: api.ControlChangeEmpty(c.Empty), KeepDays: c.KeepDays,
		Restate: c.Restate, Send: c.Send, Split: c.Split, Timetable: c.Timetable})
	if err != nil {
		return nil, err
	}
	var whole any
	if err := json.Unmarshal(text, &whole); err != nil {
		return nil, err
	}
	out := map[string]string{}
	gather(out, "", whole)
	return out, nil
}

func gather(into map[string]string, place string, value any) {
	within := func(name string) string {
		if place == "" {
			return name
		}
		return place + "." + name
	}
	switch v := value.(type) {
	case map[string]any:
		for name, inner := range v {
			gather(into, within(name), inner)
		}
	case []any:
		for i, inner := range v {
			gather(into, within(fmt.Sprint(i+1)), inner)
		}
	default:
		into[place] = fmt.Sprint(v)
	}
}
