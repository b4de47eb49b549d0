package flightsql

import (
	"context"
	"errors"
	"fmt"
	"net"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/apache/arrow-go/v18/arrow/flight/flightsql"
	"google.golang.org/grpc"
	"google.golang.org/grpc/codes"
	"google.golang.org/grpc/credentials"
	"google.golang.org/grpc/metadata"
	"google.golang.org/grpc/status"

	"mantilla/demo/pgserver"
	"mantilla/source"
	"mantilla/source/sourcetest"
)

// own is the server that the stand-in asks.
var own *pgserver.Server

func TestMain(m *testing.M) { os.Exit(withServer(m)) }

func withServer(m *testing.M) int {
	dir, err := os.MkdirTemp("", "mantilla-flightsql")
	if err == nil {
		defer os.RemoveAll(dir)
		own, err = pgserver.Start(context.Background(), dir)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "a PostgreSQL server is needed, for the stand-in:", err)
		return 1
	}
	defer own.Stop()
	return m.Run()
}

const password = "only-reads"

func execAs(t *testing.T, database, text string) {
	t.Helper()
	if err := own.Exec(context.WithoutCancel(t.Context()), database, text); err != nil {
		t.Fatal(err)
	}
}

// made makes a database with what statements make in it.
func made(t *testing.T, database, statements string) {
	t.Helper()
	if err := own.NewDatabase(t.Context(), database); err != nil {
		t.Fatal(err)
	}
	execAs(t, database, `do $$ begin
			if not exists (select 1 from pg_roles where rolname = 'reports') then
				create role reports login password '`+password+`';
			end if;
		end $$;
		alter default privileges in schema public grant select on tables to reports;
		`+statements)
}

// opened is the server at an address as a source.
func opened(t *testing.T, at string, change func(*source.Config)) *Server {
	t.Helper()
	host, port, err := net.SplitHostPort(at)
	if err != nil {
		t.Fatal(err)
	}
	n, err := strconv.ParseUint(port, 10, 16)
	if err != nil {
		t.Fatal(err)
	}
	c := &source.Config{ID: "there", Kind: "flightsql", Units: "units", Lists: sourcetest.Lists(),
		Server: &source.Server{Host: host, Port: uint16(n), TLS: "off"}}
	if change != nil {
		change(c)
	}
	s, err := Open(c, func(string) (string, error) { return password, nil })
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s
}

var types = sourcetest.Types{Whole: "bigint", Decimal: "numeric(18, 3)", Money: "numeric(18, 2)", Day: "date",
	Moment: "timestamptz", Flag: "boolean", LargeDecimal: "123456789012345.678", LargeMoney: "9999999999999999.99"}

// TestAgreements holds the kind to what all kinds are held to.
func TestAgreements(t *testing.T) {
	number := 0
	sourcetest.Run(t, func(t *testing.T) sourcetest.Made {
		number++
		name := fmt.Sprint("agreed_", number)
		made(t, name, sourcetest.Script(types))
		return sourcetest.Made{Source: opened(t, start(t, name).at, nil), Types: types,
			Exec:    func(t *testing.T, text string) { t.Helper(); execAs(t, name, text) },
			Endless: "(select pg_sleep(600)) as slow", Accents: true, Timeless: true}
	})
}

// TestAServerHasToSayThatItCanOnlyBeRead, and that it has transactions, before it is read.
func TestAServerHasToSayThatItCanOnlyBeRead(t *testing.T) {
	made(t, "unsaid", "")
	for says, change := range map[string]func(s *standin) error{
		"FLIGHT_SQL_SERVER_READ_ONLY": func(s *standin) error {
			return s.RegisterSqlInfo(flightsql.SqlInfoFlightSqlServerReadOnly, false)
		},
		"FLIGHT_SQL_SERVER_TRANSACTION": func(s *standin) error {
			return s.RegisterSqlInfo(flightsql.SqlInfoFlightSqlServerTransaction, int32(0))
		},
	} {
		on := start(t, "unsaid")
		if err := change(on); err != nil {
			t.Fatal(err)
		}
		s := opened(t, on.at, nil)
		if _, err := s.Fingerprint(t.Context()); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", says, err)
		}
		if found := s.Examine(t.Context()); len(found) != 2 || found[1].Good {
			t.Errorf("%s is examined as %+v", says, found)
		}
	}
}

// TestSigningIn is with a name and a password, or with a token, and the database goes with each call.
func TestSigningIn(t *testing.T) {
	made(t, "signed", "")
	var sent []string
	checks := func(ctx context.Context) error {
		got, _ := metadata.FromIncomingContext(ctx)
		sent = append(sent, strings.Join(append(got.Get("authorization"), got.Get("database")...), " "))
		if by := got.Get("authorization"); len(by) == 1 && strings.HasPrefix(by[0], "Bearer") {
			if by[0] != "Bearer "+password {
				return status.Error(codes.Unauthenticated, "the token is not known")
			}
		}
		return nil
	}
	on := start(t, "signed", grpc.ChainStreamInterceptor(func(srv any, stream grpc.ServerStream,
		info *grpc.StreamServerInfo,
		next grpc.StreamHandler) error {
		if err := checks(stream.Context()); err != nil {
			return err
		}
		if strings.HasSuffix(info.FullMethod, "/Handshake") {
			return stream.SendHeader(metadata.Pairs("authorization", "Bearer "+password))
		}
		return next(srv, stream)
	}), grpc.ChainUnaryInterceptor(func(ctx context.Context, r any, _ *grpc.UnaryServerInfo, next grpc.UnaryHandler) (any,
		error) {
		if err := checks(ctx); err != nil {
			return nil, err
		}
		return next(ctx, r)
	}))
	s := opened(t, on.at, func(c *source.Config) {
		c.Server.User, c.Server.Password, c.Server.Database = "reports", "there", "shop"
	})
	for range 2 {
		if _, err := s.Fingerprint(t.Context()); err != nil {
			t.Fatal(err)
		}
	}
	if basic := slices.DeleteFunc(slices.Clone(sent), func(x string) bool {
		return !strings.HasPrefix(x,
			"Basic")
	}); len(basic) !=
		1 || sent[len(sent)-1] != "Bearer "+password+" shop" {
		t.Errorf("it was signed with %v", sent)
	}
	s.token = "Bearer of long ago"
	if _, err := s.Fingerprint(t.Context()); err == nil || !strings.Contains(err.Error(), "does not let reports in") {
		t.Errorf("a token that has ended: %v", err)
	}
	if _, err := s.Fingerprint(t.Context()); err != nil {
		t.Errorf("and then: %v", err)
	}
	s = opened(t, on.at, func(c *source.Config) { c.Server.Password = "there" })
	if _, err := s.Fingerprint(t.Context()); err != nil {
		t.Errorf("by a token alone: %v", err)
	}
}

// TestWhatKeepsAServerFromBeingRead is told in words that say what to do.
func TestWhatKeepsAServerFromBeingRead(t *testing.T) {
	made(t, "kept_from", "")
	on := start(t, "kept_from")
	for _, c := range []struct {
		name   string
		change func(c *source.Config)
		says   string
		is     error
	}{
		{"nobody at the port", func(c *source.Config) { c.Server.Port = 1 }, "does not answer", source.ErrSilent},
		{"no TLS", func(c *source.Config) { c.Server.TLS = "" }, "TLS", source.ErrSilent},
		{"a query that waits", func(c *source.Config) {
			c.Server.Longest = "200ms"
			c.Lists = map[string]source.List{"units": {From: "(select pg_sleep(60)::text as id) as slow", Code: "id",
				Label: "id"}}
		}, "longer than the 200ms", nil},
	} {
		s := opened(t, on.at, c.change)
		began := time.Now()
		_, err := s.List(t.Context(), "units")
		if took := time.Since(began); err == nil || !strings.Contains(err.Error(), c.says) || took > 8*time.Second ||
			c.is != nil && !errors.Is(err, c.is) {
			t.Errorf("%s after %s: %v", c.name, took, err)
		}
	}
}

// TestTLS is spoken to servers that have a certificate of an authority which is trusted.
func TestTLS(t *testing.T) {
	made(t, "spoken", "")
	a := sourcetest.NewAuthority(t)
	pair := a.Pair(t)
	on := start(t, "spoken", grpc.Creds(credentials.NewServerTLSFromCert(&pair)))
	_, port, err := net.SplitHostPort(on.at)
	if err != nil {
		t.Fatal(err)
	}
	sourcetest.TLS(t, a, func(t *testing.T, server source.Server) error {
		t.Helper()
		s := opened(t, net.JoinHostPort(server.Host, port), func(c *source.Config) {
			c.Server.TLS, c.Server.CA = "", server.CA
		})
		_, err := s.Fingerprint(t.Context())
		return err
	})
}
