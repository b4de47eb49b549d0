package server

import (
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"strconv"

	"mantilla/api"
	"mantilla/core/ask"
	"mantilla/core/definition"
	"mantilla/core/param"
	"mantilla/identity/passkey"
	"mantilla/library/access"
	"mantilla/model"
	"mantilla/render"
	"mantilla/server/answer"
	"mantilla/source"
)

func problem(err error) api.Problem {
	p := api.Problem{
		Type:   "internal",
		Title:  "Something went wrong in the service",
		Status: http.StatusInternalServerError,
		Detail: err.Error(),
		Fields: []api.Fault{},
	}
	set := func(kind, title string, status int) { p.Type, p.Title, p.Status = kind, title, status }

	var missing *model.Missing
	var values param.Faults
	var definition definition.Faults
	var reading *ask.Fault
	var request *answer.BadRequest
	var off *offContract
	var forbidden *model.Forbidden
	var refused *model.Refused
	var waits *access.Waits
	var unsaid *access.Unsaid
	var busy *model.Busy
	switch {
	case errors.Is(err, access.ErrCodeWanted), errors.Is(err, access.ErrCode):
		set("second", "A code is wanted", http.StatusUnauthorized)
	case errors.Is(err, access.ErrNotSignedIn), errors.Is(err, access.ErrSignIn),
		errors.Is(err, passkey.ErrWrong), errors.Is(err, passkey.ErrCopied):
		set("signed-out", "Not signed in", http.StatusUnauthorized)
	case errors.As(err, &waits):
		set("locked", "Signing in has to wait", http.StatusTooManyRequests)
	case errors.As(err, &busy):
		set("busy", "Too much at once", http.StatusTooManyRequests)
	case errors.Is(err, model.ErrBroken):
		set("seal", "The seal is broken", http.StatusConflict)
	case errors.Is(err, model.ErrKeyUsed):
		set("taken", "The idempotency key is used", http.StatusUnprocessableEntity)
	case errors.As(err, &unsaid):
		set("purpose", "Say what for", http.StatusForbidden)
	case errors.As(err, &forbidden):
		set("forbidden", "You may not do this", http.StatusForbidden)
	case errors.Is(err, model.ErrFull): // whatever was refused because of it
		set("full", "Nothing can be written now", http.StatusServiceUnavailable)
	case errors.As(err, &refused) && !errors.As(err, &definition):
		set("request", "The request is not right", http.StatusUnprocessableEntity)
		p.Fields = []api.Fault{{Field: refused.Part, Message: refused.Error()}}
	case errors.Is(err, model.ErrTaken):
		set("taken", "The name is taken", http.StatusConflict)
	case errors.As(err, &reading):
		set("reading", "The view cannot be laid out so", http.StatusUnprocessableEntity)
		p.Fields = []api.Fault{{Field: reading.Part, Message: reading.Error()}}
	case errors.As(err, &missing):
		set("not-found", "There is no such "+missing.What, http.StatusNotFound)
		p.Fields = []api.Fault{{Field: missing.What, Message: missing.Error(), Near: answer.Optional(missing.Near)}}
	case errors.Is(err, model.ErrNotFound):
		set("not-found", "Not found", http.StatusNotFound)
	case errors.As(err, &values):
		set("values", "Some values are not right", http.StatusUnprocessableEntity)
		p.Fields = answer.Faults(values)
	case errors.As(err, &definition):
		set("definition", "The definition is not right", http.StatusUnprocessableEntity)
		for _, f := range definition {
			p.Fields = append(p.Fields, api.Fault{Field: "definition", Message: f.Message, Line: &f.Line, Column: &f.Column})
		}
	case errors.As(err, &off):
		set("request", "The request is not right", http.StatusBadRequest)
		p.Fields = off.faults
	case errors.As(err, &request):
		set("request", "The request is not right", http.StatusBadRequest)
		p.Fields = []api.Fault{{Field: request.Field, Message: request.Error()}}
	case errors.Is(err, render.ErrTooLong):
		set("reading", "The format cannot hold so many rows", http.StatusUnprocessableEntity)
	case errors.Is(err, model.ErrStale):
		set("stale", "Changed meanwhile", http.StatusPreconditionFailed)
	case errors.Is(err, source.ErrMissing), errors.Is(err, source.ErrLocked), errors.Is(err, source.ErrSilent):
		set("source", "The source cannot be read", http.StatusServiceUnavailable)
	}
	return p
}

// unreadable says that a request could not be read.
func unreadable(err error) error {
	var tooLarge *http.MaxBytesError
	if errors.As(err, &tooLarge) {
		err = errors.New("the body is larger than " + strconv.FormatInt(tooLarge.Limit, 10) + " bytes")
	}
	if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
		err = errors.New("the body is empty or cut short; an object of JSON is wanted, at least {}")
	}
	return &answer.BadRequest{Field: "request", Err: err}
}

// soon is when whoever is told that it goes wrong for now asks again, in seconds, where nothing more is known.
const soon = "30"

// write answers with a problem.
func write(w http.ResponseWriter, p api.Problem) {
	body, err := json.Marshal(p)
	if err != nil {
		panic(err) // a Problem holds nothing that cannot be written as JSON
	}
	w.Header().Set("Content-Type", "application/problem+json")
	if p.Status == http.StatusServiceUnavailable || p.Status == http.StatusTooManyRequests {
		if w.Header().Get("Retry-After") == "" {
			w.Header().Set("Retry-After", soon)
		}
	}
	w.WriteHeader(p.Status)
	_, _ = w.Write(body) // whoever does not hear it has gone
}
