package deliver

import (
	"bytes"
	"encoding/base64"
	"errors"
	"io"
	"mime"
	"mime/multipart"
	"net"
	"net/http"
	"net/http/httptest"
	"net/mail"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"mantilla/deliver/mailbox"
)

var message = Message{ID: "run-1@brackenfell.example", From: "Reports <reports@brackenfell.example>",
	To: []Person{{"Hollin, the office", "hollin@brackenfell.example"}, {"Lórrin", "lorrin@brackenfell.example"}},
	Cc: []Person{{"", "cc@brackenfell.example"}}, Subject: "Month of Lórrin – 1.234,50 €", Text: "Grüße\nund mehr",
	HTML: "<p>Grüße</p>", Date: time.Date(2026, 10, 15, 12, 0, 0, 0, time.UTC),
	Files: []Attachment{{"Month of Lórrin.csv", "text/csv", []byte("a,b\r\n1,2\r\n")}}}

// TestMessageIsMIME reads a message with the standard library alone.
func TestMessageIsMIME(t *testing.T) {
	text, err := Compose(message)
	if err != nil {
		t.Fatal(err)
	}
	m, err := mail.ReadMessage(bytes.NewReader(text))
	if err != nil {
		t.Fatal(err)
	}
	to, err := m.Header.AddressList("To")
	if err != nil || len(to) != 2 || to[0].Name != "Hollin, the office" || to[1].Name != "Lórrin" {
		t.Errorf("To is %v, %v", to, err)
	}
	subject, err := new(mime.WordDecoder).DecodeHeader(m.Header.Get("Subject"))
	if err != nil || subject != message.Subject {
		t.Errorf("the subject is %q, %v", subject, err)
	}
	if id := m.Header.Get("Message-ID"); id != "<run-1@brackenfell.example>" {
		t.Errorf("the id is %q", id)
	}
	kind, about, err := mime.ParseMediaType(m.Header.Get("Content-Type"))
	if err != nil || kind != "multipart/mixed" {
		t.Fatalf("the message is %s, %v", kind, err)
	}
	var kinds []string
	var file []byte
	for parts := multipart.NewReader(m.Body, about["boundary"]); ; {
		p, err := parts.NextPart()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			t.Fatal(err)
		}
		kind, _, _ := mime.ParseMediaType(p.Header.Get("Content-Type"))
		kinds = append(kinds, kind)
		if kind == "text/csv" {
			if name := p.FileName(); !strings.Contains(name, "rrin.csv") {
				t.Errorf("the file is called %q", name)
			}
			if file, err = io.ReadAll(base64.NewDecoder(base64.StdEncoding, p)); err != nil {
				t.Fatal(err)
			}
		}
	}
	if strings.Join(kinds, " ") != "multipart/alternative text/csv" || string(file) != "a,b\r\n1,2\r\n" {
		t.Errorf("parts %v, file %q", kinds, file)
	}
}

func box(t *testing.T) *mailbox.Box {
	t.Helper()
	b, err := mailbox.Open(t.TempDir(), "127.0.0.1:0", func() time.Time { return message.Date })
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { b.Close() })
	return b
}

func TestEachRecipientHasAnOutcome(t *testing.T) {
	b := box(t)
	b.Refuse("gone@brackenfell.example", 550)
	b.Refuse("full@brackenfell.example", 452)
	text, err := Compose(message)
	if err != nil {
		t.Fatal(err)
	}
	server := Server{Address: b.Address(), From: message.From, TLS: "none"}
	to := []string{"hollin@brackenfell.example", "gone@brackenfell.example", "full@brackenfell.example"}
	got, err := Send(t.Context(), server, to, text)
	if err != nil {
		t.Fatal(err)
	}
	if !got[0].Sent || got[1].Sent || !got[1].Final || got[2].Sent || got[2].Final ||
		!strings.Contains(got[1].Answer, "no mail for gone@") {
		t.Errorf("%+v", got)
	}
	// What comes again by the same id is not kept twice.
	if _, err := Send(t.Context(), server, to[:1], text); err != nil {
		t.Fatal(err)
	}
	if letters := b.Letters(); len(letters) != 1 || letters[0].Recipient != to[0] ||
		letters[0].Subject != message.Subject || b.Again() != 1 {
		t.Errorf("%+v, %d came again", letters, b.Again())
	}
	_, kept, err := b.Message(b.Letters()[0].ID)
	if err != nil {
		t.Fatal(err)
	}
	_, parts, err := mailbox.Parts(kept)
	if err != nil || len(parts) != 3 || parts[0].Type != "text/plain" || string(parts[0].Data) != "Grüße\r\nund mehr" &&
		string(parts[0].Data) != "Grüße\nund mehr" || parts[2].Name != "Month of Lórrin.csv" {
		t.Errorf("%+v, %v", parts, err)
	}
}

func TestNoServerAndNoAnswer(t *testing.T) {
	if _, err := Send(t.Context(), Server{}, []string{"a@example.org"}, nil); !errors.Is(err, ErrNoServer) {
		t.Errorf("without a server: %v", err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	l.Close()
	if _, err := Send(t.Context(), Server{Address: l.Addr().String(), From: message.From}, []string{"a@example.org"},
		nil); err == nil || !strings.Contains(err.Error(), l.Addr().String()) {
		t.Errorf("nobody listens: %v", err)
	}
}

func TestFolder(t *testing.T) {
	root := t.TempDir()
	for range 2 { // putting it again is no harm
		if err := Put(root, "districts/2026", "a.csv", []byte("whole")); err != nil {
			t.Fatal(err)
		}
	}
	all, err := filepath.Glob(filepath.Join(root, "districts/2026/*"))
	text, readErr := os.ReadFile(filepath.Join(root, "districts/2026/a.csv"))
	if err := errors.Join(err, readErr); err != nil || len(all) != 1 || string(text) != "whole" {
		t.Errorf("%v %q %v", all, text, err)
	}
	for _, bad := range [][2]string{{"../out", "a"}, {"in", "../a"}, {"/etc", "a"}} {
		if err := Put(root, bad[0], bad[1], nil); err == nil {
			t.Errorf("%v was written", bad)
		}
	}
}

func TestWebhookIsSigned(t *testing.T) {
	var got *http.Request
	var body []byte
	status := http.StatusOK
	web := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		got = r
		body, _ = io.ReadAll(r.Body)
		w.WriteHeader(status)
	}))
	defer web.Close()
	here := Caller{Allowed: []string{strings.TrimPrefix(web.URL, "http://")}}
	if _, err := here.Call(t.Context(), web.URL, "secret", "run/1", []byte(`{"rows": 3}`)); err != nil {
		t.Fatal(err)
	}
	if sign := got.Header.Get("Mantilla-Signature"); sign != "sha256="+Signature("secret", "run/1", body) ||
		sign == "sha256="+Signature("other", "run/1", body) || got.Header.Get("Mantilla-Delivery") != "run/1" {
		t.Errorf("%v", got.Header)
	}
	for code, final := range map[int]bool{404: true, 410: true, 429: false, 500: false, 503: false} {
		status = code
		if got, err := here.Call(t.Context(), web.URL, "secret", "run/1", nil); err == nil || got != final {
			t.Errorf("%d: final %t, %v", code, got, err)
		}
	}
}

// TestSignature holds the signature against RFC 4231's way of computing it by a
// value that another program gave.
func TestSignature(t *testing.T) {
	// printf '1.x' | openssl dgst -sha256 -hmac key
	if got := Signature("key", "1",
		[]byte("x")); got != "fc4913c41a7bf793267e2a384f3261c9436ec2cd097bd745e7b0d99113f510ec" {
		t.Errorf("got %s", got)
	}
}
