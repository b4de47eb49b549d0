package server_test

import (
	"net/http"
	"strings"
	"testing"

	"mantilla/api"
	"mantilla/api/client"
	"mantilla/demo/demotest"
)

// call is one call of the contract and who may make it. Who is the least role;
// owned says that of those below librarian only the owner, who is runa, may.
type call struct {
	path, body string
	who        string
	owned      bool
}

const (
	nobody        = "nobody"
	reader        = "reader"
	runner        = "runner"
	author        = "author"
	librarian     = "librarian"
	administrator = "administrator"
)

var ranks = map[string]int{nobody: -1, reader: 0, runner: 1, author: 2, librarian: 3, administrator: 4}

// roles are the demo's people, by role.
var roles = map[string]string{reader: "rhea", runner: "runa", author: "aron", librarian: "lila", administrator: "adda"}

// calls is who may do what. A call of the contract that is not here fails the
// test. R, RUN, C and the control kept are runa's; {new...} are made afresh.
var calls = map[string]call{
	"signIn":           {"/session", `{"name": "x", "password": "y"}`, nobody, false},
	"makeToken":        {"/tokens", `{"name": "x", "password": "y"}`, nobody, false},
	"getService":       {"/service", "", nobody, false},
	"getSession":       {"/session", "", reader, false},
	"listSessions":     {"/sessions", "", reader, false},
	"endSession":       {"/sessions/none", "", reader, false},
	"listMarks":        {"/reports/intake-lots/marks", "", reader, false},
	"setMark":          {"/marks/M-1", `{"at": "2026-10-01T00:00:00Z"}`, runner, false},
	"deleteMark":       {"/marks/M-1", "", runner, false},
	"beginSignIn":      {"/session/provider", "", nobody, false},
	"finishSignIn":     {"/session/provider/back", "", nobody, false},
	"leaveProvider":    {"/session/leave", "", nobody, false},
	"sayPurpose":       {"/reports/intake-lots/purpose", `{"purpose": "counting"}`, reader, false},
	"askPasskey":       {"/session/passkey", "", nobody, false},
	"signInByPasskey":  {"/session/passkey", `{}`, nobody, false},
	"listPasskeys":     {"/session/passkeys", "", reader, false},
	"beginPasskey":     {"/session/passkeys", "", reader, false},
	"addPasskey":       {"/session/passkeys", `{"label": "x", "answer": {}}`, reader, false},
	"deletePasskey":    {"/session/passkeys/none", "", reader, false},
	"beginSecond":      {"/session/second", "", reader, false},
	"confirmSecond":    {"/session/second", `{"code": "1"}`, reader, false},
	"endSecond":        {"/session/second/end", `{"code": "1"}`, reader, false},
	"resetSecond":      {"/people/rhea/second", "", administrator, false},
	"newToken":         {"/session/tokens", `{"label": "x", "days": 1}`, reader, false},
	"changePassword":   {"/session/password", `{"old": "x", "password": "y"}`, reader, false},
	"listGuide":        {"/guide?search=timetable", "", reader, false},
	"getGuidePage":     {"/guide/results", "", reader, false},
	"getGuidePicture":  {"/guide/desk/picture", "", reader, false},
	"setWays":          {"/session/ways", `{"density": "close"}`, reader, false},
	"setZone":          {"/session/zone", `{"zone": "Europe/Berlin"}`, reader, false},
	"signOut":          {"/session", "", reader, false},
	"getCatalog":       {"/catalog", "", reader, false},
	"getReport":        {"/reports/intake-lots", "", reader, false},
	"getForm":          {"/reports/intake-lots/form", "", reader, false},
	"getDefinition":    {"/reports/intake-lots/definition", "", reader, false},
	"getEntries":       {"/reports/intake-lots/parameters/unit/entries", "", reader, false},
	"resolveValues":    {"/reports/intake-lots/resolve", `{"values": {}}`, reader, false},
	"listRuns":         {"/runs", "", reader, false},
	"getRun":           {"/runs/{run}", "", reader, false},
	"watchRun":         {"/runs/{run}/progress", "", reader, false},
	"listResults":      {"/results", "", reader, false},
	"getResult":        {"/results/{result}", "", reader, false},
	"checkSeal":        {"/results/{result}/seal", "", reader, false},
	"readView":         {"/results/{result}/views/lots", "", reader, false},
	"exportView":       {"/results/{result}/views/lots/file?format=csv", "", reader, false},
	"listFormats":      {"/formats", "", reader, false},
	"startExport":      {"/results/{result}/views/lots/exports", `{"format": "csv"}`, reader, false},
	"previewPage":      {"/results/{result}/views/lots/page", `{"format": "pdf"}`, reader, false},
	"getExport":        {"/exports/{export}", "", reader, false},
	"watchExport":      {"/exports/{export}/progress", "", reader, false},
	"stopExport":       {"/exports/{export}/stop", "", reader, false},
	"fetchExport":      {"/exports/{export}/file", "", reader, false},
	"openFigure":       {"/results/{result}/views/lots/figure?of=net_kg", "", reader, false},
	"pickCells":        {"/results/{result}/views/lots/cells?count=3&column_count=2", "", reader, false},
	"listColumnValues": {"/results/{result}/views/lots/values?of=grade", "", reader, false},
	"findText":         {"/results/{result}/views/lots/find?text=L26", "", reader, false},
	"readOutline":      {"/results/{result}/views/lots/outline?group=grade", "", reader, false},
	"readCompleteness": {"/results/{result}/views/lots/completeness", "", reader, false},
	"readRow":          {"/results/{result}/views/lots/row?number=0", "", reader, false},
	"checkFormula":     {"/results/{result}/views/lots/formula?text=1", "", reader, false},
	"listFunctions":    {"/formulas", "", reader, false},
	"listKeptViews":    {"/reports/intake-lots/views", "", reader, false},
	"keepView": {"/reports/intake-lots/views",
		`{"name": "{new name}", "view": "lots", "everyone": true, "changes": {}}`, runner, false},
	"changeKeptView": {"/reports/intake-lots/views/{new view}",
		`{"name": "{new name}", "view": "lots", "everyone": true, "changes": {}}`, runner, true},
	"deleteKeptView":     {"/reports/intake-lots/views/{new view}", "", runner, true},
	"listCriteria":       {"/reports/intake-lots/criteria", "", reader, false},
	"getCriteria":        {"/criteria/{criteria}", "", reader, false},
	"listPastCriteria":   {"/criteria/{criteria}/past", "", reader, true},
	"setUsual":           {"/criteria/{criteria}/usual", "", reader, false},
	"unsetUsual":         {"/criteria/{criteria}/usual", "", reader, false},
	"listControls":       {"/controls", "", reader, false},
	"getControl":         {"/controls/kept", "", reader, false},
	"listControlRuns":    {"/controls/kept/runs", "", reader, false},
	"againControlRun":    {"/control-runs/{set}/again", "", runner, true},
	"listGroups":         {"/groups", "", reader, false},
	"readFeed":           {"/timetable/feed/none", "", nobody, false},
	"listDesks":          {"/desks", "", reader, false},
	"putDesk":            {"/desks/person/{me}", `[]`, reader, false},
	"showTile":           {"/tile", `{"control": "kept", "step": 1, "view": "lots", "show": "table"}`, reader, false},
	"listLetters":        {"/mailbox", "", reader, false},
	"getLetter":          {"/mailbox/none", "", reader, false},
	"getLetterPart":      {"/mailbox/none/parts/0", "", reader, false},
	"listCalendars":      {"/calendars", "", reader, false},
	"listAddresses":      {"/addresses", "", runner, false},
	"listAddressChanges": {"/addresses/runa/history", "", runner, false},
	"putAddress": {"/addresses/{new name}", `{"name": "A", "mail": "a@example.org", "units": [], "groups": []}`,
		runner, false},
	"deleteAddress": {"/addresses/{new address}", "", runner, true},
	"listParcels":   {"/parcels", "", runner, false},
	"getParcel":     {"/parcels/P-000001", "", runner, false},
	"mendParcel":    {"/parcels/P-000001/again", `{}`, runner, false},
	"stopParcel":    {"/parcels/P-000001/stop", "", runner, false},
	"sendResult": {"/results/{result}/send", `{"to": ["a@example.org"], "takes": [{"format": "csv"}]}`, runner,
		false},
	"getTimetable":   {"/timetable", "", runner, false},
	"nextDates":      {"/timetable/dates", `{"rule": "FREQ=DAILY"}`, reader, false},
	"newFeed":        {"/timetable/feed", "", runner, false},
	"listNeeds":      {"/needs", "", reader, false},
	"followsControl": {"/controls/kept/follow", "", reader, false},
	"followControl":  {"/controls/kept/follow", `{"follows": false}`, reader, false},
	"pauseControl":   {"/controls/{new control}/pause", `{"paused": true}`, runner, true},
	"putCalendar":    {"/calendars/x{new name}", "{calendar}", librarian, false},
	"getCalendar":    {"/calendars/none", "", reader, false},
	"deleteCalendar": {"/calendars/none", "", librarian, false},
	"startRun":       {"/runs", `{"report": "near-best-before", "values": {}}`, runner, false},
	"stopRun":        {"/runs/{run}/stop", "", runner, true},
	"followLink":     {"/results/{result}/views/lots/follow", `{"row": 0, "column": "lot_no"}`, reader, false},
	"deleteResult":   {"/results/{new result}", "", runner, true},
	"keepCriteria": {"/reports/intake-lots/criteria", `{"name": "{new name}", "shared": "", "values": {}}`, runner,
		false},
	"changeCriteria":  {"/criteria/{criteria}", `{"name": "again", "shared": "everyone", "values": {}}`, runner, true},
	"deleteCriteria":  {"/criteria/{new criteria}", "", runner, true},
	"restoreCriteria": {"/criteria/{new criteria}/restore", "", runner, true},
	"putControl": {"/controls/{new name}",
		`{"title": "x", "shared": "", "steps": [{"report": "intake-lots"}], "outputs": [], "rows": 0, "seconds": 0, ` +
			`"hours": "", "empty": "keep", "keepDays": 0}`, runner, false},
	"sayControl": {"/controls/said",
		`{"title": "x", "shared": "", "steps": [{"report": "intake-lots"}], "outputs": [], "rows": 0, "seconds": 0, ` +
			`"hours": "", "empty": "keep", "keepDays": 0}`, reader, false},
	"tryControl": {"/controls/trial",
		`{"title": "x", "shared": "", "steps": [{"report": "intake-lots"}], "outputs": [], "rows": 0, "seconds": 0, ` +
			`"hours": "", "empty": "keep", "keepDays": 0}`, runner, false},
	"runControl":       {"/controls/kept/runs", `{"values": {}}`, runner, false},
	"deleteControl":    {"/controls/{new control}", "", runner, true},
	"lookForFile":      {"/sources/coop/files/none/look", "", reader, false},
	"listPastControls": {"/controls/{new control}/past", "", runner, true},
	"restoreControl":   {"/controls/{new control}/restore", "", runner, true},
	"checkDefinition":  {"/definitions/check", "report: x", author, false},
	"listSources":      {"/sources", "", author, false},
	"putSource":        {"/sources/coop", "{source}", librarian, false},
	"getShared":        {"/shared", "", author, false},
	"putDefinition":    {"/reports/intake-lots/definition", "{definition}", librarian, false},
	"putShared":        {"/shared", "{shared}", librarian, false},
	"getOpening":       {"/reports/intake-lots/opening", "", librarian, false},
	"putOpening": {"/reports/intake-lots/opening", `{"everyone": true, "groups": [], "people": []}`, librarian,
		false},
	"listTables":         {"/sources/coop/tables", "", author, false},
	"sampleTable":        {"/sources/coop/tables/lot/rows", "", author, false},
	"findSharedEffects":  {"/shared/effects", "{shared}", author, false},
	"listNames":          {"/definitions/names", "", author, false},
	"findFaults":         {"/definitions/findings", "report: x", author, false},
	"listDrafts":         {"/drafts", "", reader, false},
	"beginDraft":         {"/drafts", `{"title": "X", "source": "coop"}`, author, false},
	"getDraft":           {"/drafts/{new draft}", "", author, false},
	"putDraft":           {"/drafts/{new draft}", `{"text": "report: x"}`, author, false},
	"deleteDraft":        {"/drafts/{new draft}", "", author, false},
	"handInDraft":        {"/drafts/{new draft}/hand-in", `{}`, author, false},
	"giveBackDraft":      {"/drafts/{new draft}/give-back", `{"note": "x"}`, librarian, false},
	"takeDraft":          {"/drafts/{new draft}/take", `{}`, author, false},
	"previewDraft":       {"/drafts/{new draft}/preview", `{"values": {}}`, author, false},
	"listDependents":     {"/reports/intake-lots/dependents", "", author, false},
	"listVersions":       {"/reports/intake-lots/versions", "", reader, false},
	"getVersion":         {"/reports/intake-lots/versions/1", "", author, false},
	"compareVersions":    {"/reports/intake-lots/versions/1/differences?from=1", "", author, false},
	"restoreVersion":     {"/reports/intake-lots/versions/1/restore", `{}`, librarian, false},
	"makeBundle":         {"/bundles", `{"reports": ["intake-lots"]}`, librarian, false},
	"lookAtBundle":       {"/bundles/look", "PK", librarian, false},
	"takeBundle":         {"/bundles/take", "PK", librarian, false},
	"getHealth":          {"/health", "", author, false},
	"getUse":             {"/reports/intake-lots/use", "", author, false},
	"setFavourite":       {"/reports/intake-lots/favourite", "", reader, false},
	"unsetFavourite":     {"/reports/intake-lots/favourite", "", reader, false},
	"retireReport":       {"/reports/site-return/retirement", `{}`, librarian, false},
	"reinstateReport":    {"/reports/site-return/retirement", "", librarian, false},
	"writeFeedback":      {"/reports/intake-lots/feedback", `{"says": "x"}`, reader, false},
	"listFeedback":       {"/feedback", "", reader, false},
	"answerFeedback":     {"/feedback/1", `{"state": "done", "answer": "x"}`, librarian, false},
	"formatDefinition":   {"/definitions/format", "report: x", author, false},
	"tryDefinition":      {"/definitions/try", "report: x", author, false},
	"listCares":          {"/cares", "", author, false},
	"getCare":            {"/reports/intake-lots/care", "", reader, false},
	"putCare":            {"/reports/intake-lots/care", `{"listed": false}`, librarian, false},
	"reviewReport":       {"/reports/intake-lots/reviewed", "", librarian, false},
	"askForReport":       {"/reports/intake-lots/requests", `{}`, reader, false},
	"listRequests":       {"/requests", "", reader, false},
	"answerRequest":      {"/requests/1", `{"grant": false}`, librarian, false},
	"handOver":           {"/people/runa/hand-over", `{"to": "runa"}`, administrator, false},
	"listResources":      {"/resources", "", reader, false},
	"getResource":        {"/resources/weighing", "", reader, false},
	"putResource":        {"/resources/r-{new name}", `{"title": "{new name}", "category": "x"}`, librarian, false},
	"deleteResource":     {"/resources/none", "", librarian, false},
	"addResourceVersion": {"/resources/weighing/versions?name=a.txt", "x", librarian, false},
	"fetchResource":      {"/resources/weighing/file", "", reader, false},
	"renameReport":       {"/reports/intake-lots/rename", `{"to": "Wrong Id"}`, librarian, false},
	"listRetired":        {"/retired", "", reader, false},
	"renameOther":        {"/renamed/source/none", `{"to": "other"}`, librarian, false},
	"compare": {"/comparisons", `{"before": {"result": "R-999999"}, "after": {"result": "R-999999"}}`, runner,
		false},
	"listEntries":       {"/results/{result}/entries", "", reader, false},
	"putEntries":        {"/results/{result}/entries", `{"cells": [{"column": "x", "value": "y"}]}`, runner, false},
	"undoEntries":       {"/results/{result}/entries/undo", "", runner, false},
	"putEntriesFile":    {"/results/{result}/entries/file", "x", runner, false},
	"listCellEntries":   {"/results/{result}/entries/cell?column=x&row=0", "", reader, false},
	"listCaptures":      {"/controls/none/captures", "", reader, false},
	"readHistory":       {"/histories", `{"control": "none"}`, runner, false},
	"listStatements":    {"/reports/payout-settlement/statements", "", reader, false},
	"addStatement":      {"/reports/payout-settlement/statements?name=a.csv", "x", runner, false},
	"deleteStatement":   {"/statements/S-99", "", reader, false},
	"fetchStatement":    {"/statements/S-99/file", "", reader, false},
	"reconcile":         {"/reconciliations", `{"result": "R-999999", "statement": "S-99"}`, runner, false},
	"getReconciliation": {"/results/{result}/reconciliation", "", reader, false},
	"testSource":        {"/sources/coop/test", "", author, false},
	"listFiles":         {"/sources/coop/files", "", librarian, false},
	"takeFile":          {"/sources/coop/files/none?name=x.csv", "x", reader, false},
	"fetchFile":         {"/sources/coop/files/none/1", "", reader, false},
	"useFile":           {"/sources/coop/files/none/1", "", reader, false},
	"lookAtFile":        {"/files/look?name=x.csv", "a;b\n1;2\n", author, false},
	"getSpace":          {"/space", "", administrator, false},
	"listRules":         {"/rules", "", administrator, false},
	"putKeepRule":       {"/rules/keep/all/all", `{"days": 9999, "final": false}`, administrator, false},
	"deleteKeepRule":    {"/rules/keep/report/none", "", administrator, false},
	"putQuota":          {"/rules/quota/everyone/everyone", `{"megabytes": 5000}`, administrator, false},
	"listAudit":         {"/audit", "", administrator, false},
	"checkAudit":        {"/audit/check", "", administrator, false},
	"exportAudit":       {"/audit/file", "", administrator, false},
	"listReaders":       {"/results/{result}/readers", "", librarian, false},
	"listBackups":       {"/backups", "", administrator, false},
	"makeBackup":        {"/backups", "", administrator, false},
	"takeBackup":        {"/backup", "", administrator, false},
	"listSecrets":       {"/secrets", "", librarian, false},
	"putSecret":         {"/secrets/x{new name}", `{"text": "hidden"}`, librarian, false},
	"deleteSecret":      {"/secrets/none", "", librarian, false},
	"listTrash":         {"/trash", "", reader, false},
	"returnThrown":      {"/trash/view/V-999999", "", reader, false},
	"getKeeping":        {"/results/{result}/keeping", "", reader, false},
	"keepResult":        {"/results/{result}/keeping", `{"do": "hold"}`, runner, true},
	"writeNote":         {"/results/{result}/notes", `{"says": "x"}`, reader, false},
	"settleNote":        {"/notes/99/settled", `{"settled": true}`, reader, false},
	"getSignRule":       {"/reports/intake-lots/sign-rule", "", reader, false},
	"putSignRule": {"/reports/intake-lots/sign-rule",
		`{"who": {"everyone": false, "groups": [], "people": []}, "steps": 1}`, librarian, false},
	"proveResult":    {"/results/{result}/proof", "", reader, false},
	"listKeys":       {"/keys", "", nobody, false},
	"makeKey":        {"/keys", "", administrator, false},
	"retireOther":    {"/retired/source/none", `{}`, librarian, false},
	"reinstateOther": {"/retired/source/none", "", librarian, false},
	"listTerms":      {"/glossary", "", reader, false},
	"putTerm":        {"/glossary/t-{new name}", `{"name": "{new name}", "meaning": "x"}`, author, false},
	"deleteTerm":     {"/glossary/none", "", librarian, false},
	"explainReport":  {"/reports/intake-lots/columns", "", reader, false},
	"explainResult":  {"/results/{result}/columns", "", reader, false},
	"listNotices":    {"/notices", "", reader, false},
	"putAwayNotice":  {"/notices/1", "", reader, false},
	"returnNotice":   {"/notices/1", "", reader, false},
	"listPeople":     {"/people", "", administrator, false},
	"getDataOf":      {"/people/{me}/data", "", reader, false},
	"erasePerson":    {"/people/none/erasure", "", administrator, false},
	"putPerson": {"/people/x{new name}",
		`{"title": "X", "role": "reader", "units": [], "closed": false, "password": "a long password"}`, administrator,
		false},
	"deletePerson": {"/people/none", "", administrator, false},
	"deleteGroup":  {"/groups/none", "", administrator, false},
	"deleteReport": {"/reports/none", "", librarian, false},
	"deleteSource": {"/sources/none", "", librarian, false},
	"putGroup":     {"/groups/x{new name}", `{"title": "X", "members": []}`, administrator, false},
}

// world makes what the calls speak of, as runa.
type world struct {
	*demotest.Service
	t     *testing.T
	runa  *client.ClientWithResponses
	fixed map[string]string
	made  int
}

func newWorld(t *testing.T) *world {
	w := &world{Service: demotest.Start(t), t: t}
	_, w.runa = w.As(t, "runa")
	w.fixed = map[string]string{"criteria": w.criteria("shared"), "result": w.result(),
		"definition": w.text("intake-lots"), "run": "RUN-000001"}
	w.control("kept")
	shared, err := w.Library.AsService().Catalog.Shared()
	if err != nil {
		t.Fatal(err)
	}
	w.fixed["shared"] = shared
	w.fixed["calendar"] =
		"BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nBEGIN:VEVENT\r\nUID:x\r\nDTSTAMP:20260101T000000Z\r\n" +
			"DTSTART;VALUE=DATE:20260101\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
	file, err := w.runa.StartExportWithResponse(t.Context(), w.fixed["result"], "lots", nil, api.Take{Format: "csv"})
	if err != nil || file.JSON201 == nil {
		t.Fatal(err, string(file.Body))
	}
	w.fixed["export"] = file.JSON201.Id
	sources, err := w.Library.AsService().Catalog.Sources(t.Context())
	if err != nil || len(sources) != 1 {
		t.Fatal(sources, err)
	}
	w.fixed["source"] = sources[0].Text
	return w
}

func (w *world) text(id string) string {
	d, err := w.Library.AsService().Catalog.Report(id)
	if err != nil {
		w.t.Fatal(err)
	}
	return d.Text
}

// TestWhoMayDoWhat makes every call of the contract as every role and as
// nobody.
func TestWhoMayDoWhat(t *testing.T) {
	w := newWorld(t)
	if r, err := w.runa.RunControlWithResponse(t.Context(), "kept", api.Overrides{Values: api.Values{}}); err != nil ||
		r.JSON201 == nil {
		t.Fatalf("%v %s", err, r.Body)
	} else {
		w.fixed["set"] = (*r.JSON201)[0].Id
	}
	methods, open := operations(t)
	tokens := map[string]string{}
	for role, name := range roles {
		tokens[role], _ = w.As(t, name)
	}
	for id, method := range methods {
		c, ok := calls[id]
		if !ok {
			t.Errorf("the contract has the call %s, and nothing says who may make it", id)
			continue
		}
		if (c.who == nobody) != open[id] {
			t.Errorf("%s: the contract says open %t", id, open[id])
		}
		got, said := w.status(method, w.filled(c.path), w.filled(c.body), "")
		if turned := got == http.StatusUnauthorized && strings.Contains(said, "sign in first"); turned == (c.who == nobody) {
			t.Errorf("%s as nobody: %d %s", id, got, said)
		}
		if id == "signOut" {
			continue
		}
		for role, token := range tokens {
			may := ranks[role] >= ranks[c.who] && (!c.owned || role == runner || ranks[role] >= ranks[librarian])
			got, said := w.status(method, strings.ReplaceAll(w.filled(c.path), "{me}", roles[role]), w.filled(c.body), token)
			if may && c.who != nobody && (got == http.StatusForbidden || got == http.StatusUnauthorized) || !may &&
				got != http.StatusForbidden {
				t.Errorf("%s as %s, who may %t: %d %.200s", id, role, may, got, said)
			}
		}
	}
	for id := range calls {
		if methods[id] == "" {
			t.Errorf("%s is no call of the contract", id)
		}
	}
	if got, _ := w.status("DELETE", "/session", "", tokens[reader]); got != http.StatusNoContent {
		t.Errorf("signing out: %d", got)
	}
	if got, _ := w.status("GET", "/session", "", tokens[reader]); got != http.StatusUnauthorized {
		t.Errorf("the token is still worth something: %d", got)
	}
}
