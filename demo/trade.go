package demo

import (
	"fmt"

	"mantilla/core/period"
)

var products = []string{"Heather 250 g", "Heather 500 g", "Lime 250 g", "Lime 500 g", "Clover 500 g",
	"Wild flower 250 g", "Wild flower 1 kg", "Forest 500 g", "Baking tub 5 kg"}

// stores makes 5 store houses with bays and what stands in them.
func (g *generator) stores() error {
	for i, name := range []string{"Fellside", "Waterhouse", "Moor Gate", "Heath Barn", "Quay"} {
		id := fmt.Sprintf("S%d", i+1)
		if err := g.add("store_house", id, name); err != nil {
			return err
		}
		for b := range 14 {
			bay := fmt.Sprintf("%s-%02d", id, b+1)
			if err := g.add("bay", bay, id, 400*g.between(20, 40)); err != nil {
				return err
			}
			for range g.between(0, 60) {
				packed := Today - period.Day(g.between(0, 760))
				jars := g.between(6, 900)
				if err := g.add("stock", nil, bay, pick(g, products...), packed, maybe(g, 50, packed+730), jars, jars*500,
					jars*g.between(310, 720)); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// orders makes buyers, agents and some 20,000 orders with their lines.
func (g *generator) orders() error {
	var buyers, agents []string
	for i := range 130 {
		no := fmt.Sprintf("C-%03d", i+1)
		buyers = append(buyers, no)
		if err := g.add("buyer", no,
			pick(g, familyParts...)+pick(g, familyEnds...)+" "+pick(g, "Stores", "Bakery", "Provisions", "Café", "Market"),
			pick(g, familyParts...)+"ton", pick(g, 14, 30, 60)); err != nil {
			return err
		}
	}
	for i := range 9 {
		no := fmt.Sprintf("AG-%d", i+1)
		agents = append(agents, no)
		if err := g.add("agent", no, g.personName(), g.between(150, 600)); err != nil {
			return err
		}
	}
	for i := range 20_000 {
		placed := firstDay + period.Day(i*int(Today-firstDay)/20_000)
		if err := g.addOrder(fmt.Sprintf("O-%05d", i+1), placed, pick(g, buyers...), agents); err != nil {
			return err
		}
	}
	return nil
}

func (g *generator) addOrder(no string, placed period.Day, buyer string, agents []string) error {
	var sent, delivered, cancelled any
	if g.chance(18) {
		cancelled = min(placed+period.Day(g.between(0, 9)), Today)
	} else if day := placed + period.Day(g.between(1, 12)); day <= Today {
		sent = day
		if there := day + period.Day(g.between(1, 6)); there <= Today {
			delivered = maybe(g, 80, there)
		}
	}
	total := 0
	type line struct {
		product      string
		jars, amount int
		extra        bool
	}
	var lines []line
	for range g.between(1, 3) {
		l := line{pick(g, products...), g.between(6, 240), 0, g.chance(15)}
		l.amount = l.jars * g.between(380, 950)
		total += l.amount
		lines = append(lines, l)
	}
	if err := g.add("sales_order", no, buyer, pick(g, "shop", "agent", "web", "market"), maybe(g, 3, pick(g, agents...)),
		placed, sent, delivered, cancelled, total); err != nil {
		return err
	}
	for _, l := range lines {
		if err := g.add("order_line", nil, no, l.product, l.jars, l.amount, l.extra); err != nil {
			return err
		}
	}
	return nil
}

// rents makes agreements on land and store rooms with stepped rents.
func (g *generator) rents() error {
	for i := range 110 {
		no, starts := fmt.Sprintf("T-%03d", i+1), firstDay+period.Day(g.between(-900, 1100))
		ends := starts + period.Day(365*g.between(2, 9))
		if err := g.add("agreement", no, pick(g, g.keepers...).no, pick(g, "land", "store room"), pick(g, g.sites...).id,
			starts, ends); err != nil {
			return err
		}
		rent := g.between(40, 900) * 100
		for from := starts; from < ends; from += 730 {
			if err := g.add("rent_step", no, from, rent); err != nil {
				return err
			}
			rent += rent * g.between(2, 8) / 100
		}
	}
	return nil
}
