package param

import (
	"fmt"
	"maps"
	"regexp"
	"slices"

	"mantilla/core/nearest"
	"mantilla/core/period"
)

// Check returns what is wrong with a declaration, keyed by the declaration's
// key that holds the fault.
func (p *Parameter) Check() map[string]string {
	wrong := map[string]string{}
	if _, ok := kinds[p.Type]; !ok {
		var names []string
		for t := range maps.Keys(kinds) {
			names = append(names, string(t))
		}
		slices.Sort(names)
		wrong["type"] = fmt.Sprintf("%q is not a parameter type; use %s", p.Type, nearest.Or(names))
		return wrong
	}
	p.checkLists(wrong)
	only := func(key string, used bool, types ...Type) {
		if used && !slices.Contains(types, p.Type) {
			wrong[key] = fmt.Sprintf("a %s parameter has no %s", p.Type, key)
		}
	}
	only("time", p.Timed, Range, Ranges)
	only("adjoining", p.Adjoining, Ranges)
	only("compare", p.Compare, Range)
	only("of", p.Of != "", Columns, Grouping)
	if p.Compare && p.Timed {
		wrong["compare"] = "a range with times of day has no companions"
	}
	if (p.Type == Columns || p.Type == Grouping) && p.Of == "" {
		wrong["of"] = fmt.Sprintf("parameter %s chooses columns; name their dataset: of: DATASET", p.ID)
	}
	if p.Locked && p.Default == "" {
		wrong["locked"] = fmt.Sprintf("parameter %s is locked and needs a default to be locked at", p.ID)
	}
	if p.Longest != "" {
		if _, _, err := period.ParseSpan(p.Longest); err != nil {
			wrong["longest"] = err.Error()
		}
	}
	if p.Pattern != "" {
		if _, err := regexp.Compile(p.Pattern); err != nil {
			wrong["pattern"] = err.Error()
		}
	}
	return wrong
}

func (p *Parameter) checkLists(wrong map[string]string) {
	listed := p.Type == Unit || p.Type == Entity || p.Type == Choice || p.Type == Codes
	switch {
	case listed && p.From == "" && len(p.Options) == 0:
		wrong["from"] = fmt.Sprintf("parameter %s needs a list of the source to draw on: from: LIST", p.ID)
	case len(p.Options) > 0 && !slices.Contains([]Type{Choice, Columns, Grouping}, p.Type):
		wrong["options"] = "only a choice has options of its own"
	case len(p.Options) > 0 && p.From != "":
		wrong["options"] = "give either options or from, not both"
	case p.Many && (!listed || p.Type == Codes):
		wrong["many"] = fmt.Sprintf("a %s parameter holds one value; many is for unit, entity and choice", p.Type)
	case len(p.By) > 0 && p.From == "":
		wrong["by"] = "only a list of the source can be narrowed by another parameter"
	}
}
