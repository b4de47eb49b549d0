package demo

import (
	"fmt"
	"strings"

	"mantilla/core/period"
)

type site struct {
	id, district string
	closed       period.Day // 0 when open
}

type keeper struct {
	no, name string
	site     site
	joined   period.Day
	left     period.Day // 0 when still a member
	delivers bool
}

var regions = []struct {
	code, name string
	districts  []string
}{
	{"UF", "Upper Fells", []string{"Hollin", "Marr", "Skelby"}},
	{"LW", "Low Water", []string{"Tansey", "Ovenden Reach", "Quarl"}},
	{"EM", "East Moor", []string{"Brackling", "Dunmere", "Fennick"}},
	{"SH", "South Heath", []string{"Lórrin", "Pell Cross", "Wyke Hollow"}},
}

var siteNames = []string{"Mill", "Abbey", "Copse", "Ford", "Quarry", "Chapel", "Orchard", "Weir"}

// units makes 4 regions, 12 districts and 90 sites; two sites close half-way.
func (g *generator) units() error {
	number := 0
	for _, r := range regions {
		if err := g.add("region", r.code, r.name); err != nil {
			return err
		}
		for _, name := range r.districts {
			code := r.code + "-" + strings.ToUpper(strings.NewReplacer("ó", "o", " ", "").Replace(name))[:3]
			if err := g.add("district", code, r.code, name); err != nil {
				return err
			}
			count := 7
			if number%2 == 0 {
				count = 8
			}
			for i := range count {
				s := site{id: fmt.Sprintf("%s-%02d", code, i+1), district: code}
				var closed any
				if number%6 == 3 && i == 2 {
					s.closed = period.Date(2024, 9, 30)
					closed = s.closed
				}
				if err := g.add("site", s.id, code, name+" "+siteNames[i], firstDay-period.Day(g.between(300, 9000)),
					closed); err != nil {
					return err
				}
				g.sites = append(g.sites, s)
			}
			number++
		}
	}
	return nil
}

var (
	firstParts = []string{"Ar", "Bel", "Cor", "Dal", "El", "Fen", "Gar", "Hal", "Is", "Jor", "Kel", "Lin", "Mor", "Nel",
		"Or", "Per", "Ros", "Syl", "Tam", "Ves"}
	firstEnds   = []string{"a", "en", "ian", "ine", "o", "wen", "ric", "is", "éa", "ulf"}
	familyParts = []string{"Ash", "Brack", "Crom", "Dun", "Fell", "Gorse", "Heath", "Ling", "Moss", "Rowan", "Sedge",
		"Thorn", "Whin", "Yarrow", "Øst", "Müll"}
	familyEnds = []string{"by", "combe", "dale", "garth", "holm", "low", "mere", "rigg", "thwaite", "wick"}
)

func (g *generator) personName() string {
	return pick(g, firstParts...) + pick(g, firstEnds...) + " " + pick(g, familyParts...) + pick(g, familyEnds...)
}

// people makes 240 keepers: some left, some never delivered, some share a name.
func (g *generator) people() error {
	for i := range 240 {
		k := keeper{no: fmt.Sprintf("K-%04d", 1001+i), name: g.personName(), site: pick(g, g.sites...),
			joined: firstDay - period.Day(g.between(-400, 9000)), delivers: i%40 != 17}
		if i%60 == 59 {
			k.name = g.keepers[i-30].name
		}
		state := "member"
		var left any
		if g.chance(14) {
			k.left = max(k.joined, firstDay) + period.Day(g.between(200, 900))
			left, state = k.left, "left"
		} else if g.chance(30) {
			state = "resting"
		}
		certificate, ends := any(nil), any(nil)
		if !g.chance(6) {
			certificate, ends = pick(g, "organic", "regional", "standard"), Today+period.Day(g.between(-200, 700))
		}
		born := maybe(g, 25, period.Date(g.between(1942, 2003), 1, 1)+period.Day(g.between(0, 364)))
		if err := g.add("keeper", k.no, k.name, k.site.id, born, k.joined, left, state, certificate, ends,
			!g.chance(9)); err != nil {
			return err
		}
		g.keepers = append(g.keepers, k)
		if !g.chance(8) {
			stage := pick(g, "applied", "theory", "practice", "assessed", "certified")
			if err := g.add("training", k.no, stage, Today-period.Day(g.between(5, 900))); err != nil {
				return err
			}
		}
	}
	return nil
}

// seasonal makes staff of the harvest months with their pay lines.
func (g *generator) seasonal() error {
	for i := range 160 {
		no, from := fmt.Sprintf("P-%03d", i+1), period.Date(g.between(2023, 2026), 5, g.between(1, 28))
		until := from + period.Day(g.between(60, 170))
		if err := g.add("staff", no, g.personName(), pick(g, g.sites...).id,
			pick(g, "picker", "driver", "weigher", "laboratory", "cellar"),
			maybe(g, 12, period.Date(g.between(1955, 2007), 1, g.between(1, 364))), from, maybe(g, 20, until)); err != nil {
			return err
		}
		for d := from; d < until && d <= Today; d += 30 {
			hours := g.between(60, 178) * 100
			for _, line := range []struct {
				kind  string
				hours any
				cents int
			}{{"wage", hours, hours * 14}, {"night", maybe(g, 2, hours/10), g.between(0, 9000)},
				{"travel", nil, g.between(0, 12000)}, {"insurance", nil, -hours * 2}} {
				if err := g.add("pay_line", nil, no, monthText(d), line.kind, line.hours, line.cents); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// portal makes the keepers' visits to their portal.
func (g *generator) portal() error {
	areas := []string{"prices", "my lots", "payouts", "calendar", "training", "messages"}
	for range 24_000 {
		day := firstDay + period.Day(g.between(0, int(Today-firstDay)))
		hour := min(23, max(0, int(13+5*g.rand.NormFloat64())))
		if err := g.add("portal_visit", nil, pick(g, g.keepers...).no, at(day, hour, g.between(0, 59)), pick(g, areas...),
			maybe(g, 15, g.between(4, 1500))); err != nil {
			return err
		}
	}
	return nil
}
