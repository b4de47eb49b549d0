package server

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"syscall"
	"time"
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
	l, err := net.Listen("tcp", address)
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
	pair, err := tls.LoadX509KeyPair(certificate, key)
	if err != nil {
		return nil, errors.Join(fmt.Errorf("the certificate %s with the key %s cannot be used: %w", certificate, key, err),
			l.Close())
	}
	return tls.NewListener(l, &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12}), nil
}

// Serve answers on the listener until the context ends; then it lets requests
// under way finish for a few seconds. Closing is called first, to end streams.
func Serve(ctx context.Context, l net.Listener, handler http.Handler, closing func(), log *slog.Logger) error {
	server := &http.Server{Handler: handler, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: time.Minute,
		IdleTimeout: 2 * time.Minute,
		ErrorLog:    slog.NewLogLogger(log.Handler(), slog.LevelWarn)}
	failed := make(chan error, 1)
	go func() { failed <- server.Serve(l) }()
	select {
	case err := <-failed:
		return fmt.Errorf("serving: %w", err)
	case <-ctx.Done():
	}
	log.Info("shutting down")
	closing()
	grace, cancel := context.WithTimeout(context.Background(), 5*time.Second)
	defer cancel()
	if err := server.Shutdown(grace); err != nil {
		return errors.Join(fmt.Errorf("shutting down: %w", err), server.Close())
	}
	return nil
}
