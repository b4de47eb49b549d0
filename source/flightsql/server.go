package flightsql

import (
	"context"
	"errors"
	"fmt"
	"net"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/apache/arrow-go/v18/arrow/flight"
	"github.com/apache/arrow-go/v18/arrow/flight/flightsql"
	"google.golang.org/grpc"
	"google.golang.org/grpc/codes"
	"google.golang.org/grpc/credentials"
	"google.golang.org/grpc/credentials/insecure"
	"google.golang.org/grpc/metadata"
	"google.golang.org/grpc/status"

	"mantilla/source"
)

// How long it may take to reach a server, and how large a batch may be that it sends.
const (
	longestConnect = 5 * time.Second
	largestBatch   = 1 << 28
)

// Server is a server that speaks Flight SQL, as a source.
type Server struct {
	config   *source.Config
	client   *flightsql.Client
	password string
	longest  time.Duration
	most     chan struct{} // one for each session there may be at once

	mu    sync.Mutex
	token string // that the server gave whoever signed in; "" before
}

var _ source.Source = (*Server)(nil)

// Open makes a client of a server, which is not reached yet. It fails when the password is not
// among the secrets, or certificates cannot be read.
func Open(config *source.Config, secrets source.Secrets) (*Server, error) {
	on := config.Server
	s := &Server{config: config, most: make(chan struct{}, on.Connections())}
	var err error
	if on.Password != "" {
		if s.password, err = secrets(on.Password); err != nil {
			return nil, err
		}
	}
	if s.longest, err = on.LongestQuery(); err != nil {
		return nil, err
	}
	speaks, err := on.TLSConfig()
	if err != nil {
		return nil, err
	}
	proof := insecure.NewCredentials()
	if speaks != nil {
		proof = credentials.NewTLS(speaks)
	}
	port := on.Port
	if port == 0 {
		port = 32010
	}
	s.client, err = flightsql.NewClient(net.JoinHostPort(on.Host, strconv.Itoa(int(port))), nil, nil,
		grpc.WithTransportCredentials(proof), grpc.WithDefaultCallOptions(grpc.MaxCallRecvMsgSize(largestBatch)))
	if err != nil {
		return nil, fmt.Errorf("source %s: %w", config.ID, err)
	}
	return s, nil
}

// Engine is none: no results stay there.
func (s *Server) Engine() source.Engine { return nil }

// Rest is how long lists are taken as they were read.
func (s *Server) Rest() time.Duration { return 20 * time.Second }

// Close ends the client.
func (s *Server) Close() error { return s.client.Close() }

// signed is a context whose calls are those of the account, at the database that is declared.
func (s *Server) signed(ctx context.Context) (context.Context, error) {
	on := s.config.Server
	if on.Database != "" {
		ctx = metadata.AppendToOutgoingContext(ctx, "database", on.Database)
	}
	switch {
	case s.password == "":
		return ctx, nil
	case on.User == "":
		return metadata.AppendToOutgoingContext(ctx, "authorization", "Bearer "+s.password), nil
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.token == "" {
		within, err := s.client.Client.AuthenticateBasicToken(ctx, on.User, s.password)
		if err != nil {
			return nil, err
		}
		sent, _ := metadata.FromOutgoingContext(within)
		if tokens := sent.Get("authorization"); len(tokens) > 0 {
			s.token = tokens[len(tokens)-1]
		}
	}
	return metadata.AppendToOutgoingContext(ctx, "authorization", s.token), nil
}

// session is one transaction of the server.
type session struct {
	server *Server
	signed context.Context // of its calls; what ends them is given with each
	txn    *flightsql.Txn
	began  string
}

// Begin begins a transaction.
func (s *Server) Begin(ctx context.Context) (source.Session, error) {
	v, err := s.begin(ctx)
	if err != nil {
		return nil, err
	}
	return v, nil
}

func (s *Server) begin(ctx context.Context) (v *session, err error) {
	select {
	case s.most <- struct{}{}:
	case <-ctx.Done():
		return nil, context.Cause(ctx)
	}
	defer func() {
		if err != nil {
			<-s.most
		}
	}()
	v = &session{server: s, began: time.Now().UTC().Format(time.RFC3339Nano)}
	if v.signed, err = s.signed(context.WithoutCancel(ctx)); err != nil {
		return nil, s.explain(ctx, err)
	}
	within, done := v.within(ctx)
	defer done()
	says, err := s.says(within)
	if err == nil {
		err = says.confined()
	}
	if err == nil {
		v.txn, err = s.client.BeginTransaction(within)
	}
	return v, s.explain(ctx, err)
}

// within is the context of a call of the session that is to end with ctx, or when the source's
// time for a query is over.
func (v *session) within(ctx context.Context) (context.Context, func()) {
	within, leave := context.WithCancelCause(v.signed)
	stop := context.AfterFunc(ctx, func() { leave(context.Cause(ctx)) })
	if longest := v.server.longest; longest > 0 {
		late := time.AfterFunc(longest, func() {
			leave(fmt.Errorf("source %s: the query took longer than the %s that the source allows", v.server.config.ID, longest))
		})
		return within, func() { late.Stop(); stop(); leave(nil) }
	}
	return within, func() { stop(); leave(nil) }
}

// Fingerprint is that of the moment: nothing in the protocol tells whether something was written.
func (v *session) Fingerprint() string { return v.began }

// Close ends the transaction.
func (v *session) Close() error {
	defer func() { <-v.server.most }()
	ctx, cancel := context.WithTimeout(v.signed, longestConnect)
	defer cancel()
	err := v.txn.Rollback(ctx)
	if status.Code(err) == codes.Unavailable { // it is gone, and the transaction with it
		return nil
	}
	return err
}

// Fingerprint is that of the moment, where the server answers.
func (s *Server) Fingerprint(ctx context.Context) (string, error) {
	v, err := s.begin(ctx)
	if err != nil {
		return "", err
	}
	return v.began, v.Close()
}

// said is what a server says of itself.
type said struct {
	name, version string
	onlyRead      bool
	transactions  bool
}

// says asks the server of itself.
func (s *Server) says(ctx context.Context) (of said, err error) {
	info, err := s.client.GetSqlInfo(ctx, nil) // of all that it knows, since some fail of what they do not
	if err != nil {
		return of, err
	}
	err = s.rows(ctx, info, func(cell func(col int) string) error {
		id, err := strconv.ParseUint(cell(0), 10, 32)
		if err != nil {
			return fmt.Errorf("what the server says of itself is numbered %q", cell(0))
		}
		switch flightsql.SqlInfo(id) {
		case flightsql.SqlInfoFlightSqlServerName:
			of.name = cell(1)
		case flightsql.SqlInfoFlightSqlServerVersion:
			of.version = cell(1)
		case flightsql.SqlInfoFlightSqlServerReadOnly:
			of.onlyRead = cell(1) == "true"
		case flightsql.SqlInfoFlightSqlServerTransaction:
			of.transactions = cell(1) != "0"
		}
		return nil
	})
	return of, err
}

// What keeps a server from being a source.
var (
	errMayWrite = errors.New("the server does not say that it can only be read (FLIGHT_SQL_SERVER_READ_ONLY); " +
		"let whoever runs it make one for reports that does")
	errNoState = errors.New("the server has no transactions (FLIGHT_SQL_SERVER_TRANSACTION), so that the queries of a " +
		"report could see several states; read it through one that has")
)

func (of said) confined() error {
	switch {
	case !of.onlyRead:
		return errMayWrite
	case !of.transactions:
		return errNoState
	}
	return nil
}

// explain turns what the server, or the way to it, says into what is wrong with the source.
func (s *Server) explain(ctx context.Context, err error) error {
	switch {
	case err == nil:
		return nil
	case ctx.Err() != nil:
		return context.Cause(ctx)
	}
	told, ok := status.FromError(err)
	if !ok {
		return fmt.Errorf("source %s: %w", s.config.ID, err)
	}
	message, _, _ := strings.Cut(told.Message(), "\n")
	switch told.Code() {
	case codes.Unavailable:
		return fmt.Errorf("source %s %w: %s", s.config.ID, source.ErrSilent, message)
	case codes.Unauthenticated, codes.PermissionDenied:
		s.mu.Lock()
		s.token = "" // which may have ended
		s.mu.Unlock()
		return fmt.Errorf("source %s does not let %s in: %s", s.config.ID, s.config.Server.User, message)
	}
	return fmt.Errorf("source %s: %s", s.config.ID, message)
}

// endpoints are where the rows of a query lie; they are fetched from the server itself.
func (s *Server) endpoints(info *flight.FlightInfo) ([]*flight.FlightEndpoint, error) {
	for _, e := range info.Endpoint {
		here := len(e.Location) == 0
		for _, at := range e.Location {
			here = here || strings.HasPrefix(at.Uri, "arrow-flight-reuse-connection:") ||
				strings.Contains(at.Uri, "//"+s.config.Server.Host+":")
		}
		if !here {
			return nil, fmt.Errorf("its rows lie at %s, which is another server; they are not fetched from there",
				e.Location[0].Uri)
		}
	}
	return info.Endpoint, nil
}
