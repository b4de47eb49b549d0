package audit

import (
	"context"
	"fmt"

	"mantilla/core/audit"
	"mantilla/library/acting"
	"mantilla/model"
)

// Setting is one of the settings that the service was started with.
type Setting struct {
	Name, Value string
	Usual       string // what it is where nobody says another
	Secret      bool   // that it is set may be told, and not to what
}

// mostSettings are more lines than there are settings that were ever changed, of which the newest count.
const mostSettings = 10_000

// Settings notes each setting that is another than at the last start, as far as the lines reach back: of one
// that was never noted, whether it is what it usually is.
func (room *Room) Settings(ctx context.Context, now []Setting) error {
	lines, err := room.records.Lines(ctx, model.AuditSearch{Kind: "setting", Limit: mostSettings})
	if err != nil {
		return fmt.Errorf("what the settings were: %w", err)
	}
	was := map[string]string{}
	for _, l := range lines { // the newest first
		if _, known := was[l.ID]; !known {
			was[l.ID] = l.After
		}
	}
	for _, s := range now {
		if s.Secret && s.Value != "" {
			s.Value = "(secret)"
		}
		before, known := was[s.Name]
		if known && before == audit.Cut(s.Value) || !known && s.Value == s.Usual {
			continue
		}
		act := &acting.Act{Face: "service"}
		one := acting.With(ctx, act)
		acting.Changes(one, before, s.Value)
		room.Add(one, acting.Done{Act: "changeSetting", Kind: "setting", ID: s.Name})
	}
	return nil
}
