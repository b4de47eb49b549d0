// Package files answers calls about the files that people bring for tables of sources.
package files

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"io"
	"maps"
	"slices"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/library/files"
	"mantilla/model"
	"mantilla/server/answer"
	read "mantilla/source/files"
)

// Files answers calls about the files that people bring.
type Files struct{ *answer.Service }

func faults(of []read.Fault) []api.FileFault {
	out := []api.FileFault{}
	for _, f := range of {
		out = append(out, api.FileFault{Place: f.Place, Column: f.Column, Says: f.Says})
	}
	return out
}

func version(v model.FileVersion) (api.FileVersion, error) {
	var told []read.Fault
	err := json.Unmarshal(v.Faults, &told)
	return api.FileVersion{Number: v.Number, Name: v.Name, Bytes: v.Bytes, Rows: v.Rows, LeftOut: v.LeftOut,
		Faults: faults(told), Person: v.Person, At: v.At, InUse: v.InUse}, err
}

// ListFiles answers GET /sources/{source}/files.
func (s Files) ListFiles(ctx context.Context, r handlers.ListFilesRequestObject) (handlers.ListFilesResponseObject,
	error) {
	c, versions, err := answer.As(ctx).Files.Versions(ctx, r.Source)
	if err != nil {
		return nil, err
	}
	out := handlers.ListFiles200JSONResponse{}
	for _, id := range slices.Sorted(maps.Keys(c.Tables)) {
		declared := c.Tables[id]
		t := api.FileTable{Table: id, Title: declared.Title, Skips: declared.Faults == "skip", Columns: []string{},
			Versions: []api.FileVersion{}}
		for _, column := range declared.Columns {
			t.Columns = append(t.Columns, column.Head())
		}
		if declared.From != nil {
			looked, err := answer.As(ctx).Files.Looked(ctx, r.Source, id)
			if err != nil {
				return nil, err
			}
			t.From = answer.Given(declared.From.String())
			if !looked.At.IsZero() {
				t.Looked = look(looked)
			}
		}
		for _, v := range versions {
			if v.Table != id {
				continue
			}
			told, err := version(v)
			if err != nil {
				return nil, err
			}
			t.Versions = append(t.Versions, told)
		}
		out = append(out, t)
	}
	return out, nil
}

func look(l model.FileLook) *api.FileLook {
	return &api.FileLook{At: l.At, Fault: answer.Given(l.Fault)}
}

// LookForFile answers POST /sources/{source}/files/{table}/look.
func (s Files) LookForFile(ctx context.Context,
	r handlers.LookForFileRequestObject) (handlers.LookForFileResponseObject, error) {
	l, err := answer.As(ctx).Files.LookNow(ctx, r.Source, r.Table)
	return handlers.LookForFile200JSONResponse(*look(l)), err
}

// TakeFile answers POST /sources/{source}/files/{table}.
func (s Files) TakeFile(ctx context.Context, r handlers.TakeFileRequestObject) (handlers.TakeFileResponseObject,
	error) {
	data, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "file", Err: err}
	}
	v, err := answer.As(ctx).Files.Take(ctx, r.Source, r.Table, r.Params.Name, data)
	var refused *files.Refused
	if errors.As(err, &refused) {
		return handlers.TakeFile200JSONResponse{Refused: true, Rows: int64(refused.Told.Rows),
			LeftOut: int64(refused.Told.Left), Faults: faults(refused.Told.Faults), More: refused.Told.More}, nil
	}
	if err != nil {
		return nil, err
	}
	told, err := version(v)
	return handlers.TakeFile200JSONResponse{Number: &v.Number, Rows: v.Rows, LeftOut: v.LeftOut, Faults: told.Faults,
		More: int(max(0, v.LeftOut-int64(len(told.Faults))))}, err
}

// FetchFile answers GET /sources/{source}/files/{table}/{number}.
func (s Files) FetchFile(ctx context.Context, r handlers.FetchFileRequestObject) (handlers.FetchFileResponseObject,
	error) {
	v, data, err := answer.As(ctx).Files.Data(ctx, r.Source, r.Table, r.Number)
	if err != nil {
		return nil, err
	}
	return handlers.FetchFile200ApplicationoctetStreamResponse{Body: bytes.NewReader(data), ContentLength: v.Bytes,
		Headers: handlers.FetchFile200ResponseHeaders{ContentDisposition: answer.Attachment(v.Name)}}, nil
}

// UseFile answers PUT /sources/{source}/files/{table}/{number}.
func (s Files) UseFile(ctx context.Context, r handlers.UseFileRequestObject) (handlers.UseFileResponseObject, error) {
	return handlers.UseFile204Response{}, answer.As(ctx).Files.Restore(ctx, r.Source, r.Table, r.Number)
}

// LookAtFile answers POST /files/look.
func (s Files) LookAtFile(ctx context.Context, r handlers.LookAtFileRequestObject) (handlers.LookAtFileResponseObject,
	error) {
	data, err := io.ReadAll(r.Body)
	if err != nil {
		return nil, &answer.BadRequest{Field: "file", Err: err}
	}
	looked, err := answer.As(ctx).Files.Look(r.Params.Name, data)
	if err != nil {
		return nil, err
	}
	return handlers.LookAtFile200JSONResponse{Text: looked.Text, Columns: answer.List(looked.Columns),
		Rows: looked.Rows, Sheets: answer.List(looked.Sheets)}, nil
}
