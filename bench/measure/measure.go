// Package measure times what is done, and prints what it took in lines that stand below
// one another.
package measure

import (
	"fmt"
	"slices"
	"strings"
	"time"
)

// Times is how often what varies is measured.
const Times = 5

// Took does something and returns how long it took.
func Took(do func() error) (milliseconds float64, err error) {
	begun := time.Now()
	err = do()
	return float64(time.Since(begun).Microseconds()) / 1000, err
}

// Median returns the median of figures.
func Median(all []float64) float64 {
	sorted := slices.Sorted(slices.Values(all))
	return sorted[len(sorted)/2]
}

// Row prints a name and how long it took.
func Row(name string, milliseconds float64) {
	if milliseconds < 0.1 {
		fmt.Printf("  %-46s %9.1f µs\n", name, milliseconds*1000)
		return
	}
	fmt.Printf("  %-46s %9.1f ms\n", name, milliseconds)
}

// List writes figures one after the other.
func List(all []float64) string {
	var out []string
	for _, v := range all {
		out = append(out, fmt.Sprintf("%.2f", v))
	}
	return strings.Join(out, " ")
}
