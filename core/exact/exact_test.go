package exact

import (
	"math"
	"math/big"
	"math/rand/v2"
	"testing"

	"github.com/apache/arrow-go/v18/arrow/decimal128"

	"mantilla/core/frame"
)

// sizes are numbers of all sizes that there are, both signs, and those at the ends.
func sizes(r *rand.Rand) []decimal128.Num {
	out := []decimal128.Num{{}, decimal128.FromI64(1), decimal128.FromI64(-1), decimal128.FromI64(math.MaxInt64)}
	for bits := uint(1); bits < 126; bits += 7 {
		n := new(big.Int).SetUint64(r.Uint64())
		n.Lsh(n, 62).Or(n, new(big.Int).SetUint64(r.Uint64()>>2)).Rsh(n, 126-bits)
		out = append(out, decimal128.FromBigInt(n), decimal128.FromBigInt(n.Neg(n)))
	}
	return out
}

func TestQuotientsOfAllSizesAreRoundedAsToldTo(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for _, n := range sizes(r) {
		for _, d := range sizes(r) {
			if d.Sign() == 0 {
				continue
			}
			shift := int32(r.IntN(13) - 6)
			rat := new(big.Rat).SetFrac(n.BigInt(), d.BigInt())
			ten := new(big.Rat).SetFloat64(math.Pow10(int(max(shift, -shift))))
			if shift < 0 {
				rat.Quo(rat, ten)
			} else {
				rat.Mul(rat, ten)
			}
			for name, c := range map[string]struct {
				round Rounding
				want  *big.Int
			}{"down": {Down, floor(rat)}, "up": {Up, new(big.Int).Neg(floor(new(big.Rat).Neg(rat)))},
				"half": {HalfAway, half(rat)}} {
				got, ok := Quotient(n, d, shift, c.round)
				if ok != (c.want.BitLen() <= 126) || ok && got.BigInt().Cmp(c.want) != 0 {
					t.Errorf("%s: %v / %v by ten to %d is %v (%v), not %v", name, n, d, shift, got, ok, c.want)
				}
			}
		}
	}
}

func floor(r *big.Rat) *big.Int { // Div of big.Int goes down where the divisor is above 0, as a Rat's is
	return new(big.Int).Div(r.Num(), r.Denom())
}

func half(r *big.Rat) *big.Int {
	size := floor(new(big.Rat).Add(new(big.Rat).Abs(r), big.NewRat(1, 2)))
	if r.Sign() < 0 {
		size.Neg(size)
	}
	return size
}

func TestProductsAreExactOrRefused(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for _, a := range sizes(r) {
		for _, b := range sizes(r) {
			want := new(big.Int).Mul(a.BigInt(), b.BigInt())
			got, ok := Times(a, b)
			if ok != (want.BitLen() <= 126) || ok && got.BigInt().Cmp(want) != 0 {
				t.Errorf("%v times %v is %v (%v), not %v", a, b, got, ok, want)
			}
		}
	}
	for _, c := range []struct {
		a, b uint64
		fits bool
	}{{0, math.MaxUint64, true}, {math.MaxInt64 - 1, 1, true}, {math.MaxInt64, 1, false}, {1 << 32, 1 << 31, false},
		{1 << 31, 1 << 31, true}} {
		if _, ok := Product(c.a, c.b); ok != c.fits {
			t.Errorf("%d times %d fits is %v", c.a, c.b, ok)
		}
	}
	if n, ok := Tens(18); n != 1_000_000_000_000_000_000 || !ok {
		t.Errorf("ten to 18 is %d, %v", n, ok)
	}
	if _, ok := Tens(19); ok {
		t.Error("ten to 19 leaves 63 bits")
	}
}

// The figures are those of R's quantile (type 7) and sd, worked out by hand.
func TestStatisticsOfDecimals(t *testing.T) {
	values := []int64{1000, 2000, 4000, 7000} // 10.00, 20.00, 40.00, 70.00
	for percent, want := range map[int64]string{0: "10.00", 25: "17.5000", 50: "30.0000", 90: "61.0000", 100: "70.00"} {
		if got := Percentile(values, 2, frame.Exact(percent, 0)); got.Compare(number(t, want)) != 0 {
			t.Errorf("percentile %d is %v, not %s", percent, got, want)
		}
	}
	// The mean is 35, the squares of what differs 625, 225, 25, 1225: 2100 over 3 is 700.
	if got, err := Deviation(values, 2, 4); err != nil || got.String() != "26.4575" {
		t.Errorf("the deviation is %v, %v", got, err)
	}
	same := []int64{frame.Limit - 1, frame.Limit - 1, frame.Limit - 1}
	if got, err := Deviation(same, 0, 2); err != nil || got.String() != "0.00" {
		t.Errorf("the deviation of equal numbers is %v, %v", got, err)
	}
	apart := []int64{frame.Limit - 1, -(frame.Limit - 1)} // the difference over the root of 2
	if got, err := Deviation(apart, 0, 0); err != nil || got.String() != "1414213562373095047" {
		t.Errorf("the deviation of the ends is %v, %v", got, err)
	}
}

func number(t *testing.T, text string) frame.Number {
	t.Helper()
	n, err := frame.ParseNumber(text, 4)
	if err != nil {
		t.Fatal(err)
	}
	return frame.Exact(n, 4)
}
