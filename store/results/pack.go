package results

import (
	"bytes"
	"errors"
	"fmt"
	"math/bits"

	"mantilla/model"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/ipc"
	"github.com/klauspost/compress/zstd"
)

// A column of a batch is kept as one Arrow IPC stream of one record, compressed as a
// whole by zstd, or as what it has that the same column of an earlier result has not.
// Compressing buffer by buffer inside the stream cost as much time as reading the rows, because its
// level cannot be chosen.
var (
	encoder = must(zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest), zstd.WithEncoderConcurrency(1)))
	decoder = must(zstd.NewReader(nil, zstd.WithDecoderConcurrency(0)))
)

func must[T any](made T, err error) T {
	if err != nil {
		panic(err) // the options are constants
	}
	return made
}

// streamOf encodes a record, of one column mostly, as an Arrow IPC stream.
func streamOf(record arrow.RecordBatch) ([]byte, error) {
	var stream bytes.Buffer
	w := ipc.NewWriter(&stream, ipc.WithSchema(record.Schema()))
	if err := errors.Join(w.Write(record), w.Close()); err != nil {
		return nil, fmt.Errorf("encoding a batch: %w", err)
	}
	return stream.Bytes(), nil
}

// squeeze compresses a stream.
func squeeze(stream []byte) []byte { return encoder.EncodeAll(stream, make([]byte, 0, len(stream)/2)) }

// unsqueeze brings a stream back.
func unsqueeze(blob []byte) ([]byte, error) {
	stream, err := decoder.DecodeAll(blob, nil)
	if err != nil {
		return nil, fmt.Errorf("decompressing, %w: %w", model.ErrBroken, err)
	}
	return stream, nil
}

// baseID names a base within what is compressed over it.
const baseID = 1

// mostBase is how long a stream may be that another is compressed over.
const mostBase = 32 << 20

// squeezeOver compresses what a stream has that another has not: zstd with that as its dictionary
// (RFC 8878, 5); nothing where they are the same.
func squeezeOver(stream, base []byte) ([]byte, error) {
	if bytes.Equal(stream, base) {
		return []byte{}, nil
	}
	window := 1 << bits.Len(uint(max(len(stream)+len(base), zstd.MinWindowSize)))
	e, err := zstd.NewWriter(nil, zstd.WithEncoderDictRaw(baseID, base), zstd.WithWindowSize(window),
		zstd.WithEncoderConcurrency(1))
	if err != nil {
		return nil, err
	}
	return e.EncodeAll(stream, nil), e.Close()
}

// unsqueezeOver brings a stream back that was compressed over another.
func unsqueezeOver(blob, base []byte) ([]byte, error) {
	if len(blob) == 0 {
		return base, nil
	}
	d, err := zstd.NewReader(nil, zstd.WithDecoderDictRaw(baseID, base), zstd.WithDecoderConcurrency(1))
	if err != nil {
		return nil, err
	}
	defer d.Close()
	stream, err := d.DecodeAll(blob, nil)
	if err != nil {
		return nil, fmt.Errorf("decompressing, %w: %w", model.ErrBroken, err)
	}
	return stream, nil
}

// recordOf decodes a record that [streamOf] encoded.
func recordOf(stream []byte) (arrow.RecordBatch, error) {
	r, err := ipc.NewReader(bytes.NewReader(stream))
	if err != nil {
		return nil, fmt.Errorf("decoding: %w", err)
	}
	defer r.Release()
	if !r.Next() {
		return nil, fmt.Errorf("decoding: there are no rows: %w", r.Err())
	}
	record := r.RecordBatch()
	record.Retain()
	return record, nil
}

// unpack decodes a record that was kept by itself.
func unpack(blob []byte) (arrow.RecordBatch, error) {
	stream, err := unsqueeze(blob)
	if err != nil {
		return nil, err
	}
	return recordOf(stream)
}
