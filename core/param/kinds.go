package param

import (
	"context"
	"strings"

	"mantilla/core/nearest"
)

// kind is all that differs between the types of parameters.
type kind struct {
	hint     string // how a value is written
	read     func(v *Value, ctx context.Context, text string, s Setting) (*Fault, error)
	resolved func(v Value) string
	phrase   func(v Value, label string) string
}

var kinds map[Type]kind

func init() { // the readers of lists resolve other parameters, which would be a cycle
	kinds = map[Type]kind{
		Text:    {"write a text", plain((*Value).readText), func(v Value) string { return v.Text }, quoted},
		Integer: {"write a whole number such as 12", plain((*Value).readNumber), number, measured},
		Decimal: {"write a number such as 12.50", plain((*Value).readNumber), number, measured},
		Money:   {"write an amount such as 12.50", plain((*Value).readNumber), number, measured},
		Flag:    {"write yes or no", plain((*Value).readFlag), func(v Value) string { return yesNo(v.Flag) }, flagged},
		Date: {"write a day such as 2026-09-30 or today", dated((*Value).readDay),
			func(v Value) string {
				return v.Day.String()
			}, func(v Value, label string) string { return label + " " + v.Day.Long() }},
		Range:  {"write days such as last month or 2026-01-15/2026-03-31", dated((*Value).readRange), rangeResolved, said},
		Ranges: {"write one or more ranges with ; between them", dated((*Value).readRanges), intervals, said},
		Period: {"write a period such as 2026-09 or last month", dated((*Value).readPeriod),
			func(v Value) string { return v.Name }, said},
		Unit: {"choose a unit by its code or name", (*Value).readEntries, unitsResolved,
			func(v Value, _ string) string { return v.units() }},
		Entity: {"choose one by its number or exact name", (*Value).readEntries, codesResolved,
			func(v Value, label string) string { return label + " " + nearest.And(labels(v.Entries)) }},
		Choice: {"choose from the list", (*Value).readEntries, codesResolved, named},
		Codes: {"write a first and a last code such as 4000..4999", (*Value).readCodes,
			func(v Value) string { return strings.Join(v.Codes, "..") }, fromTo},
		Columns: {"choose columns, in order, with ; between them", (*Value).readColumns, codesResolved,
			func(v Value, label string) string { return label + ": " + nearest.And(names(v.Entries)) }},
		Grouping: {"choose columns to group by, in order, with ; between them", (*Value).readColumns, codesResolved,
			func(v Value, _ string) string { return "by " + strings.Join(lowered(names(v.Entries)), ", then by ") }},
		Horizon: {"write a number such as 12, with or without its unit", plain((*Value).readCount), number, measured},
		Newest: {"write how many, such as 25", plain((*Value).readCount), number,
			func(v Value, label string) string { return "the last " + v.Number.String() + " " + label }},
	}
}

func plain(read func(*Value, string) *Fault) func(*Value, context.Context, string, Setting) (*Fault, error) {
	return func(v *Value, _ context.Context, text string, _ Setting) (*Fault, error) { return read(v, text), nil }
}

func dated(read func(*Value, string, Setting) *Fault) func(*Value, context.Context, string, Setting) (*Fault, error) {
	return func(v *Value, _ context.Context, text string, s Setting) (*Fault, error) {
		return read(v, text, s), nil
	}
}

func number(v Value) string        { return v.Number.String() }
func codesResolved(v Value) string { return strings.Join(codes(v.Entries), "; ") }
func unitsResolved(v Value) string {
	if v.Only {
		return "only " + codesResolved(v)
	}
	return codesResolved(v)
}

func said(v Value, label string) string   { return label + " " + v.Says }
func quoted(v Value, label string) string { return label + " “" + v.Text + "”" }
func named(v Value, label string) string  { return label + " " + nearest.And(names(v.Entries)) }

// fromTo says a range of codes by its ends.
func fromTo(v Value, label string) string {
	ends := labels(v.Entries)
	if v.Codes[0] == v.Codes[1] {
		return label + " " + ends[0]
	}
	return label + " " + ends[0] + " to " + ends[1]
}

func measured(v Value, label string) string {
	return strings.TrimSpace(label + " " + v.Number.String() + " " + v.Parameter.Measure)
}

// flagged says a flag, unless it is no and would be no anyway.
func flagged(v Value, label string) string {
	if !v.Flag && v.Parameter.Default == "no" {
		return ""
	}
	return label + ": " + yesNo(v.Flag)
}

func yesNo(flag bool) string {
	if flag {
		return "yes"
	}
	return "no"
}
