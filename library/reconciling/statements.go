package reconciling

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"path"
	"strings"

	"mantilla/core/frame"
	"mantilla/core/report"
	"mantilla/library/access"
	"mantilla/model"
	"mantilla/statement"
)

// whole refuses those who see the rows of some units only: a statement is of the whole.
func (a *Access) whole() error {
	if a.Limited() {
		return model.Forbid("a statement is of the whole organisation, and you see the rows of some units")
	}
	return nil
}

// Statements are those that a report declares, and the files that are kept of them, the newest
// first.
func (a *Access) Statements(ctx context.Context, id string) ([]report.Statement, []model.Statement, error) {
	d, err := a.catalog.Report(id)
	if err != nil {
		return nil, nil, err
	}
	if a.Limited() {
		return d.Statements, nil, nil
	}
	kept, err := a.room.records.Statements(ctx, id)
	return d.Statements, kept, err
}

// mostName is how long the name of a file may be.
const mostName = 200

// AddStatement reads a file as a statement of a report, and keeps it. What is wrong with it is told
// with its lines, and nothing is kept then. A file that is there already is returned as it is.
func (a *Access) AddStatement(ctx context.Context, id, declared, name string, data []byte) (s model.Statement,
	err error) {
	if err := a.May(access.Run); err != nil {
		return s, err
	}
	if err := a.whole(); err != nil {
		return s, err
	}
	d, err := a.catalog.Report(id)
	if err != nil {
		return s, err
	}
	by, err := declaredBy(d, declared)
	if err != nil {
		return s, err
	}
	amount := d.Dataset(by.Of).Column(by.Amount).Field()
	lines, err := statement.Read(data, by, amount)
	if err != nil {
		return s, model.Refuse("file", "%s: %w", name, err)
	}
	sum := sha256.Sum256(data)
	s = model.Statement{Report: id, Declared: by.ID, Name: path.Base(strings.ReplaceAll(name, `\`, "/")),
		Digest: hex.EncodeToString(sum[:]), Lines: len(lines.Items), First: lines.First.String(),
		Until: lines.Until.String(), At: a.room.org.Now(), By: a.Person().Name}
	if s.Name == "" || len(s.Name) > mostName {
		return s, model.Refuse("name", "the name of a file has 1 to %d characters", mostName)
	}
	total := frame.Exact(0, amount.Scale)
	for _, it := range lines.Items {
		total = total.Plus(frame.Exact(it.Amount, amount.Scale), 1)
	}
	s.Total = total.String()
	present, err := a.room.records.Statements(ctx, id)
	if err != nil {
		return s, err
	}
	for _, p := range present {
		if p.Digest == s.Digest && p.Declared == s.Declared {
			return p, nil
		}
	}
	if s.Number, err = a.room.records.AddStatement(ctx, s, data); err != nil {
		return s, fmt.Errorf("keeping %s: %w", s.Name, err)
	}
	a.room.log.InfoContext(ctx, "statement read", "number", s.Number, "report", id, "lines", s.Lines, "by", s.By)
	return s, nil
}

// declaredBy finds a statement that a report declares; the only one where none is named.
func declaredBy(d *report.Definition, id string) (*report.Statement, error) {
	var known []string
	for _, s := range d.Statements {
		known = append(known, s.ID)
	}
	switch {
	case len(known) == 0:
		return nil, model.Refuse("report", "%s declares no statement to be reconciled with; its author adds it under "+
			"statements", d.ID)
	case id == "" && len(known) > 1:
		return nil, model.Refuse("as", "say which of the statements %s it is", strings.Join(known, ", "))
	case id == "":
		return &d.Statements[0], nil
	}
	if s := d.Statement(id); s != nil {
		return s, nil
	}
	return nil, model.NoSuch("statement", id, known)
}

// Statement returns a statement with its file.
func (a *Access) Statement(ctx context.Context, number int64) (model.Statement, []byte, error) {
	s, data, err := a.room.records.Statement(ctx, number)
	if err == nil {
		_, err = a.catalog.Report(s.Report)
	}
	if err != nil || a.Limited() {
		if err == nil || errors.Is(err, model.ErrNotFound) {
			err = model.NoSuch("statement", fmt.Sprintf("S-%06d", number), nil)
		}
		return model.Statement{}, nil, err
	}
	return s, data, nil
}

// DeleteStatement deletes a statement that the person brought, or any for those who keep the
// catalog. Results that were made with it have its lines.
func (a *Access) DeleteStatement(ctx context.Context, number int64) error {
	s, _, err := a.Statement(ctx, number)
	if err != nil {
		return err
	}
	if s.By != a.Person().Name {
		if err := a.May(access.KeepCatalog); err != nil {
			return err
		}
	}
	return a.room.records.DeleteStatement(ctx, number)
}
