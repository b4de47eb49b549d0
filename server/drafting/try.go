package drafting

import (
	"context"
	"io"
	"strings"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library/capture"
	"mantilla/server/answer"
)

// TryDefinition answers POST /definitions/try.
func (s Drafting) TryDefinition(ctx context.Context,
	r handlers.TryDefinitionRequestObject) (handlers.TryDefinitionResponseObject, error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "definition", Err: err}
	}
	t, err := answer.As(ctx).Drafting.Try(ctx, text)
	out := handlers.TryDefinition200JSONResponse{}
	for _, one := range t.Cases {
		out = append(out, tried(one))
	}
	return out, err
}

// FormatDefinition answers POST /definitions/format.
func (s Drafting) FormatDefinition(ctx context.Context,
	r handlers.FormatDefinitionRequestObject) (handlers.FormatDefinitionResponseObject, error) {
	text, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "definition", Err: err}
	}
	even, err := answer.As(ctx).Drafting.Format(text)
	return handlers.FormatDefinition200ApplicationyamlResponse{Body: strings.NewReader(even),
		ContentLength: int64(len(even))}, err
}

func tried(t capture.Tried) api.Tried {
	out := api.Tried{Name: t.Name, Sentence: t.Sentence, Rows: t.Rows, Held: t.Held(), Failed: answer.Given(t.Failed),
		Figures: []api.TriedFigure{}, Checks: answer.Checks(t.Checks)}
	for _, f := range t.Figures {
		out.Figures = append(out.Figures, api.TriedFigure{Dataset: f.Of, Is: f.Is, Expected: f.Expected, Got: f.Got,
			Same: f.Same, Why: answer.Given(f.Why)})
	}
	return out
}
