package query

import (
	"encoding/json"
	"fmt"
	"time"

	"mantilla/core/frame"
	"mantilla/core/period"
)

// wired is a [Value] as it travels to another process: one of its kinds is there, or none.
type wired struct {
	Name   string     `json:"name"`
	Text   *string    `json:"text,omitempty"`
	Flag   *bool      `json:"flag,omitempty"`
	Digits *int64     `json:"digits,omitempty"` // of a number, with its scale
	Scale  int32      `json:"scale,omitempty"`
	Day    *int64     `json:"day,omitempty"`
	Moment *time.Time `json:"moment,omitempty"`
	List   *[]string  `json:"list,omitempty"`
}

// MarshalJSON writes a value so that UnmarshalJSON reads one of the same kind.
func (v Value) MarshalJSON() ([]byte, error) {
	out := wired{Name: v.Name}
	switch is := v.Is.(type) {
	case nil:
	case string:
		out.Text = &is
	case bool:
		out.Flag = &is
	case frame.Number:
		if !is.Fits() {
			return nil, fmt.Errorf("the number %s of %s has too many digits", is, v.Name)
		}
		digits := int64(is.Digits.LowBits())
		out.Digits, out.Scale = &digits, is.Scale
	case period.Day:
		day := int64(is)
		out.Day = &day
	case time.Time:
		moment := is.UTC() // offsets of long ago had seconds, which JSON has no place for
		out.Moment = &moment
	case []string:
		list := append([]string{}, is...)
		out.List = &list
	default:
		return nil, fmt.Errorf("a %T, which %s is, does not travel", v.Is, v.Name)
	}
	return json.Marshal(out)
}

// UnmarshalJSON reads what MarshalJSON wrote. A moment comes back in UTC.
func (v *Value) UnmarshalJSON(text []byte) error {
	var in wired
	if err := json.Unmarshal(text, &in); err != nil {
		return err
	}
	*v = Value{Name: in.Name}
	switch {
	case in.Text != nil:
		v.Is = *in.Text
	case in.Flag != nil:
		v.Is = *in.Flag
	case in.Digits != nil:
		v.Is = frame.Exact(*in.Digits, in.Scale)
	case in.Day != nil:
		v.Is = period.Day(*in.Day)
	case in.Moment != nil:
		v.Is = *in.Moment
	case in.List != nil:
		v.Is = *in.List
	}
	return nil
}
