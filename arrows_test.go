// Package mantilla holds only this test: which package may import which.
package mantilla

import (
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path"
	"slices"
	"strconv"
	"strings"
	"testing"
)

// arrows has, for each package, the packages of this module that it may import.
// A line is added to, or an arrow drawn, on purpose: docs/architecture.md says
// what each package is for. What stands above is never imported from below.
const arrows = `
core/rescue:
core/fold:
core/pattern:
core/frame:
core/starter: core/ask core/frame core/report
core/exact: core/frame
core/nearest: core/fold
core/search: core/fold core/nearest
core/period:
core/timetable: core/period
core/bundle:
core/content: core/nearest
core/expr: core/frame
core/formula: core/exact core/expr core/frame core/nearest core/pattern core/period
core/table: core/formula core/frame
core/kept: core/exact core/fold core/frame core/rescue core/table
core/param: core/fold core/frame core/nearest core/period
core/report: core/expr core/formula core/frame core/param core/period
store/needs:
server/needs:
library/needs:
tracing:
core/mask: core/frame core/report
store/standing: model store/db store/results
server/ops: library library/acting library/standing
library/standing: library/access library/acting library/background library/backup library/catalog model
source/engine:
core/manuscript:
core/definition: core/formula core/frame core/manuscript core/nearest core/param core/period core/report
core/revision: core/frame core/param core/report
core/query: core/frame core/param core/period core/report
core/compare: core/frame core/period
core/ask: core/expr core/fold core/frame core/period core/report core/table
core/ready: core/ask core/compare core/expr core/formula core/frame core/nearest core/period core/report core/shown
core/ready: core/table
core/shown: core/frame core/period core/report
core/drawn: core/frame core/shown
core/sheet: core/ask core/drawn core/expr core/fold core/formula core/frame core/nearest core/period core/ready
core/sheet: core/report core/shown core/table
core/checks: core/ask core/formula core/frame core/ready core/report core/sheet core/shown core/table
core/changes: core/frame core/report core/rescue
core/entries: core/frame core/nearest core/period core/report
core/series: core/changes core/frame core/period core/report
core/reconcile: core/fold core/frame core/period core/report core/shown core/timetable

model: core/ask core/checks core/nearest core/period core/reconcile core/report core/shown
seal: core/frame model
grid: core/frame core/nearest core/period core/rescue source/cells
statement: core/frame core/period core/reconcile core/report grid

store/cache: core/rescue
store: store/audit store/backup store/cache store/care store/catalog store/controls store/db store/drafting
store: store/entering store/files store/health store/history store/keeping store/meaning store/moving store/needs
store: store/people store/reconciling store/results store/runs store/secrets store/sending store/shelf store/standing
store: store/trash
store/storetest:
source: core/frame core/nearest core/param core/query core/report core/table model
source/apart: core/frame core/period core/query core/report model source
source/lookup: core/fold core/nearest core/param core/report source
source/files: core/fold core/nearest core/rescue grid source source/sqlite
source/cells: core/frame core/period core/report
source/flightsql: core/frame core/period core/query core/report model source source/cells
source/sqldb: core/frame core/query core/report model source source/cells
source/mariadb: core/frame core/period core/query core/report source source/sqldb
source/sqlserver: core/frame core/period core/report source source/sqldb
source/oracle: core/frame core/period core/report source source/sqldb
source/engine: core/exact core/expr core/fold core/formula core/frame core/period core/table
source/postgres: core/fold core/frame core/period core/query core/report core/table model source source/cells
source/postgres: source/engine
source/sqlite: core/fold core/frame core/nearest core/period core/query core/report model source source/cells
deliver:
deliver/mailbox:
render/chart: core/drawn core/frame core/shown
render/document: core/frame core/report core/sheet core/shown
render/paper: core/frame core/period core/report core/sheet render/chart render/document
render: core/drawn core/frame core/nearest core/report core/rescue core/sheet core/shown render/chart render/document
render: render/paper
runner: core/rescue model

core/audit:
identity: model
demo/provider:
cli/standing: api api/client cli/talk
server/standing: api api/handlers model server/answer
library/acting:
library/audit: core/audit library/access library/acting library/background model
store/audit: core/audit model store/db
cli/audit: api api/client cli/talk core/audit
server/audit: api api/handlers core/audit model server/answer
library/background: core/rescue library/acting model
library/access: core/nearest core/period core/report core/shown identity/passkey library/acting model
library/catalog: core/definition core/fold core/manuscript core/nearest core/param core/period core/query core/report
library/catalog: core/revision core/search library/access library/acting library/background model source source/apart
library/catalog: source/files source/flightsql source/lookup source/mariadb source/oracle source/postgres
library/catalog: source/sqlite source/sqlserver store/catalog
library/asking: core/nearest core/param core/period core/report library/access library/catalog model source
library/asking: source/lookup
library/capture: core/checks core/compare core/entries core/frame core/kept core/param core/period core/query
library/capture: core/ready core/report core/rescue core/shown core/table library/access library/asking
library/capture: library/background library/catalog library/reading model runner source tracing
library/reading: core/ask core/checks core/entries core/formula core/frame core/kept core/mask core/nearest core/param
library/reading: core/period core/ready core/report core/sheet core/shown core/table library/access library/acting
library/reading: library/background library/catalog model render render/document render/paper seal source store/cache
library/sending: core/ask core/formula core/nearest core/report deliver deliver/mailbox library/access library/acting
library/sending: library/background library/catalog library/reading model render tracing
library/shelf: core/content core/search library/access library/catalog model
library/controls: core/param core/period core/shown core/timetable library/access library/asking library/background
library/controls: library/capture library/catalog library/reading library/sending model render
library/desk: core/ask core/formula core/frame core/report core/shown library/access library/catalog library/controls
library/desk: library/reading model
library/needs: library/access library/capture library/care library/catalog library/controls library/notices
library/needs: library/reading library/sending model
library/notices: library/access model
library/secrets: library/access model
library/files: core/rescue library/access library/background library/catalog library/notices model source source/files
library/trash: library/access library/acting library/asking library/background library/catalog library/controls
library/trash: library/desk library/drafting library/reading library/shelf model
docs:
library/guide: core/search docs model
library/backup: library/access library/background library/notices model store/backup
library/care: core/period library/access library/background library/catalog library/notices model store/care
library/drafting: core/checks core/definition core/fold core/formula core/frame core/manuscript core/nearest
library/drafting: core/param core/report core/sheet core/starter library/access library/capture library/care
library/drafting: library/catalog library/meaning library/notices library/reading model source source/lookup
library/drafting: store/drafting
library/health: core/report core/revision library/access library/capture library/care library/catalog model
library/health: store/health
library/meaning: core/fold core/nearest core/query core/report core/search library/access library/catalog
library/meaning: library/reading model source
library/moving: core/ask core/bundle core/content core/definition core/manuscript core/param core/report core/revision
library/moving: library/access library/catalog library/meaning library/reading library/shelf model store/moving
library/entering: core/ask core/entries core/period core/report library/access library/reading model
library/history: core/ask core/frame core/period core/report core/series library/access library/capture
library/history: library/controls library/reading model
library/reconciling: core/ask core/frame core/period core/reconcile core/report core/shown core/timetable
library/reconciling: library/access library/capture library/catalog library/reading model statement
library/keeping: core/ask core/changes core/frame core/nearest core/param core/ready core/report library/access
library/keeping: library/asking library/background library/capture library/notices library/reading model seal
library: core/period identity/passkey library/access library/acting library/asking library/audit library/background
library: library/backup library/capture library/care library/catalog library/controls library/desk library/drafting
library: library/entering library/files library/health library/history library/keeping library/meaning library/moving
library: library/needs library/notices library/reading library/reconciling library/secrets library/sending
library: library/shelf library/standing library/trash model source/apart store store/runs

api:
api/handlers: api
api/client: api
server/answer: api core/checks core/param identity library model source
server/asking: api api/handlers library/asking model server/answer
server/capture: api api/handlers library library/acting library/capture model server/answer
server/catalog: api api/handlers core/param core/period core/report library/asking library/catalog model server/answer
server/catalog: server/shelf source/lookup
server/controls: api api/handlers core/period core/timetable library/controls library/sending model render
server/controls: server/answer server/capture server/reading
server/needs: api api/handlers server/answer
server/desk: api api/handlers core/frame library/acting library/desk server/answer server/reading
server/guide: api api/handlers library/guide server/answer
server/backup: api api/handlers core/rescue library/backup server/answer
server/care: api api/handlers core/period model server/answer
server/drafting: api api/handlers library/capture library/catalog library/drafting model server/answer server/catalog
server/drafting: server/reading
server/health: api api/handlers server/answer
server/meaning: api api/handlers core/shown library/meaning model server/answer
server/moving: api api/handlers library/moving server/answer
server/people: api api/handlers identity library library/access library/acting model server/answer
server/reading: api api/handlers core/ask core/checks core/formula core/frame core/report core/sheet core/shown
server/reading: library library/reading model render render/paper server/answer
server/sending: api api/handlers library/reading library/sending model server/answer server/reading
server/shelf: api api/handlers model server/answer
server/entering: api api/handlers core/entries library/entering model server/answer
server/history: api api/handlers library/history server/answer server/capture
server/reconciling: api api/handlers core/reconcile library/reconciling model server/answer server/capture
server/trash: api api/handlers model server/answer
server/secrets: api api/handlers server/answer
server/files: api api/handlers library/files model server/answer source/files
server/keeping: api api/handlers core/rescue library library/keeping library/reading model server/answer
server/keeping: server/capture server/reading
cli/asking: api api/client cli/catalog cli/talk
cli/capture: api api/client cli/asking cli/catalog cli/reading cli/talk core/shown
cli/catalog: api api/client cli/talk
cli/controls: api api/client cli/capture cli/reading cli/talk
cli/desk: api api/client cli/talk
cli/guide: api api/client cli/talk
cli/backup: api api/client cli/talk
cli/care: api api/client cli/talk
cli/drafting: api api/client cli/reading cli/talk core/definition
cli/health: api api/client cli/talk
cli/meaning: api api/client cli/talk
cli/moving: api api/client cli/talk core/bundle core/definition core/manuscript
cli/people: api api/client cli/catalog cli/talk
cli/reading: api api/client cli/catalog cli/talk
cli/sending: api api/client cli/reading cli/talk
cli/shelf: api api/client cli/talk
cli/talk: api api/client core/nearest core/shown
cli/entering: api api/client cli/talk
cli/history: api api/client cli/capture cli/talk
cli/reconciling: api api/client cli/capture cli/talk
cli/trash: api api/client cli/talk core/nearest
cli/secrets: api api/client cli/talk
cli/files: api api/client cli/talk
cli/keeping: api api/client cli/capture cli/catalog cli/reading cli/talk seal
store/catalog: model store/db store/results
store/controls: core/period model store/db store/people store/runs
store/db: model store/cache
store/drafting: model store/db
store/backup: core/audit model store/audit store/db store/results
store/needs: store/db
store/care: core/period model store/db
store/health: model store/db
store/meaning: model store/db
store/moving: model store/catalog store/db store/meaning store/shelf
store/people: model store/db store/naming
store/results: core/frame core/report model seal store/cache store/db
store/runs: core/checks core/frame model seal store/catalog store/db store/results
store/sending: model store/controls store/db store/naming store/runs
store/shelf: model store/db
store/trash: model store/db
store/secrets: model store/db
store/files: model store/db
store/naming: model store/db
store/entering: model store/db
store/history: model store/db
store/reconciling: model store/db
store/keeping: model store/db
server: api api/handlers core/ask core/definition core/param identity identity/passkey library library/access
server: library/acting model render server/answer server/asking server/audit server/backup server/capture server/care
server: server/catalog server/controls server/desk server/drafting server/entering server/files server/guide
server: server/health server/history server/keeping server/meaning server/moving server/needs server/people
server: server/reading server/reconciling server/secrets server/sending server/shelf server/standing server/trash
server: source tracing
cli: cli/asking cli/audit cli/backup cli/capture cli/care cli/catalog cli/controls cli/desk cli/drafting cli/entering
cli: cli/files cli/guide cli/health cli/history cli/keeping cli/meaning cli/moving cli/people cli/reading
cli: cli/reconciling cli/secrets cli/sending cli/shelf cli/standing cli/talk cli/trash
console:
demo: core/manuscript core/period core/timetable library library/capture library/catalog library/controls
demo: library/sending model
demo/servers: demo demo/mdserver demo/pgserver library
cmd/mantilla: cli cli/talk console core/audit core/nearest core/period deliver deliver/mailbox demo demo/provider
cmd/mantilla: demo/servers grid identity library library/access library/acting library/audit library/backup
cmd/mantilla: library/capture library/secrets library/sending model server server/ops source/apart store store/backup
cmd/mantilla: tracing






`

// among are packages that only stand beside the program: they may import any.
var among = []string{"bench", "bench/made", "bench/measure", "bench/office", "e2e", "soak",
	"core/frame/frametest", "demo/demotest", "demo/mdserver", "demo/pgserver", "library/librarytest", "source/sourcetest"}

// outside has what only some packages, or files, may import from elsewhere.
var outside = map[string][]string{
	"github.com/gin-gonic/gin": {"server/gin.go", "api/handlers"},
	"github.com/spf13/cobra":   {"cli/...", "cmd/mantilla"},
	"github.com/spf13/viper":   {"cmd/mantilla"},
	"database/sql": {"store/...", "source/sqlite", "source/sqldb", "source/mariadb", "source/sqlserver",
		"source/oracle"},
	"github.com/ncruces/go-sqlite3": {"store/db", "store/backup", "store/storetest", "source/sourcetest", "source/sqlite",
		"source/files",
		"demo", "demo/servers"},
	"net/http": {"identity", "tracing", "server", "server/answer", "server/ops", "server/people", "demo/provider",
		"server/capture",
		"server/reading", "api/handlers",
		"api/client", "cli/...", "deliver", "source/files", "cmd/mantilla"},
	"os": {"store", "store/backup", "store/db", "library/audit", "library/backup", "source", "source/sqlite",
		"source/postgres",
		"deliver",
		"deliver/mailbox", "library/reading",
		"library/secrets", "library/files", "source/apart", "source/files", "grid", "cli/...", "cmd/mantilla", "demo",
		"server/listen.go", "scripts/unchecked"},
	"github.com/go-sql-driver/mysql":  {"source/mariadb"},
	"github.com/microsoft/go-mssqldb": {"source/sqlserver"},
	"github.com/sijms/go-ora":         {"source/oracle"},
	"google.golang.org/grpc":          {"source/flightsql"},
	"github.com/jackc/pgx/v5":         {"source/postgres"},
	"go.yaml.in/yaml/v3": {"core/bundle", "core/definition", "core/manuscript", "core/starter", "source", "cli/...",
		"api/client", "demo"},
	"codeberg.org/go-pdf/fpdf":       {"render/paper"},
	"github.com/xuri/excelize/v2":    {"render", "grid"},
	"github.com/parquet-go":          {"render", "grid"},
	"github.com/wneessen/go-mail":    {"deliver"},
	"github.com/emersion/go-smtp":    {"deliver", "deliver/mailbox"},
	"gonum.org/v1/plot":              {"render/chart", "render/paper"},
	"golang.org/x/crypto":            {"library/access"},
	"go.opentelemetry.io":            {"tracing"},
	"github.com/getkin/kin-openapi":  {"server"},
	"github.com/teambition/rrule-go": {"core/timetable"},
}

// lies tells whether a file of a package is meant by a place: a package, one with all
// below it, or a file.
func lies(place, pkg, file string) bool {
	above, all := strings.CutSuffix(place, "/...")
	return place == pkg || place == file || all && (pkg == above || strings.HasPrefix(pkg, above+"/"))
}

func TestArrows(t *testing.T) {
	allowed := map[string][]string{}
	for line := range strings.Lines(arrows) {
		if name, list, ok := strings.Cut(strings.TrimSpace(line), ":"); ok {
			allowed[name] = append(allowed[name], strings.Fields(list)...)
		}
	}
	seen := map[string]bool{}
	each(t, func(file, pkg, imported string) {
		if slices.Contains(among, pkg) {
			return
		}
		seen[pkg] = true
		own, ok := strings.CutPrefix(imported, "mantilla/")
		switch {
		case ok && allowed[pkg] == nil:
			t.Errorf("%s: the package %s has no line in arrows; say what it may import", file, pkg)
		case ok && !slices.Contains(allowed[pkg], own):
			t.Errorf("%s imports %s, which %s may not; see arrows", file, own, pkg)
		}
		if ok {
			used := pkg + " " + own
			seen[used] = true
		}
		for prefix, places := range outside {
			if imported != prefix && !strings.HasPrefix(imported, prefix+"/") || imported == "net/http/httptest" {
				continue
			}
			if !slices.ContainsFunc(places, func(place string) bool { return lies(place, pkg, file) }) {
				t.Errorf("%s imports %s, which belongs to %v", file, imported, places)
			}
		}
	})
	for pkg, list := range allowed {
		for _, own := range list {
			if !seen[pkg+" "+own] {
				t.Errorf("%s may import %s but does not; take the arrow away", pkg, own)
			}
		}
	}
	if len(seen) < 150 {
		t.Errorf("only %d packages and arrows were seen", len(seen))
	}
}

// each walks the imports of all files of the program.
func each(t *testing.T, use func(file, pkg, imported string)) {
	t.Helper()
	err := fs.WalkDir(os.DirFS("."), ".", func(file string, d fs.DirEntry, err error) error {
		if err == nil && d.IsDir() && (d.Name() == "node_modules" || file != "." && strings.HasPrefix(d.Name(), ".")) {
			return fs.SkipDir
		}
		if err != nil || !strings.HasSuffix(file, ".go") || strings.HasSuffix(file, "_test.go") {
			return err
		}
		parsed, err := parser.ParseFile(token.NewFileSet(), file, nil, parser.ImportsOnly)
		if err != nil {
			return err
		}
		for _, i := range parsed.Imports {
			name, err := strconv.Unquote(i.Path.Value)
			if err != nil {
				return err
			}
			use(file, path.Dir(file), name)
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}
