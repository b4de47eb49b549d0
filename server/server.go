// Package server answers HTTP: it maps the contract to calls of the library,
// streams progress, and serves the console's files.
package server

import (
	"io/fs"
	"log/slog"
	"net/http"
	"runtime/debug"
	"strings"
	"time"

	"github.com/gin-contrib/gzip"
	"github.com/gin-contrib/requestid"
	"github.com/gin-gonic/gin"

	"mantilla/api"
	"mantilla/library"
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

// Handler makes the service's HTTP handler. Console holds the built console;
// the channel is closed when open streams should end.
func Handler(l *library.Library, console fs.FS, version string, log *slog.Logger, closing <-chan struct{}) http.Handler {
	gin.SetMode(gin.ReleaseMode)
	s := &service{library: l, version: version, log: log, closing: closing}
	engine := gin.New()
	engine.ContextWithFallback = true // handlers see the end of the request
	engine.Use(requestid.New(), s.logged, s.recovered, bounded, s.signedIn,
		gzip.Gzip(gzip.BestSpeed, gzip.WithExcludedPathsRegexs([]string{`/progress$`, `/file$`})))
	strict := api.NewStrictHandlerWithOptions(s, []api.StrictMiddlewareFunc{lasting}, api.StrictGinServerOptions{
		RequestErrorHandlerFunc: s.refuseRequest, HandlerErrorFunc: s.refuse, ResponseErrorHandlerFunc: s.cutOff})
	api.RegisterHandlersWithOptions(engine, strict, api.GinServerOptions{BaseURL: "/api",
		ErrorHandler: func(c *gin.Context, err error, _ int) { s.refuseRequest(c, err) }})
	engine.GET("/api/openapi.yaml", func(c *gin.Context) { c.Data(http.StatusOK, "application/yaml", api.Contract) })
	engine.NoRoute(s.console(console))
	return http.NewCrossOriginProtection().Handler(engine)
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
			c.AbortWithStatus(http.StatusInternalServerError)
		}
	}()
	c.Next()
}

func bounded(c *gin.Context) {
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxBody)
}

// console serves the console's files; every path that is not a file is a place
// within the console, which its own router finds.
func (s *service) console(files fs.FS) gin.HandlerFunc {
	server := http.FileServerFS(files)
	return func(c *gin.Context) {
		path := strings.TrimPrefix(c.Request.URL.Path, "/")
		if strings.HasPrefix(path, "api/") {
			s.refuse(c, &library.Missing{What: "call", Name: c.Request.Method + " " + c.Request.URL.Path})
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
		if err != nil {
			c.String(http.StatusNotFound, "The console was not built into this service; run make build.")
			return
		}
		c.Header("Cache-Control", "no-cache")
		c.Header("Content-Security-Policy", "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:")
		c.Data(http.StatusOK, "text/html; charset=utf-8", page)
	}
}
