package server

import (
	"context"
	"crypto/tls"
	"crypto/x509"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"testing"
	"time"

	"mantilla/source/sourcetest"
)

// spoken asks a service by TLS and returns the certificate that it shows, and by which protocol it
// answered.
func spoken(t *testing.T, at, authority string) (*x509.Certificate, string) {
	t.Helper()
	text, err := os.ReadFile(authority)
	if err != nil {
		t.Fatal(err)
	}
	roots := x509.NewCertPool()
	roots.AppendCertsFromPEM(text)
	transport := &http.Transport{TLSClientConfig: &tls.Config{RootCAs: roots, MinVersion: tls.VersionTLS12},
		ForceAttemptHTTP2: true}
	defer transport.CloseIdleConnections()
	r, err := (&http.Client{Transport: transport}).Get("https://" + at)
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	return r.TLS.PeerCertificates[0], r.Proto
}

// TestCertificatesAreReadAgain when their files were changed, and what is half written is passed over.
func TestCertificatesAreReadAgain(t *testing.T) {
	a, dir := sourcetest.NewAuthority(t), t.TempDir()
	certificate, key := filepath.Join(dir, "own.pem"), filepath.Join(dir, "own.key")
	put := func(text string, at time.Time) {
		for _, path := range []string{certificate, key} {
			if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
				t.Fatal(err)
			}
			if err := os.Chtimes(path, at, at); err != nil {
				t.Fatal(err)
			}
		}
	}
	began := time.Now().Add(-time.Hour)
	put(a.Certificate(t), began)
	l, err := Listen("127.0.0.1:0", certificate, key)
	if err != nil {
		t.Fatal(err)
	}
	ctx, end := context.WithCancel(t.Context())
	done := make(chan error, 1)
	go func() {
		done <- Serve(ctx, l, http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
			w.WriteHeader(http.StatusNoContent)
		}), func() {}, slog.New(slog.DiscardHandler))
	}()
	first, proto := spoken(t, l.Addr().String(), a.File)
	if proto != "HTTP/2.0" {
		t.Errorf("it is spoken by %s", proto)
	}
	put("half of it", began.Add(time.Minute))
	if again, _ := spoken(t, l.Addr().String(), a.File); !again.Equal(first) {
		t.Error("what cannot be used takes the place of what could")
	}
	put(a.Certificate(t), began.Add(2*time.Minute))
	if renewed, _ := spoken(t, l.Addr().String(), a.File); renewed.Equal(first) {
		t.Error("the new certificate is not shown")
	}
	end()
	if err := <-done; err != nil {
		t.Error(err)
	}
	if _, err := Listen("127.0.0.1:0", filepath.Join(dir, "none"), key); err == nil {
		t.Error("it listens without its certificate")
	}
}

// TestWhoDoesNotHearIsCutOff, however much there is to say, and who hears slowly is not.
func TestWhoDoesNotHearIsCutOff(t *testing.T) {
	slowest = 400 * time.Millisecond
	defer func() { slowest = time.Minute }()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	wrote := make(chan error, 2)
	ctx, end := context.WithCancel(t.Context())
	defer end()
	go func() {
		_ = Serve(ctx, l, http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			piece := make([]byte, 1<<20)
			for range 64 {
				if _, err := w.Write(piece); err != nil {
					wrote <- err
					return
				}
			}
			wrote <- nil
		}), func() {}, slog.New(slog.DiscardHandler))
	}()
	deaf, err := net.Dial("tcp", l.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	defer deaf.Close()
	if _, err := io.WriteString(deaf, "GET / HTTP/1.1\r\nHost: x\r\n\r\n"); err != nil {
		t.Fatal(err)
	}
	select {
	case err := <-wrote:
		if err == nil {
			t.Error("all was written to who does not hear")
		}
	case <-time.After(10 * time.Second):
		t.Fatal("who does not hear is waited for")
	}
	slow, err := http.Get("http://" + l.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	defer slow.Body.Close()
	heard, piece := 0, make([]byte, 4<<20)
	for {
		n, err := slow.Body.Read(piece)
		heard += n
		if err != nil {
			break
		}
		if heard%(8<<20) < n {
			time.Sleep(100 * time.Millisecond)
		}
	}
	if heard != 64<<20 {
		t.Errorf("who hears slowly heard %d bytes", heard)
	}
}

// TestPaces let somebody ask much at once, and not go on; others are not kept by it.
func TestPaces(t *testing.T) {
	p := newPaces(10)
	refused := 0
	for range 100 {
		if p.wait("person runa") > 0 {
			refused++
		}
	}
	if refused < 35 || refused > 42 {
		t.Errorf("of a hundred requests at once %d are refused", refused)
	}
	if wait := p.wait("person runa"); wait <= 0 || wait > time.Second {
		t.Errorf("the next is to wait for %s", wait)
	}
	if p.wait("person rhea") > 0 {
		t.Error("rhea waits for runa")
	}
	if newPaces(0).wait("anybody") > 0 {
		t.Error("without a rate somebody waits")
	}
}
