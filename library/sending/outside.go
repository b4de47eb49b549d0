package sending

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"mantilla/library/access"
)

// mayGoOut says why somebody may not have this sent: rows leave by it, and mail to others than those of
// the house, and calls of web addresses, go beyond it.
func (room *Room) mayGoOut(who *access.Access, s Send, lines []line) error {
	if err := who.May(access.TakeAway); err != nil {
		return err
	}
	if who.Has(access.SendOutside) {
		return nil
	}
	if s.Webhook != "" {
		return fmt.Errorf("calling %s: %w", s.Webhook, who.May(access.SendOutside))
	}
	for _, l := range lines {
		if !room.ofTheHouse(l.Mail) {
			return fmt.Errorf("mail to %s: %w", l.Mail, who.May(access.SendOutside))
		}
	}
	return nil
}

// ofTheHouse tells whether an address is one of the house's own; none is where its domains were not told.
func (room *Room) ofTheHouse(mail string) bool {
	_, domain, _ := strings.Cut(mail, "@")
	return slices.ContainsFunc(room.settings.HouseDomains, func(d string) bool { return strings.EqualFold(d, domain) })
}

// sends is the service as it sends for who asked for the run of a control: by their rights at the moment
// it is sent, with what they see of personal columns.
func (room *Room) sends(ctx context.Context, owner string, of plan) (*Access, error) {
	service := room.people.AsService()
	if owner == access.ServiceName {
		return room.As(service), nil
	}
	who, err := room.people.AsPerson(ctx, owner)
	if err != nil {
		return nil, err
	}
	p := who.Person()
	if err := room.mayGoOut(who, of.Send, of.Lines); err != nil {
		return nil, fmt.Errorf("%s may not have this sent: %w", p.Title, err)
	}
	return room.As(service.WithEyesOf(p)), nil
}
