package moving

import (
	"context"
	"encoding/json"
	"maps"
	"reflect"
	"slices"
	"strings"

	"mantilla/core/param"
	"mantilla/core/report"
	"mantilla/library/reading"
	"mantilla/model"
)

// read reads a file of the bundle that is a list; none where there is no such file.
func read[T any](t *taking, path string) (list []T, err error) {
	if err := t.of.Get(path, &list); err != nil {
		return nil, model.Refuse("bundle", "%w", err)
	}
	return list, nil
}

// sharedWith is with whom something is shared here.
func (t *taking) sharedWith(name string) string {
	if name == "everyone" || name == "" {
		return name
	}
	return to(t.m.Groups, name)
}

// units writes values with the codes of units as they are here.
func (t *taking) units(d *report.Definition, values map[string]string) map[string]string {
	out := maps.Clone(values)
	for _, p := range d.Parameters {
		if p.Type != param.Unit || out[p.ID] == "" {
			continue
		}
		parts := strings.Split(out[p.ID], ";")
		for i, part := range parts {
			parts[i] = to(t.m.Units, strings.TrimSpace(part))
		}
		out[p.ID] = strings.Join(parts, "; ")
	}
	return out
}

func (t *taking) criteria(ctx context.Context) error {
	list, err := read[criteria](t, "criteria.yaml")
	if err != nil {
		return err
	}
	for _, c := range list {
		d := t.here[c.Report]
		if d == nil {
			t.add("criteria", c.Report, c.Name, Blocked, "there is no report "+c.Report)
			continue
		}
		values := t.units(d, c.Values)
		present, err := t.a.room.kept.Criteria(ctx, c.Report)
		if err != nil {
			return err
		}
		at := slices.IndexFunc(present, func(p model.Criteria) bool { return p.Name == c.Name && p.Shared != "" })
		switch {
		case at >= 0 && maps.Equal(present[at].Typed, values):
			t.add("criteria", c.Report, c.Name, Same)
		case at >= 0:
			t.add("criteria", c.Report, c.Name, Left, present[at].Owner+" shares others of that name")
		default:
			t.add("criteria", c.Report, c.Name, New)
			t.load.Criteria = append(t.load.Criteria, model.Criteria{Report: c.Report, Name: c.Name,
				Owner: t.a.Person().Name, Shared: t.sharedWith(c.Shared), Typed: values, Version: d.Version})
		}
	}
	return nil
}

func (t *taking) views(ctx context.Context) error {
	list, err := read[view](t, "views.yaml")
	if err != nil {
		return err
	}
	for _, v := range list {
		d := t.here[v.Report]
		if d == nil || reading.ViewOf(d, v.Base) == nil {
			t.add("view", v.Report, v.Name, Blocked, "there is no view "+v.Base+" of "+v.Report)
			continue
		}
		changes, err := changesOf(v.Changes)
		if err != nil {
			return model.Refuse("bundle", "the view %s cannot be read: %w", v.Name, err)
		}
		present, err := t.a.room.kept.Views(ctx, v.Report)
		if err != nil {
			return err
		}
		at := slices.IndexFunc(present, func(p model.View) bool { return p.Name == v.Name && p.Everyone })
		switch {
		case at >= 0 && reflect.DeepEqual(present[at].Changes, changes):
			t.add("view", v.Report, v.Name, Same)
		case at >= 0:
			t.add("view", v.Report, v.Name, Left, present[at].Owner+" keeps another of that name")
		default:
			t.add("view", v.Report, v.Name, New)
			t.load.Views = append(t.load.Views, model.View{Report: v.Report, Base: v.Base, Name: v.Name,
				Owner: t.a.Person().Name, Everyone: true, Changes: changes, Seen: v.Seen})
		}
	}
	return nil
}

// controls come without their owners, and wait until somebody lets them run.
func (t *taking) controls(ctx context.Context) error {
	list, err := read[control](t, "controls.yaml")
	if err != nil {
		return err
	}
	present, err := t.a.room.records.Controls(ctx)
	if err != nil {
		return err
	}
	for _, c := range list {
		steps, _ := c.Body["steps"].([]any)
		for _, s := range steps {
			t.mapStep(s)
		}
		body, err := json.Marshal(c.Body)
		if err != nil {
			return model.Refuse("bundle", "the run control %s cannot be read: %w", c.ID, err)
		}
		at := slices.IndexFunc(present, func(p model.Control) bool { return p.ID == c.ID })
		switch {
		case at >= 0:
			t.add("control", c.ID, c.Title, Left, present[at].Owner+" has one under that id")
		case t.misses(steps) != "":
			t.add("control", c.ID, c.Title, Blocked, "there is no report "+t.misses(steps))
		default:
			t.add("control", c.ID, c.Title, New, "its timetable waits until it is set going")
			t.load.Controls = append(t.load.Controls, model.Control{ID: c.ID, Title: c.Title, Owner: t.a.Person().Name,
				Shared: t.sharedWith(c.Shared), Body: body})
		}
	}
	return nil
}

// misses is a report that a control runs and that is not here; "" for none.
func (t *taking) misses(steps []any) string {
	for _, s := range steps {
		step, _ := s.(map[string]any)
		id, _ := step["report"].(string)
		if t.here[id] == nil {
			return id
		}
	}
	return ""
}

func (t *taking) mapStep(s any) {
	step, _ := s.(map[string]any)
	id, _ := step["report"].(string)
	typed, _ := step["typed"].(map[string]any)
	d := t.here[id]
	if d == nil || typed == nil {
		return
	}
	values := map[string]string{}
	for name, text := range typed {
		values[name], _ = text.(string)
	}
	mapped := map[string]any{}
	for name, text := range t.units(d, values) {
		mapped[name] = text
	}
	step["typed"] = mapped
}
