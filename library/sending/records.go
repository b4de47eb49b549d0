package sending

import (
	"context"
	"time"

	"mantilla/model"
)

// Records are what the room keeps: parcels and the address book.
type Records interface {
	AddParcels(ctx context.Context, parcels []model.Parcel) error
	AddressHistory(ctx context.Context, nickname string) ([]model.AddressChange, error)
	Addresses(ctx context.Context) ([]model.Address, error)
	BeginSending(ctx context.Context, controlRun int64) error
	DeleteAddress(ctx context.Context, nickname, by string, now time.Time) error
	HoldParcels(ctx context.Context, parcels []model.Parcel) error
	MendParcel(ctx context.Context, number int64, instead map[string]string, now time.Time) error
	NextParcel(ctx context.Context, way string, now time.Time, wait func(tries int) time.Duration) (model.Parcel, error)
	NextSending(ctx context.Context, way string) (time.Time, error)
	Parcel(ctx context.Context, number int64) (model.Parcel, error)
	Parcels(ctx context.Context, owner string, state model.State, before int64, limit int) ([]model.Parcel, error)
	RenameAddress(ctx context.Context, from, to string) error
	PutAddress(ctx context.Context, a model.Address, by string, now time.Time) error
	SettleParcel(ctx context.Context, p model.Parcel, now time.Time) error
	SettleSending(ctx context.Context, controlRun int64, state, note string) error
	StopParcel(ctx context.Context, number int64, now time.Time) error
	ToSend(ctx context.Context, limit int, without []int64) ([]model.ControlRun, error)
}
