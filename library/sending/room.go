// Package sending is what goes out: it composes what run controls and people
// send, keeps the queue of parcels and carries it out, and keeps the address book.
package sending

import (
	"context"
	"log/slog"
	"slices"

	"mantilla/deliver"
	"mantilla/deliver/mailbox"
	"mantilla/library/access"
	"mantilla/library/background"
	"mantilla/library/catalog"
	"mantilla/library/reading"
	"mantilla/model"
)

// Settings say by which ways things are sent, and how far.
type Settings struct {
	Mail          deliver.Server
	MailLimit     int      // bytes of files in a message; larger ones become a link
	MailDomains   []string // that mail goes to; none for any
	HouseDomains  []string // that are the house's own: mail to others goes beyond it
	Folder        string   // below which files are put
	Calls         deliver.Caller
	WebhookSecret string       // that calls are signed with
	Mailbox       *mailbox.Box // the stand-in mail server, where there is one
}

// Room sends. It is safe for several goroutines.
type Room struct {
	org      model.Organisation
	settings Settings
	records  Records
	people   *access.Room
	catalog  *catalog.Room
	reading  *reading.Room
	ended    <-chan struct{} // tells of runs that have ended
	log      *slog.Logger
	work     *background.Work

	toDispatch background.Bell   // wakes the composing of what runs gave
	toPost     []background.Bell // wake those who carry parcels, one each
}

// Access is sending as one person may do it.
type Access struct {
	*access.Access
	room    *Room
	catalog *catalog.Access
	reading *reading.Access
}

// Open makes the room; ended tells of runs that have ended.
func Open(org model.Organisation, settings Settings, records Records, people *access.Room, c *catalog.Room,
	read *reading.Room,
	ended <-chan struct{}, work *background.Work, log *slog.Logger) *Room {
	people.Keeps(model.KindAddress, func(ctx context.Context, id string) (bool, error) {
		book, err := records.Addresses(ctx)
		return slices.ContainsFunc(book, func(e model.Address) bool { return e.Nickname == id }), err
	})
	return &Room{org: org, settings: settings, records: records, people: people, catalog: c, reading: read, ended: ended,
		work: work, log: log,
		toDispatch: background.NewBell()}
}

// As returns sending as a person may do it.
func (room *Room) As(who *access.Access) *Access {
	return &Access{Access: who, room: room, catalog: room.catalog.As(who), reading: room.reading.As(who)}
}

// Begin sends what is to be sent, now and from now on.
func (room *Room) Begin() {
	room.work.Go(room.dispatch)
	for _, way := range ways {
		wake := background.NewBell()
		room.toPost = append(room.toPost, wake)
		room.work.Go(func() { room.post(way, wake) })
	}
}

// Wake tells that something may be ready to be sent.
func (room *Room) Wake() { room.toDispatch.Ring() }
