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
		s, err := Open(&source.Config{ID: "there", Kind: "mariadb", Server: &on},
			func(string) (string, error) { return password, nil })
		if err != nil {
			return err
		}
		defer s.Close()
		var name, by string
		err = s.db.QueryRowContext(t.Context(), "show status like 'Ssl_version'").Scan(&name, &by)
		if err != nil {
			return err
		}
		if by != "TLSv1.3" {
			return fmt.Errorf("it is spoken by %q", by)
		}
		return nil
	})
}
