package postgres

import (
	"encoding/binary"
	"fmt"
	"math"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgtype"

	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/source/cells"
)

// cell moves one cell that has a value from the bytes of the protocol to the builder.
type cell func(value []byte, b *frame.Builder, i int) error

// The formats of the protocol.
const (
	asText   = int16(pgtype.TextFormatCode)
	asBinary = int16(pgtype.BinaryFormatCode)
)

// readers are how the columns of a dataset read what the server gives for them, and the
// formats in which they want it: binary for the common types, text for all others.
func readers(columns []report.Column, fields []pgconn.FieldDescription) (out []cell, formats []int16) {
	for i := range columns {
		read, format := readerOf(&columns[i], fields[i].DataTypeOID)
		out, formats = append(out, read), append(formats, format)
	}
	return out, formats
}

func readerOf(c *report.Column, oid uint32) (read cell, format int16) {
	switch c.Kind {
	case frame.Text:
		return func(value []byte, b *frame.Builder, i int) error { b.Text(i, value); return nil }, asText
	case frame.Date:
		return dayReader(oid)
	case frame.Timestamp:
		return momentReader(oid)
	case frame.Flag:
		return flagReader(oid)
	}
	if c.Stored == "decimal" {
		return decimalReader(c, oid)
	}
	if whole := wholeReader(oid); whole != nil {
		return func(value []byte, b *frame.Builder, i int) error { return b.Int(i, whole(value)) }, asBinary
	}
	return func(value []byte, b *frame.Builder, i int) error {
		n, err := cells.Whole(value)
		if err != nil {
			return err
		}
		return b.Int(i, n)
	}, asText
}

// wholeReader reads whole numbers in binary; nil for other types.
func wholeReader(oid uint32) func([]byte) int64 {
	switch oid {
	case pgtype.Int2OID:
		return func(v []byte) int64 { return int64(int16(binary.BigEndian.Uint16(v))) }
	case pgtype.Int4OID:
		return func(v []byte) int64 { return int64(int32(binary.BigEndian.Uint32(v))) }
	case pgtype.Int8OID:
		return func(v []byte) int64 { return int64(binary.BigEndian.Uint64(v)) }
	}
	return nil
}

// decimalReader reads numbers with a point.
func decimalReader(c *report.Column, oid uint32) (cell, int16) {
	switch oid {
	case pgtype.NumericOID:
		return func(value []byte, b *frame.Builder, i int) error {
			if digits, ok := numeric(value, c.Scale); ok {
				return b.Int(i, digits)
			}
			digits, err := cells.Decimal(numericText(value), c)
			if err != nil {
				return err
			}
			return b.Int(i, digits)
		}, asBinary
	case pgtype.Float4OID, pgtype.Float8OID:
		return func(value []byte, b *frame.Builder, i int) error {
			real, bits := 0.0, 64
			if len(value) == 4 {
				real, bits = float64(math.Float32frombits(binary.BigEndian.Uint32(value))), 32
			} else {
				real = math.Float64frombits(binary.BigEndian.Uint64(value))
			}
			digits, err := cells.Real(real, bits, c)
			if err != nil {
				return err
			}
			return b.Int(i, digits)
		}, asBinary
	}
	return func(value []byte, b *frame.Builder, i int) error {
		digits, err := cells.Decimal(string(value), c)
		if err != nil {
			return err
		}
		return b.Int(i, digits)
	}, asText
}

// A numeric comes as digits to the base 10,000: how many, the weight of the first, a sign, the
// places that are shown, and the digits (PostgreSQL, src/backend/utils/adt/numeric.c,
// numeric_send).
const (
	numericBase     = 10_000
	numericNegative = 0x4000
	numericPositive = 0x0000
)

// numeric reads one exactly, to a number of places; not ok where it has more places, more
// digits than a cell holds, or is no number at all.
func numeric(v []byte, scale int32) (digits int64, ok bool) {
	count, weight := int(binary.BigEndian.Uint16(v)), int(int16(binary.BigEndian.Uint16(v[2:])))
	sign := binary.BigEndian.Uint16(v[4:])
	if sign != numericPositive && sign != numericNegative || weight > 4 {
		return 0, false
	}
	const most = math.MaxInt64/numericBase - 1
	for i := range count {
		if digits > most {
			return 0, false
		}
		digits = digits*numericBase + int64(binary.BigEndian.Uint16(v[8+2*i:]))
	}
	places := 4 * (count - 1 - weight) // that the digits have behind the point
	for ; places < int(scale); places++ {
		if digits > math.MaxInt64/10-1 {
			return 0, false
		}
		digits *= 10
	}
	for ; places > int(scale); places-- {
		if digits%10 != 0 {
			return 0, false
		}
		digits /= 10
	}
	if sign == numericNegative {
		digits = -digits
	}
	return digits, true
}

// numericText writes one as people do.
func numericText(v []byte) string {
	count, weight := int(binary.BigEndian.Uint16(v)), int(int16(binary.BigEndian.Uint16(v[2:])))
	sign := binary.BigEndian.Uint16(v[4:])
	if sign != numericPositive && sign != numericNegative {
		return "not a number"
	}
	group := func(at int) uint16 {
		if at < 0 || at >= count {
			return 0
		}
		return binary.BigEndian.Uint16(v[8+2*at:])
	}
	var b strings.Builder
	if sign == numericNegative {
		b.WriteByte('-')
	}
	b.WriteString(fmt.Sprint(group(min(0, weight))))
	if weight < 0 {
		b.Reset()
		if sign == numericNegative {
			b.WriteByte('-')
		}
		b.WriteByte('0')
	}
	for at := 1; at <= weight; at++ {
		fmt.Fprintf(&b, "%04d", group(at))
	}
	b.WriteByte('.')
	for at := weight + 1; at < count || at == weight+1; at++ {
		fmt.Fprintf(&b, "%04d", group(at))
	}
	return strings.TrimRight(strings.TrimRight(b.String(), "0"), ".")
}

// PostgreSQL counts days and microseconds from 2000-01-01.
const (
	firstDay    = 10_957
	firstMoment = firstDay * 86_400_000_000
	dayMicros   = 86_400_000_000
)

func dayReader(oid uint32) (cell, int16) {
	switch oid {
	case pgtype.DateOID:
		return func(value []byte, b *frame.Builder, i int) error {
			day := int32(binary.BigEndian.Uint32(value))
			if day == math.MaxInt32 || day == math.MinInt32 {
				return cells.NotDay(endless(day > 0))
			}
			return b.Int(i, int64(day)+firstDay)
		}, asBinary
	case pgtype.TimestampOID, pgtype.TimestamptzOID:
		return func(value []byte, b *frame.Builder, i int) error {
			at := int64(binary.BigEndian.Uint64(value))
			if at%dayMicros != 0 {
				return fmt.Errorf("it has a time of day; read it as type: timestamp, or as a day of your zone: (x at time zone " +
					"'Europe/Berlin')::date")
			}
			return b.Int(i, at/dayMicros+firstDay)
		}, asBinary
	}
	return func(value []byte, b *frame.Builder, i int) error {
		day, err := cells.Day(value)
		if err != nil {
			return err
		}
		return b.Int(i, day)
	}, asText
}

func endless(after bool) string {
	if after {
		return "infinity"
	}
	return "-infinity"
}

func momentReader(oid uint32) (cell, int16) {
	switch oid {
	case pgtype.TimestampOID, pgtype.TimestamptzOID:
		return func(value []byte, b *frame.Builder, i int) error {
			at := int64(binary.BigEndian.Uint64(value))
			if at == math.MaxInt64 || at == math.MinInt64 {
				return cells.NotMoment(endless(at > 0))
			}
			return b.Int(i, at+firstMoment)
		}, asBinary
	case pgtype.DateOID:
		day, _ := dayReader(oid)
		return func(value []byte, b *frame.Builder, i int) error {
			if v := int32(binary.BigEndian.Uint32(value)); v != math.MaxInt32 && v != math.MinInt32 {
				return b.Int(i, (int64(v)+firstDay)*dayMicros)
			}
			return day(value, b, i)
		}, asBinary
	}
	return func(value []byte, b *frame.Builder, i int) error {
		at, err := cells.Moment(value)
		if err != nil {
			return err
		}
		return b.Int(i, at)
	}, asText
}

func flagReader(oid uint32) (cell, int16) {
	if oid == pgtype.BoolOID {
		return func(value []byte, b *frame.Builder, i int) error { return b.Int(i, int64(value[0])) }, asBinary
	}
	return func(value []byte, b *frame.Builder, i int) error {
		is, err := cells.Flag(value)
		if err != nil {
			return err
		}
		return b.Int(i, is)
	}, asText
}
