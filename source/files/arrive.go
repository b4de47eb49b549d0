package files

import (
	"cmp"
	"context"
	"crypto/tls"
	"crypto/x509"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net/http"
	"os"
	"path"
	"path/filepath"
	"time"

	"mantilla/source"
)

// Arrival is a file that came by itself. State tells it from others without reading it: it is
// handed back at the next look.
type Arrival struct {
	Name  string
	Data  []byte
	State string
}

// MostBytes is how many bytes a file may have.
const MostBytes = 64 << 20

// Arrived looks for a file of a table that is another than that of a state; nil where there is
// none. A folder's newest file counts, once it is no longer written.
func Arrived(ctx context.Context, from *source.FileFrom, at source.Place, state string) (*Arrival, error) {
	if from.Folder != "" {
		return arrivedIn(filepath.Join(at.Dir, source.Inbox, from.Folder), cmp.Or(from.Files, "*"), state)
	}
	return fetched(ctx, from, at.Secrets, state)
}

// settled is how long a file must have been left alone before it is read.
const settled = 2 * time.Second

func arrivedIn(dir, pattern, state string) (*Arrival, error) {
	all, err := os.ReadDir(dir)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("there is no folder %s; make it, and let the service read it", dir)
	}
	if err != nil {
		return nil, err
	}
	var newest fs.FileInfo
	for _, entry := range all {
		if fits, _ := filepath.Match(pattern, entry.Name()); !fits || !entry.Type().IsRegular() {
			continue // the pattern was checked when it was declared
		}
		if info, err := entry.Info(); err == nil && (newest == nil || info.ModTime().After(newest.ModTime())) {
			newest = info // one that is gone by now is none
		}
	}
	if newest == nil || time.Since(newest.ModTime()) < settled {
		return nil, nil
	}
	now := fmt.Sprintf("%s %d %d", newest.Name(), newest.Size(), newest.ModTime().UnixNano())
	if now == state {
		return nil, nil
	}
	if newest.Size() > MostBytes {
		return nil, fmt.Errorf("%s has %d bytes; at most %d are read", newest.Name(), newest.Size(), MostBytes)
	}
	data, err := os.ReadFile(filepath.Join(dir, newest.Name()))
	if err != nil {
		return nil, err
	}
	return &Arrival{Name: newest.Name(), Data: data, State: now}, nil
}

// longestFetch is how long a server may take with a file.
const longestFetch = 2 * time.Minute

func fetched(ctx context.Context, from *source.FileFrom, secrets source.Secrets, state string) (*Arrival, error) {
	ctx, cancel := context.WithTimeout(ctx, longestFetch)
	defer cancel()
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, from.Address, http.NoBody)
	if err != nil {
		return nil, err
	}
	if state != "" {
		request.Header.Set("If-None-Match", state)
	}
	if from.Secret != "" {
		token, err := secrets(from.Secret)
		if err != nil {
			return nil, err
		}
		request.Header.Set("Authorization", "Bearer "+token)
	}
	client, err := clientOf(from)
	if err != nil {
		return nil, err
	}
	defer client.CloseIdleConnections()
	answer, err := client.Do(request)
	if err != nil {
		return nil, err
	}
	defer answer.Body.Close()
	switch answer.StatusCode {
	case http.StatusNotModified:
		return nil, nil
	case http.StatusOK:
	default:
		return nil, fmt.Errorf("%s answers %s", request.URL.Host, answer.Status)
	}
	data, err := io.ReadAll(io.LimitReader(answer.Body, MostBytes+1))
	if err != nil {
		return nil, fmt.Errorf("reading what %s sends: %w", request.URL.Host, err)
	}
	if len(data) > MostBytes {
		return nil, fmt.Errorf("%s sends more than %d bytes", request.URL.Host, MostBytes)
	}
	return &Arrival{Name: path.Base(request.URL.Path), Data: data, State: answer.Header.Get("ETag")}, nil
}

// clientOf follows no redirect away from HTTPS: what is asked for, and a token with it, stays
// within it.
func clientOf(from *source.FileFrom) (*http.Client, error) {
	transport := http.DefaultTransport.(*http.Transport).Clone()
	transport.TLSClientConfig = &tls.Config{MinVersion: tls.VersionTLS12}
	if from.CA != "" {
		text, err := os.ReadFile(from.CA)
		if err != nil {
			return nil, fmt.Errorf("reading the certificates that are trusted: %w", err)
		}
		pool := x509.NewCertPool()
		if !pool.AppendCertsFromPEM(text) {
			return nil, fmt.Errorf("%s has no certificate", from.CA)
		}
		transport.TLSClientConfig.RootCAs = pool
	}
	return &http.Client{Transport: transport, CheckRedirect: func(to *http.Request, via []*http.Request) error {
		if to.URL.Scheme != "https" || len(via) > 3 {
			return fmt.Errorf("it is sent on to %s, which is not followed", to.URL.Redacted())
		}
		return nil
	}}, nil
}
