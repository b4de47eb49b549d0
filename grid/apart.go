package grid

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os/exec"
	"time"
)

// Apart is the command that [Convert]s in a process of its own. A file whose bytes were changed
// can make its reader ask for more memory than there is, which ends a process; where it is set,
// that is not the service's. It is set while the program begins, or never.
var Apart []string

// headsOnly is the argument after which [Convert] is asked for the columns alone.
const headsOnly = "heads"

// Convert reads a Parquet or Arrow file and writes it as lines of JSON: its columns, and then each
// row as a list of cells. It limits the memory of the process.
func Convert(in io.Reader, out io.Writer, args ...string) error {
	if err := limitMemory(); err != nil {
		return err
	}
	data, err := io.ReadAll(in)
	if err != nil {
		return err
	}
	file, err := openHere(data)
	if err != nil {
		return err
	}
	to := bufio.NewWriterSize(out, 1<<16)
	lines := json.NewEncoder(to)
	if err := lines.Encode(file.columns()); err != nil {
		return err
	}
	if len(args) == 0 {
		err = soundly(func() error {
			return file.each(func(_ Place, row []string) error { return lines.Encode(row) })
		})
	}
	return errors.Join(err, to.Flush())
}

// apart is a file that another process reads.
type apart struct {
	data  []byte
	heads []Column
}

// longestApart is how long a file may take to be read.
const longestApart = 10 * time.Minute

// openApart reads the columns of a file by another process.
func openApart(data []byte) (columnar, error) {
	a := &apart{data: data}
	return a, a.run(func(first []byte, _ *json.Decoder) error { return json.Unmarshal(first, &a.heads) }, headsOnly)
}

func (a *apart) columns() []Column { return a.heads }

func (a *apart) each(visit func(place Place, row []string) error) error {
	return a.run(func(_ []byte, rows *json.Decoder) error {
		row := make([]string, len(a.heads))
		for n := 1; ; n++ {
			err := rows.Decode(&row)
			if err == io.EOF {
				return nil
			}
			if err != nil || len(row) != len(a.heads) {
				return errDamaged
			}
			if err := visit(Place{Word: "row", N: n}, row); err != nil {
				return err
			}
		}
	})
}

// run runs the command on the file and hands on what it writes: the first line, and those after.
// The error of what is handed on comes before that of the command.
func (a *apart) run(read func(first []byte, rest *json.Decoder) error, args ...string) error {
	ctx, cancel := context.WithTimeout(context.Background(), longestApart)
	defer cancel()
	command := exec.CommandContext(ctx, Apart[0], append(Apart[1:len(Apart):len(Apart)], args...)...)
	var said bytes.Buffer
	command.Stdin, command.Stderr = bytes.NewReader(a.data), &said
	out, err := command.StdoutPipe()
	if err == nil {
		err = command.Start()
	}
	if err != nil {
		return fmt.Errorf("beginning to read it: %w", err)
	}
	lines := bufio.NewReaderSize(out, 1<<16)
	first, err := lines.ReadBytes('\n')
	if err == nil {
		err = read(first, json.NewDecoder(lines))
	} else {
		err = nil // what the command says counts
	}
	if err != nil {
		cancel() // the rest is not wanted
		_ = command.Wait()
		return err
	}
	if err := command.Wait(); err != nil {
		if text := said.String(); bytes.HasPrefix(said.Bytes(), []byte(refused)) {
			return errors.New(text[len(refused):])
		}
		return errDamaged
	}
	return nil
}

// refused begins what is written of a file that [Convert] refuses.
const refused = "refused: "

// Refusal is what is to be written where [Convert] fails.
func Refusal(err error) string { return refused + err.Error() }
