package people

import (
	"context"

	"mantilla/store/naming"
)

// Rename gives an account or a group another name wherever the records name it.
func (s People) Rename(ctx context.Context, kind, from, to string) error {
	return naming.Rename(ctx, s.DB, kind, from, to)
}
