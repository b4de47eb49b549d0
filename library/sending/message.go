package sending

import (
	"bytes"
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"net/url"
	"strings"
	"time"

	"mantilla/core/ask"
	"mantilla/deliver"
	"mantilla/library/reading"
	"mantilla/model"
)

const usualSubject = "{title} {part}"

const usualText = "{title} {part}\n\n{sentence}\n{rows} rows, kept as {result}.\n{link}\n"

// fields are what a subject and a text may speak of; the link leads to the first
// result, filtered as it is sent.
func (c *composing) fields(value string, rows int, first reading.Viewed) map[string]string {
	x := c.results[0]
	var sentences, results []string
	for i, r := range c.results {
		sentence := r.Sentence
		if i < len(c.said) {
			sentence = c.said[i]
		}
		sentences = append(sentences, r.Title+": "+sentence)
		results = append(results, fmt.Sprintf("R-%06d", r.Number))
	}
	f := map[string]string{"title": c.plan.Title, "part": c.partName(value), "report": x.Title,
		"sentence": strings.Join(sentences, "\n"), "result": strings.Join(results, ", "),
		"rows": fmt.Sprint(rows), "date": c.run.AskedAt.In(c.org.Zone).Format("2 January 2006"),
		"link": c.link(x.Number, first)}
	return f
}

// link is the console's address of a view; "" where nobody said at which address
// people reach the console.
func (room *Room) link(result int64, v reading.Viewed) string {
	if room.org.Address == "" {
		return ""
	}
	of := fmt.Sprintf("%s/results/R-%06d", room.org.Address, result)
	if v.View == "" || len(v.Changes.Filters) == 0 {
		return of
	}
	return of + "?" + url.Values{"view": {v.View}, v.View + ".filter": v.Changes.Filters}.Encode()
}

// fill puts fields into a text; spaces that are left at an end go.
func fill(text string, fields map[string]string) string {
	var pairs []string
	for name, value := range fields {
		pairs = append(pairs, "{"+name+"}", value)
	}
	return strings.TrimSpace(strings.NewReplacer(pairs...).Replace(text))
}

// mail makes one message to all who are named.
func (c *composing) mail(ctx context.Context, a *Access, base model.Parcel, lines []line, files []deliver.Attachment,
	tooLarge bool, fields map[string]string, changes ask.Changes) (model.Parcel, error) {
	p := base
	p.Way = "mail"
	text := fill(cmp.Or(c.plan.Send.Text, usualText), fields) + "\n"
	if tooLarge {
		text += fmt.Sprintf("\nThe files are larger than a message may be; they can be taken from %s.\n",
			cmp.Or(fields["link"], fields["result"]))
		files = nil
	}
	// of any length and letters, which an id may not have (RFC 5322, 3.6.4)
	of := sha256.Sum256([]byte(base.Key + fields["part"]))
	id := fmt.Sprintf("run-%d-%d.%x@%s", c.run.Number, c.run.AskedAt.UnixMilli(), of[:8], c.host())
	m := deliver.Message{
		ID:      id,
		From:    c.settings.Mail.From,
		Subject: base.Title,
		Text:    text,
		Date:    base.MadeAt,
		Files:   files,
	}
	if c.plan.Send.InBody {
		var err error
		if m.HTML, err = c.inBody(ctx, a, text, changes); err != nil {
			return p, err
		}
	}
	return letter(p, m, lines)
}

// letter completes a parcel that is a mail.
func letter(p model.Parcel, m deliver.Message, lines []line) (model.Parcel, error) {
	for _, l := range lines {
		p.Recipients = append(p.Recipients, model.Recipient{Address: l.Mail, Name: l.Name, Line: l.Line})
		switch person := (deliver.Person{Name: l.Name, Address: l.Mail}); l.Line {
		case "to":
			m.To = append(m.To, person)
		case "cc":
			m.Cc = append(m.Cc, person)
		}
	}
	var err error
	p.Payload, err = deliver.Compose(m)
	p.Files = filed(m.Files)
	return p, err
}

func filed(files []deliver.Attachment) (out []model.Filed) {
	for _, f := range files {
		out = append(out, model.Filed{Name: f.Name, Bytes: len(f.Data)})
	}
	return out
}

func (room *Room) host() string {
	_, host, ok := strings.Cut(strings.TrimSuffix(room.settings.Mail.From, ">"), "@")
	if !ok {
		return "mantilla"
	}
	return host
}

// inBody writes the sheets as the message's own page.
func (c *composing) inBody(ctx context.Context, a *Access, text string, changes ask.Changes) (string, error) {
	var b bytes.Buffer
	for i, x := range c.results {
		views, err := c.views(x, c.plan.Views[i], changes)
		if err != nil {
			return "", err
		}
		file, err := a.reading.TakeAway(ctx, x, reading.Take{Format: "html", Views: views})
		if err != nil {
			return "", err
		}
		if _, err := file.Write(ctx, &b, nil); err != nil {
			return "", err
		}
	}
	if b.Len() > c.settings.MailLimit {
		return "", nil
	}
	return b.String(), nil
}

// call is the text that an address on the web gets.
func (c *composing) call(value string, rows int, files []deliver.Attachment) ([]byte, error) {
	type file struct {
		Name string `json:"name"`
		Type string `json:"type"`
		Data string `json:"data"` // base64
	}
	out := struct {
		Control  string    `json:"control"`
		Part     string    `json:"part,omitempty"`
		Value    string    `json:"value,omitempty"`
		Moment   time.Time `json:"moment"`
		Results  []string  `json:"results"`
		Sentence []string  `json:"sentences"`
		Rows     int       `json:"rows"`
		Files    []file    `json:"files"`
	}{Control: c.run.Control, Part: c.run.Part, Value: value, Moment: c.run.AskedAt, Rows: rows, Files: []file{}}
	for _, x := range c.results {
		out.Results, out.Sentence = append(out.Results, fmt.Sprintf("R-%06d", x.Number)), append(out.Sentence, x.Sentence)
	}
	copy(out.Sentence, c.said)
	for _, f := range files {
		out.Files = append(out.Files, file{f.Name, f.Type, base64.StdEncoding.EncodeToString(f.Data)})
	}
	return json.Marshal(out)
}
