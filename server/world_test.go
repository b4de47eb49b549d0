package server_test

import (
	"fmt"
	"io"
	"net/http"
	"strings"

	"mantilla/api"
	"mantilla/library/drafting"
)

func (w *world) criteria(name string) string {
	w.t.Helper()
	r, err := w.runa.KeepCriteriaWithResponse(w.t.Context(), "intake-lots",
		api.CriteriaChange{Name: name, Shared: "everyone", Values: api.Values{}})
	if err != nil || r.JSON201 == nil {
		w.t.Fatalf("%v %s", err, r.Body)
	}
	return r.JSON201.Id
}

func (w *world) control(id string) string {
	w.t.Helper()
	r, err := w.runa.PutControlWithResponse(w.t.Context(), id, nil,
		api.ControlChange{
			Title:   id,
			Shared:  "everyone",
			Steps:   []api.Step{{Report: "near-best-before"}},
			Outputs: []api.Output{},
			Empty:   "keep",
		})
	if err != nil || r.JSON200 == nil {
		w.t.Fatalf("%v %s", err, r.Body)
	}
	return id
}

func (w *world) view(name string) string {
	w.t.Helper()
	r, err := w.runa.KeepViewWithResponse(w.t.Context(), "intake-lots",
		api.ViewBody{Name: name, View: "lots", Everyone: true})
	if err != nil || r.JSON201 == nil {
		w.t.Fatalf("%v %s", err, r.Body)
	}
	return r.JSON201.Id
}

func (w *world) address(nickname string) string {
	w.t.Helper()
	r, err := w.runa.PutAddressWithResponse(w.t.Context(), nickname, nil,
		api.AddressChange{Name: nickname, Mail: nickname + "@example.org", Units: []string{}, Groups: []string{}})
	if err != nil || r.JSON200 == nil {
		w.t.Fatalf("%v %s", err, r.Body)
	}
	return nickname
}

func (w *world) result() string {
	w.t.Helper()
	admin := w.Client
	w.Client = w.runa
	defer func() { w.Client = admin }()
	return w.Result(w.t, "intake-lots", nil)
}

// filled writes what stands in braces.
func (w *world) filled(text string) string {
	for name, value := range w.fixed {
		text = strings.ReplaceAll(text, "{"+name+"}", value)
	}
	made := map[string]func(string) string{
		"new name":     func(n string) string { return n },
		"new criteria": w.criteria,
		"new control":  w.control,
		"new view":     w.view,
		"new address":  w.address,
		"new draft":    w.draft,
		"new result":   func(string) string { return w.result() },
	}
	for name, fresh := range made {
		if strings.Contains(text, "{"+name+"}") {
			w.made++
			text = strings.ReplaceAll(text, "{"+name+"}", fresh(fmt.Sprintf("n%d", w.made)))
		}
	}
	return text
}

// draft begins one as aron, from a report of which it is a change.
func (w *world) draft(string) string {
	w.t.Helper()
	aron, err := w.Library.AsPerson(w.t.Context(), "aron")
	if err != nil {
		w.t.Fatal(err)
	}
	d, err := aron.Drafting.Begin(w.t.Context(), drafting.Beginning{Copy: "intake-lots", Report: "copy", Title: "A copy"})
	if err != nil {
		w.t.Fatal(err)
	}
	return fmt.Sprintf("D-%d", d.Number)
}

func (w *world) status(method, path, body, token string) (int, string) {
	w.t.Helper()
	request, err := http.NewRequestWithContext(w.t.Context(), method, w.URL+"/api"+path, strings.NewReader(body))
	if err != nil {
		w.t.Fatal(err)
	}
	kind := "application/yaml"
	switch {
	case strings.HasPrefix(body, "{"), strings.HasPrefix(body, "["):
		kind = "application/json"
	case strings.HasPrefix(body, "BEGIN:"):
		kind = "text/calendar"
	}
	request.Header.Set("Content-Type", kind)
	if token != "" {
		request.Header.Set("Authorization", "Bearer "+token)
	}
	answer, err := http.DefaultClient.Do(request)
	if err != nil {
		w.t.Fatal(err)
	}
	defer answer.Body.Close()
	said, err := io.ReadAll(answer.Body)
	if err != nil {
		w.t.Fatal(err)
	}
	return answer.StatusCode, string(said)
}
