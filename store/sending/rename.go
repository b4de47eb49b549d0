package sending

import (
	"context"

	"mantilla/model"
	"mantilla/store/naming"
)

// RenameAddress gives an entry of the address book another nickname, in run controls too.
func (s Sending) RenameAddress(ctx context.Context, from, to string) error {
	return naming.Rename(ctx, s.DB, model.KindAddress, from, to)
}
