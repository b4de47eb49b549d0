package reconciling_test

import (
	"strings"
	"testing"
	"time"

	"mantilla/core/ask"
	"mantilla/core/reconcile"
	"mantilla/demo/demotest"
	"mantilla/library"
	"mantilla/library/capture"
	"mantilla/library/librarytest"
	"mantilla/library/reconciling"
	"mantilla/model"
)

var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

// month runs the settlement of a month and keeps the bank's statement of it.
func month(t *testing.T, a *library.Access, of, file string) (result int64, statement model.Statement) {
	t.Helper()
	run := librarytest.RunWell(t, a, capture.Ask{Report: "payout-settlement", Typed: map[string]string{"settles": of}})
	s, err := a.Reconciling.AddStatement(t.Context(), "payout-settlement", "bank", file, demotest.Statement(t, file))
	if err != nil {
		t.Fatal(err)
	}
	return run.Result, s
}

func reconciled(t *testing.T, a *library.Access, c reconciling.Reconciliation) (run model.Run, says string) {
	t.Helper()
	run, err := a.Reconciling.Reconcile(t.Context(), c)
	if err != nil {
		t.Fatal(err)
	}
	if run = librarytest.Ended(t, a, run); run.State != model.Done {
		t.Fatalf("it ended as %s: %s", run.State, run.Reason)
	}
	r, err := a.Reading.Result(t.Context(), run.Result)
	if err != nil {
		t.Fatal(err)
	}
	sheet, err := a.Reading.Sheet(t.Context(), r, "sums", ask.Changes{})
	if err != nil {
		t.Fatal(err)
	}
	return run, sheet.View.Says
}

// October's payouts are reconciled with the bank to the cent, doubts are settled by hand, and what
// is open is brought into November.
func TestAMonthIsReconciledAndBroughtOn(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	runa := librarytest.SignIn(t, l, "runa")
	ctx := t.Context()
	october, bank := month(t, runa, "2025-10", "2025-10.csv")
	if bank.Lines != 11 || bank.Until != "2025-10-29" || bank.Total != "1255682.11" {
		t.Errorf("the statement: %+v", bank)
	}
	c := reconciling.Reconciliation{Result: october, Statement: bank.Number, Until: "2025-10-31"}
	first, says := reconciled(t, runa, c)
	if want := "3 matched, 1 differs, 1 doubtful, 1 only ours, 1 only theirs, 2 next period, 3 earlier period. Ours " +
		"936,338.53 EUR, stated 1,255,682.11 EUR, difference 319,343.58 EUR: differs −12.50 EUR, doubtful 121,869.29 EUR, " +
		"only ours −123,804.51 EUR, only theirs 189.00 EUR, next period −170,539.19 EUR, " +
		"earlier period 491,641.49 EUR."; says !=
		want {
		t.Errorf("%s\nand not %s", says, want)
	}
	sums(t, runa, october, first.Result, bank.Total)
	open, err := runa.Reconciling.OpenItems(ctx, first.Result)
	if err != nil {
		t.Fatal(err)
	}
	if len(open.Ours) != 5 || len(open.Lines) != 4 || open.Ours[1].Reference != "B202510-4" || open.Lines[1].Number != 9 ||
		open.Ours[1].Match != open.Lines[1].Match || open.Lines[1].Amount != "121,869.29" {
		t.Errorf("open are %+v", open)
	}
	c.Chosen = []reconcile.Choice{{Ours: []int{4}, Theirs: []int{9}}}
	chosen, says := reconciled(t, runa, c)
	if !strings.HasPrefix(says, "4 matched, 1 differs, 1 only ours, 2 only theirs, 2 next period") {
		t.Errorf("with what was chosen: %s", says)
	}
	november, later := month(t, runa, "2025-11", "2025-11.xml")
	second, says := reconciled(t, runa, reconciling.Reconciliation{Result: november, Statement: later.Number,
		Earlier: chosen.Result})
	if want := "9 matched, 1 only ours, 2 only theirs, 2 next period. Ours "; !strings.HasPrefix(says, want) ||
		!strings.HasSuffix(says, "only ours −123,804.51 EUR, only theirs 122,058.29 EUR, next period −75,498.34 EUR.") {
		t.Errorf("%s\nand not %s", says, want)
	}
	r, err := runa.Reading.Result(ctx, second.Result)
	if err != nil {
		t.Fatal(err)
	}
	if want := "lines follow Paid by 2 to 5 working days; what R-000003 left open is brought on."; !strings.HasSuffix(
		r.Sentence, want) || !strings.Contains(r.Sentence, "2025-11.xml, of 1–30 November 2025") {
		t.Error(r.Sentence)
	}
	if whole, err := runa.Reading.CheckSeal(ctx, r); err != nil || !whole ||
		r.Manifest.Made.Against.Digest != later.Digest {
		t.Errorf("its seal: %v, %v, %+v", whole, err, r.Manifest.Made)
	}
	// The same months again: what was settled does not count twice.
	_, says = reconciled(t, runa, reconciling.Reconciliation{Result: october, Statement: bank.Number, Until: "2025-11-30",
		Earlier: chosen.Result})
	if want := "4 only ours, 2 only theirs. Ours 294,356.20 EUR"; !strings.HasPrefix(says, want) {
		t.Errorf("%s\nand not %s", says, want)
	}
}

// sums holds what a reconciliation sums up against the result and the statement.
func sums(t *testing.T, a *library.Access, result, reconciliation int64, total string) {
	t.Helper()
	figure := func(result int64, view, formula string) string {
		r, err := a.Reading.Result(t.Context(), result)
		if err != nil {
			t.Fatal(err)
		}
		of, err := a.Reading.Read(t.Context(), r, view, ask.Changes{})
		if err != nil {
			t.Fatal(err)
		}
		n, err := of.Figure(t.Context(), formula)
		if err != nil {
			t.Fatal(err)
		}
		return n.String()
	}
	ours := figure(result, "batches", "sum(amount)")
	if got := figure(reconciliation, "sums", "sum(amount)"); got != ours {
		t.Errorf("ours come to %s, and the result has %s", got, ours)
	}
	if got := figure(reconciliation, "sums", "sum(line_amount)"); got != total {
		t.Errorf("what is stated comes to %s, and the file has %s", got, total)
	}
	if got, want := figure(reconciliation, "sums", "sum(difference)"), figure(reconciliation, "sums",
		"sum(line_amount) - sum(amount)"); got != want {
		t.Errorf("the differences come to %s and not %s", got, want)
	}
}

// What cannot be reconciled is refused before anything is run, with what is wrong.
func TestWhatCannotBeReconciled(t *testing.T) {
	l := librarytest.WithPeople(t, librarytest.At(morning))
	runa, dora, rhea := librarytest.SignIn(t, l, "runa"), librarytest.SignIn(t, l, "dora"), librarytest.SignIn(t, l,
		"rhea")
	ctx := t.Context()
	october, bank := month(t, runa, "2025-10", "2025-10.csv")
	lots := librarytest.RunWell(t, runa, capture.Ask{Report: "intake-lots",
		Typed: map[string]string{"received": "2026-09"}})
	first, _ := reconciled(t, runa, reconciling.Reconciliation{Result: october, Statement: bank.Number})
	for want, c := range map[string]reconciling.Reconciliation{
		"no statement \"S-000077\"":            {Result: october, Statement: 77},
		"is a statement for payout-settlement": {Result: lots.Result, Statement: bank.Number},
		"made of other results":                {Result: first.Result, Statement: bank.Number},
		"is no reconciliation of":              {Result: october, Statement: bank.Number, Earlier: october},
		"S-000001 has lines until 2025-10-29":  {Result: october, Statement: bank.Number, Until: "2025-10-20"},
		"is not a day":                         {Result: october, Statement: bank.Number, Until: "soon"},
	} {
		if _, err := runa.Reconciling.Reconcile(ctx, c); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("it is answered by %v and not by %q", err, want)
		}
	}
	wrong, err := runa.Reconciling.Reconcile(ctx, reconciling.Reconciliation{Result: october, Statement: bank.Number,
		Chosen: []reconcile.Choice{{Ours: []int{40}, Theirs: []int{1}}}})
	if err != nil {
		t.Fatal(err)
	}
	if wrong = librarytest.Ended(t, runa, wrong); wrong.State != model.Failed ||
		!strings.Contains(wrong.Reason, "no number 40 of ours") {
		t.Errorf("it ended as %s: %s", wrong.State, wrong.Reason)
	}
	file := demotest.Statement(t, "2025-10.csv")
	for want, add := range map[string]func() error{
		"you see the rows": func() error {
			_, err := dora.Reconciling.AddStatement(ctx, "payout-settlement", "", "a.csv", file)
			return err
		},
		"needs the role runner": func() error {
			_, err := rhea.Reconciling.AddStatement(ctx, "payout-settlement", "", "a.csv", file)
			return err
		},
		"declares no statement": func() error {
			_, err := runa.Reconciling.AddStatement(ctx, "intake-lots", "", "a.csv", file)
			return err
		},
		`no statement "till"`: func() error {
			_, err := runa.Reconciling.AddStatement(ctx, "payout-settlement", "till", "a.csv", file)
			return err
		},
		"a.csv: line 2: amount": func() error {
			_, err := runa.Reconciling.AddStatement(ctx, "payout-settlement", "", "a.csv",
				[]byte(strings.Replace(string(file), "-246263.96", "much", 1)))
			return err
		},
		"no statement \"S-000001\"": func() error { _, _, err := dora.Reconciling.Statement(ctx, bank.Number); return err },
	} {
		if err := add(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("it is answered by %v and not by %q", err, want)
		}
	}
	if again, err := runa.Reconciling.AddStatement(ctx, "payout-settlement", "", "b.csv", file); err != nil ||
		again.Number != bank.Number {
		t.Errorf("the same file again is %+v, %v", again, err)
	}
	if err := runa.Reconciling.DeleteStatement(ctx, bank.Number); err != nil {
		t.Error(err)
	}
	if _, kept, err := runa.Reconciling.Statements(ctx, "payout-settlement"); err != nil || len(kept) != 0 {
		t.Errorf("after it is deleted there are %v, %v", kept, err)
	}
}
