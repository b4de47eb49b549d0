package sending

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"mantilla/library/access"
	"mantilla/model"
)

// RenameAddress gives an entry of the address book another nickname. Run controls that send to
// it go on sending to it.
func (a *Access) RenameAddress(ctx context.Context, nick, to string) error {
	if err := a.May(access.Run); err != nil {
		return err
	}
	e, err := a.address(ctx, nick)
	if err != nil {
		return err
	}
	if err := a.MayChange("the address "+nick, e.Owner); err != nil {
		return err
	}
	if !nickname.MatchString(to) {
		return badNickname("to", to)
	}
	book, err := a.room.records.Addresses(ctx)
	if err != nil {
		return err
	}
	for _, known := range book {
		if strings.EqualFold(known.Nickname, to) || slices.Contains(known.Groups, to) {
			return model.Refuse("to", "%q is in the address book already", to)
		}
	}
	if err := a.room.records.RenameAddress(ctx, e.Nickname, to); err != nil {
		return fmt.Errorf("renaming the address %s: %w", nick, err)
	}
	a.room.log.InfoContext(ctx, "address renamed", "from", nick, "to", to, "by", a.Person().Name)
	return a.room.people.ReadRetired(ctx)
}
