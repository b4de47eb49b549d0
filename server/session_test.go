package server_test

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"math/big"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"mantilla/demo"
	"mantilla/demo/demotest"
	"mantilla/server"
)

func TestBrowsersSignInByCookie(t *testing.T) {
	s := demotest.Start(t)
	post := func(body, site string, cookie *http.Cookie, path string) *http.Response {
		request, err := http.NewRequestWithContext(t.Context(), http.MethodPost, s.URL+"/api"+path, strings.NewReader(body))
		if err != nil {
			t.Fatal(err)
		}
		request.Header.Set("Content-Type", "application/json")
		request.Header.Set("Sec-Fetch-Site", site)
		if cookie != nil {
			request.AddCookie(cookie)
		}
		answer, err := http.DefaultClient.Do(request)
		if err != nil {
			t.Fatal(err)
		}
		answer.Body.Close()
		return answer
	}
	if wrong := post(`{"name": "runa", "password": "nothing"}`, "same-origin", nil,
		"/session"); wrong.StatusCode != http.StatusUnauthorized || len(wrong.Cookies()) != 0 {
		t.Errorf("a wrong password: %d", wrong.StatusCode)
	}
	signed := post(`{"name": "runa", "password": "`+demo.Password+`"}`, "same-origin", nil, "/session")
	if signed.StatusCode != http.StatusOK || len(signed.Cookies()) != 1 {
		t.Fatalf("%d %v", signed.StatusCode, signed.Cookies())
	}
	cookie := signed.Cookies()[0]
	if !cookie.HttpOnly || cookie.SameSite != http.SameSiteStrictMode || cookie.Path != "/" {
		t.Errorf("the cookie is %+v", cookie)
	}
	const ask = `{"report": "near-best-before", "values": {}}`
	if own := post(ask, "same-origin", cookie, "/runs"); own.StatusCode != http.StatusCreated {
		t.Errorf("the console itself: %d", own.StatusCode)
	}
	for _, site := range []string{"cross-site", "same-site"} { // with the cookie, but from another site's page
		if other := post(ask, site, cookie, "/runs"); other.StatusCode != http.StatusForbidden {
			t.Errorf("%s: %d", site, other.StatusCode)
		}
	}
}

// certificate writes a certificate of this machine and its key.
func certificate(t *testing.T) (cert, key string) {
	t.Helper()
	private, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	template := x509.Certificate{
		SerialNumber: big.NewInt(1),
		NotAfter:     time.Now().Add(time.Hour),
		IPAddresses:  []net.IP{net.ParseIP("127.0.0.1")},
	}
	der, err := x509.CreateCertificate(rand.Reader, &template, &template, &private.PublicKey, private)
	if err != nil {
		t.Fatal(err)
	}
	secret, err := x509.MarshalECPrivateKey(private)
	if err != nil {
		t.Fatal(err)
	}
	cert, key = filepath.Join(t.TempDir(), "cert.pem"), filepath.Join(t.TempDir(), "key.pem")
	for path, block := range map[string]*pem.Block{
		cert: {Type: "CERTIFICATE", Bytes: der},
		key:  {Type: "EC PRIVATE KEY", Bytes: secret},
	} {
		if err := os.WriteFile(path, pem.EncodeToMemory(block), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	return cert, key
}

func TestListenWithTLS(t *testing.T) {
	cert, key := certificate(t)
	l, err := server.Listen("0.0.0.0:0", cert, key)
	if err != nil {
		t.Fatal(err)
	}
	go http.Serve(l, http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.TLS == nil {
			t.Error("the request came in the open")
		}
	}))
	defer l.Close()
	_, port, _ := net.SplitHostPort(l.Addr().String())
	client := &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{InsecureSkipVerify: true}}}
	answer, err := client.Get("https://127.0.0.1:" + port)
	if err != nil || answer.StatusCode != http.StatusOK {
		t.Fatalf("%v", err)
	}
	answer.Body.Close()
	if _, err := server.Listen("127.0.0.1:0", key, cert); err == nil || !strings.Contains(err.Error(), "cannot be used") {
		t.Errorf("the key as certificate: %v", err)
	}
}
