package mariadb

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"mantilla/demo/mdserver"
	"mantilla/source"
	"mantilla/source/sourcetest"
)

// TestTheServerProvesWhoItIs reads by TLS what a server gives that has the right certificate, and
// nothing of one that has not.
func TestTheServerProvesWhoItIs(t *testing.T) {
	a, dir := sourcetest.NewAuthority(t), t.TempDir()
	if err := os.WriteFile(filepath.Join(dir, mdserver.Certificate), []byte(a.Certificate(t)), 0o644); err != nil {
		t.Fatal(err)
	}
	speaking, err := mdserver.Start(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { speaking.Stop() })
	err = speaking.Exec(t.Context(), "mysql", "create database shop; create user reports identified by '"+password+
		"'; grant select on shop.* to reports")
	if err != nil {
		t.Fatal(err)
	}
	sourcetest.TLS(t, a, func(t *testing.T, on source.Server) error {
		t.Helper()
		on.Port, on.Database, on.User, on.Password = uint16(speaking.Port), "shop", "reports", "there"
		s, err := Open(&source.Config{ID: "there", Kind: "mariadb", Server: &on, Lists: map[string]source.List{"spoken": {
			From: "information_schema.session_status where variable_name = 'SSL_VERSION'", Code: "variable_value",
			Label: "variable_name"}}},
			func(string) (string, error) { return password, nil })
		if err != nil {
			return err
		}
		defer s.Close()
		by, err := s.List(t.Context(), "spoken")
		if err != nil {
			return err
		}
		if len(by) != 1 || by[0].Code != "TLSv1.3" {
			return fmt.Errorf("it is spoken by %+v", by)
		}
		return nil
	})
}
