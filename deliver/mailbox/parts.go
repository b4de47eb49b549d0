package mailbox

import (
	"bytes"
	"encoding/base64"
	"errors"
	"fmt"
	"io"
	"mime"
	"mime/multipart"
	"mime/quotedprintable"
	"net/mail"
	"net/textproto"
	"strings"
)

// Part is one part of a message, decoded.
type Part struct {
	Type string // of media
	Name string // of a file; "" for texts
	Data []byte
}

var words mime.WordDecoder

func decoded(header string) string {
	if text, err := words.DecodeHeader(header); err == nil {
		return text
	}
	return header
}

// Parts reads the parts of a message, those within others too.
func Parts(message []byte) (mail.Header, []Part, error) {
	m, err := mail.ReadMessage(bytes.NewReader(message))
	if err != nil {
		return nil, nil, fmt.Errorf("reading the message: %w", err)
	}
	parts, err := partsOf(textproto.MIMEHeader(m.Header), m.Body)
	return m.Header, parts, err
}

func partsOf(h textproto.MIMEHeader, body io.Reader) ([]Part, error) {
	kind, about, err := mime.ParseMediaType(h.Get("Content-Type"))
	if err != nil {
		kind = "text/plain"
	}
	if strings.HasPrefix(kind, "multipart/") {
		var all []Part
		for reader := multipart.NewReader(body, about["boundary"]); ; {
			p, err := reader.NextRawPart()
			if errors.Is(err, io.EOF) {
				return all, nil
			}
			if err != nil {
				return all, fmt.Errorf("reading a part: %w", err)
			}
			inner, err := partsOf(p.Header, p)
			if err != nil {
				return all, err
			}
			all = append(all, inner...)
		}
	}
	switch strings.ToLower(h.Get("Content-Transfer-Encoding")) {
	case "base64":
		body = base64.NewDecoder(base64.StdEncoding, body)
	case "quoted-printable":
		body = quotedprintable.NewReader(body)
	}
	data, err := io.ReadAll(body)
	if err != nil {
		return nil, fmt.Errorf("reading a part: %w", err)
	}
	_, disposition, _ := mime.ParseMediaType(h.Get("Content-Disposition"))
	name := disposition["filename"]
	if name == "" {
		name = about["name"]
	}
	return []Part{{Type: kind, Name: decoded(name), Data: data}}, nil
}
