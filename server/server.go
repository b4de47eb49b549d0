// Package server answers HTTP: it maps the contract to calls of the library,
// streams progress, and serves the console's files.
package server

import (
	"encoding/json"
	"fmt"
	"io/fs"
	"log/slog"
	"net/http"
	"runtime/debug"
	"slices"
	"strings"
	"time"

	"github.com/gin-contrib/gzip"
	"github.com/gin-contrib/requestid"
	"github.com/gin-gonic/gin"

	"mantilla/api"
	"mantilla/library"
	"mantilla/model"
)

// service implements the generated server interface.
type service struct {
	library *library.Library
	version string
	log     *slog.Logger
	closing <-chan struct{} // closed when the service shuts down; ends streams
}

var _ api.StrictServerInterface = (*service)(nil)

// maxBody bounds the bodies of requests.
const maxBody = 4 << 20

// Settings are what the handler is made with beside the library.
type Settings struct {
	Console        fs.FS  // the built console
	Version        string // of the program
	TrustedProxies []string
	Closing        <-chan struct{} // closed when open streams should end
}

// Handler makes the service's HTTP handler. It fails when the proxies are not
// addresses or networks.
func Handler(l *library.Library, o Settings, log *slog.Logger) (http.Handler, error) {
	gin.SetMode(gin.ReleaseMode)
	s := &service{library: l, version: o.Version, log: log, closing: o.Closing}
	engine := gin.New()
	engine.ContextWithFallback = true // handlers see the end of the request
	if err := engine.SetTrustedProxies(o.TrustedProxies); err != nil {
		return nil, fmt.Errorf("trusted-proxies: %w", err)
	}
	engine.Use(requestid.New(), s.logged, s.recovered, trusting(o.TrustedProxies), guarded, bounded, s.signedIn,
		gzip.Gzip(gzip.BestSpeed, gzip.WithExcludedPathsRegexs([]string{`/progress$`, `/file$`})))
	strict := api.NewStrictHandlerWithOptions(s, []api.StrictMiddlewareFunc{lasting}, api.StrictGinServerOptions{
		RequestErrorHandlerFunc: s.refuseRequest, HandlerErrorFunc: s.refuse, ResponseErrorHandlerFunc: s.cutOff})
	api.RegisterHandlersWithOptions(engine, strict, api.GinServerOptions{BaseURL: "/api",
		ErrorHandler: func(c *gin.Context, err error, _ int) { s.refuseRequest(c, err) }})
	engine.GET("/api/openapi.yaml", func(c *gin.Context) { c.Data(http.StatusOK, "application/yaml", api.Contract) })
	engine.NoRoute(s.console(o.Console))
	sites := http.NewCrossOriginProtection()
	sites.SetDenyHandler(http.HandlerFunc(refuseSite))
	return sites.Handler(engine), nil
}

// refuseSite answers a call that another site made a browser send.
func refuseSite(w http.ResponseWriter, _ *http.Request) {
	p := api.Problem{Type: "forbidden", Title: "You may not do this", Status: http.StatusForbidden, Fields: []api.Fault{},
		Detail: "the call came from a page of another site; use the console, or a token"}
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(p.Status)
	_ = json.NewEncoder(w).Encode(p) // whoever does not hear it has gone
}

// lasting gives handlers a context of their own. Gin uses its contexts again
// for other requests, while what a handler began, a file that is written or a
// query that is given up, may look at its context a moment longer.
func lasting(handle api.StrictHandlerFunc, _ string) api.StrictHandlerFunc {
	return func(c *gin.Context, request any) (any, error) { return handle(c.Copy(), request) }
}

func (s *service) logged(c *gin.Context) {
	start := time.Now()
	c.Next()
	s.log.Debug("request", "request", requestid.Get(c), "method", c.Request.Method, "path", c.Request.URL.Path,
		"status", c.Writer.Status(), "bytes", c.Writer.Size(), "elapsed", time.Since(start))
}

// recovered answers a panic as a problem, and lets a cut-off answer pass.
func (s *service) recovered(c *gin.Context) {
	defer func() {
		switch p := recover(); p {
		case nil:
		case http.ErrAbortHandler:
			panic(p)
		default:
			s.log.Error("a request panicked", "request", requestid.Get(c), "path", c.Request.URL.Path, "panic", p, "stack", string(debug.Stack()))
			if c.Writer.Written() {
				panic(http.ErrAbortHandler) // the caller notices that the answer is cut off
			}
			s.refuse(c, fmt.Errorf("a fault in the program: %v", p))
		}
	}()
	c.Next()
}

func bounded(c *gin.Context) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxBody)
}

// console serves the console's files; every path that is a place within the
// console is its page, which its own router reads. Any other path is not there.
func (s *service) console(files fs.FS) gin.HandlerFunc {
	server := http.FileServerFS(files)
	return func(c *gin.Context) {
		path := strings.TrimPrefix(c.Request.URL.Path, "/")
		if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead || strings.HasPrefix(path, "api/") {
			s.refuse(c, &model.Missing{What: "call", Name: c.Request.Method + " " + c.Request.URL.Path})
			return
		}
		if info, err := fs.Stat(files, path); path != "" && err == nil && !info.IsDir() {
			if strings.HasPrefix(path, "assets/") {
				c.Header("Cache-Control", "public, max-age=31536000, immutable")
			}
			c.Status(http.StatusOK)
			server.ServeHTTP(c.Writer, c.Request)
			return
		}
		page, err := fs.ReadFile(files, "index.html")
		place, _, _ := strings.Cut(path, "/")
		switch {
		case err != nil:
			c.String(http.StatusNotFound, "The console was not built into this service; run make build.")
			return
		case !slices.Contains(places, place) && !strings.Contains(c.GetHeader("Accept"), "text/html"):
			c.String(http.StatusNotFound, "There is nothing at this address. The console begins at /.")
			return
		}
		status := http.StatusOK
		if !slices.Contains(places, place) {
			status = http.StatusNotFound // the console says so, and leads on
		}
		c.Header("Cache-Control", "no-cache")
		c.Data(status, "text/html; charset=utf-8", page)
	}
}

// places are the first parts of the console's addresses.
var places = []string{"", "catalog", "reports", "open", "runs", "results", "controls", "timetable", "sending", "office", "account"}
