package postgres

import (
	"context"
	"errors"
	"fmt"
	"os"
	"testing"

	"mantilla/demo/pgserver"
	"mantilla/source"
)

// own is the server that the tests of this package have.
var own *pgserver.Server

func TestMain(m *testing.M) { os.Exit(withServer(m)) }

func withServer(m *testing.M) int {
	dir, err := os.MkdirTemp("", "mantilla-postgres")
	if err == nil {
		defer os.RemoveAll(dir)
		own, err = pgserver.Start(context.Background(), dir)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "a PostgreSQL server is needed:", err)
		return 1
	}
	defer own.Stop()
	return m.Run()
}

const password = "only-reads"

// begun makes a database with what statements make in it, and an account that may read it,
// and opens it as a source.
func begun(t *testing.T, name, statements string, change func(*source.Config)) *Server {
	t.Helper()
	ctx := t.Context()
	if err := own.NewDatabase(ctx, name); err != nil {
		t.Fatal(err)
	}
	if err := own.Exec(ctx, name, `do $$ begin
			if not exists (select 1 from pg_roles where rolname = 'reports') then
				create role reports login password '`+password+`';
			end if;
		end $$;
		grant usage on schema public to reports;
		alter default privileges in schema public grant select on tables to reports;
		`+statements); err != nil {
		t.Fatal(err)
	}
	c := &source.Config{ID: "there", Title: "There", Kind: "postgres", Server: &source.Server{Host: "127.0.0.1",
		Port: uint16(own.Port), Database: name, User: "reports", Password: "there", TLS: "off"}}
	if change != nil {
		change(c)
	}
	s, err := Open(c, func(name string) (string, error) {
		if name != "there" {
			return "", errors.New("there is no secret " + name)
		}
		return password, nil
	})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}
