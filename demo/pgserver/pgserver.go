// Package pgserver runs a PostgreSQL server of one's own from the packages that are
// installed: on loopback, with its data below one directory. The demo and the tests
// use it.
package pgserver

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

// ErrMissing says that no server is installed.
var ErrMissing = errors.New("no PostgreSQL server is installed; on Debian, apt-get install postgresql brings one")

// Owner is the account that may do everything, from this machine alone.
const Owner = "owner"

// Server is a server that runs.
type Server struct {
	Port     int
	Password string // of the owner

	command *exec.Cmd
	ended   chan error
}

// Start makes the server's files, where there are none yet, and starts it at a free port.
func Start(ctx context.Context, dir string) (*Server, error) {
	port, err := FreePort(ctx)
	if err != nil {
		return nil, err
	}
	return StartAt(ctx, dir, port)
}

// StartAt starts a server at a port. Its data are those of a demo or a test: it does not wait
// until they are on the disk.
func StartAt(ctx context.Context, dir string, port int) (*Server, error) {
	bin, err := programs()
	if err != nil {
		return nil, err
	}
	if dir, err = filepath.Abs(dir); err != nil {
		return nil, err
	}
	who, err := Account(dir, "postgres")
	if err != nil {
		return nil, err
	}
	s := &Server{Port: port, Password: "owner-of-the-demo"}
	data := filepath.Join(dir, "data")
	if _, err := os.Stat(filepath.Join(data, "PG_VERSION")); errors.Is(err, fs.ErrNotExist) {
		if err := s.make(ctx, bin, dir, data, who); err != nil {
			return nil, err
		}
	}
	for began := time.Now(); ; time.Sleep(200 * time.Millisecond) {
		said, err := s.launch(ctx, bin, dir, data, who)
		if err == nil {
			return s, nil
		}
		// What a server did that was killed may go on for a moment.
		if ctx.Err() != nil || !strings.Contains(said, "is still in use") || time.Since(began) > longestStart {
			return nil, fmt.Errorf("starting PostgreSQL: %w\n%s", err, said)
		}
	}
}

// launch starts the server and waits until it answers; where it does not, it is told what the server said.
func (s *Server) launch(ctx context.Context, bin, dir, data string, who *syscall.Credential) (said string, err error) {
	log, err := os.OpenFile(filepath.Join(dir, "log"), os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return "", err
	}
	defer log.Close()
	s.ended = make(chan error, 1)
	s.command = exec.Command(filepath.Join(bin, "postgres"), "-D", data, "-p", strconv.Itoa(s.Port), "-k", "",
		"-c", "listen_addresses=127.0.0.1", "-c", "fsync=off", "-c", "synchronous_commit=off", "-c", "full_page_writes=off",
		"-c", "max_connections=60", "-c", "shared_buffers=128MB", "-c", "lc_messages=C")
	s.command.Stdout, s.command.Stderr = log, log
	s.command.Dir = dir
	s.command.SysProcAttr = &syscall.SysProcAttr{Credential: who, Setpgid: true}
	if err := s.command.Start(); err != nil {
		return "", err
	}
	go func() { s.ended <- s.command.Wait() }()
	if err := s.awaitReady(ctx); err != nil {
		text, _ := os.ReadFile(log.Name()) // what it said helps, where it said anything
		return string(text), errors.Join(err, s.Stop())
	}
	return "", nil
}

// make makes the files of a server.
func (s *Server) make(ctx context.Context, bin, dir, data string, who *syscall.Credential) error {
	password := filepath.Join(dir, "password")
	if err := os.WriteFile(password, []byte(s.Password), 0o600); err != nil {
		return err
	}
	defer os.Remove(password)
	if who != nil {
		if err := os.Chown(password, int(who.Uid), int(who.Gid)); err != nil {
			return err
		}
	}
	init := exec.CommandContext(ctx, filepath.Join(bin, "initdb"), "-D", data, "-U", Owner, "--pwfile", password,
		"--auth=scram-sha-256", "--encoding=UTF8", "--locale=C.UTF-8", "--no-sync")
	init.Dir = dir
	init.SysProcAttr = &syscall.SysProcAttr{Credential: who}
	if out, err := init.CombinedOutput(); err != nil {
		return fmt.Errorf("making the files of PostgreSQL: %w\n%s", err, out)
	}
	return nil
}

// programs is where the server's programs are, of the newest version that is installed.
func programs() (string, error) {
	found, err := filepath.Glob("/usr/lib/postgresql/*/bin/initdb")
	if err != nil {
		return "", err
	}
	if len(found) == 0 {
		path, err := exec.LookPath("initdb")
		if err != nil {
			return "", ErrMissing
		}
		return filepath.Dir(path), nil
	}
	version := func(path string) int {
		n, _ := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(path)))) // others are older
		return n
	}
	slices.SortFunc(found, func(a, b string) int { return version(b) - version(a) })
	return filepath.Dir(found[0]), nil
}

// Account is whom a server runs as: nobody else than who runs this, but for the superuser of
// the machine, as whom servers of databases do not run; then it is somebody of that name, or
// nobody. The directory becomes theirs.
func Account(dir, name string) (*syscall.Credential, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	if os.Geteuid() != 0 {
		return nil, nil
	}
	who, err := user.Lookup(name)
	if err != nil {
		who, err = user.Lookup("nobody")
	}
	if err != nil {
		return nil, fmt.Errorf("finding an account to run a server as: %w", err)
	}
	uid, err1 := strconv.ParseUint(who.Uid, 10, 32)
	gid, err2 := strconv.ParseUint(who.Gid, 10, 32)
	if err := errors.Join(err1, err2); err != nil {
		return nil, err
	}
	if err := os.Chown(dir, int(uid), int(gid)); err != nil {
		return nil, err
	}
	// It must get there through the directories above, which others may not be let into.
	for above := filepath.Dir(dir); above != filepath.Dir(above); above = filepath.Dir(above) {
		info, err := os.Stat(above)
		if err != nil {
			return nil, err
		}
		if info.Mode().Perm()&0o001 == 0 {
			if err := os.Chmod(above, info.Mode().Perm()|0o001); err != nil {
				return nil, err
			}
		}
	}
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

// FreePort is a port of this machine that nobody listens at.
func FreePort(ctx context.Context) (int, error) {
	l, err := (&net.ListenConfig{}).Listen(ctx, "tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// longestStart is how long a server may take until it answers.
const longestStart = 30 * time.Second

func (s *Server) awaitReady(ctx context.Context) error {
	return AwaitReady(ctx, longestStart, s.ended, func(ctx context.Context) error {
		return s.Exec(ctx, "postgres", "select 1")
	})
}

// AwaitReady waits until a server that was started answers, at most so long; it fails when the
// server ends instead, whose end is left in ended for who stops it.
func AwaitReady(ctx context.Context, longest time.Duration, ended chan error, ask func(context.Context) error) error {
	ctx, cancel := context.WithTimeout(ctx, longest)
	defer cancel()
	for {
		err := ask(ctx)
		if err == nil {
			return nil
		}
		select {
		case <-ctx.Done():
			return errors.Join(err, ctx.Err())
		case end := <-ended:
			ended <- end
			return errors.Join(errors.New("it ended at once"), end)
		case <-time.After(50 * time.Millisecond):
		}
	}
}

// Connect connects to a database as its owner.
func (s *Server) Connect(ctx context.Context, database string) (*pgx.Conn, error) {
	return pgx.Connect(ctx, fmt.Sprintf("host=127.0.0.1 port=%d user=%s password=%s dbname=%s sslmode=disable", s.Port,
		Owner,
		s.Password, database))
}

// Exec runs statements, with semicolons between, as the owner.
func (s *Server) Exec(ctx context.Context, database, statements string) error {
	conn, err := s.Connect(ctx, database)
	if err != nil {
		return err
	}
	_, err = conn.PgConn().Exec(ctx, statements).ReadAll()
	return errors.Join(err, conn.Close(context.WithoutCancel(ctx)))
}

// NewDatabase makes a database, where there is none of the name yet.
func (s *Server) NewDatabase(ctx context.Context, name string) error {
	err := s.Exec(ctx, "postgres", "create database "+pgx.Identifier{name}.Sanitize())
	if err != nil && strings.Contains(err.Error(), "already exists") {
		return nil
	}
	return err
}

// Kill ends the server at once, as a loss of power would.
func (s *Server) Kill() error {
	if err := syscall.Kill(-s.command.Process.Pid, syscall.SIGKILL); err != nil && !errors.Is(err, syscall.ESRCH) {
		return err
	}
	s.ended <- <-s.ended // that it was killed is no fault
	return nil
}

// Stop ends the server, with the work of whoever is connected.
func (s *Server) Stop() error {
	if err := s.command.Process.Signal(syscall.SIGINT); err != nil && !errors.Is(err, os.ErrProcessDone) {
		return fmt.Errorf("ending PostgreSQL: %w", err)
	}
	ended := <-s.ended
	s.ended <- ended
	return nil
}
