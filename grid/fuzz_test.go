package grid

import (
	"testing"
	"time"
)

// FuzzOpen reads texts as nobody writes them: they are read or refused, and nothing ends. Files
// that are packed are read by another process; see [Apart].
func FuzzOpen(f *testing.F) {
	f.Add([]byte("{\"a\": 1e5, \"b\": [1, {\"c\": null}]}\n{\"a\": \"\\u00f6\"}\n"))
	f.Add([]byte("a;b\n\"1,5\";2026-10-14\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		for _, o := range openers {
			if o.packed && o.is(data) {
				return
			}
		}
		stuck := time.AfterFunc(5*time.Second, func() { panic("it does not end") })
		defer stuck.Stop()
		file, err := Open(data, Form{})
		if err != nil {
			return
		}
		defer file.Close()
		for _, sheet := range file.Sheets {
			rows := 0
			_ = file.Each(sheet, func(_ Place, row []string) error { // what it says of the bytes does not matter
				for _, cell := range row {
					_, _ = file.Number(cell, 2)
					_, _ = file.Day(cell)
					_, _ = file.Moment(cell)
				}
				if rows++; rows > 10_000 {
					return ErrEnough
				}
				return nil
			})
		}
	})
}
