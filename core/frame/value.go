package frame

import (
	"fmt"
	"math"
	"math/big"
	"strconv"
	"strings"
	"time"

	"github.com/apache/arrow-go/v18/arrow/decimal128"
)

// Number is an exact decimal number: its unscaled digits divided by ten to the
// power of scale. It has 38 digits, so sums of column values cannot overflow.
type Number struct {
	Digits decimal128.Num
	Scale  int32
}

// MaxDigits is how many digits a decimal or money column holds in each cell.
const MaxDigits = 18

// Exact makes a number of unscaled digits.
func Exact(digits int64, scale int32) Number { return Number{decimal128.FromI64(digits), scale} }

// ParseNumber reads a decimal such as -12.50 exactly, with at most scale
// places; scale 0 reads an integer. It never rounds.
func ParseNumber(text string, scale int32) (int64, error) {
	t := strings.TrimSpace(text)
	whole, places, _ := strings.Cut(t, ".")
	places = strings.TrimRight(places, "0")
	if strings.Trim(whole, "+-") == "" {
		whole += "0" // .5
	}
	if int32(len(places)) > scale {
		if scale == 0 {
			return 0, fmt.Errorf("%q has decimal places; a whole number is wanted", t)
		}
		return 0, fmt.Errorf("%q has more than %d decimal places", t, scale)
	}
	digits := whole + places + strings.Repeat("0", int(scale)-len(places))
	if strings.Trim(digits, "+-0123456789") != "" || strings.Trim(t, "+-.") == "" {
		return 0, fmt.Errorf("%q is not a number", t)
	}
	v, err := strconv.ParseInt(digits, 10, 64)
	if err != nil && strings.ContainsAny(digits[1:], "+-") {
		return 0, fmt.Errorf("%q is not a number", t)
	}
	if err != nil || !FitsDigits(v) {
		return 0, fmt.Errorf("%q has more than %d digits", t, MaxDigits)
	}
	return v, nil
}

// FitsDigits tells whether unscaled digits fit a decimal column.
func FitsDigits(v int64) bool { return v > -Limit && v < Limit }

// Limit is the smallest number of unscaled digits that a cell does not hold.
const Limit = 1_000_000_000_000_000_000

// String writes the number plainly: -1234.50.
func (n Number) String() string {
	if low := int64(n.Digits.LowBits()); n.Scale >= 0 && low != math.MinInt64 && n.Digits == decimal128.FromI64(low) {
		return string(AppendPlain(nil, Decimal, n.Scale, low))
	}
	return n.Digits.ToString(n.Scale)
}

// at returns the digits of n at a scale no smaller than its own.
func (n Number) at(scale int32) decimal128.Num {
	digits := n.Digits
	for s := n.Scale; s < scale; s++ {
		digits = digits.Mul(decimal128.FromI64(10))
	}
	return digits
}

// Compare returns a number below, at or above 0 as n is less than, equal to or
// more than m.
func (n Number) Compare(m Number) int {
	scale := max(n.Scale, m.Scale)
	return n.at(scale).Cmp(m.at(scale))
}

// Plus returns n + m, or n - m where sign is -1.
func (n Number) Plus(m Number, sign int) Number {
	scale := max(n.Scale, m.Scale)
	other := m.at(scale)
	if sign < 0 {
		other = other.Negate()
	}
	return Number{n.at(scale).Add(other), scale}
}

// Times returns n times m. The product of two 18-digit numbers fits.
func (n Number) Times(m Number) Number {
	return Number{n.Digits.Mul(m.Digits), n.Scale + m.Scale}
}

// Over returns n divided by m, rounded half away from zero to places; ok is
// false when m is zero or the quotient has more than 38 digits.
func (n Number) Over(m Number, places int32) (_ Number, ok bool) {
	if m.Digits.Sign() == 0 {
		return Number{}, false
	}
	digits := new(big.Int).Mul(n.Digits.BigInt(), power(max(places+m.Scale-n.Scale, 0)))
	divisor := new(big.Int).Mul(m.Digits.BigInt(), power(max(n.Scale-m.Scale-places, 0)))
	quotient := rounded(digits, divisor)
	if quotient.BitLen() > 126 {
		return Number{}, false
	}
	return Number{decimal128.FromBigInt(quotient), places}, true
}

// Round returns n with that many places, rounded half away from zero; it adds
// no places.
func (n Number) Round(places int32) Number {
	if n.Scale <= places {
		return n
	}
	digits := rounded(n.Digits.BigInt(), power(n.Scale-places))
	return Number{decimal128.FromBigInt(digits), places}
}

// To returns n with exactly that many places, rounded half away from zero.
func (n Number) To(places int32) Number {
	if n.Scale <= places {
		return Number{n.at(places), places}
	}
	return n.Round(places)
}

// Fits tells whether the digits fit a decimal column.
func (n Number) Fits() bool {
	low := int64(n.Digits.LowBits())
	return n.Digits == decimal128.FromI64(low) && FitsDigits(low)
}

func power(places int32) *big.Int {
	return new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(places)), nil)
}

// rounded divides and rounds half away from zero.
func rounded(digits, divisor *big.Int) *big.Int {
	quotient, rest := new(big.Int).QuoRem(digits, divisor, new(big.Int))
	if rest.Abs(rest).Lsh(rest, 1).CmpAbs(divisor) >= 0 {
		quotient.Add(quotient, big.NewInt(int64(digits.Sign()*divisor.Sign())))
	}
	return quotient
}

// Divide returns n divided by count, rounded half away from zero to places.
func (n Number) Divide(count int64, places int32) Number {
	quotient, _ := n.Over(Exact(count, 0), places)
	return quotient
}

// Value is one cell or one total. Number carries everything that is not text:
// days since 1970-01-01 for a date, microseconds for a timestamp, 0 or 1 for a
// flag. Text is also the name that a number stands for, where it does.
type Value struct {
	Kind   Kind
	Null   bool
	Text   string
	Number Number
	Grain  string // the period that a date is the first day of
}

// Int returns the unscaled digits of the value as an int64.
func (v Value) Int() int64 { return int64(v.Number.Digits.LowBits()) }

// String writes the value plainly and without loss: ISO 8601 dates, a decimal
// point, yes or no; "" where there is no value.
func (v Value) String() string {
	if v.Null {
		return ""
	}
	if v.Kind == Text || v.Text != "" {
		return v.Text
	}
	switch v.Kind {
	case Date, Timestamp, Flag:
		return string(AppendPlain(nil, v.Kind, 0, v.Int()))
	}
	return v.Number.String()
}

// AppendPlain appends the plain form of a cell that is not text, as
// [Value.String] writes it, without allocating.
func AppendPlain(to []byte, kind Kind, scale int32, v int64) []byte {
	switch kind {
	case Date:
		return DayTime(v).AppendFormat(to, time.DateOnly)
	case Timestamp:
		return time.UnixMicro(v).UTC().AppendFormat(to, "2006-01-02T15:04:05.999999Z")
	case Flag:
		if v != 0 {
			return append(to, "yes"...)
		}
		return append(to, "no"...)
	}
	if scale == 0 {
		return strconv.AppendInt(to, v, 10)
	}
	if v < 0 {
		to, v = append(to, '-'), -v
	}
	var digits [20]byte
	d := strconv.AppendInt(digits[:0], v, 10)
	for n := int(scale) + 1 - len(d); n > 0; n-- {
		if n == int(scale)+1-len(d) {
			to = append(to, "0."...)
		} else {
			to = append(to, '0')
		}
	}
	if whole := len(d) - int(scale); whole > 0 {
		to = append(append(to, d[:whole]...), '.')
		d = d[whole:]
	}
	return append(to, d...)
}

// DayTime returns midnight UTC of a day counted from 1970-01-01.
func DayTime(days int64) time.Time { return time.Unix(days*86400, 0).UTC() }

// MomentTime returns a moment counted in microseconds from 1970-01-01.
func MomentTime(micros int64) time.Time { return time.UnixMicro(micros).UTC() }
