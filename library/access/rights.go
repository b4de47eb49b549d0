package access

import (
	"maps"
	"slices"

	"mantilla/core/nearest"
	"mantilla/core/report"
	"mantilla/model"
)

// Right is something that a role is needed for.
type Right struct {
	name string // by which a person is given it, or has it withheld; "" for what goes with the role alone
	what string
	need model.Role
}

// The rights. Opening what is open to a person needs no more than an account.
var (
	Run         = Right{"", "running reports", model.Runner}
	Write       = Right{"", "writing definitions", model.Author}
	KeepCatalog = Right{"", "keeping the catalog", model.Librarian}
	KeepPeople  = Right{"", "keeping people and groups", model.Administrator}
	KeepService = Right{"", "keeping the service", model.Administrator}

	// KeepForAll is named in no list of rights: who runs reports has it.
	KeepForAll = Right{"", "keeping views for everyone", model.Runner}
)

// The rights that a person may have beyond their role, or not although it has them.
var (
	TakeAway    = Right{"take-away", "taking rows away as a file", model.Reader}
	SendOutside = Right{"send-outside", "sending beyond the house", model.Runner}
	SeeSources  = Right{"sources", "looking at sources", model.Author}
	Grant       = Right{"open", "opening reports to people", model.Librarian}
	SeePersonal = Right{"personal", "seeing what is personal", model.Author} // unless a column says another role
)

// single are the rights that are given and withheld one by one, by their names.
var single = map[string]Right{TakeAway.name: TakeAway, SendOutside.name: SendOutside, SeeSources.name: SeeSources,
	Grant.name: Grant, SeePersonal.name: SeePersonal}

var ranks = map[model.Role]int{model.Reader: 0, model.Runner: 1, model.Author: 2, model.Librarian: 3,
	model.Administrator: 4}

// Has tells whether the person has a right: by their role, unless it is withheld from them, or since it
// is given to them, which counts for no token that may do less than they.
func (a *Access) Has(r Right) bool {
	switch {
	case r.name != "" && slices.Contains(a.person.Withheld, r.name):
		return false
	case r.name != "" && !a.less && slices.Contains(a.person.Given, r.name):
		return true
	}
	return ranks[a.person.Role] >= ranks[r.need]
}

// Clear tells whether the person sees a personal column as it is.
func (a *Access) Clear(p *report.Personal) bool {
	r := SeePersonal
	r.need = model.Role(p.Clear)
	if a.eyes != nil {
		return a.room.As(*a.eyes).Has(r)
	}
	return a.Has(r)
}

// WithEyesOf is the person with what somebody else may see of personal columns, as when the service
// sends for them.
func (a *Access) WithEyesOf(p model.Person) *Access {
	other := *a
	other.eyes = &p
	return &other
}

// May says why the person may not do something.
func (a *Access) May(r Right) error {
	switch {
	case a.Has(r):
		return nil
	case ranks[a.person.Role] >= ranks[r.need]:
		return model.Forbid("%s is withheld from you; an administrator says who may", r.what)
	}
	return model.Forbid("%s needs the role %s; yours is %s", r.what, r.need, a.person.Role)
}

// Rights names what the person may do beyond opening what is open to them.
func (a *Access) Rights() []string {
	rights := []string{}
	for name, r := range map[string]Right{"run": Run, "write": Write, "catalog": KeepCatalog, "people": KeepPeople} {
		if a.Has(r) {
			rights = append(rights, name)
		}
	}
	for name, r := range single {
		if a.Has(r) {
			rights = append(rights, name)
		}
	}
	slices.Sort(rights)
	return rights
}

// checkSingle says what is wrong with rights that are to be given to a person, or withheld.
func checkSingle(p model.Person) error {
	for part, names := range map[string][]string{"given": p.Given, "withheld": p.Withheld} {
		for _, name := range names {
			if _, known := single[name]; !known {
				return model.Refuse(part, "%q is no right that is given or withheld by itself; there are %s", name,
					nearest.And(slices.Sorted(maps.Keys(single))))
			}
		}
	}
	for _, name := range p.Given {
		if slices.Contains(p.Withheld, name) {
			return model.Refuse("withheld", "%q is given and withheld at once; say one of them", name)
		}
	}
	return nil
}

// orElse is a list, or another where it was not said.
func orElse(list, otherwise []string) []string {
	if list == nil {
		return otherwise
	}
	return list
}
