package param

import (
	"encoding/json"
	"fmt"

	"mantilla/core/frame"
)

// packed is a value as it is written, by the parameter's id.
type packed struct {
	ID     string
	Value  Value
	Digits int64 // of the number, which has no form of its own
	Scale  int32
}

// Pack writes values so that they read back as what they are, whatever becomes of
// lists, of calendars and of the day; see [Unpack].
func (vs Values) Pack() ([]byte, error) {
	out := make([]packed, len(vs))
	for i, v := range vs {
		out[i] = packed{ID: v.Parameter.ID, Value: v, Digits: int64(v.Number.Digits.LowBits()), Scale: v.Number.Scale}
		out[i].Value.Parameter, out[i].Value.Number = nil, frame.Number{}
	}
	return json.Marshal(out)
}

// Unpack reads packed values of the parameters that were declared. It fails where
// the text is none, or of other parameters.
func Unpack(declared []Parameter, text []byte) (Values, error) {
	var in []packed
	if err := json.Unmarshal(text, &in); err != nil {
		return nil, fmt.Errorf("reading values: %w", err)
	}
	if len(in) != len(declared) {
		return nil, fmt.Errorf("there are values of %d parameters, and %d are declared", len(in), len(declared))
	}
	out := make(Values, len(in))
	for i, p := range in {
		if p.ID != declared[i].ID {
			return nil, fmt.Errorf("there is a value of %q where %q is declared", p.ID, declared[i].ID)
		}
		out[i] = p.Value
		out[i].Parameter, out[i].Number = &declared[i], frame.Exact(p.Digits, p.Scale)
	}
	return out, nil
}
