package files

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"

	"mantilla/source"
)

// Listed makes a file of a list of a source, which is declared by of, where the source is in
// another state than that which is given; nil where it is not. Each entry is a line of JSON with
// code, label, kind, parent, detail, current and scope, and the fields of the list.
func Listed(ctx context.Context, s source.Source, of *source.Config, list, state string) (*Arrival, error) {
	declared, err := of.Declared(list)
	if err != nil {
		return nil, err
	}
	if declared.Large {
		return nil, fmt.Errorf("the list %s of %s is large, and never read whole", list, of.ID)
	}
	now, err := s.Fingerprint(ctx)
	if err != nil || now == state {
		return nil, err
	}
	items, err := s.List(ctx, list)
	if err != nil {
		return nil, err
	}
	var lines bytes.Buffer
	out := json.NewEncoder(&lines)
	for _, item := range items {
		entry := map[string]any{}
		for field, value := range item.Fields {
			entry[field] = value
		}
		for name, value := range map[string]any{"code": item.Code, "label": item.Label, "kind": item.Kind,
			"parent": item.Parent, "detail": item.Detail, "current": item.Current, "scope": item.Scope} {
			entry[name] = value
		}
		if err := out.Encode(entry); err != nil {
			return nil, err
		}
	}
	if len(items) == 0 {
		return nil, fmt.Errorf("the list %s of %s has no entries", list, of.ID)
	}
	return &Arrival{Name: fmt.Sprintf("%s of %s.jsonl", list, of.ID), Data: lines.Bytes(), State: now}, nil
}
