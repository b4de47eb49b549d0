package acting

import (
	"context"
	"log/slog"
)

// Log is a log whose lines name the request that they belong to, as its answer and the audit do.
func Log(of slog.Handler) slog.Handler { return logged{of} }

type logged struct{ slog.Handler }

// Handle adds the request of the act that goes on.
func (l logged) Handle(ctx context.Context, r slog.Record) error {
	if id := Of(ctx).Request; id != "" {
		r.AddAttrs(slog.String("request", id))
	}
	return l.Handler.Handle(ctx, r)
}

// WithAttrs keeps the name of the request in what comes of it.
func (l logged) WithAttrs(attrs []slog.Attr) slog.Handler { return logged{l.Handler.WithAttrs(attrs)} }

// WithGroup keeps it too.
func (l logged) WithGroup(name string) slog.Handler { return logged{l.Handler.WithGroup(name)} }
