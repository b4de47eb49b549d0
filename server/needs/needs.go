// Package needs answers calls about what needs a person, and what they follow.
package needs

import (
	"context"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/server/answer"
)

// Needs answers calls about what needs a person.
type Needs struct{ *answer.Service }

// ListNeeds answers GET /needs.
func (s Needs) ListNeeds(ctx context.Context, _ handlers.ListNeedsRequestObject) (handlers.ListNeedsResponseObject,
	error) {
	all, err := answer.As(ctx).Needs.Needs(ctx)
	out := handlers.ListNeeds200JSONResponse{}
	for _, n := range all {
		out = append(out, api.Need{Kind: api.NeedKind(n.Kind), Of: n.Of, At: n.At, Says: n.Says, Do: n.Do, Place: n.Place,
			Notice: answer.Given(n.Notice)})
	}
	return out, err
}

// FollowsControl answers GET /controls/{control}/follow.
func (s Needs) FollowsControl(ctx context.Context,
	r handlers.FollowsControlRequestObject) (handlers.FollowsControlResponseObject, error) {
	a := answer.As(ctx)
	if _, err := a.Controls.Control(ctx, r.Control); err != nil {
		return nil, err
	}
	follows, err := a.Needs.Follows(ctx, r.Control)
	return handlers.FollowsControl200JSONResponse{Follows: follows}, err
}

// FollowControl answers PUT /controls/{control}/follow.
func (s Needs) FollowControl(ctx context.Context,
	r handlers.FollowControlRequestObject) (handlers.FollowControlResponseObject, error) {
	err := answer.As(ctx).Needs.Follow(ctx, r.Control, r.Body.Follows)
	return handlers.FollowControl200JSONResponse{Follows: r.Body.Follows}, err
}
