package secrets_test

import (
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"mantilla/library"
	"mantilla/library/librarytest"
	"mantilla/model"
)

var morning = time.Date(2026, 10, 15, 9, 0, 0, 0, time.UTC)

// declared is a source on a server that is not there, whose password is a secret.
const declared = `source: shop
title: Shop
kind: postgres
server: {host: 127.0.0.1, port: 1, database: shop, user: reports, password: shop-reports, tls: off}
`

// TestSecretsAreSealed keeps a password so that neither the records nor an answer tells it.
func TestSecretsAreSealed(t *testing.T) {
	o := librarytest.NewOffice(t, morning)
	key := filepath.Join(o.Dir, "secrets.key")
	o.During("kept", func(t *testing.T, l *library.Library) {
		lila, aron := librarytest.SignIn(t, l, "lila"), librarytest.SignIn(t, l, "aron")
		ctx := t.Context()
		if err := aron.Secrets.Put(ctx, "shop-reports", "hidden words"); err == nil {
			t.Error("an author keeps a secret")
		}
		if _, err := aron.Secrets.List(ctx); err == nil {
			t.Error("an author lists secrets")
		}
		for name, text := range map[string]string{"Shop": "x", "": "x", "shop": "", "a/b": "x",
			"long": strings.Repeat("x", 1<<15)} {
			var refused *model.Refused
			if err := lila.Secrets.Put(ctx, name, text); !errors.As(err, &refused) {
				t.Errorf("the secret %q of %d bytes: %v", name, len(text), err)
			}
		}
		if err := lila.Secrets.Put(ctx, "shop-reports", "hidden words"); err != nil {
			t.Fatal(err)
		}
		all, err := lila.Secrets.List(ctx)
		if err != nil || len(all) != 1 || all[0].From != model.SecretOfStore || all[0].ChangedBy != "lila" {
			t.Errorf("listed as %+v, %v", all, err)
		}
		if found, err := lila.Catalog.Examine(ctx, "shop", []byte(declared)); err != nil || len(found) != 1 ||
			!strings.Contains(found[0].Says, "does not answer") {
			t.Errorf("a server that is not there is examined as %+v, %v", found, err)
		}
		other := strings.Replace(declared, "shop-reports", "nothing", 1)
		if _, err := lila.Catalog.Examine(ctx, "shop", []byte(other)); err == nil ||
			!strings.Contains(err.Error(), `no secret "nothing"`) || !strings.Contains(err.Error(), "MANTILLA_SECRET_NOTHING") {
			t.Errorf("a secret that there is not: %v", err)
		}
	})
	if info, err := os.Stat(key); err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("the key: %v, %v", info, err)
	}
	files, err := filepath.Glob(filepath.Join(o.Dir, "*"))
	if err != nil {
		t.Fatal(err)
	}
	for _, path := range files {
		if text, err := os.ReadFile(path); err == nil && strings.Contains(string(text), "hidden words") {
			t.Errorf("%s holds the password", path)
		}
	}
	if err := os.WriteFile(key, []byte(strings.Repeat("k", 32)), 0o600); err != nil {
		t.Fatal(err)
	}
	o.During("another key", func(t *testing.T, l *library.Library) {
		lila := librarytest.SignIn(t, l, "lila")
		if _, err := lila.Catalog.Examine(t.Context(), "shop", []byte(declared)); err == nil ||
			!strings.Contains(err.Error(), "cannot be opened with the key") {
			t.Errorf("with another key: %v", err)
		}
		if err := lila.Secrets.Delete(t.Context(), "shop-reports"); err != nil {
			t.Error(err)
		}
		if err := lila.Secrets.Delete(t.Context(), "shop-reports"); err == nil {
			t.Error("deleted twice")
		}
	})
}

// TestSecretsFromElsewhere takes them from the environment and from files, but from none that
// others can read.
func TestSecretsFromElsewhere(t *testing.T) {
	dir := t.TempDir()
	for name, mode := range map[string]os.FileMode{"of-a-file": 0o600, "open-to-all": 0o644} {
		if err := os.WriteFile(filepath.Join(dir, name), []byte("words\n"), mode); err != nil {
			t.Fatal(err)
		}
	}
	t.Setenv("MANTILLA_SECRET_SHOP_REPORTS", "words")
	l := librarytest.OpenWith(t, t.TempDir(), librarytest.At(morning), func(s *library.Settings) { s.Secrets.Dir = dir })
	service := l.AsService()
	all, err := service.Secrets.List(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	var listed []string
	for _, s := range all {
		listed = append(listed, s.Name+" "+s.From)
	}
	if got := strings.Join(listed, ", "); got != "of-a-file file, open-to-all file, shop-reports environment" {
		t.Errorf("listed are %s", got)
	}
	for name, says := range map[string]string{"shop-reports": "", "of-a-file": "",
		"open-to-all": "can be read by others"} {
		found, err := service.Catalog.Examine(t.Context(), "shop", []byte(strings.Replace(declared, "shop-reports", name, 1)))
		if says == "" && (err != nil || !strings.Contains(found[0].Says, "does not answer")) ||
			says != "" && (err == nil || !strings.Contains(err.Error(), says)) {
			t.Errorf("%s: %+v, %v", name, found, err)
		}
	}
}

// TestASourceOpensWithItsSecret reads a source as soon as its password is kept.
func TestASourceOpensWithItsSecret(t *testing.T) {
	o := librarytest.NewOffice(t, morning)
	o.During("kept without lists", func(t *testing.T, l *library.Library) {
		lila := librarytest.SignIn(t, l, "lila")
		ctx := t.Context()
		if err := lila.Secrets.Put(ctx, "shop-reports", "words"); err != nil {
			t.Fatal(err)
		}
		if err := lila.Catalog.PutSource(ctx, "shop", []byte(declared)); err != nil {
			t.Fatal(err) // it has no lists that would be read
		}
		if err := lila.Secrets.Delete(ctx, "shop-reports"); err != nil {
			t.Fatal(err)
		}
		faultOf(t, lila, "no secret")
		if err := lila.Secrets.Put(ctx, "shop-reports", "other words"); err != nil {
			t.Fatal(err)
		}
		faultOf(t, lila, "")
		if _, err := lila.Drafting.Tables(ctx, "shop", ""); err == nil {
			t.Error("a server that is not there has tables")
		}
		faultOf(t, lila, "does not answer")
	})
}

// faultOf compares what keeps the source shop from being read.
func faultOf(t *testing.T, a *library.Access, says string) {
	t.Helper()
	all, err := a.Catalog.Sources(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for _, s := range all {
		if s.ID != "shop" {
			continue
		}
		if (s.Fault == nil) != (says == "") || s.Fault != nil && !strings.Contains(s.Fault.Error(), says) {
			t.Errorf("it cannot be read since %v; want %q", s.Fault, says)
		}
		if silent := says == "does not answer"; silent != !s.Since.IsZero() {
			t.Errorf("it is silent since %s", s.Since)
		}
		return
	}
	t.Error("the source is not listed")
}
