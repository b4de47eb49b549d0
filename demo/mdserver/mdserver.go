// Package mdserver runs a MariaDB server of one's own from the packages that are installed:
// on loopback, with its data below one directory. Tests use it.
package mdserver

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"

	"mantilla/demo/pgserver"
)

// ErrMissing says that no server is installed.
var ErrMissing = errors.New("no MariaDB server is installed; on Debian, apt-get install mariadb-server brings one")

// Server is a server that runs.
type Server struct {
	Port int

	command *exec.Cmd
	ended   chan error
}

// Start makes the server's files, where there are none yet, and starts it at a free port. Its
// data are those of a test: it does not wait until they are on the disk.
func Start(ctx context.Context, dir string) (*Server, error) {
	port, err := pgserver.FreePort(ctx)
	if err != nil {
		return nil, err
	}
	return StartAt(ctx, dir, port)
}

// StartAt starts a server at a port.
func StartAt(ctx context.Context, dir string, port int) (*Server, error) {
	install, err1 := exec.LookPath("mariadb-install-db")
	program, err2 := exec.LookPath("mariadbd")
	if program == "" {
		program, err2 = exec.LookPath("/usr/sbin/mariadbd")
	}
	if err1 != nil || err2 != nil {
		return nil, ErrMissing
	}
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	who, err := pgserver.Account(dir, "mysql")
	if err != nil {
		return nil, err
	}
	s := &Server{Port: port, ended: make(chan error, 1)}
	data := filepath.Join(dir, "data")
	if _, err := os.Stat(filepath.Join(data, "mysql")); errors.Is(err, fs.ErrNotExist) {
		c := exec.CommandContext(ctx, install, "--no-defaults", "--datadir="+data, "--auth-root-authentication-method=normal",
			"--skip-test-db")
		c.Dir, c.SysProcAttr = dir, &syscall.SysProcAttr{Credential: who}
		if out, err := c.CombinedOutput(); err != nil {
			return nil, fmt.Errorf("making the files of MariaDB: %w\n%s", err, out)
		}
	}
	log, err := os.OpenFile(filepath.Join(dir, "log"), os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600)
	if err != nil {
		return nil, err
	}
	defer log.Close()
	more := []string{"--skip-ssl"}
	if cert := filepath.Join(dir, Certificate); exists(cert) {
		more = []string{"--ssl-cert=" + cert, "--ssl-key=" + cert}
	}
	s.command = exec.Command(program, append([]string{"--no-defaults", "--datadir=" + data, "--port=" + strconv.Itoa(port),
		"--bind-address=127.0.0.1", "--socket=" + filepath.Join(dir, "socket"), "--pid-file=" + filepath.Join(dir, "pid"),
		"--skip-name-resolve", "--innodb-flush-log-at-trx-commit=0", "--innodb-buffer-pool-size=256M", "--skip-log-bin",
		"--character-set-server=utf8mb4"}, more...)...)
	s.command.Stdout, s.command.Stderr, s.command.Dir = log, log, dir
	s.command.SysProcAttr = &syscall.SysProcAttr{Credential: who, Setpgid: true}
	if err := s.command.Start(); err != nil {
		return nil, fmt.Errorf("starting MariaDB: %w", err)
	}
	go func() { s.ended <- s.command.Wait() }()
	if err := s.awaitReady(ctx); err != nil {
		text, _ := os.ReadFile(log.Name()) // what it said helps, where it said anything
		return nil, errors.Join(fmt.Errorf("starting MariaDB: %w\n%s", err, text), s.Stop())
	}
	return s, nil
}

// Certificate is a file below the server's directory with its certificate and key, in PEM. Where it
// is there the server speaks TLS.
const Certificate = "certificate.pem"

func exists(file string) bool {
	_, err := os.Stat(file)
	return err == nil
}

// longestStart is how long a server may take until it answers.
const longestStart = 60 * time.Second

func (s *Server) awaitReady(ctx context.Context) error {
	return pgserver.AwaitReady(ctx, longestStart, s.ended, func(ctx context.Context) error {
		return s.Exec(ctx, "mysql", "do 1")
	})
}

// Exec runs statements, with semicolons between, as the owner.
func (s *Server) Exec(ctx context.Context, database, statements string) error {
	c := mysql.NewConfig()
	c.User, c.Net, c.Addr, c.DBName = "root", "tcp", fmt.Sprintf("127.0.0.1:%d", s.Port), database
	c.MultiStatements, c.Logger = true, quiet{}
	c.Params = map[string]string{"sql_mode": "'ANSI_QUOTES,STRICT_TRANS_TABLES,NO_BACKSLASH_ESCAPES'",
		"time_zone": "'+00:00'"}
	connector, err := mysql.NewConnector(c)
	if err != nil {
		return err
	}
	db := sql.OpenDB(connector)
	_, err = db.ExecContext(ctx, statements)
	return errors.Join(err, db.Close())
}

// quiet keeps the driver from telling of each try to connect.
type quiet struct{}

// Print says nothing.
func (quiet) Print(...any) {}

// Kill ends the server at once, as a loss of power would.
func (s *Server) Kill() error {
	if err := syscall.Kill(-s.command.Process.Pid, syscall.SIGKILL); err != nil && !errors.Is(err, syscall.ESRCH) {
		return err
	}
	s.ended <- <-s.ended // that it was killed is no fault
	return nil
}

// Stop ends the server.
func (s *Server) Stop() error {
	if err := s.command.Process.Signal(syscall.SIGTERM); err != nil && !errors.Is(err, os.ErrProcessDone) {
		return fmt.Errorf("ending MariaDB: %w", err)
	}
	ended := <-s.ended
	s.ended <- ended
	return nil
}
