package server

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"sync"
	"syscall"
	"time"

	"github.com/coreos/go-systemd/v22/activation"
)

// Listen opens the service's address, with TLS where certificate files are
// given. Passwords must not cross a network in the open, so an address that
// other machines reach is refused without them.
func Listen(address, certificate, key string) (net.Listener, error) {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return nil, fmt.Errorf("%q is not an address; write it as 127.0.0.1:8480", address)
	}
	if ip := net.ParseIP(host); certificate == "" && host != "localhost" && (ip == nil || !ip.IsLoopback()) {
		return nil, fmt.Errorf("%s can be reached from other machines; give --tls-cert and --tls-key, or listen on 127.0.0.1",
			address)
	}
	l, err := listened(address)
	if errors.Is(err, syscall.EADDRINUSE) {
		return nil, fmt.Errorf("the address %s is taken by another program; stop it or choose another with --address",
			address)
	}
	if err != nil {
		return nil, fmt.Errorf("listening on %s: %w", address, err)
	}
	if certificate == "" {
		return l, nil
	}
	files := &pair{certificate: certificate, key: key}
	if _, err := files.of(nil); err != nil {
		return nil, errors.Join(err, l.Close())
	}
	return tls.NewListener(l, &tls.Config{GetCertificate: files.of, MinVersion: tls.VersionTLS12,
		NextProtos: []string{"h2", "http/1.1"}}), nil
}

// listened is a socket that systemd hands on, or one of our own.
func listened(address string) (net.Listener, error) {
	handed, err := activation.Listeners()
	if err != nil {
		return nil, fmt.Errorf("taking the socket that systemd hands on: %w", err)
	}
	if len(handed) > 0 && handed[0] != nil {
		return handed[0], nil
	}
	return net.Listen("tcp", address)
}

// pair is a certificate with its key in files, which are read again when they were changed, as by
// what renews them.
type pair struct {
	certificate, key string

	mu      sync.Mutex
	read    time.Time // when the newer of the files was changed
	present *tls.Certificate
}

// of is the certificate as the files have it. Where what is there now cannot be used, as between the
// writing of one and of the other, the one before is.
func (p *pair) of(*tls.ClientHelloInfo) (*tls.Certificate, error) {
	p.mu.Lock()
	defer p.mu.Unlock()
	changed, err := newest(p.certificate, p.key)
	if err == nil && p.present != nil && changed.Equal(p.read) {
		return p.present, nil
	}
	var now tls.Certificate
	if err == nil {
		now, err = tls.LoadX509KeyPair(p.certificate, p.key)
	}
	switch {
	case err == nil:
		p.present, p.read = &now, changed
	case p.present == nil:
		return nil, fmt.Errorf("the certificate %s with the key %s cannot be used: %w", p.certificate, p.key, err)
	}
	return p.present, nil
}

// newest is when the newer of two files was changed.
func newest(one, other string) (at time.Time, err error) {
	for _, path := range []string{one, other} {
		info, err := os.Stat(path)
		if err != nil {
			return at, err
		}
		if info.ModTime().After(at) {
			at = info.ModTime()
		}
	}
	return at, nil
}

// Serve answers on the listener until the context ends; then it lets requests
// under way finish for a few seconds. Closing is called first, to end streams.
func Serve(ctx context.Context, l net.Listener, handler http.Handler, closing func(), log *slog.Logger) error {
	server := &http.Server{Handler: lively(handler), ReadHeaderTimeout: 10 * time.Second, ReadTimeout: time.Minute,
		IdleTimeout: 2 * time.Minute,
		ErrorLog:    slog.NewLogLogger(log.Handler(), slog.LevelWarn)}
	failed := make(chan error, 1)
	go func() { failed <- server.Serve(l) }()
	select {
	case err := <-failed:
		return fmt.Errorf("serving: %w", err)
	case <-ctx.Done():
	}
	log.InfoContext(ctx, "shutting down")
	closing()
	grace, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	if err := server.Shutdown(grace); err != nil {
		return errors.Join(fmt.Errorf("shutting down: %w", err), server.Close())
	}
	return nil
}

// slowest is how long whoever asked may take to hear a piece of the answer, before they are cut off.
var slowest = time.Minute

// lively cuts off who does not take the answer, however long it is.
func lively(handler http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		lively := &livelyWriter{w, http.NewResponseController(w), time.Time{}}
		handler.ServeHTTP(lively, r)
		lively.extend() // for what is still to be sent
	})
}

type livelyWriter struct {
	http.ResponseWriter
	control *http.ResponseController
	until   time.Time
}

// extend gives the next piece its time.
func (w *livelyWriter) extend() {
	if now := time.Now(); w.until.Sub(now) < slowest/2 {
		w.until = now.Add(slowest)
		_ = w.control.SetWriteDeadline(w.until) // a writer of a test has none
	}
}

// WriteHeader sends the head of the answer.
func (w *livelyWriter) WriteHeader(status int) {
	w.extend()
	w.ResponseWriter.WriteHeader(status)
}

// Write writes a piece, which has to be taken in time.
func (w *livelyWriter) Write(piece []byte) (int, error) {
	w.extend()
	return w.ResponseWriter.Write(piece)
}

// Flush sends what was written.
func (w *livelyWriter) Flush() { _ = w.control.Flush() }

// Unwrap is the writer beneath, for what it can do beyond that.
func (w *livelyWriter) Unwrap() http.ResponseWriter { return w.ResponseWriter }
