package sending

import (
	"context"
	"net/mail"
	"slices"
	"strings"

	"mantilla/deliver/mailbox"
	"mantilla/library/access"
	"mantilla/model"
)

// Letter is a letter in the stand-in mail server.
type Letter = mailbox.Letter

// OpenLetter is a letter with its parts.
type OpenLetter struct {
	Letter
	Headers mail.Header
	Parts   []mailbox.Part
}

// Letters lists what the stand-in mail server got: for administrators all, for
// others what was written to them.
func (a *Access) Letters(ctx context.Context) ([]Letter, error) {
	if a.room.settings.Mailbox == nil {
		return nil, model.NoSuch("mailbox", "stand-in", nil)
	}
	all := a.room.settings.Mailbox.Letters()
	if a.Has(access.KeepPeople) {
		return all, nil
	}
	book, err := a.room.records.Addresses(ctx)
	if err != nil {
		return nil, err
	}
	mine := map[string]bool{}
	for _, e := range book {
		mine[strings.ToLower(e.Mail)] = e.Person == a.Person().Name
	}
	return slices.DeleteFunc(all, func(l Letter) bool { return !mine[strings.ToLower(l.Recipient)] }), nil
}

// Letter opens one letter.
func (a *Access) Letter(ctx context.Context, id string) (OpenLetter, error) {
	all, err := a.Letters(ctx)
	if err != nil {
		return OpenLetter{}, err
	}
	at := slices.IndexFunc(all, func(l Letter) bool { return l.ID == id })
	if at < 0 {
		return OpenLetter{}, model.NoSuch("letter", id, nil)
	}
	l, text, err := a.room.settings.Mailbox.Message(id)
	if err != nil {
		return OpenLetter{}, err
	}
	headers, parts, err := mailbox.Parts(text)
	return OpenLetter{l, headers, parts}, err
}
