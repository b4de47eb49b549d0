package starter

import (
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"mantilla/core/ask"
	"mantilla/core/frame"
	"mantilla/core/report"
)

// View is a view that somebody kept, to begin a report from.
type View struct {
	Report, Title string          // of the new report
	Of            *report.Dataset // of the report that the view is of
	Base          string          // the view that it changes
	Name          string          // that it was kept under
	Changes       ask.Changes     // what it changes

	// Given tells what a formula over the dataset gives, and whether of groups.
	Given func(formula string) (field frame.Field, ofGroups bool, err error)
}

// FromView writes the text of a report as another that opens with a view as somebody kept it:
// added columns become columns of the dataset, filters on texts conditions of its rows.
// Filters that are no such conditions are left to the author, in a comment at the head.
func FromView(text string, v View) (string, error) {
	var doc yaml.Node
	if err := yaml.Unmarshal([]byte(text), &doc); err != nil || len(doc.Content) == 0 {
		return "", fmt.Errorf("the text of the report cannot be read: %w", err)
	}
	root := doc.Content[0]
	set(root, "report", str(v.Report))
	set(root, "title", str(v.Title))
	drop(root, "companions")
	dataset := at(at(root, "datasets"), v.Of.ID)
	if dataset == nil {
		return "", fmt.Errorf("the text of the report has no dataset %s", v.Of.ID)
	}
	ids := v.addColumns(dataset)
	left := v.addConditions(dataset)
	views := at(root, "views")
	id := "kept"
	for n := 2; at(views, id) != nil; n++ {
		id = fmt.Sprintf("kept_%d", n)
	}
	set(views, id, v.view(at(views, v.Base), ids))
	set(root, "page", list([]string{id}))
	if len(left) > 0 {
		doc.HeadComment = strings.TrimSpace(doc.HeadComment + "\n# The view was filtered by " +
			strings.Join(left, " and by ") +
			".\n# Write that as conditions under where, or as parameters.")
	}
	var out bytes.Buffer
	to := yaml.NewEncoder(&out)
	to.SetIndent(2)
	if err := to.Encode(&doc); err != nil {
		return "", fmt.Errorf("writing the text: %w", err)
	}
	return out.String(), nil
}

// addColumns makes columns of the dataset of those that the reader added. It returns their
// ids by those that they had as a reader's own.
func (v *View) addColumns(dataset *yaml.Node) map[string]string {
	ids := map[string]string{}
	columns := at(dataset, "columns")
	for _, added := range v.Changes.Add {
		label, formula, _ := strings.Cut(added, "=")
		label, formula = strings.TrimSpace(label), strings.TrimSpace(formula)
		own := ask.OwnID(label)
		id := strings.TrimPrefix(own, "own_")
		if id == "" || v.Of.Column(id) != nil || id[0] < 'a' || id[0] > 'z' {
			id = own
		}
		ids[own] = id
		c := mapping()
		set(c, "id", str(id))
		set(c, "label", str(label))
		set(c, "formula", str(formula))
		v.typed(c, formula)
		columns.Content = append(columns.Content, c)
	}
	return ids
}

// typed gives a column of a formula the type that the formula gives.
func (v *View) typed(c *yaml.Node, formula string) {
	f, atGroups, err := v.Given(formula)
	if err != nil {
		set(c, "type", str("text")) // the check says what is wrong with it
		return
	}
	kind := f.Kind
	if f.Names != nil {
		kind = frame.Text
	}
	set(c, "type", str(kind.String()))
	switch kind {
	case frame.Decimal:
		set(c, "scale", number(int(min(f.Scale, 4))))
	case frame.Money:
		set(c, "currency", str(f.Currency))
	}
	if atGroups {
		set(c, "at", str("groups"))
	} else if kind.Numeric() {
		set(c, "total", str("sum"))
	}
}

// addConditions makes conditions of filters on texts that the source holds as they are, and
// returns the others.
func (v *View) addConditions(dataset *yaml.Node) (left []string) {
	for _, typed := range ask.Given(v.Changes.Filters) {
		f, err := ask.ReadFilter(typed)
		c := v.Of.Column(f.Column)
		grouped := at(dataset, "group_by") != nil || at(dataset, "levels") != nil
		if err != nil || c == nil || c.Kind != frame.Text || c.Is.SQL == "" || f.Test != "=" || f.Value == "" || grouped ||
			strings.ContainsAny(f.Value, `'"`) {
			left = append(left, typed)
			continue
		}
		var values []string
		for _, value := range strings.Split(f.Value, ";") {
			values = append(values, "'"+strings.TrimSpace(value)+"'")
		}
		where := at(dataset, "where")
		if where == nil {
			where = &yaml.Node{Kind: yaml.SequenceNode}
			set(dataset, "where", where)
		}
		if where.Kind != yaml.SequenceNode {
			where = &yaml.Node{Kind: yaml.SequenceNode, Content: []*yaml.Node{where}}
			set(dataset, "where", where)
		}
		where.Content = append(where.Content, str("("+c.Is.SQL+") in ("+strings.Join(values, ", ")+")"))
	}
	return left
}

// view is the base view with what the reader changed.
func (v *View) view(base *yaml.Node, own map[string]string) *yaml.Node {
	out := mapping()
	if base != nil {
		out.Content = append(out.Content, base.Content...)
	} else {
		set(out, "of", str(v.Of.ID))
	}
	set(out, "title", str(v.Name))
	c := v.Changes
	renamed := func(texts []string) *yaml.Node {
		named := slices.Clone(texts)
		for i, text := range named {
			sign := ""
			if rest, minus := strings.CutPrefix(text, "-"); minus {
				sign, text = "-", rest
			}
			if id, ok := own[text]; ok {
				text = id
			}
			named[i] = sign + text
		}
		return list(slices.DeleteFunc(named, func(t string) bool { return t == "" || t == "none" }))
	}
	group, cells := "group", "cells"
	show := c.Show
	if n := at(out, "show"); show == "" && n != nil {
		show = n.Value
	}
	if show == "chart" {
		group, cells = "by", "measure"
	}
	for key, texts := range map[string][]string{"columns": c.Columns, group: c.Group, "sort": c.Sort, "down": c.Down,
		"across": c.Across, cells: c.Cells} {
		if texts == nil {
			continue
		}
		if set(out, key, renamed(texts)); len(at(out, key).Content) == 0 {
			drop(out, key)
		}
	}
	for key, text := range map[string]string{"show": c.Show, "form": c.Drawn, "names": c.Names, "zeros": c.Zeros} {
		if text != "" {
			set(out, key, str(text))
		}
	}
	if c.Open != nil {
		set(out, "open", number(*c.Open))
	}
	if c.Limit != nil && *c.Limit > 0 {
		set(out, "limit", number(*c.Limit))
	}
	return out
}

// at is the value of a key of a mapping; nil for none.
func at(n *yaml.Node, key string) *yaml.Node {
	if n == nil || n.Kind != yaml.MappingNode {
		return nil
	}
	for i := 0; i+1 < len(n.Content); i += 2 {
		if n.Content[i].Value == key {
			return n.Content[i+1]
		}
	}
	return nil
}

// set gives a key of a mapping a value, in the place of one that it has.
func set(n *yaml.Node, key string, value *yaml.Node) {
	for i := 0; i+1 < len(n.Content); i += 2 {
		if n.Content[i].Value == key {
			n.Content[i+1] = value
			return
		}
	}
	n.Content = append(n.Content, str(key), value)
}

func drop(n *yaml.Node, key string) {
	for i := 0; i+1 < len(n.Content); i += 2 {
		if n.Content[i].Value == key {
			n.Content = slices.Delete(n.Content, i, i+2)
			return
		}
	}
}

func mapping() *yaml.Node { return &yaml.Node{Kind: yaml.MappingNode, Style: yaml.FlowStyle} }

func str(text string) *yaml.Node {
	n := &yaml.Node{}
	n.SetString(text)
	return n
}

func number(n int) *yaml.Node {
	return &yaml.Node{Kind: yaml.ScalarNode, Tag: "!!int", Value: strconv.Itoa(n)}
}

func list(texts []string) *yaml.Node {
	n := &yaml.Node{Kind: yaml.SequenceNode, Style: yaml.FlowStyle}
	for _, text := range texts {
		n.Content = append(n.Content, str(text))
	}
	return n
}
