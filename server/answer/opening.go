package answer

import (
	"mantilla/api"
	"mantilla/model"
)

// Opening is to whom something is open, as the contract has it.
func Opening(to []model.Opening) api.Opening {
	out := api.Opening{Groups: []string{}, People: []string{}}
	for _, o := range to {
		switch o.Kind {
		case "everyone":
			out.Everyone = true
		case "group":
			out.Groups = append(out.Groups, o.Name)
		case "person":
			out.People = append(out.People, o.Name)
		}
	}
	return out
}

// Openings reads to whom something is to be open; nil where nothing is said.
func Openings(o *api.Opening) []model.Opening {
	if o == nil {
		return nil
	}
	to := []model.Opening{}
	if o.Everyone {
		to = append(to, model.Opening{Kind: "everyone"})
	}
	for _, g := range o.Groups {
		to = append(to, model.Opening{Kind: "group", Name: g})
	}
	for _, p := range o.People {
		to = append(to, model.Opening{Kind: "person", Name: p})
	}
	return to
}
