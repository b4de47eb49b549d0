package postgres

import (
	"encoding/base64"
	"fmt"
	"testing"

	"mantilla/demo/pgserver"
	"mantilla/source"
	"mantilla/source/sourcetest"
)

// TestTheServerProvesWhoItIs reads by TLS what a server gives that has the right certificate, and
// nothing of one that has not.
func TestTheServerProvesWhoItIs(t *testing.T) {
	speaking, err := pgserver.Start(t.Context(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { speaking.Stop() })
	a := sourcetest.NewAuthority(t)
	for _, statement := range []string{
		"copy (select '" + base64.StdEncoding.EncodeToString([]byte(a.Certificate(t))) +
			"') to program 'base64 -d > both.pem; chmod 600 both.pem'",
		"alter system set ssl_cert_file = 'both.pem'", "alter system set ssl_key_file = 'both.pem'",
		"alter system set ssl = on", "select pg_reload_conf()",
		"create role reports login password '" + password + "'",
	} {
		if err := speaking.Exec(t.Context(), "postgres", statement); err != nil {
			t.Fatalf("%s: %v", statement, err)
		}
	}
	sourcetest.TLS(t, a, func(t *testing.T, on source.Server) error {
		t.Helper()
		on.Port, on.Database, on.User, on.Password = uint16(speaking.Port), "postgres", "reports", "there"
		s, err := Open(&source.Config{ID: "there", Kind: "postgres", Server: &on},
			func(string) (string, error) { return password, nil })
		if err != nil {
			return err
		}
		defer s.Close()
		v, err := s.begin(t.Context())
		if err != nil {
			return err
		}
		defer v.Close()
		var by string
		if err := v.conn.QueryRow(t.Context(),
			"select version from pg_stat_ssl where pid = pg_backend_pid()").Scan(&by); err != nil ||
			by != "TLSv1.3" {
			return fmt.Errorf("it is spoken by %q, %w", by, err)
		}
		return nil
	})
}
