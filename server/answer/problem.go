package answer

import (
	"mantilla/api"
	"mantilla/core/param"
)

// BadRequest is a request that the contract does not allow.
// problem says an error in the words of the contract.
type BadRequest struct {
	Field string
	Err   error
}

func (b *BadRequest) Error() string { return b.Err.Error() }

// Faults are what is wrong with values, parameter by parameter.
func Faults(faults param.Faults) []api.Fault {
	out := []api.Fault{}
	for _, f := range faults {
		fault := api.Fault{Field: f.Parameter, Message: f.Message, Near: Optional(f.Near)}
		if len(f.Dropped) > 0 {
			var dropped []string
			for _, e := range f.Dropped {
				dropped = append(dropped, e.Label)
			}
			fault.Dropped, fault.Rest = &dropped, &f.Rest
		}
		out = append(out, fault)
	}
	return out
}

// Optional leaves an empty list out.
func Optional[T any](list []T) *[]T {
	if len(list) == 0 {
		return nil
	}
	return &list
}
