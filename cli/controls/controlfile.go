package controls

import (
	"bytes"
	"encoding/json"
	"time"

	"mantilla/api"
	"mantilla/cli/talk"
)

// controlFile is a run control as it is written.
type controlFile struct {
	Title   string        `yaml:"title"`
	Shared  string        `yaml:"shared,omitempty"`
	Steps   []stepFile    `yaml:"steps"`
	Outputs []string      `yaml:"outputs,omitempty,flow"`
	Empty   string        `yaml:"empty,omitempty"`
	Hours   string        `yaml:"hours,omitempty"`
	Rows    int64         `yaml:"rows,omitempty"`
	Time    time.Duration `yaml:"time,omitempty"`
	Keep    int           `yaml:"keep,omitempty"`
	Restate bool          `yaml:"restate,omitempty"` // compare with what was signed off

	Send      map[string]any `yaml:"send,omitempty"`
	Split     map[string]any `yaml:"split,omitempty"`
	Timetable map[string]any `yaml:"timetable,omitempty"`
}

type stepFile struct {
	Report   string            `yaml:"report"`
	Criteria string            `yaml:"criteria,omitempty"`
	Values   map[string]string `yaml:"values,omitempty"`
	View     string            `yaml:"view,omitempty"`
}

func (f controlFile) change() (change api.ControlChange, err error) {
	change = api.ControlChange{Title: f.Title, Shared: f.Shared, Steps: []api.Step{}, Outputs: []api.Output{},
		Rows: f.Rows, Seconds: int64(f.Time / time.Second),
		Hours: f.Hours, Empty: api.ControlChangeEmpty(f.Empty), KeepDays: f.Keep, Restate: &f.Restate}
	if f.Empty == "" {
		change.Empty = "keep"
	}
	for _, s := range f.Steps {
		step := api.Step{Report: s.Report}
		if s.Criteria != "" {
			step.Criteria = &s.Criteria
		}
		if s.Values != nil {
			step.Values = (*api.Values)(&s.Values)
		}
		if s.View != "" {
			step.View = &s.View
		}
		change.Steps = append(change.Steps, step)
	}
	for _, o := range f.Outputs {
		change.Outputs = append(change.Outputs, api.Output(o))
	}
	for _, part := range []struct {
		name string
		from map[string]any
		to   any
	}{{"send", f.Send, &change.Send}, {"split", f.Split, &change.Split}, {"timetable", f.Timetable, &change.Timetable}} {
		if part.from == nil {
			continue
		}
		if err := strictly(part.from, part.to); err != nil {
			return change, talk.Usage("%s: %v", part.name, err)
		}
	}
	return change, nil
}

// strictly reads what YAML holds as the contract has it; names that it does not
// know are errors.
func strictly(from, to any) error {
	text, err := json.Marshal(from)
	if err != nil {
		return err
	}
	decoder := json.NewDecoder(bytes.NewReader(text))
	decoder.DisallowUnknownFields()
	return decoder.Decode(to)
}

// loosely writes what the contract has as YAML may hold it.
func loosely(from any) (to map[string]any) {
	text, _ := json.Marshal(from)
	_ = json.Unmarshal(text, &to) // it was written just now
	return to
}

func fileOf(k api.Control) controlFile {
	f := controlFile{
		Title:  k.Title,
		Shared: k.Shared,
		Empty:  string(k.Empty),
		Hours:  k.Hours,
		Rows:   k.Rows,
		Time:   time.Duration(k.Seconds) * time.Second,
		Keep:   k.KeepDays,

		Restate: talk.Deref(k.Restate),
	}
	for _, s := range k.Steps {
		step := stepFile{Report: s.Report}
		if s.Criteria != nil {
			step.Criteria = *s.Criteria
		}
		if s.Values != nil {
			step.Values = *s.Values
		}
		if s.View != nil {
			step.View = *s.View
		}
		f.Steps = append(f.Steps, step)
	}
	for _, o := range k.Outputs {
		f.Outputs = append(f.Outputs, string(o))
	}
	if k.Send != nil {
		f.Send = loosely(k.Send)
	}
	if k.Split != nil {
		f.Split = loosely(k.Split)
	}
	if k.Timetable != nil {
		f.Timetable = loosely(k.Timetable)
	}
	return f
}
