package engine

import (
	"context"
	"fmt"
	"strings"

	"mantilla/core/fold"
	"mantilla/core/frame"
	"mantilla/core/table"
)

// where writes which rows are meant, beginning with the word where; "" for all.
func (a *asking) where(ctx context.Context, w table.Where) (string, error) {
	var tests []string
	for _, c := range w.Conditions {
		col, err := a.table.column(c.Column)
		if err == nil {
			err = c.Fits(a.table.schema[col].Kind)
		}
		if err != nil {
			return "", err
		}
		test, err := a.condition(ctx, c, col)
		if err != nil {
			return "", err
		}
		tests = append(tests, test)
	}
	filled, err := a.filled(ctx, w.Filled)
	if err != nil {
		return "", err
	}
	if tests = append(tests, filled...); len(tests) == 0 {
		return "", nil
	}
	return " where " + strings.Join(tests, " and "), nil
}

// filled writes that one of the columns is not 0; none for no columns.
func (a *asking) filled(ctx context.Context, columns []int) ([]string, error) {
	list, _, err := a.columns(ctx, columns)
	if err != nil || len(list) == 0 {
		return nil, err
	}
	for i, cell := range list {
		list[i] = "coalesce(" + cell + ", 0) <> 0"
	}
	return []string{"(" + strings.Join(list, " or ") + ")"}, nil
}

func (a *asking) condition(ctx context.Context, c table.Condition, col int) (string, error) {
	cell, err := a.column(ctx, col)
	if err != nil {
		return "", err
	}
	switch c.Test {
	case table.Empty:
		return cell + " is null", nil
	case table.NotEmpty:
		return cell + " is not null", nil
	}
	if a.table.schema[col].Kind == frame.Text {
		return a.textCondition(ctx, c, col, cell)
	}
	switch c.Test {
	case table.Is:
		return cell + " = any(" + a.ints(c.Ints) + ")", nil
	case table.IsNot:
		return "(" + cell + " is null or " + cell + " <> all(" + a.ints(c.Ints) + "))", nil
	case table.AtLeast:
		return cell + " >= " + a.int(c.Ints[0]), nil
	}
	return cell + " <= " + a.int(c.Ints[0]), nil
}

func (a *asking) textCondition(ctx context.Context, c table.Condition, col int, cell string) (string, error) {
	switch c.Test {
	case table.Is:
		return cell + " = any(" + a.texts(c.Texts) + ")", nil
	case table.IsNot:
		return "(" + cell + " is null or " + cell + " <> all(" + a.texts(c.Texts) + "))", nil
	}
	sought := c.Texts[0]
	if letters := a.table.letters(col); letters != Other {
		own, other := folded(cell, letters), a.text(fold.Text(sought))
		switch c.Test {
		case table.Contains:
			return "strpos(" + own + ", " + other + ") > 0", nil
		case table.AtLeast:
			return fmt.Sprintf(`(%s, %s collate "C") >= (%s, %s)`, own, cell, other, a.text(sought)), nil
		}
		return fmt.Sprintf(`(%s, %s collate "C") <= (%s, %s)`, own, cell, other, a.text(sought)), nil
	}
	low := fold.Text(sought)
	texts, err := a.table.textsThat(ctx, col, table.Digest(fmt.Sprintf("%d %q", c.Test, sought)), func(text string) bool {
		own := fold.Text(text)
		switch c.Test {
		case table.Contains:
			return strings.Contains(own, low)
		case table.AtLeast:
			return fold.Compare(own, text, low, sought) >= 0
		}
		return fold.Compare(own, text, low, sought) <= 0
	})
	if err != nil {
		return "", err
	}
	return cell + " = any(" + a.texts(texts) + ")", nil
}

// letters are those of a column of texts.
func (t *Table) letters(col int) Letters {
	if col < len(t.rows.Letters) {
		return t.rows.Letters[col]
	}
	return Other
}
