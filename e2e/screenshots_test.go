package e2e

import (
	"flag"
	"os/exec"
	"path/filepath"
	"testing"

	"mantilla/api"
	"mantilla/demo/demotest"
)

var screenshots = flag.String("screenshots", "", "directory to write the pictures of the documentation to")

// TestScreenshots draws the pictures of the documentation from the demo data;
// see make screenshots.
func TestScreenshots(t *testing.T) {
	if *screenshots == "" {
		t.Skip("asked for with -screenshots DIRECTORY")
	}
	picture := func(name string) string { return filepath.Join(*screenshots, name+".png") }
	s := demotest.Start(t)
	overview := s.Result(t, "intake-by-origin", nil)
	lots := s.Result(t, "intake-lots", api.Values{"received": "2026-Q3", "unit": "Hollin; Marr"})
	keeper := s.Result(t, "keeper-file", api.Values{"keeper": "K-1002"})
	s.Result(t, "near-best-before", nil)
	b := openBrowser(t)

	b.open(s.URL + "/")
	b.shows("never run yet")
	b.picture(picture("catalog"))

	b.open(s.URL + "/reports/intake-lots?unit=UF-HOL%3B+UF-MAR")
	b.shows("Hollin and Marr with everything below")
	b.picture(picture("report"))
	b.click(`[aria-label="Pick Received"]`)
	b.shows("last 90 days")
	b.picture(picture("range"))

	b.open(s.URL + "/reports/intake-lots?received=2026-02-30&unit=Holin")
	b.shows("use UF-HOL")
	b.picture(picture("fault"))

	b.open(s.URL + "/results/" + overview)
	b.shows("873,729.06")
	b.picture(picture("overview"))
	b.open(s.URL + "/results/" + lots + "?lots.filter=grade%3DSelect&lots.sort=-value")
	b.shows("Grade is Select")
	b.press("How it was made")
	b.press("Check the seal")
	b.shows("The rows are the ones that were sealed.")
	b.picture(picture("result"))

	b.open(s.URL + "/results/" + keeper)
	b.shows("Grading training")
	b.click(`[aria-label="Dark colours"]`)
	b.picture(picture("dark"))
	b.click(`[aria-label="Light colours"]`)

	b.open(s.URL + "/runs")
	b.shows("RUN-000001")
	b.picture(picture("runs"))
	b.open(s.URL + "/results")
	b.shows("R-000001")
	b.picture(picture("results"))
	b.open(s.URL + "/office")
	b.fill("textarea", "report: Lots\ntitel: Lots of the day\ndepth: deep\nsource: coop\ndatasets: {}\nviews: {}")
	b.press("Check")
	b.shows("did you mean title?")
	b.picture(picture("office"))

	for name, line := range map[string]string{
		"cli-catalog": "mantilla catalog; mantilla describe near-best-before",
		"cli-show":    "mantilla show " + lots + " --rows 12 --sort=-value",
	} {
		draw := exec.CommandContext(t.Context(), "bash", "terminal.sh", filepath.Dir(binary), s.URL, line, picture(name))
		if out, err := draw.CombinedOutput(); err != nil {
			t.Errorf("%s: %v\n%s", name, err, out)
		}
	}
}
