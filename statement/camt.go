package statement

import (
	"bytes"
	"cmp"
	"encoding/xml"
	"fmt"
	"strings"
	"time"

	"mantilla/core/frame"
	"mantilla/core/period"
	"mantilla/core/reconcile"
)

// camtFile is what is read of a camt.053 message (BankToCustomerStatement), of ISO 20022, in any
// of its versions.
type camtFile struct {
	XMLName xml.Name
	Stmt    []camtStatement `xml:"BkToCstmrStmt>Stmt"`
}

type camtStatement struct {
	ID   string    `xml:"Id"`
	From string    `xml:"FrToDt>FrDtTm"`
	To   string    `xml:"FrToDt>ToDtTm"`
	Bal  []camtBal `xml:"Bal"`
	Ntry []camtEntry
}

type camtAmount struct {
	Text     string `xml:",chardata"`
	Currency string `xml:"Ccy,attr"`
}

type camtBal struct {
	Code   string `xml:"Tp>CdOrPrtry>Cd"`
	Amt    camtAmount
	CdtDbt string `xml:"CdtDbtInd"`
}

type camtEntry struct {
	Ref     string `xml:"NtryRef"`
	Amt     camtAmount
	CdtDbt  string     `xml:"CdtDbtInd"`
	Status  camtStatus `xml:"Sts"`
	Day     string     `xml:"BookgDt>Dt"`
	At      string     `xml:"BookgDt>DtTm"`
	BankRef string     `xml:"AcctSvcrRef"`
	More    string     `xml:"AddtlNtryInf"`
	Tx      []camtTx   `xml:"NtryDtls>TxDtls"`
}

// camtStatus is a text in earlier versions, and has a code within in later ones.
type camtStatus struct {
	Text string `xml:",chardata"`
	Code string `xml:"Cd"`
}

type camtTx struct {
	EndToEnd string     `xml:"Refs>EndToEndId"`
	Amt      camtAmount `xml:"Amt"`
	Within   camtAmount `xml:"AmtDtls>TxAmt>Amt"`
	CdtDbt   string     `xml:"CdtDbtInd"`
	Text     []string   `xml:"RmtInf>Ustrd"`
	Creditor string     `xml:"RmtInf>Strd>CdtrRefInf>Ref"`
}

// camt reads the booked entries of all statements of a message.
func (r *reader) camt(data []byte) {
	var file camtFile
	if err := xml.NewDecoder(bytes.NewReader(data)).Decode(&file); err != nil {
		r.fault("", "it is no XML that can be read: %v", err)
		return
	}
	if !strings.Contains(file.XMLName.Space, "camt.053") || len(file.Stmt) == 0 {
		r.fault("", "it is XML, but no statement in camt.053")
		return
	}
	for i, s := range file.Stmt {
		r.period(s)
		total := int64(0)
		for n, e := range s.Ntry {
			total += r.entry(fmt.Sprintf("statement %s, entry %d", cmp.Or(s.ID, fmt.Sprint(i+1)), n+1), e)
		}
		r.balances(s, total)
	}
}

// period widens the days that are covered by those that a statement says it is of.
func (r *reader) period(s camtStatement) {
	from, err := isoDay(s.From)
	to, wrong := isoDay(s.To)
	if err != nil || wrong != nil {
		return
	}
	if !r.covers {
		r.lines.First, r.lines.Until = from, to
	}
	r.covers = true
	r.lines.First, r.lines.Until = min(r.lines.First, from), max(r.lines.Until, to)
}

// entry reads a booked entry: a line, or one for each of its transactions where these have
// amounts that come to it. It returns the entry's amount.
func (r *reader) entry(place string, e camtEntry) int64 {
	if status := strings.TrimSpace(cmp.Or(e.Status.Code, e.Status.Text)); status != "" && status != "BOOK" {
		return 0 // it is announced, and not booked
	}
	day, err := isoDay(cmp.Or(e.Day, e.At))
	if err != nil {
		r.fault(place, "its booking day: %v", err)
	}
	amount := r.signed(place, e.Amt, e.CdtDbt)
	r.currency(place, e.Amt.Currency)
	whole := reconcile.Item{Amount: amount, Day: day, Reference: cmp.Or(e.Ref, e.BankRef), Text: e.More}
	if len(e.Tx) == 1 {
		t := e.Tx[0]
		whole.Reference, whole.Text = cmp.Or(t.reference(), whole.Reference), cmp.Or(strings.Join(t.Text, " "), e.More)
	}
	var parts []reconcile.Item
	sum := int64(0)
	for i, t := range e.Tx {
		given := t.Amt
		if given.Text == "" {
			given = t.Within
		}
		if len(e.Tx) == 1 || given.Text == "" {
			parts = nil
			break
		}
		part := reconcile.Item{Day: day, Reference: t.reference(), Text: cmp.Or(strings.Join(t.Text, " "), e.More),
			Amount: r.signed(fmt.Sprintf("%s, transaction %d", place, i+1), given, cmp.Or(t.CdtDbt, e.CdtDbt))}
		parts, sum = append(parts, part), sum+part.Amount
	}
	if len(parts) == 0 || sum != amount {
		parts = []reconcile.Item{whole}
	}
	for _, p := range parts {
		r.add(p)
	}
	return amount
}

// reference is what the payer gave a transaction to know it by.
func (t camtTx) reference() string {
	if t.EndToEnd == "NOTPROVIDED" {
		return t.Creditor
	}
	return cmp.Or(t.EndToEnd, t.Creditor)
}

// balances holds the opening balance and all entries against the closing balance, where both are
// there.
func (r *reader) balances(s camtStatement, total int64) {
	var opening, closing *int64
	for _, b := range s.Bal {
		amount := r.signed("balance "+b.Code, b.Amt, b.CdtDbt)
		switch b.Code {
		case "OPBD", "PRCD":
			opening = &amount
		case "CLBD":
			closing = &amount
		}
	}
	if opening != nil && closing != nil && *opening+total != *closing {
		r.fault("statement "+s.ID, "its opening balance and its entries come to %s and not to its closing balance %s; "+
			"entries are missing or are there twice", r.written(*opening+total), r.written(*closing))
	}
}

func (r *reader) written(n int64) string { return frame.Exact(n, r.amount.Scale).String() }

// signed reads an amount, which is negative where money leaves.
func (r *reader) signed(place string, a camtAmount, cdtDbt string) int64 {
	n, err := frame.ParseNumber(strings.TrimSpace(a.Text), r.amount.Scale)
	if err != nil {
		r.fault(place, "%q is no amount with at most %d decimals", a.Text, r.amount.Scale)
	}
	switch strings.TrimSpace(cdtDbt) {
	case "CRDT":
	case "DBIT":
		n = -n
	default:
		r.fault(place, "%q says neither CRDT nor DBIT", cdtDbt)
	}
	return n
}

// isoDay reads a day, or the day of a moment.
func isoDay(text string) (period.Day, error) {
	text = strings.TrimSpace(text)
	if len(text) > len(time.DateOnly) {
		text = text[:len(time.DateOnly)]
	}
	t, err := time.Parse(time.DateOnly, text)
	if err != nil {
		return 0, fmt.Errorf("%q is no day", text)
	}
	return period.DayOf(t, time.UTC), nil
}
