package server_test

import (
	"encoding/json"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"testing"

	"mantilla/api"
)

// inside are words of the program's own, which help nobody who reads a fault.
var inside = regexp.MustCompile(`(?i)panic|goroutine|<nil>|sql:|unmarshal|runtime error|%!|\.go:\d|json: |EOF|strconv`)

// asAdministrator makes a call and returns how it ended; what it says is read as a problem where
// it was refused.
func (w *world) asAdministrator(t *testing.T, method, path, body string) (code int, p api.Problem) {
	t.Helper()
	request, err := http.NewRequestWithContext(t.Context(), method, w.URL+"/api"+path, strings.NewReader(body))
	if err != nil {
		t.Fatal(err)
	}
	request.Header.Set("Authorization", "Bearer "+w.Token)
	if body != "" {
		request.Header.Set("Content-Type", "application/json")
	}
	answer, err := http.DefaultClient.Do(request)
	if err != nil {
		t.Fatal(err)
	}
	defer answer.Body.Close()
	if answer.StatusCode < 400 {
		return answer.StatusCode, p
	}
	if kind := answer.Header.Get("Content-Type"); kind != "application/problem+json" {
		t.Errorf("%s %s: a fault comes as %s", method, path, kind)
	}
	if err := json.NewDecoder(answer.Body).Decode(&p); err != nil {
		t.Errorf("%s %s: a fault that cannot be read: %v", method, path, err)
	}
	if p.Status != answer.StatusCode || p.Title == "" || len(p.Detail) < 8 {
		t.Errorf("%s %s: %d says %+v", method, path, answer.StatusCode, p)
	}
	said := p.Title + p.Detail
	for _, f := range p.Fields {
		said += f.Message
	}
	if inside.MatchString(said) {
		t.Errorf("%s %s: it says %q", method, path, said)
	}
	return answer.StatusCode, p
}

// takesJSON are the calls that take an object of JSON.
func takesJSON() (ids []string) {
	for id, c := range calls {
		if strings.HasPrefix(c.body, "{\"") || c.body == "{}" {
			ids = append(ids, id)
		}
	}
	slices.Sort(ids)
	return ids
}

// TestBodiesThatAreWrong sends every call that takes an object something else: it is refused,
// with words, and nothing falls over.
func TestBodiesThatAreWrong(t *testing.T) {
	w := newWorld(t)
	methods, _ := operations(t)
	for _, id := range takesJSON() {
		for _, wrong := range []string{"{", "[]", `"text"`, "7", "null", `{"name": {"a": 1}, "title": [], "values": 7, ` +
			`"report": 7, "at": 1, "says": 1, "columns": 1, "text": 1, "show": 1, "to": 1, "format": 1, "zone": 1, ` +
			`"rule": 1, "old": 1, "password": 1, "from": 1, "typed": 1, "paused": 7, "changes": 7, "kind": 1, "members": 1, ` +
			`"note": 1, "by": 1, "successor": 1, "density": 1}`} {
			code, _ := w.asAdministrator(t, methods[id], w.filled(calls[id].path), wrong)
			if code != http.StatusBadRequest && code != http.StatusUnprocessableEntity && code != http.StatusNotFound &&
				code != http.StatusConflict && code != http.StatusPreconditionFailed &&
				code != http.StatusPreconditionRequired {
				t.Errorf("%s of %s: %d", id, wrong[:min(len(wrong), 20)], code)
			}
		}
	}
	if code, _ := w.asAdministrator(t, http.MethodGet, "/catalog", ""); code != http.StatusOK {
		t.Errorf("the service answers %d afterwards", code)
	}
}

// TestPathsThatLeadNowhere asks every call for things of other names: none is a fault of the
// service, and each says what there is not.
func TestPathsThatLeadNowhere(t *testing.T) {
	w := newWorld(t)
	methods, _ := operations(t)
	names := regexp.MustCompile(`\{[^}]+\}|intake-lots|R-0+1|P-0+1|M-1|\bkept\b|\blots\b|\bnone\b`)
	for id, c := range calls {
		path := names.ReplaceAllString(strings.Split(c.path, "?")[0], "no-such-thing")
		if path == c.path || c.who == nobody {
			continue
		}
		for _, path := range []string{path, strings.ReplaceAll(path, "no-such-thing", "9999999999999999999999"),
			strings.ReplaceAll(path, "no-such-thing", "%27%3B%20drop%20table%20run%3B--"),
			strings.ReplaceAll(path, "no-such-thing", "..%2F..%2Fetc%2Fpasswd")} {
			body := c.body
			if strings.HasPrefix(body, "{") && !strings.HasPrefix(body, `{"`) {
				body = "" // a text that is filled in
			}
			if code, p := w.asAdministrator(t, methods[id], path, body); code >= 500 {
				t.Errorf("%s %s: %d %s", id, path, code, p.Detail)
			}
		}
	}
}

// TestParametersThatAreWrong asks for pages, groups and filters that are none.
func TestParametersThatAreWrong(t *testing.T) {
	w := newWorld(t)
	views := "/results/" + w.fixed["result"] + "/views/lots"
	for path, says := range map[string]string{
		views + "?first=-1":                         "first",
		views + "?count=abc":                        "count",
		views + "?count=-5":                         "count",
		views + "?filter=grad%3DSelect":             "did you mean grade",
		views + "?filter=net_kg%3Dheavy":            "heavy",
		views + "?filter=received%3Dyesterdy":       "yesterdy",
		views + "?sort=valu":                        "did you mean value",
		views + "?column=valu":                      "did you mean value",
		views + "?group=distric":                    "did you mean district",
		views + "?group=band(net_kg,20,10)":         "rise",
		views + "?group=month(net_kg)":              "month",
		views + "?show=pie":                         "pie",
		views + "?add=Worth%3Dvalue%2F":             "character 7: a value is wanted",
		views + "/figure?of=valu":                   "did you mean value",
		views + "/figure?of=value&path=nowhere":     "nowhere",
		views + "/values?of=grad":                   "did you mean grade",
		views + "/find":                             "text",
		views + "/row?number=100000000":             "the rows 0 to",
		views + "/formula?text=value%2B%27a%27":     "",
		"/runs?limit=none":                          "limit",
		"/results?limit=0":                          "limit",
		"/results?before=nothing":                   "write it as R-000017",
		"/reports/intake-lots/parameters/x/entries": "x",
	} {
		code, p := w.asAdministrator(t, http.MethodGet, path, "")
		said := p.Title + " " + p.Detail
		for _, f := range p.Fields {
			said += " " + f.Field + " " + f.Message
		}
		if strings.HasSuffix(path, "%27a%27") {
			continue // a formula that is not right is an answer
		}
		if code < 400 || code >= 500 || !strings.Contains(said, says) {
			t.Errorf("%s: %d says %q, without %q", path, code, said, says)
		}
	}
}
