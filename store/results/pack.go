package results

import (
	"bytes"
	"errors"
	"fmt"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/ipc"
	"github.com/klauspost/compress/zstd"
)

// A column of a batch is kept as one Arrow IPC stream of one record, compressed as a
// whole by zstd. Compressing buffer by buffer inside the stream cost as much time as
// reading the rows, because its level cannot be chosen.
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

// pack encodes a record, of one column mostly.
func pack(record arrow.RecordBatch) ([]byte, error) {
	var stream bytes.Buffer
	w := ipc.NewWriter(&stream, ipc.WithSchema(record.Schema()))
	if err := errors.Join(w.Write(record), w.Close()); err != nil {
		return nil, fmt.Errorf("encoding a batch: %w", err)
	}
	return encoder.EncodeAll(stream.Bytes(), make([]byte, 0, stream.Len()/2)), nil
}

// unpack decodes a record that pack encoded.
func unpack(blob []byte) (arrow.RecordBatch, error) {
	stream, err := decoder.DecodeAll(blob, nil)
	if err != nil {
		return nil, fmt.Errorf("decompressing: %w", err)
	}
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
