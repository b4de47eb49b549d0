package sending

import (
	"context"
	"slices"
	"strings"

	"mantilla/deliver"
	"mantilla/model"
)

// longestSubject is how many characters of a notice stand in the subject of its mail.
const longestSubject = 90

// Notify mails a notice to the address that belongs to its account; where the address book
// has none, or it may not be written to, nothing is sent.
func (room *Room) Notify(ctx context.Context, n model.Notice) error {
	book, err := room.records.Addresses(ctx)
	if err != nil {
		return err
	}
	at := slices.IndexFunc(book, func(a model.Address) bool { return a.Person == n.Person })
	if at < 0 || room.mailable(book[at].Mail) != nil {
		return nil
	}
	text := n.Says + "\n"
	if room.org.Address != "" {
		text += "\n" + room.org.Address + n.Place + "\n"
	}
	id := model.NewSecret()[:16]
	m := deliver.Message{ID: "notice-" + id + "@" + room.host(), From: room.settings.Mail.From, Subject: subject(n.Says),
		Text: text, Date: n.At}
	p := model.Parcel{Key: "notice/" + id, Way: "mail", Title: m.Subject, Owner: n.Person, MadeAt: n.At}
	if p, err = letter(p, m, []line{{Address: book[at], Line: "to"}}); err != nil {
		return err
	}
	if err := room.records.AddParcels(ctx, []model.Parcel{p}); err != nil {
		return err
	}
	room.wakeMail()
	return nil
}

// subject is the first words of a notice.
func subject(says string) string {
	runes := []rune(strings.Join(strings.Fields(says), " "))
	if len(runes) <= longestSubject {
		return string(runes)
	}
	return strings.TrimSpace(string(runes[:longestSubject-1])) + "…"
}
