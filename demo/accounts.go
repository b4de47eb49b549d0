package demo

import (
	"fmt"

	"mantilla/core/period"
)

var ledgerAccounts = []struct{ code, label, kind string }{
	{"1000", "Bank", "asset"}, {"1200", "Buyers", "asset"}, {"1400", "Stock of honey", "asset"},
	{"2000", "Keepers", "liability"},
	{"2400", "Loans", "liability"}, {"3000", "Members' capital", "equity"}, {"4000", "Sales", "income"},
	{"4100", "Rents", "income"},
	{"5000", "Honey bought", "expense"}, {"6000", "Wages", "expense"}, {"6200", "Transport", "expense"},
	{"6400", "Laboratory", "expense"}, {"6800", "Other costs", "expense"},
}

// accounts makes three societies, one of which has two children, with ledger
// lines that balance in each journal, eliminations between them and budgets.
func (g *generator) accounts() error {
	societies := []struct{ id, parent, name string }{
		{"BHC", "", "Brackenfell Honey Cooperative"}, {"BTR", "", "Brackenfell Trading"}, {"BLD", "", "Brackenfell Land"},
		{"BTR-S", "BTR", "Brackenfell Shops"}, {"BTR-E", "BTR", "Brackenfell Export"}}
	for _, s := range societies {
		var parent any
		if s.parent != "" {
			parent = s.parent
		}
		if err := g.add("society", s.id, parent, s.name); err != nil {
			return err
		}
	}
	for _, a := range ledgerAccounts {
		if err := g.add("account", a.code, a.label, a.kind); err != nil {
			return err
		}
	}
	number := 0
	for _, month := range months() {
		for _, s := range societies {
			for range 55 {
				number++
				if err := g.addJournal(fmt.Sprintf("V-%06d", number), s.id, month+period.Day(g.between(0, 27))); err != nil {
					return err
				}
			}
			for _, line := range []string{"wages", "transport", "laboratory", "energy", "repairs", "training"} {
				if err := g.add("budget", s.id, line, monthText(month), g.between(10, 400)*10_000); err != nil {
					return err
				}
			}
		}
		for _, child := range []string{"BTR-S", "BTR-E"} {
			amount := g.between(100, 3_000) * 100
			for _, e := range []struct {
				account string
				amount  int
			}{{"4000", amount}, {"5000", -amount}} {
				if err := g.add("elimination", nil, "BTR", child, e.account, monthText(month), e.amount); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// adjustments are what is added when the accounts of children come together, in
// pairs that balance, of last year and of this one.
func (g *generator) adjustments() error {
	for i, a := range []struct {
		posted             period.Day
		label, description string
		debit, credit      string
		cents              int
	}{
		{period.Date(2025, 6, 30), "A-2025-1", "Stock of the shops valued down", "5000", "1400", 1_284_000},
		{period.Date(2025, 12, 31), "A-2025-2", "Transport of December, invoiced late", "6200", "2000", 311_750},
		{period.Date(2025, 12, 31), "A-2025-3", "Rent received in advance", "4100", "2400", 96_000},
		{period.Date(2026, 3, 31), "A-2026-1", "Laboratory shared between the children", "6400", "6800", 148_220},
		{period.Date(2026, 6, 30), "A-2026-2", "Honey on its way at the half-year", "1400", "5000", 905_500},
		{period.Date(2026, 9, 30), "A-2026-3", "Doubtful buyers", "6800", "1200", 233_333},
	} {
		for _, side := range []struct {
			account string
			cents   int
		}{{a.debit, a.cents}, {a.credit, -a.cents}} {
			against := []string{"BTR-S", "BTR-E"}[i%2]
			if err := g.add("adjustment", nil, "BTR", against, side.account, a.posted, a.label, a.description,
				side.cents); err != nil {
				return err
			}
		}
	}
	return nil
}

func (g *generator) addJournal(id, society string, posted period.Day) error {
	pairs := [][2]string{{"1200", "4000"}, {"5000", "2000"}, {"2000", "1000"}, {"1000", "1200"}, {"6000", "1000"},
		{"6200", "1000"}, {"6400", "1000"}, {"1000", "4100"}, {"6800", "1000"}}
	pair := pick(g, pairs...)
	label := pick(g, "Invoice", "Payment", "Settlement", "Transfer", "Correction")
	if err := g.add("journal", id, society, posted, label); err != nil {
		return err
	}
	amount := g.between(1_000, 900_000)
	if label == "Correction" {
		amount = -amount / 10
	}
	if err := g.add("ledger_line", nil, id, society, pair[0], posted, label+" "+id, amount); err != nil {
		return err
	}
	return g.add("ledger_line", nil, id, society, pair[1], posted, label+" "+id, -amount)
}
