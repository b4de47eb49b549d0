package demo

import (
	"cmp"
	"encoding/xml"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"mantilla/core/period"
)

// StatementDir is where the bank's statements lie in the data directory.
const StatementDir = "statements"

// writeStatements writes what the bank stated: October 2025 as CSV, November as camt.053.
func writeStatements(dir string, lines []stated) error {
	dir = filepath.Join(dir, StatementDir)
	if err := os.MkdirAll(dir, 0o750); err != nil {
		return err
	}
	slices.SortStableFunc(lines, func(a, b stated) int { return cmp.Compare(a.booked, b.booked) })
	of := func(month time.Month) (r period.Range, within []stated) {
		r = period.Calendar{}.Period(period.Months, period.Date(2025, month, 1))
		for _, l := range lines {
			if r.First <= l.booked && l.booked <= r.Last {
				within = append(within, l)
			}
		}
		return r, within
	}
	_, october := of(time.October)
	november, later := of(time.November)
	message, err := camtOf(november, later)
	if err != nil {
		return err
	}
	for name, data := range map[string][]byte{"2025-10.csv": csvOf(october), "2025-11.xml": message} {
		if err := os.WriteFile(filepath.Join(dir, name), data, 0o640); err != nil {
			return err
		}
	}
	return nil
}

// money writes cents as euros.
func money(cents int) string {
	sign := ""
	if cents < 0 {
		sign, cents = "-", -cents
	}
	return fmt.Sprintf("%s%d.%02d", sign, cents/100, cents%100)
}

func csvOf(lines []stated) []byte {
	var out strings.Builder
	out.WriteString("booked;reference;text;amount;currency\r\n")
	for _, l := range lines {
		fmt.Fprintf(&out, "%s;%s;%s;%s;EUR\r\n", l.booked, l.reference, l.text, money(l.cents))
	}
	return []byte(out.String())
}

// amount is an amount of a camt.053 message, whose sign is told by a word.
type amount struct {
	Currency string `xml:"Ccy,attr"`
	Text     string `xml:",chardata"`
}

func amountOf(cents int) (amount, string) {
	if cents < 0 {
		return amount{"EUR", money(-cents)}, "DBIT"
	}
	return amount{"EUR", money(cents)}, "CRDT"
}

type balance struct {
	Code   string `xml:"Tp>CdOrPrtry>Cd"`
	Amt    amount
	CdtDbt string `xml:"CdtDbtInd"`
}

type entry struct {
	Amt       amount
	CdtDbt    string `xml:"CdtDbtInd"`
	Status    string `xml:"Sts>Cd"`
	Day       string `xml:"BookgDt>Dt"`
	Reference string `xml:"NtryDtls>TxDtls>Refs>EndToEndId"`
	Text      string `xml:"NtryDtls>TxDtls>RmtInf>Ustrd"`
}

type message struct {
	XMLName xml.Name  `xml:"urn:iso:std:iso:20022:tech:xsd:camt.053.001.08 Document"`
	ID      string    `xml:"BkToCstmrStmt>GrpHdr>MsgId"`
	Stmt    string    `xml:"BkToCstmrStmt>Stmt>Id"`
	From    string    `xml:"BkToCstmrStmt>Stmt>FrToDt>FrDtTm"`
	To      string    `xml:"BkToCstmrStmt>Stmt>FrToDt>ToDtTm"`
	Bal     []balance `xml:"BkToCstmrStmt>Stmt>Bal"`
	Ntry    []entry   `xml:"BkToCstmrStmt>Stmt>Ntry"`
}

// camtOf writes lines as a camt.053 message with the balances before and after.
func camtOf(of period.Range, lines []stated) ([]byte, error) {
	const opening = 240_000_000
	m := message{ID: "BRACKENFELL-" + monthText(of.First), Stmt: "STATEMENT-" + monthText(of.First),
		From: of.First.String() + "T00:00:00", To: of.Last.String() + "T23:59:59"}
	at := func(code string, cents int) {
		b := balance{Code: code}
		b.Amt, b.CdtDbt = amountOf(cents)
		m.Bal = append(m.Bal, b)
	}
	total := opening
	for _, l := range lines {
		e := entry{Status: "BOOK", Day: l.booked.String(), Reference: cmp.Or(l.reference, "NOTPROVIDED"), Text: l.text}
		e.Amt, e.CdtDbt = amountOf(l.cents)
		m.Ntry, total = append(m.Ntry, e), total+l.cents
	}
	at("OPBD", opening)
	at("CLBD", total)
	out, err := xml.MarshalIndent(m, "", "  ")
	return append([]byte(xml.Header), out...), err
}
