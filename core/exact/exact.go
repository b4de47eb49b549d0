// Package exact is arithmetic that loses no digit unless it is told to: products and
// quotients of whole numbers of up to 38 digits, and statistics of decimals.
package exact

import (
	"math"
	"math/big"
	"math/bits"

	"github.com/apache/arrow-go/v18/arrow/decimal128"
)

// Product multiplies bounds; ok is false where a cell could leave 63 bits.
func Product(a, b uint64) (uint64, bool) {
	high, low := bits.Mul64(a, b)
	return low, high == 0 && low < math.MaxInt64
}

// Tens is ten to the power of places.
func Tens(places int32) (uint64, bool) {
	if places > 18 {
		return 0, false
	}
	out := uint64(1)
	for range places {
		out *= 10
	}
	return out, true
}

// Times multiplies; ok is false where the product has more than 38 digits.
func Times(a, b decimal128.Num) (decimal128.Num, bool) {
	if Bits(a)+Bits(b) <= 126 {
		return a.Mul(b), true
	}
	p := a.BigInt()
	p.Mul(p, b.BigInt())
	if p.BitLen() > 126 {
		return decimal128.Num{}, false
	}
	return decimal128.FromBigInt(p), true
}

// Bits is how many bits the size of a number takes.
func Bits(d decimal128.Num) int {
	d = d.Abs()
	if h := d.HighBits(); h != 0 {
		return 64 + bits.Len64(uint64(h))
	}
	return bits.Len64(d.LowBits())
}

// Quotient divides numbers of any size; ok is false where the quotient has
// more than 38 digits.
func Quotient(n, d decimal128.Num, shift int32, round Rounding) (decimal128.Num, bool) {
	above, below := n.BigInt(), d.BigInt()
	ten := big.NewInt(10)
	if shift >= 0 {
		above.Mul(above, ten.Exp(ten, big.NewInt(int64(shift)), nil))
	} else {
		below.Mul(below, ten.Exp(ten, big.NewInt(int64(-shift)), nil))
	}
	q, rest := new(big.Int).QuoRem(above, below, new(big.Int))
	// What is left is told to the rounding as a fraction of four: 0, 1 for less
	// than half, 2 for half, 3 for more, with the sign of the quotient.
	twice := new(big.Int).Lsh(new(big.Int).Abs(rest), 1)
	quarters := int64(0)
	if rest.Sign() != 0 {
		quarters = 2 + int64(twice.CmpAbs(below))
	}
	if above.Sign()*below.Sign() < 0 {
		quarters = -quarters
	}
	q.Add(q, big.NewInt(round(quarters, 4)))
	if q.BitLen() > 126 {
		return decimal128.Num{}, false
	}
	return decimal128.FromBigInt(q), true
}

// HalfAway rounds a quotient half away from zero.
func HalfAway(n, d int64) int64 {
	q, r := n/d, n%d
	if r < 0 {
		r = -r
	}
	size := d
	if size < 0 {
		size = -size
	}
	if r >= size-r {
		if (n < 0) == (d < 0) {
			q++
		} else {
			q--
		}
	}
	return q
}

// Rounding is what becomes of a quotient and its rest.
type Rounding func(n, d int64) int64

// Down rounds a quotient to the next whole number below.
func Down(n, d int64) int64 {
	q := n / d
	if n%d != 0 && (n < 0) != (d < 0) {
		q--
	}
	return q
}

// Up rounds a quotient to the next whole number above.
func Up(n, d int64) int64 { return -Down(-n, d) }
