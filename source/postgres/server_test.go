package postgres

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"mantilla/demo/pgserver"
	"mantilla/source"
	"mantilla/source/sourcetest"
)

var types = sourcetest.Types{Whole: "bigint", Decimal: "numeric(18, 3)", Money: "numeric(18, 2)", Day: "date",
	Moment: "timestamptz", Flag: "boolean", LargeDecimal: "123456789012345.678", LargeMoney: "9999999999999999.99"}

// TestAgreements holds the kind to what all kinds are held to.
func TestAgreements(t *testing.T) {
	made := 0
	sourcetest.Run(t, func(t *testing.T) sourcetest.Made {
		made++
		name := fmt.Sprint("agreed_", made)
		return sourcetest.Made{
			Types: types,
			Source: begun(t, name, sourcetest.Script(types), func(c *source.Config) {
				c.Lists, c.Units = sourcetest.Lists(), "units"
			}),
			Exec:    func(t *testing.T, sql string) { t.Helper(); execAs(t, name, sql) },
			Endless: "(select pg_sleep(600)) as slow", Reckons: true,
		}
	})
}

func execAs(t *testing.T, database, sql string) {
	t.Helper()
	if err := own.Exec(context.WithoutCancel(t.Context()), database, sql); err != nil {
		t.Fatal(err)
	}
}

// TestAccountsThatMayWriteAreRefused lets in nobody who could do more than read, and says what
// that is and how an account is made that may not.
func TestAccountsThatMayWriteAreRefused(t *testing.T) {
	for _, c := range []struct{ name, grant, says string }{
		{"changes", "grant update on lot to writer", "it may change lot"},
		{"superuser", "alter role writer superuser", "it is a superuser"},
		{"files", "grant pg_read_server_files to writer", "it is a member of pg_read_server_files"},
	} {
		s := begun(t, "writing_"+c.name, `create table lot (no int);
			do $$ begin if not exists (select 1 from pg_roles where rolname = 'writer') then
				create role writer login password '`+password+`'; end if; end $$;
			grant usage on schema public to writer; `+c.grant, func(c *source.Config) { c.Server.User = "writer" })
		_, err := s.Tables(t.Context())
		if err == nil || !strings.Contains(err.Error(), c.says) || !strings.Contains(err.Error(), "create role") {
			t.Errorf("%s: %v", c.name, err)
		}
		if found := s.Examine(t.Context()); len(found) != 1 || found[0].Good {
			t.Errorf("%s is examined as %+v", c.name, found)
		}
		execAs(t, "writing_"+c.name, "drop owned by writer; drop role writer")
	}
}

// TestWhatKeepsAServerFromBeingRead is told in words that say what to do.
func TestWhatKeepsAServerFromBeingRead(t *testing.T) {
	const table = "create table lot (no int)"
	for _, c := range []struct {
		name   string
		change func(c *source.Config)
		says   string
	}{
		{"a wrong password", func(c *source.Config) { c.Server.User = pgserver.Owner }, "does not let owner in"},
		{"no such database", func(c *source.Config) { c.Server.Database = "nothing" }, `"nothing" does not exist`},
		{"nobody at the port", func(c *source.Config) { c.Server.Port = 1 }, "does not answer"},
		{"no TLS", func(c *source.Config) { c.Server.TLS = "" }, "TLS"},
		{"a query that waits", func(c *source.Config) { c.Server.Longest = "200ms" }, "longer than the 200ms"},
	} {
		s := begun(t, "kept_from", "drop table if exists lot; "+table, c.change)
		began := time.Now()
		_, err := column(t, s, "(select pg_sleep(20)) as x", "1", "type: integer")
		if err == nil || !strings.Contains(err.Error(), c.says) || time.Since(began) > 8*time.Second {
			t.Errorf("%s: after %s, %v", c.name, time.Since(began), err)
		}
	}
	for _, c := range []struct{ from, to, says string }{
		{"", "", ""}, {"user: reports", "", "server.user"}, {"password: there", "password: Hidden!", "no name of a secret"},
		{"tls: off", "tls: maybe", "use verify or off"}, {"connections: 2", "connections: 900", "use 1 to 100"},
		{"longest: 5m", "longest: soon", "write a time"}, {"title: There", "title: There\nfile: x.db",
			"leave the key file out"},
		{"  database: there\n", "", "server.database"},
	} {
		text := `source: there
title: There
kind: postgres
server:
  host: 127.0.0.1
  database: there
  user: reports
  password: there
  tls: off
  connections: 2
  longest: 5m
`
		_, err := source.ParseConfig([]byte(strings.Replace(text, c.from, c.to, 1)))
		if (err == nil) != (c.says == "") || err != nil && !strings.Contains(err.Error(), c.says) {
			t.Errorf("%q: %v", c.to, err)
		}
	}
}

// TestAServerThatDiesAndComesBack is silent while it is away, and read again afterwards without
// anybody's doing.
func TestAServerThatDiesAndComesBack(t *testing.T) {
	dir := t.TempDir()
	mortal, err := pgserver.Start(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	if err := mortal.Exec(t.Context(), "postgres", "create role reports login password '"+password+"'"); err != nil {
		t.Fatal(err)
	}
	open := func() *Server {
		s, err := Open(&source.Config{ID: "mortal", Server: &source.Server{Host: "127.0.0.1", Port: uint16(mortal.Port),
			Database: "postgres", User: "reports", Password: "mortal", TLS: "off"}},
			func(string) (string, error) { return password, nil })
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { s.Close() })
		return s
	}
	s := open()
	ended := make(chan error, 1)
	go func() {
		_, err := column(t, s, "(select pg_sleep(60)) as x", "1", "type: integer")
		ended <- err
	}()
	time.Sleep(300 * time.Millisecond)
	if err := mortal.Kill(); err != nil {
		t.Fatal(err)
	}
	select {
	case err := <-ended:
		if !errors.Is(err, source.ErrSilent) {
			t.Errorf("the run that was cut off: %v", err)
		}
	case <-time.After(10 * time.Second):
		t.Fatal("a run waits for a server that is gone")
	}
	if _, err := s.Fingerprint(t.Context()); !errors.Is(err, source.ErrSilent) {
		t.Errorf("while it is away: %v", err)
	}
	port := mortal.Port
	if mortal, err = pgserver.StartAt(t.Context(), dir, port); err != nil {
		t.Fatal(err)
	}
	defer mortal.Stop()
	if _, err := s.Fingerprint(t.Context()); err != nil {
		t.Errorf("when it is back: %v", err)
	}
}
