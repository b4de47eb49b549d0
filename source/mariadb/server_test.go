package mariadb

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"mantilla/demo/mdserver"
	"mantilla/source"
	"mantilla/source/sourcetest"
)

// own is the server that the tests of this package have.
var own *mdserver.Server

func TestMain(m *testing.M) { os.Exit(withServer(m)) }

func withServer(m *testing.M) int {
	dir, err := os.MkdirTemp("", "mantilla-mariadb")
	if err == nil {
		defer os.RemoveAll(dir)
		own, err = mdserver.Start(context.Background(), dir)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "a MariaDB server is needed:", err)
		return 1
	}
	defer own.Stop()
	return m.Run()
}

const password = "only-reads"

// begun makes a database with what statements make in it, and an account that may read it,
// and opens it as a source.
func begun(t *testing.T, name, statements string, change func(*source.Config)) source.Source {
	t.Helper()
	execAs(t, "mysql",
		"create database if not exists "+name+"; create user if not exists reports identified by '"+password+
			"'; grant select, show view on "+name+".* to reports")
	if statements != "" {
		execAs(t, name, statements)
	}
	c := &source.Config{ID: "there", Title: "There", Kind: "mariadb", Server: &source.Server{Host: "127.0.0.1",
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

func execAs(t *testing.T, database, text string) {
	t.Helper()
	if err := own.Exec(context.WithoutCancel(t.Context()), database, text); err != nil {
		t.Fatal(err)
	}
}

var types = sourcetest.Types{Whole: "bigint", Decimal: "decimal(18, 3)", Money: "decimal(18, 2)", Day: "date",
	Moment: "datetime(6)", Flag: "boolean", LargeDecimal: "123456789012345.678", LargeMoney: "9999999999999999.99",
	Stamped: func(iso string) string { return strings.TrimSuffix(strings.Replace(iso, "T", " ", 1), "Z") }}

// TestAgreements holds the kind to what all kinds are held to.
func TestAgreements(t *testing.T) {
	made := 0
	sourcetest.Run(t, func(t *testing.T) sourcetest.Made {
		made++
		name := fmt.Sprint("agreed_", made)
		s := begun(t, name, sourcetest.Script(types), func(c *source.Config) {
			c.Lists, c.Units = sourcetest.Lists(), "units"
		})
		if strings.HasSuffix(t.Name(), "one_state") {
			time.Sleep(3500 * time.Millisecond) // the engine keeps the second of a change
		}
		return sourcetest.Made{Source: s, Types: types, Exec: func(t *testing.T, text string) {
			t.Helper()
			execAs(t, name,
				text)
		},
			Endless: "(select sleep(600)) as slow", Reckons: true}
	})
}

// TestAccountsThatMayWriteAreRefused lets in nobody who could do more than read.
func TestAccountsThatMayWriteAreRefused(t *testing.T) {
	for i, grant := range []string{"insert on writing.*", "all privileges on *.*", "file on *.*"} {
		s := begun(t, "writing",
			fmt.Sprintf("create user writer%d identified by '%s'; grant select on writing.* to writer%d; "+
				"grant %s to writer%d", i, password, i, grant, i), func(c *source.Config) {
				c.Server.User = fmt.Sprint("writer",
					i)
			})
		_, err := s.Tables(t.Context())
		if err == nil || !strings.Contains(err.Error(), "may do more than read") || !strings.Contains(err.Error(),
			"create user") {
			t.Errorf("%s: %v", grant, err)
		}
	}
}

// TestWhatKeepsAServerFromBeingRead is told in words that say what to do.
func TestWhatKeepsAServerFromBeingRead(t *testing.T) {
	for _, c := range []struct {
		name   string
		change func(c *source.Config)
		says   string
	}{
		{"a wrong password", func(c *source.Config) { c.Server.User = "nobody" }, "does not let nobody in"},
		{"nobody at the port", func(c *source.Config) { c.Server.Port = 1 }, "does not answer"},
		{"no TLS", func(c *source.Config) { c.Server.TLS = "" }, "TLS"},
	} {
		s := begun(t, "kept_from", "", c.change)
		if _, err := s.Fingerprint(t.Context()); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", c.name, err)
		}
	}
}

// TestAnAccountMayReadColumnsAlone is let in, with rights on some columns of a table.
func TestAnAccountMayReadColumnsAlone(t *testing.T) {
	s := begun(t, "narrow", "create table lot (no int primary key, kg int, secret text); "+
		"create user narrow identified by '"+password+"'; grant select (no, kg) on narrow.lot to narrow",
		func(c *source.Config) { c.Server.User = "narrow" })
	if _, err := s.Fingerprint(t.Context()); err != nil {
		t.Error(err)
	}
}

// TestAServerThatDiesAndComesBack is silent while it is away, and read again afterwards without
// anybody's doing.
func TestAServerThatDiesAndComesBack(t *testing.T) {
	dir := t.TempDir()
	mortal, err := mdserver.Start(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	if err := mortal.Exec(t.Context(), "mysql", "create database shop; create user reports identified by '"+password+
		"'; grant select on shop.* to reports"); err != nil {
		t.Fatal(err)
	}
	s, err := Open(&source.Config{ID: "mortal", Server: &source.Server{Host: "127.0.0.1", Port: uint16(mortal.Port),
		Database: "shop", User: "reports", Password: "mortal", TLS: "off"},
		Lists: map[string]source.List{"slow": {From: "(select sleep(60) as id) as naps", Code: "id", Label: "id"}}},
		func(string) (string, error) { return password, nil })
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	ended := make(chan error, 1)
	go func() {
		_, err := s.List(t.Context(), "slow")
		ended <- err
	}()
	time.Sleep(300 * time.Millisecond)
	if err := mortal.Kill(); err != nil {
		t.Fatal(err)
	}
	select {
	case err := <-ended:
		if !errors.Is(err, source.ErrSilent) {
			t.Errorf("the query that was cut off: %v", err)
		}
	case <-time.After(10 * time.Second):
		t.Fatal("a query waits for a server that is gone")
	}
	if _, err := s.Fingerprint(t.Context()); !errors.Is(err, source.ErrSilent) {
		t.Errorf("while it is away: %v", err)
	}
	if mortal, err = mdserver.StartAt(t.Context(), dir, mortal.Port); err != nil {
		t.Fatal(err)
	}
	defer mortal.Stop()
	if _, err := s.Fingerprint(t.Context()); err != nil {
		t.Errorf("when it is back: %v", err)
	}
}
