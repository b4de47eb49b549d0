// Package backup answers calls about back-ups of the records.
package backup

import (
	"context"
	"fmt"
	"io"

	"mantilla/api"
	"mantilla/api/handlers"
	"mantilla/core/rescue"
	"mantilla/library/backup"
	"mantilla/server/answer"
)

// Backup answers calls about back-ups of the records.
type Backup struct{ *answer.Service }

func file(f backup.File) api.Backup {
	return api.Backup{Name: f.Name, At: f.At, Bytes: f.Bytes, After: answer.Given(f.After)}
}

// ListBackups answers GET /backups.
func (s Backup) ListBackups(ctx context.Context,
	_ handlers.ListBackupsRequestObject) (handlers.ListBackupsResponseObject, error) {
	state, err := answer.As(ctx).Backup.State()
	if err != nil {
		return nil, err
	}
	out := api.Backups{Dir: state.Dir, EverySeconds: int64(state.Every.Seconds()), Keep: state.Keep, Whole: state.Whole,
		Files: []api.Backup{},
		Fault: answer.Given(state.Fault), FaultAt: answer.Moment(state.FaultAt)}
	for _, f := range state.Files {
		out.Files = append(out.Files, file(f))
	}
	return handlers.ListBackups200JSONResponse(out), nil
}

// MakeBackup answers POST /backups.
func (s Backup) MakeBackup(ctx context.Context,
	_ handlers.MakeBackupRequestObject) (handlers.MakeBackupResponseObject, error) {
	f, err := answer.As(ctx).Backup.Make(ctx)
	return handlers.MakeBackup201JSONResponse(file(f)), err
}

// TakeBackup answers GET /backup.
func (s Backup) TakeBackup(ctx context.Context,
	_ handlers.TakeBackupRequestObject) (handlers.TakeBackupResponseObject, error) {
	of := answer.As(ctx).Backup
	if _, err := of.State(); err != nil {
		return nil, err
	}
	out, in := io.Pipe()
	go func() { in.CloseWithError(rescue.Call(func() error { return of.Write(ctx, in) })) }()
	name := fmt.Sprintf(`attachment; filename="%s"`, of.Name())
	return handlers.TakeBackup200ApplicationzipResponse{Body: out,
		Headers: handlers.TakeBackup200ResponseHeaders{ContentDisposition: &name}}, nil
}
