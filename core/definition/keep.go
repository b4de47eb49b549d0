package definition

import (
	"go.yaml.in/yaml/v3"

	"mantilla/core/report"
)

// here says that rows are kept by the service, as those are of which nothing is said.
const here = "here"

// keep reads where the rows of a dataset are kept.
func (p *parser) keep(d *report.Dataset) func(*yaml.Node) {
	return func(n *yaml.Node) {
		in := here
		seen := p.mapping(n, "keep", keys{"in": p.oneOf(&in, here, report.InEngine)})
		p.need(n, "keep", seen, "in")
		if in == report.InEngine {
			d.Keep = in
		}
	}
}

// checkKeep looks whether rows that stay in an engine can be all that the dataset wants of them.
func (p *parser) checkKeep(d *report.Dataset, at *yaml.Node) {
	switch {
	case d.Keep == "":
	case d.Compare != "":
		p.fault(at, "dataset %s compares periods, which is done here; its rows cannot stay in the engine: leave keep out",
			d.ID)
	case d.HasEntries():
		p.fault(at, "dataset %s has columns that people fill in, which are kept here; its rows cannot stay in the engine: "+
			"leave keep out", d.ID)
	}
}
