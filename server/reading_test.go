package server_test

import (
	"io"
	"net/http"
	"slices"
	"strings"
	"testing"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/demo/demotest"
)

// TestReadingAResult groups a result, opens a figure into its rows, and reads
// what else a reader asks of it.
func TestReadingAResult(t *testing.T) {
	s := demotest.Start(t)
	id := s.Result(t, "intake-lots", api.Values{"received": "2026-07-01/2026-09-30"})
	ctx := t.Context()
	group, open := []string{"month(received)", "grade"}, 1
	grouped := s.Sheet(t, id, "lots", api.ReadViewParams{Group: &group, Open: &open})
	if grouped.Lines != 3 || grouped.Rows != grouped.Of || *grouped.Marks[0].Name != "Jul 2026" ||
		len(grouped.Levels) != 2 || grouped.Levels[0].Label != "Month of received" {
		t.Fatalf("%d lines, %+v", grouped.Lines, grouped.Marks)
	}
	path, of := *grouped.Marks[1].Path, "net_kg"
	figure, err := s.Client.OpenFigureWithResponse(ctx, id, "lots",
		&api.OpenFigureParams{Group: &group, Path: &path, Of: &of})
	if err != nil || figure.JSON200 == nil {
		t.Fatalf("%v %s", err, figure.Body)
	}
	f := figure.JSON200
	if !f.Agree || f.Says != "Net weight, kg of Aug 2026" || f.View != "lots.rows" ||
		!slices.Equal(f.Filters, []string{"month(received)=2026-08"}) || f.Rows != *grouped.Marks[1].Size {
		t.Errorf("opened as %+v", f)
	}
	rows := s.Sheet(t, id, f.View, api.ReadViewParams{Filter: &f.Filters})
	total := slices.IndexFunc(rows.Columns, func(c api.Column) bool { return c.Id == "net_kg" })
	if rows.Rows != f.Rows || *rows.Totals[total].Text != strings.ReplaceAll(f.Before, ",", "") ||
		rows.Filters[0].Label != "Month of received" {
		t.Errorf("%d rows come to %s, the figure of %d is %s; %+v", rows.Rows, *rows.Totals[total].Text, f.Rows, f.Before,
			rows.Filters)
	}
	values, err := s.Client.ListColumnValuesWithResponse(ctx, id, "lots",
		&api.ListColumnValuesParams{Of: "grade", Filter: &f.Filters})
	if err != nil || values.JSON200 == nil || len(values.JSON200.Items) < 2 {
		t.Fatalf("%v %s", err, values.Body)
	}
	counted := values.JSON200.Empty
	for _, v := range values.JSON200.Items {
		counted += v.Rows
	}
	if counted != f.Rows {
		t.Errorf("the values of grade have %d rows of %d", counted, f.Rows)
	}
	found, err := s.Client.FindTextWithResponse(ctx, id, "lots",
		&api.FindTextParams{Text: "aug 2026", Group: &group, Open: &open})
	if err != nil || found.JSON200 == nil || found.JSON200.Line != 1 || found.JSON200.Column != -1 {
		t.Errorf("%v %s", err, found.Body)
	}
	outline, err := s.Client.ReadOutlineWithResponse(ctx, id, "lots", &api.ReadOutlineParams{Group: &group})
	if err != nil || outline.JSON200 == nil || outline.JSON200.Groups[0].Size != *grouped.Marks[0].Size {
		t.Errorf("%v %s", err, outline.Body)
	}
	filled, err := s.Client.ReadCompletenessWithResponse(ctx, id, "lots", &api.ReadCompletenessParams{})
	if err != nil || filled.JSON200 == nil {
		t.Fatalf("%v %s", err, filled.Body)
	}
	for _, c := range *filled.JSON200 {
		empty := []string{c.Id + "="}
		if got := s.Sheet(t, id, "lots.rows", api.ReadViewParams{Filter: &empty}).Rows; got != c.Empty {
			t.Errorf("%s lacks %d values, and %d rows have none", c.Id, c.Empty, got)
		}
	}
	row, err := s.Client.ReadRowWithResponse(ctx, id, "lots", &api.ReadRowParams{Number: *rows.Marks[0].Row})
	if err != nil || row.JSON200 == nil || *(*row.JSON200)[0].Text != *rows.Cells[0][0] {
		t.Errorf("%v %s", err, row.Body)
	}
}

func TestReadingRefuses(t *testing.T) {
	s := demotest.Start(t)
	id := s.Result(t, "intake-lots", api.Values{"received": "2026-09"})
	for query, says := range map[string]string{
		"group=month(recieved)":                "did you mean received?",
		"group=grade&open=9":                   "2 unfolds the rows too",
		"add=Half":                             "name, = and a formula",
		"add=Half = net_kg /":                  "a value is wanted",
		"show=map":                             "use table, crosstab or chart",
		"show=crosstab&down=grade&cell=lot_no": "has no total",
		"open=-1":                              "not a whole number",
		"filter=grade":                         "has no test",
	} {
		request, err := http.NewRequestWithContext(t.Context(), "GET",
			s.URL+"/api/results/"+id+"/views/lots?"+strings.NewReplacer(" ", "%20", "+", "%2B").Replace(query), nil)
		if err != nil {
			t.Fatal(err)
		}
		request.Header.Set("Authorization", "Bearer "+s.Token)
		got, err := http.DefaultClient.Do(request)
		if err != nil {
			t.Fatal(err)
		}
		text, err := io.ReadAll(got.Body)
		if err != nil {
			t.Fatal(err)
		}
		got.Body.Close()
		body := string(text)
		if got.StatusCode < 400 || got.StatusCode >= 500 || !strings.Contains(body, says) {
			t.Errorf("%s: %d %s", query, got.StatusCode, body)
		}
	}
}

func TestFormulasAreChecked(t *testing.T) {
	s := demotest.Start(t)
	id := s.Result(t, "intake-lots", api.Values{"received": "2026-09"})
	for text, want := range map[string]string{"net_kg * 2": "decimal", "sum(net_kg) / count(*)": "decimal groups",
		"net_kg + grade": "at 7: + does not go between a number and a text"} {
		r, err := s.Client.CheckFormulaWithResponse(t.Context(), id, "lots", &api.CheckFormulaParams{Text: text})
		if err != nil || r.JSON200 == nil {
			t.Fatalf("%v %s", err, r.Body)
		}
		got := ""
		switch c := r.JSON200; {
		case !c.Ok:
			got = "at " + string(rune('0'+*c.At)) + ": " + *c.Message
		case *c.Groups:
			got = *c.Kind + " groups"
		default:
			got = *c.Kind
		}
		if got != want {
			t.Errorf("%s: %s", text, got)
		}
	}
	all, err := s.Client.ListFunctionsWithResponse(t.Context())
	if err != nil || all.JSON200 == nil || len(*all.JSON200) < 30 {
		t.Errorf("%v %s", err, all.Body)
	}
}

// TestKeptViews keeps a view for everyone, reads it as somebody else, and as
// its report changes.
func TestKeptViews(t *testing.T) {
	s := demotest.Start(t)
	ctx := t.Context()
	_, runa := s.As(t, "runa")
	_, rhea := s.As(t, "rhea")
	id := s.Result(t, "intake-lots", api.Values{"received": "2026-09"})
	group, columns, add := []string{"grade"}, []string{"net_kg"}, []string{"Half = net_kg / 2"}
	kept, err := runa.KeepViewWithResponse(ctx, "intake-lots",
		api.ViewBody{
			Name:     "By grade",
			View:     "lots",
			Everyone: false,
			Changes:  api.Changes{Group: &group, Columns: &columns, Add: &add},
		})
	if err != nil || kept.JSON201 == nil {
		t.Fatalf("%v %s", err, kept.Body)
	}
	v := kept.JSON201
	if r, err := rhea.ReadViewWithResponse(ctx, id, v.Id, nil); err != nil || r.StatusCode() != http.StatusNotFound {
		t.Errorf("somebody else's own view: %v %s", err, r.Body)
	}
	revision := `"1"`
	shared, err := runa.ChangeKeptViewWithResponse(ctx, "intake-lots", v.Id, &api.ChangeKeptViewParams{IfMatch: &revision},
		api.ViewBody{Name: "By grade", View: "lots", Everyone: true, Changes: v.Changes})
	if err != nil || shared.JSON200 == nil {
		t.Fatalf("%v %s", err, shared.Body)
	}
	sheet, err := rhea.ReadViewWithResponse(ctx, id, v.Id, nil)
	if err != nil || sheet.JSON200 == nil || sheet.JSON200.Title != "By grade" || len(sheet.JSON200.Columns) != 2 ||
		sheet.JSON200.Columns[1].Label != "Half" || len(sheet.JSON200.Levels) != 1 {
		t.Fatalf("%v %s", err, sheet.Body)
	}
	if r, err := runa.ChangeKeptViewWithResponse(ctx, "intake-lots", v.Id, &api.ChangeKeptViewParams{IfMatch: &revision},
		api.ViewBody{Name: "x", View: "lots"}); err != nil || r.StatusCode() != http.StatusPreconditionFailed {
		t.Errorf("a stale change: %v %s", err, r.Body)
	}
	if r, err := runa.KeepViewWithResponse(ctx, "intake-lots", api.ViewBody{Name: "By grade", View: "lots"}); err != nil ||
		r.StatusCode() != http.StatusConflict {
		t.Errorf("a name that is taken: %v %s", err, r.Body)
	}
	if r, err := runa.KeepViewWithResponse(ctx, "intake-lots", api.ViewBody{Name: "Other", View: "lost"}); err != nil ||
		r.StatusCode() != http.StatusNotFound {
		t.Errorf("a view that is not there: %v %s", err, r.Body)
	}
	text, tag := definition(t, s, "intake-lots")
	changed := strings.Replace(text, "      - {id: net_kg,", "      - {id: gross, is: lot.net_g, type: decimal, scale: "+
		"3, total: sum}\n      - {id: net_kg,", 1)
	put, err := s.Client.PutDefinitionWithBodyWithResponse(ctx, "intake-lots", &api.PutDefinitionParams{IfMatch: &tag},
		"application/yaml", strings.NewReader(changed))
	if err != nil || put.StatusCode() >= 300 {
		t.Fatalf("%v %s", err, put.Body)
	}
	again, err := rhea.ReadViewWithResponse(ctx, s.Result(t, "intake-lots", api.Values{"received": "2026-08"}), v.Id, nil)
	if err != nil || again.JSON200 == nil || len(again.JSON200.Columns) != 2 && again.JSON200.Columns[2].Id != "gross" {
		t.Errorf("with a new column: %v %s", err, again.Body)
	}
	if r, err := runa.DeleteKeptViewWithResponse(ctx, "intake-lots", v.Id); err != nil ||
		r.StatusCode() != http.StatusNoContent {
		t.Errorf("%v %s", err, r.Body)
	}
	if list, err := rhea.ListKeptViewsWithResponse(ctx, "intake-lots"); err != nil || list.JSON200 == nil ||
		len(*list.JSON200) != 0 {
		t.Errorf("%v %s", err, list.Body)
	}
}

// TestReadersFollowLinksWhereTheyMay lets who may not run reports open rows of a result,
// where the report that opens is for readers too, with the values of that row alone.
func TestReadersFollowLinksWhereTheyMay(t *testing.T) {
	s := demotest.Start(t)
	id := s.Result(t, "intake-lots", api.Values{"received": "2026-07-01/2026-09-30"})
	_, reader := s.As(t, "rhea")
	sheet := s.Sheet(t, id, "lots", api.ReadViewParams{})
	number := *sheet.Marks[3].Row
	at := func(column string) string {
		i := slices.IndexFunc(sheet.Columns, func(c api.Column) bool { return c.Id == column })
		return *sheet.Cells[3][i]
	}
	follow := func(row int, column string) *client.FollowLinkResponse {
		r, err := reader.FollowLinkWithResponse(t.Context(), id, "lots", &api.FollowLinkParams{},
			api.Followed{Row: row, Column: column})
		if err != nil {
			t.Fatal(err)
		}
		return r
	}
	r := follow(number, "lot_no")
	if r.JSON201 == nil || r.JSON201.Report != "lot-history" || r.JSON201.Values["lot"] != at("lot_no") ||
		r.JSON201.AskedBy != "rhea" {
		t.Fatalf("followed as %s", r.Body)
	}
	for _, c := range []struct {
		row    int
		column string
		status int
		says   string
	}{
		{number, "keeper", http.StatusForbidden, "needs the role runner"},
		{number, "net_kg", http.StatusUnprocessableEntity, "no report opens"},
		{number, "corrects", http.StatusUnprocessableEntity, "has no corrects"},
		{1 << 30, "lot_no", http.StatusUnprocessableEntity, "no row"},
	} {
		if r := follow(c.row, c.column); r.StatusCode() != c.status || !strings.Contains(string(r.Body), c.says) {
			t.Errorf("%d %s: %d %s", c.row, c.column, r.StatusCode(), r.Body)
		}
	}
	started, err := reader.StartRunWithResponse(t.Context(), &api.StartRunParams{}, api.Ask{Report: "lot-history",
		Values: api.Values{"lot": at("lot_no")}})
	if err != nil || started.StatusCode() != http.StatusForbidden {
		t.Errorf("the same with values of one's own: %v %s", err, started.Body)
	}
}
