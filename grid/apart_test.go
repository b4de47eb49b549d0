package grid

import (
	"bytes"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/parquet-go/parquet-go"
)

// TestMain is also the process that reads files apart.
func TestMain(m *testing.M) {
	if len(os.Args) > 1 && os.Args[1] == "apart" {
		if err := Convert(os.Stdin, os.Stdout, os.Args[2:]...); err != nil {
			fmt.Fprint(os.Stderr, Refusal(err))
			os.Exit(1)
		}
		os.Exit(0)
	}
	os.Exit(m.Run())
}

// readApart lets files be read by another process until a test ends.
func readApart(t *testing.T) {
	t.Helper()
	Apart = []string{os.Args[0], "apart"}
	t.Cleanup(func() { Apart = nil })
}

// TestFilesAreReadApart reads the same rows by another process, more than one of its buffers holds,
// and stops reading in between.
func TestFilesAreReadApart(t *testing.T) {
	type row struct {
		Place string `parquet:"place"`
		N     int64  `parquet:"n"`
	}
	var rows []row
	for i := range 20_000 {
		rows = append(rows, row{"Łórrin \"and\n\u2028more\"", int64(i)})
	}
	var data bytes.Buffer
	w := parquet.NewGenericWriter[row](&data)
	if _, err := w.Write(rows); err != nil {
		t.Fatal(err)
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	here := told(t, data.Bytes())
	readApart(t)
	if there := told(t, data.Bytes()); there != here {
		t.Errorf("%d bytes are read apart, %d here", len(there), len(here))
	}
	f, err := Open(data.Bytes(), Form{})
	if err != nil {
		t.Fatal(err)
	}
	for range 2 {
		read := 0
		if err := f.Each("", func(Place, []string) error {
			if read++; read == 3 {
				return ErrEnough
			}
			return nil
		}); err != nil || read != 3 {
			t.Errorf("%d rows, %v", read, err)
		}
	}
	if err := f.Each("", func(Place, []string) error { return os.ErrClosed }); err != os.ErrClosed {
		t.Errorf("who reads says %v", err)
	}
}

// TestAGreedyFileEndsAlone opens a file whose changed bytes ask for 44 GB: the process that reads
// it ends, and this one tells.
func TestAGreedyFileEndsAlone(t *testing.T) {
	greedy, err := os.ReadFile("testdata/greedy.arrow")
	if err != nil {
		t.Fatal(err)
	}
	readApart(t)
	if _, err := Open(greedy, Form{}); err == nil || err.Error() != "it is no Arrow file that can be read: it is damaged" {
		t.Errorf("it is answered by %v", err)
	}
	if _, err := Open([]byte("PAR1, or so it says"), Form{}); err == nil || !strings.Contains(err.Error(),
		"it is no Parquet file that can be read: ") || strings.Contains(err.Error(), "damaged") {
		t.Errorf("what is wrong is not told: %v", err)
	}
	Apart = []string{"/nonexistent/program"}
	if _, err := Open(greedy, Form{}); err == nil || !strings.Contains(err.Error(), "beginning to read it") {
		t.Errorf("%v", err)
	}
}
