package server

import (
	"bytes"
	"context"
	"fmt"
	"net/url"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/period"
	"mantilla/core/timetable"
	"mantilla/library/reading"
	"mantilla/library/sending"
	"mantilla/model"
	"mantilla/render"
)

func sendIn(b *api.Send) *sending.Send {
	if b == nil {
		return nil
	}
	return &sending.Send{To: value(b.To), Copy: value(b.Copy), Blind: value(b.Blind), Subject: value(b.Subject),
		Text: value(b.Text), InBody: value(b.InBody),
		Folder: value(b.Folder), Webhook: value(b.Webhook), When: value(b.When),
		Page: render.Options{Page: pageForm(b.Page), Table: tableForm(b.Table)}}
}

func sendOut(s *sending.Send) *api.Send {
	if s == nil {
		return nil
	}
	lines := func(of []string) *[]string {
		if len(of) == 0 {
			return nil
		}
		return &of
	}
	out := &api.Send{To: lines(s.To), Copy: lines(s.Copy), Blind: lines(s.Blind), Subject: given1(s.Subject),
		Text: given1(s.Text), InBody: truth(s.InBody),
		Folder: given1(s.Folder), Webhook: given1(s.Webhook), When: given1(s.When)}
	p, t := s.Page.Page, s.Page.Table
	margin, lead := float32(p.Margin), p.Lead
	out.Page = &api.PageForm{
		Size:        word[api.PageFormSize](p.Size),
		Orientation: word[api.PageFormOrientation](p.Orientation),
		Fit:         word[api.PageFormFit](p.Fit),
		Cover:       truth(p.Cover),
		Margin:      &margin,
		Lead:        &lead,
	}
	out.Table = &api.TableForm{
		Separator: word[api.TableFormSeparator](t.Separator),
		Decimal:   word[api.TableFormDecimal](t.Decimal),
		Headings:  word[api.TableFormHeadings](t.Headings),
		Mark:      truth(t.Mark),
		Raw:       truth(t.Raw),
	}
	return out
}

// word is left out where it is empty.
func word[T ~string](text string) *T {
	if text == "" {
		return nil
	}
	w := T(text)
	return &w
}

func splitIn(b *api.Split) *sending.Split {
	if b == nil {
		return nil
	}
	return &sending.Split{Units: value(b.Units), Column: value(b.Column), People: value(b.People)}
}

func splitOut(s *sending.Split) *api.Split {
	if s == nil {
		return nil
	}
	out := &api.Split{Units: given1(s.Units), Column: given1(s.Column)}
	if len(s.People) > 0 {
		out.People = &s.People
	}
	return out
}

func timetableIn(b api.TimetableOf) (t timetable.Timetable, err error) {
	t = timetable.Timetable{
		Rule:     b.Rule,
		Zone:     value(b.Zone),
		Calendar: value(b.Calendar),
		OffDay:   string(value(b.OffDay)),
		Missed:   string(value(b.Missed)),
	}
	if at := value(b.At); at != "" {
		var hour, minute int
		if _, err := fmt.Sscanf(at, "%d:%d", &hour, &minute); err != nil || hour < 0 || hour > 23 || minute < 0 ||
			minute > 59 {
			return t, &badRequest{"timetable.at", fmt.Errorf("%q is not a time of day such as 18:00", at)}
		}
		t.At = hour*60 + minute
	}
	day := func(part, text string) (d period.Day) {
		if text == "" || err != nil {
			return 0
		}
		if d, err = period.ParseDay(text); err != nil {
			err = &badRequest{"timetable." + part, err}
		}
		return d
	}
	t.Start, t.Until = day("start", value(b.Start)), day("until", value(b.Until))
	for _, text := range value(b.Except) {
		t.Except = append(t.Except, day("except", text))
	}
	return t, err
}

func timetableOut(t *timetable.Timetable) api.TimetableOf {
	at, start := fmt.Sprintf("%02d:%02d", t.At/60, t.At%60), t.Start.String()
	out := api.TimetableOf{
		Rule:     t.Rule,
		At:       &at,
		Zone:     &t.Zone,
		Start:    &start,
		Calendar: given1(t.Calendar),
		OffDay:   word[api.TimetableOfOffDay](t.OffDay),
		Missed:   word[api.TimetableOfMissed](t.Missed),
	}
	if t.Until > 0 {
		until := t.Until.String()
		out.Until = &until
	}
	if len(t.Except) > 0 {
		var days []string
		for _, d := range t.Except {
			days = append(days, d.String())
		}
		out.Except = &days
	}
	return out
}

func (s *service) ListAddresses(ctx context.Context,
	_ handlers.ListAddressesRequestObject) (handlers.ListAddressesResponseObject, error) {
	all, err := as(ctx).Sending.Addresses(ctx)
	out := handlers.ListAddresses200JSONResponse{}
	for _, e := range all {
		out = append(out, address(e))
	}
	return out, err
}

func address(e model.Address) api.Address {
	return api.Address{
		Nickname: e.Nickname,
		Name:     e.Name,
		Mail:     e.Mail,
		Person:   given1(e.Person),
		Units:    list(e.Units),
		Groups:   list(e.Groups),
		Owner:    e.Owner,
		Revision: e.Revision,
	}
}

func (s *service) PutAddress(ctx context.Context,
	r handlers.PutAddressRequestObject) (handlers.PutAddressResponseObject, error) {
	seen, err := revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	b := r.Body
	e, err := as(ctx).Sending.PutAddress(ctx,
		model.Address{
			Nickname: r.Nickname,
			Name:     b.Name,
			Mail:     b.Mail,
			Person:   value(b.Person),
			Units:    b.Units,
			Groups:   b.Groups,
			Revision: seen,
		})
	return handlers.PutAddress200JSONResponse(address(e)), err
}

func (s *service) DeleteAddress(ctx context.Context,
	r handlers.DeleteAddressRequestObject) (handlers.DeleteAddressResponseObject, error) {
	return handlers.DeleteAddress204Response{}, as(ctx).Sending.DeleteAddress(ctx, r.Nickname)
}

func parcel(p model.Parcel) api.Parcel {
	out := api.Parcel{Id: fmt.Sprintf("P-%06d", p.Number), Way: api.ParcelWay(p.Way), Target: given1(p.Target),
		Title: p.Title, Owner: p.Owner, MadeAt: p.MadeAt, EndedAt: moment(p.EndedAt), NextAt: moment(p.NextAt),
		State: api.ParcelState(p.State), Tries: p.Tries, Reason: given1(p.Reason)}
	if p.Result > 0 {
		id := resultID(p.Result)
		out.Result = &id
	}
	for _, f := range p.Files {
		out.Files = append(out.Files, struct {
			Bytes int    `json:"bytes"`
			Name  string `json:"name"`
		}{f.Bytes, f.Name})
	}
	for _, r := range p.Recipients {
		out.Recipients = append(out.Recipients, struct {
			Address string                    `json:"address"`
			Answer  string                    `json:"answer"`
			Line    api.ParcelRecipientsLine  `json:"line"`
			Name    string                    `json:"name"`
			State   api.ParcelRecipientsState `json:"state"`
		}{r.Address, r.Answer, api.ParcelRecipientsLine(r.Line), r.Name, api.ParcelRecipientsState(r.State)})
	}
	out.Files, out.Recipients = list(out.Files), list(out.Recipients)
	return out
}

func (s *service) ListParcels(ctx context.Context,
	r handlers.ListParcelsRequestObject) (handlers.ListParcelsResponseObject, error) {
	before, err := optionalNumber("parcel", "P-", r.Params.Before)
	if err != nil {
		return nil, err
	}
	all, err := as(ctx).Sending.Parcels(ctx, model.State(value(r.Params.State)), before, limit(r.Params.Limit))
	out := handlers.ListParcels200JSONResponse{}
	for _, p := range all {
		out = append(out, parcel(p))
	}
	return out, err
}

func (s *service) GetParcel(ctx context.Context, r handlers.GetParcelRequestObject) (handlers.GetParcelResponseObject,
	error) {
	n, err := number("parcel", "P-", r.Parcel)
	if err != nil {
		return nil, err
	}
	p, err := as(ctx).Sending.Parcel(ctx, n)
	return handlers.GetParcel200JSONResponse(parcel(p)), err
}

func (s *service) MendParcel(ctx context.Context,
	r handlers.MendParcelRequestObject) (handlers.MendParcelResponseObject, error) {
	n, err := number("parcel", "P-", r.Parcel)
	if err != nil {
		return nil, err
	}
	p, err := as(ctx).Sending.MendParcel(ctx, n, value(r.Body.Instead))
	return handlers.MendParcel200JSONResponse(parcel(p)), err
}

func (s *service) StopParcel(ctx context.Context,
	r handlers.StopParcelRequestObject) (handlers.StopParcelResponseObject, error) {
	n, err := number("parcel", "P-", r.Parcel)
	if err != nil {
		return nil, err
	}
	p, err := as(ctx).Sending.StopParcel(ctx, n)
	return handlers.StopParcel200JSONResponse(parcel(p)), err
}

func (s *service) SendResult(ctx context.Context,
	r handlers.SendResultRequestObject) (handlers.SendResultResponseObject, error) {
	x, err := s.result(ctx, r.Result)
	if err != nil {
		return nil, err
	}
	var takes []reading.Take
	for _, b := range r.Body.Takes {
		q, err := url.ParseQuery(value(b.Changes))
		if err != nil {
			return nil, &badRequest{"changes", err}
		}
		c, err := changesIn(q)
		if err != nil {
			return nil, err
		}
		take := reading.Take{Format: string(b.Format), Name: value(b.Name), Options: takeOptions(b)}
		if v := value(b.View); v != "" {
			take.Views = append(take.Views, reading.Viewed{View: v, Changes: c})
			for _, id := range value(b.Also) {
				take.Views = append(take.Views, reading.Viewed{View: id})
			}
		}
		takes = append(takes, take)
	}
	b := r.Body
	p, err := as(ctx).Sending.SendNow(ctx, x, takes,
		sending.Send{
			To:      b.To,
			Copy:    value(b.Copy),
			Blind:   value(b.Blind),
			Subject: value(b.Subject),
			Text:    value(b.Text),
			InBody:  value(b.InBody),
		})
	return handlers.SendResult201JSONResponse(parcel(p)), err
}

func letter(l sending.Letter) api.Letter {
	return api.Letter{Id: l.ID, Recipient: l.Recipient, From: l.From, Subject: l.Subject, At: l.At, Bytes: l.Bytes}
}

func (s *service) ListLetters(ctx context.Context,
	_ handlers.ListLettersRequestObject) (handlers.ListLettersResponseObject, error) {
	all, err := as(ctx).Sending.Letters(ctx)
	out := handlers.ListLetters200JSONResponse{}
	for _, l := range all {
		out = append(out, letter(l))
	}
	return out, err
}

func (s *service) GetLetter(ctx context.Context, r handlers.GetLetterRequestObject) (handlers.GetLetterResponseObject,
	error) {
	l, err := as(ctx).Sending.Letter(ctx, r.Letter)
	if err != nil {
		return nil, err
	}
	out := handlers.GetLetter200JSONResponse{
		Id:        l.ID,
		Recipient: l.Recipient,
		From:      l.From,
		Subject:   l.Subject,
		At:        l.At,
		Bytes:     l.Bytes,
	}
	for _, name := range []string{"From", "To", "Cc", "Date", "Subject", "Message-Id"} {
		if text := l.Headers.Get(name); text != "" {
			out.Headers = append(out.Headers, struct {
				Name string `json:"name"`
				Text string `json:"text"`
			}{name, text})
		}
	}
	for i, p := range l.Parts {
		if p.Type == "text/plain" && p.Name == "" && out.Text == "" {
			out.Text = string(p.Data)
			continue
		}
		out.Parts = append(out.Parts, struct {
			Bytes  int    `json:"bytes"`
			Name   string `json:"name"`
			Number int    `json:"number"`
			Type   string `json:"type"`
		}{len(p.Data), p.Name, i, p.Type})
	}
	out.Headers, out.Parts = list(out.Headers), list(out.Parts)
	return out, nil
}

func (s *service) GetLetterPart(ctx context.Context,
	r handlers.GetLetterPartRequestObject) (handlers.GetLetterPartResponseObject, error) {
	l, err := as(ctx).Sending.Letter(ctx, r.Letter)
	if err != nil {
		return nil, err
	}
	if r.Part < 0 || r.Part >= len(l.Parts) {
		return nil, &model.Missing{What: "part", Name: fmt.Sprint(r.Part)}
	}
	p := l.Parts[r.Part]
	name := p.Name
	if name == "" {
		name = "message.html"
	}
	return handlers.GetLetterPart200AsteriskResponse{
		ContentType:   p.Type,
		ContentLength: int64(len(p.Data)),
		Headers:       handlers.GetLetterPart200ResponseHeaders{ContentDisposition: attachment(name)},
		Body:          bytes.NewReader(p.Data),
	}, nil
}
