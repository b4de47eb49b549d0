package drafting

import (
	"context"
	"strings"

	"mantilla/core/checks"
	"mantilla/core/definition"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/library/capture"
	"mantilla/library/catalog"
	"mantilla/model"
)

// Tried is a definition with what came of its expectations.
type Tried struct {
	Definition *report.Definition
	Cases      []capture.Tried
}

// Try checks a definition and tries its expectations on real rows.
func (a *Access) Try(ctx context.Context, text []byte) (t Tried, err error) {
	if t.Definition, err = a.catalog.CheckReport(ctx, text); err != nil {
		return t, err
	}
	t.Cases, err = a.capture.Try(ctx, t.Definition)
	return t, err
}

// Format writes the text of a definition evenly.
func (a *Access) Format(text []byte) (string, error) {
	if err := a.May(access.Write); err != nil {
		return "", err
	}
	even, faults := definition.Format(text)
	if faults != nil {
		return "", faults
	}
	return even, nil
}

// unmet says what of a definition is not as it expects itself; "" where all is.
func unmet(cases []capture.Tried) string {
	var said []string
	for _, c := range cases {
		if c.Failed != "" {
			said = append(said, "“"+c.Name+"” could not be tried: "+c.Failed)
		}
		for _, f := range c.Figures {
			switch {
			case f.Why != "":
				said = append(said, "“"+c.Name+"”: "+f.Is+" cannot be told: "+f.Why)
			case !f.Same:
				said = append(said, "“"+c.Name+"”: "+f.Is+" is "+f.Got+" and not "+f.Expected)
			}
		}
		for _, o := range c.Checks {
			if o.State == checks.Broken && o.Else == report.FailIt {
				said = append(said, "“"+c.Name+"”: the check "+o.ID+" does not hold: "+o.Says())
			}
		}
	}
	return strings.Join(said, "; ")
}

// expectations refuses a definition whose figures are not as it expects them.
func (a *Access) expectations(ctx context.Context, d *report.Definition) error {
	cases, err := a.capture.Try(ctx, d)
	if err != nil {
		return err
	}
	if said := unmet(cases); said != "" {
		return model.Refuse("expected", "figures are not as the definition expects them: %s. Mend it, or take it in untried",
			said)
	}
	return nil
}

// PutReport takes a definition into the catalog, once its figures are as it expects them
// or where it is to be taken in untried.
func (a *Access) PutReport(ctx context.Context, text []byte, put catalog.Put, untried bool) (*report.Definition,
	error) {
	d, err := a.catalog.CheckReport(ctx, text)
	if err != nil {
		return nil, err
	}
	if !untried {
		if err := a.expectations(ctx, d); err != nil {
			return nil, err
		}
	}
	if d, err = a.catalog.PutReport(ctx, text, put); err != nil {
		return nil, err
	}
	return d, a.room.care.Adopt(ctx, d.ID, a.Person().Name)
}
