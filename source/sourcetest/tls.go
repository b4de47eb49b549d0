package sourcetest

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"mantilla/source"
)

// Authority is one that signs certificates.
type Authority struct {
	File string // with its own certificate
	own  *x509.Certificate
	key  *ecdsa.PrivateKey
}

// NewAuthority makes one of its own.
func NewAuthority(t *testing.T) *Authority {
	t.Helper()
	a := &Authority{key: newKey(t), File: filepath.Join(t.TempDir(), "authority.pem")}
	a.own = &x509.Certificate{SerialNumber: big.NewInt(1), Subject: pkix.Name{CommonName: "Authority of a test"},
		NotAfter: time.Now().Add(time.Hour), IsCA: true, BasicConstraintsValid: true, KeyUsage: x509.KeyUsageCertSign}
	text, err := x509.CreateCertificate(rand.Reader, a.own, a.own, &a.key.PublicKey, a.key)
	if err == nil {
		err = os.WriteFile(a.File, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: text}), 0o600)
	}
	if err != nil {
		t.Fatal(err)
	}
	return a
}

func newKey(t *testing.T) *ecdsa.PrivateKey {
	t.Helper()
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	return key
}

// Certificate is one of a server at 127.0.0.1, with its key, in PEM.
func (a *Authority) Certificate(t *testing.T) string {
	t.Helper()
	key := newKey(t)
	c := &x509.Certificate{SerialNumber: big.NewInt(2), Subject: pkix.Name{CommonName: "A server"},
		NotAfter: time.Now().Add(time.Hour), IPAddresses: []net.IP{net.IPv4(127, 0, 0, 1)},
		ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}}
	text, err := x509.CreateCertificate(rand.Reader, c, a.own, &key.PublicKey, a.key)
	if err != nil {
		t.Fatal(err)
	}
	private, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		t.Fatal(err)
	}
	return string(pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: text})) +
		string(pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: private}))
}

// Pair is such a certificate as a server of TLS has it.
func (a *Authority) Pair(t *testing.T) tls.Certificate {
	t.Helper()
	text := []byte(a.Certificate(t))
	pair, err := tls.X509KeyPair(text, text)
	if err != nil {
		t.Fatal(err)
	}
	return pair
}

// TLS holds a server that has a certificate of an authority to being who it says it is: it is let
// in by nobody who trusts another, or who wanted another server.
func TLS(t *testing.T, a *Authority, reach func(t *testing.T, on source.Server) error) {
	t.Helper()
	for name, c := range map[string]struct{ host, ca, says string }{
		"its own authority": {"127.0.0.1", a.File, ""},
		"another authority": {"127.0.0.1", NewAuthority(t).File, "certificate"},
		"the system's":      {"127.0.0.1", "", "certificate"},
		"another server":    {"localhost", a.File, "certificate"},
	} {
		err := reach(t, source.Server{Host: c.host, CA: c.ca})
		if c.says == "" && err != nil || c.says != "" && (err == nil || !strings.Contains(err.Error(), c.says)) {
			t.Errorf("trusting %s: %v", name, err)
		}
	}
}
