package exact

import (
	"fmt"
	"math/big"
	"math/bits"
	"slices"

	"github.com/apache/arrow-go/v18/arrow/decimal128"

	"mantilla/core/frame"
)

// Percentile interpolates between the two values next to the rank, exactly.
// The method is number 7 of Hyndman and Fan, "Sample Quantiles in Statistical
// Packages", The American Statistician 50 (1996), which SQL's percentile_cont
// uses too.
func Percentile(sorted []int64, scale int32, percent frame.Number) frame.Number {
	at, part := Rank(len(sorted), percent)
	return Interpolated(sorted[at], sorted[min(at+1, len(sorted)-1)], scale, part)
}

// Rank is where the percentile of n sorted values lies, from 0, and which part of the step to
// the next one it lies behind.
func Rank(n int, percent frame.Number) (at int, part frame.Number) {
	rank := percent.Times(frame.Exact(int64(n-1), 0))        // in hundredths
	whole, _ := rank.Over(frame.Exact(100, 0), rank.Scale+2) // exact
	unit := power(whole.Scale)
	digits := whole.Digits.BigInt()
	at = int(digits.Quo(digits, unit).Int64())
	return at, whole.Plus(frame.Exact(int64(at), 0), -1)
}

// Interpolated is a part of the way from a value to the next.
func Interpolated(low, high int64, scale int32, part frame.Number) frame.Number {
	from := frame.Exact(low, scale)
	if high == low {
		return from
	}
	return from.Plus(part.Times(frame.Exact(high, scale).Plus(from, -1)), 1)
}

// Deviation is the sample standard deviation, rounded half away from zero. Sums
// and sums of squares are exact, in two and three words of 64 bits, and so are
// the variance, n Σx² − (Σx)² over n (n − 1), and its root to half a unit of the
// last place. Squares of up to 2^64 numbers of 18 digits fit.
func Deviation(values []int64, scale, places int32) (frame.Number, error) {
	var sum [2]uint64
	var squares [3]uint64
	for _, v := range values {
		var carry uint64
		sum[0], carry = bits.Add64(sum[0], uint64(v), 0)
		sum[1] += uint64(v>>63) + carry
		size := uint64(max(v, -v))
		high, low := bits.Mul64(size, size)
		squares[0], carry = bits.Add64(squares[0], low, 0)
		squares[1], carry = bits.Add64(squares[1], high, carry)
		squares[2] += carry
	}
	total := decimal128.New(int64(sum[1]), sum[0]).BigInt()
	return DeviationOf(int64(len(values)), total, words(squares[:]), scale, places)
}

// DeviationOf is the deviation of so many values, at least two, of which the sum and the sum of
// the squares are given, in units of their last place.
func DeviationOf(count int64, sum, squares *big.Int, scale, places int32) (frame.Number, error) {
	n := big.NewInt(count)
	above := new(big.Int).Mul(n, squares)
	above.Sub(above, new(big.Int).Mul(sum, sum))
	below := new(big.Int).Mul(n, new(big.Int).Sub(n, big.NewInt(1)))
	// Twice the root, cut to a whole number, tells whether its half is to be
	// rounded up.
	above.Mul(above, power(2*max(places-scale, 0))).Lsh(above, 2)
	below.Mul(below, power(2*max(scale-places, 0)))
	root := above.Sqrt(above.Quo(above, below))
	root.Add(root, big.NewInt(1)).Rsh(root, 1)
	if root.BitLen() > 126 {
		return frame.Number{}, fmt.Errorf("the standard deviation has more digits than can be kept")
	}
	return frame.Number{Digits: decimal128.FromBigInt(root), Scale: places}, nil
}

// words makes a number of words of 64 bits, the lowest first.
func words(of []uint64) *big.Int {
	out := new(big.Int)
	for _, w := range slices.Backward(of) {
		out.Lsh(out, 64).Or(out, new(big.Int).SetUint64(w))
	}
	return out
}

func power(places int32) *big.Int {
	return new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(places)), nil)
}
