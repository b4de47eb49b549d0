// Package sending answers calls about parcels, the address book and the stand-in mailbox.
package sending

import (
	results "mantilla/server/reading"

	"mantilla/server/answer"

	"bytes"
	"context"
	"fmt"
	"net/url"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library/reading"
	"mantilla/library/sending"
	"mantilla/model"
)

// Sending answers calls about parcels, the address book and the stand-in mailbox.
type Sending struct{ *answer.Service }

// ListAddresses answers GET /addresses: the address book.
func (s Sending) ListAddresses(ctx context.Context,
	_ handlers.ListAddressesRequestObject) (handlers.ListAddressesResponseObject, error) {
	all, err := answer.As(ctx).Sending.Addresses(ctx)
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
		Person:   answer.Given(e.Person),
		Units:    answer.List(e.Units),
		Groups:   answer.List(e.Groups),
		Owner:    e.Owner,
		Revision: e.Revision,
	}
}

// PutAddress answers PUT /addresses/{nickname}: keep an entry of the address book.
func (s Sending) PutAddress(ctx context.Context,
	r handlers.PutAddressRequestObject) (handlers.PutAddressResponseObject, error) {
	seen, err := answer.Revision(r.Params.IfMatch)
	if err != nil {
		return nil, err
	}
	b := r.Body
	e, err := answer.As(ctx).Sending.PutAddress(ctx,
		model.Address{
			Nickname: r.Nickname,
			Name:     b.Name,
			Mail:     b.Mail,
			Person:   answer.Value(b.Person),
			Units:    b.Units,
			Groups:   b.Groups,
			Revision: seen,
		})
	return handlers.PutAddress200JSONResponse(address(e)), err
}

// DeleteAddress answers DELETE /addresses/{nickname}: delete an entry of the address book.
func (s Sending) DeleteAddress(ctx context.Context,
	r handlers.DeleteAddressRequestObject) (handlers.DeleteAddressResponseObject, error) {
	return handlers.DeleteAddress204Response{}, answer.As(ctx).Sending.DeleteAddress(ctx, r.Nickname)
}

func parcel(p model.Parcel) api.Parcel {
	out := api.Parcel{Id: fmt.Sprintf("P-%06d", p.Number), Way: api.ParcelWay(p.Way), Target: answer.Given(p.Target),
		Title: p.Title, Owner: p.Owner, MadeAt: p.MadeAt, EndedAt: answer.Moment(p.EndedAt), NextAt: answer.Moment(p.NextAt),
		State: api.ParcelState(p.State), Tries: p.Tries, Reason: answer.Given(p.Reason)}
	if p.Result > 0 {
		id := answer.ResultID(p.Result)
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
	out.Files, out.Recipients = answer.List(out.Files), answer.List(out.Recipients)
	return out
}

// ListParcels answers GET /parcels: what is on its way to people and programs, and what went; the newest first.
func (s Sending) ListParcels(ctx context.Context,
	r handlers.ListParcelsRequestObject) (handlers.ListParcelsResponseObject, error) {
	before, err := answer.OptionalNumber("parcel", "P-", r.Params.Before)
	if err != nil {
		return nil, err
	}
	all, err := answer.As(ctx).Sending.Parcels(ctx, model.State(answer.Value(r.Params.State)), before,
		answer.Limit(r.Params.Limit))
	out := handlers.ListParcels200JSONResponse{}
	for _, p := range all {
		out = append(out, parcel(p))
	}
	return out, err
}

// GetParcel answers GET /parcels/{parcel}: one parcel.
func (s Sending) GetParcel(ctx context.Context, r handlers.GetParcelRequestObject) (handlers.GetParcelResponseObject,
	error) {
	n, err := answer.Number("parcel", "P-", r.Parcel)
	if err != nil {
		return nil, err
	}
	p, err := answer.As(ctx).Sending.Parcel(ctx, n)
	return handlers.GetParcel200JSONResponse(parcel(p)), err
}

// MendParcel answers POST /parcels/{parcel}/again.
func (s Sending) MendParcel(ctx context.Context,
	r handlers.MendParcelRequestObject) (handlers.MendParcelResponseObject, error) {
	n, err := answer.Number("parcel", "P-", r.Parcel)
	if err != nil {
		return nil, err
	}
	p, err := answer.As(ctx).Sending.MendParcel(ctx, n, answer.Value(r.Body.Instead))
	return handlers.MendParcel200JSONResponse(parcel(p)), err
}

// StopParcel answers POST /parcels/{parcel}/stop: take a parcel that waits or failed out of the queue.
func (s Sending) StopParcel(ctx context.Context,
	r handlers.StopParcelRequestObject) (handlers.StopParcelResponseObject, error) {
	n, err := answer.Number("parcel", "P-", r.Parcel)
	if err != nil {
		return nil, err
	}
	p, err := answer.As(ctx).Sending.StopParcel(ctx, n)
	return handlers.StopParcel200JSONResponse(parcel(p)), err
}

// SendResult answers POST /results/{result}/send: send files of a result by mail.
func (s Sending) SendResult(ctx context.Context,
	r handlers.SendResultRequestObject) (handlers.SendResultResponseObject, error) {
	x, err := results.ResultOf(ctx, r.Result)
	if err != nil {
		return nil, err
	}
	var takes []reading.Take
	for _, b := range r.Body.Takes {
		q, err := url.ParseQuery(answer.Value(b.Changes))
		if err != nil {
			return nil, &answer.BadRequest{Field: "changes", Err: err}
		}
		c, err := results.ChangesIn(q)
		if err != nil {
			return nil, err
		}
		take := reading.Take{Format: string(b.Format), Name: answer.Value(b.Name), Options: results.TakeOptions(b)}
		if v := answer.Value(b.View); v != "" {
			take.Views = append(take.Views, reading.Viewed{View: v, Changes: c})
			for _, id := range answer.Value(b.Also) {
				take.Views = append(take.Views, reading.Viewed{View: id})
			}
		}
		takes = append(takes, take)
	}
	b := r.Body
	p, err := answer.As(ctx).Sending.SendNow(ctx, x, takes,
		sending.Send{
			To:      b.To,
			Copy:    answer.Value(b.Copy),
			Blind:   answer.Value(b.Blind),
			Subject: answer.Value(b.Subject),
			Text:    answer.Value(b.Text),
			InBody:  answer.Value(b.InBody),
		})
	return handlers.SendResult201JSONResponse(parcel(p)), err
}

func letter(l sending.Letter) api.Letter {
	return api.Letter{Id: l.ID, Recipient: l.Recipient, From: l.From, Subject: l.Subject, At: l.At, Bytes: l.Bytes}
}

// ListLetters answers GET /mailbox.
func (s Sending) ListLetters(ctx context.Context,
	_ handlers.ListLettersRequestObject) (handlers.ListLettersResponseObject, error) {
	all, err := answer.As(ctx).Sending.Letters(ctx)
	out := handlers.ListLetters200JSONResponse{}
	for _, l := range all {
		out = append(out, letter(l))
	}
	return out, err
}

// GetLetter answers GET /mailbox/{letter}: one letter with its parts.
func (s Sending) GetLetter(ctx context.Context, r handlers.GetLetterRequestObject) (handlers.GetLetterResponseObject,
	error) {
	l, err := answer.As(ctx).Sending.Letter(ctx, r.Letter)
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
	out.Headers, out.Parts = answer.List(out.Headers), answer.List(out.Parts)
	return out, nil
}

// GetLetterPart answers GET /mailbox/{letter}/parts/{part}: A file of a letter.
func (s Sending) GetLetterPart(ctx context.Context,
	r handlers.GetLetterPartRequestObject) (handlers.GetLetterPartResponseObject, error) {
	l, err := answer.As(ctx).Sending.Letter(ctx, r.Letter)
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
		Headers:       handlers.GetLetterPart200ResponseHeaders{ContentDisposition: answer.Attachment(name)},
		Body:          bytes.NewReader(p.Data),
	}, nil
}

// ListAddressChanges answers GET /addresses/{nickname}/history.
func (s Sending) ListAddressChanges(ctx context.Context,
	r handlers.ListAddressChangesRequestObject) (handlers.ListAddressChangesResponseObject, error) {
	all, err := answer.As(ctx).Sending.AddressHistory(ctx, r.Nickname)
	out := handlers.ListAddressChanges200JSONResponse{}
	for _, c := range all {
		e := api.AddressEvent{At: c.At, By: c.By, What: api.AddressEventWhat(c.What)}
		if c.What == "put" {
			entry := address(c.Entry)
			e.Entry = &entry
		}
		out = append(out, e)
	}
	return out, err
}
