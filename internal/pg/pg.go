// Package pg finds, starts and stops a private PostgreSQL server on loopback.
package pg

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/url"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync/atomic"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"aftermath/internal/folder"
)

// role is the superuser of a private server, and the name of its database.
const role = "aftermath"

// Server is a running private server.
type Server struct {
	// URL is how to connect, with the password. It stays the same when the server is started again.
	URL string

	dir, bin string
	owner    *user.User // who runs the server; nil: us
	port     int
	lock     *folder.Lock // held as long as the folder is ours; nil where another program of ours has it
	health   atomic.Pointer[Health]
}

// ErrNotInstalled says that no PostgreSQL server program was found.
var ErrNotInstalled = errors.New(
	"no PostgreSQL server is installed; run: apt-get install postgresql (as root), or give --database URL",
)

// DefaultDir is where a private server keeps its data: for root below /var/lib, else in the user's data directory.
func DefaultDir() (string, error) {
	if os.Geteuid() == 0 {
		return "/var/lib/aftermath/postgres", nil
	}
	if dir := os.Getenv("XDG_DATA_HOME"); dir != "" {
		return filepath.Join(dir, "aftermath", "postgres"), nil
	}
	home, err := os.UserHomeDir()
	if err != nil {
		return "", fmt.Errorf("where to keep the data: %w", err)
	}
	return filepath.Join(home, ".local", "share", "aftermath", "postgres"), nil
}

// Start starts the server whose data is in dir, and makes it first if there is none. A server that a killed run left
// running there is taken over; one whose run goes on is not: Start fails with ErrInUse.
func Start(ctx context.Context, dir string) (*Server, error) {
	s, err := at(dir)
	if err != nil {
		return nil, err
	}
	if err := s.makeDir(); err != nil {
		return nil, err
	}
	if err := s.hold(); err != nil {
		return nil, err
	}
	if err := s.begin(ctx); err != nil {
		return nil, errors.Join(err, s.lock.Close())
	}
	return s, nil
}

// Join connects to the server of a folder, also while another program of ours runs on it, which goes on. The server that it has
// to start itself it stops again.
func Join(ctx context.Context, dir string) (s *Server, err error) {
	if s, err = Start(ctx, dir); !errors.Is(err, ErrInUse) {
		return s, err
	}
	inUse := err
	if s, err = at(dir); err != nil {
		return nil, err
	}
	password, err := os.ReadFile(s.password())
	if err != nil {
		return nil, fmt.Errorf("private PostgreSQL: %w", err)
	}
	if _, s.port = s.postmaster(); s.port == 0 {
		return nil, fmt.Errorf("%w, whose PostgreSQL does not run at the moment", inUse)
	}
	s.connectWith(string(password))
	return s, s.ready(ctx)
}

// at is the server of a folder, by whom and with which programs it is run.
func at(dir string) (s *Server, err error) {
	s = &Server{dir: dir}
	s.health.Store(&Health{})
	if s.bin, err = s.findBin(); err != nil {
		return nil, err
	}
	if os.Geteuid() == 0 { // the server refuses to run as root
		if s.owner, err = ownerOf(dir); err != nil {
			return nil, err
		}
	}
	return s, nil
}

// ownerOf is who runs the server of a folder for root: whose the folder is, which stays theirs, or postgres for one that is to be made.
func ownerOf(dir string) (*user.User, error) {
	info, err := os.Stat(dir)
	if err == nil {
		if of, ok := info.Sys().(*syscall.Stat_t); ok && of.Uid != 0 {
			owner, err := user.LookupId(strconv.FormatUint(uint64(of.Uid), 10))
			if err != nil {
				return nil, fmt.Errorf("private PostgreSQL: whose the folder %s is: %w", dir, err)
			}
			return owner, nil
		}
	}
	owner, err := user.Lookup("postgres")
	if err != nil {
		return nil, fmt.Errorf("started by root, the server runs as the user postgres: %w", err)
	}
	return owner, nil
}

// begin has the server run.
func (s *Server) begin(ctx context.Context) error {
	password, err := s.create(ctx)
	if err != nil {
		return err
	}
	pid, port := s.postmaster()
	if s.port = port; pid != 0 {
		slog.Info("taking over the PostgreSQL server of an earlier run", "port", port)
		s.connectWith(password)
		if err = s.ready(ctx); err == nil {
			return nil
		}
		slog.Warn("the PostgreSQL server of an earlier run does not answer; it is stopped and started anew", "error", err)
		if err = s.halt(ctx); err != nil {
			return err
		}
	}
	for range 3 { // another program may take the port first
		if s.port, err = freePort(); err != nil {
			return err
		}
		if err = s.start(ctx); err == nil {
			s.connectWith(password)
			return s.ready(ctx)
		}
	}
	return err
}

func (s *Server) connectWith(password string) { s.URL = address(password, s.port, role) }

// Stop stops the server, waits until it has written everything, and gives its folder free. It does nothing to a server that was
// only joined.
func (s *Server) Stop(ctx context.Context) error {
	if s.lock == nil {
		return nil
	}
	err := s.halt(ctx)
	return errors.Join(err, s.lock.Close())
}

// halt stops the server, first in order and then at once: what was acknowledged is in its log, from which the next start mends
// it.
func (s *Server) halt(ctx context.Context) (err error) {
	for _, how := range []string{"fast", "immediate"} {
		if pid, _ := s.postmaster(); pid == 0 {
			return nil
		}
		if err = s.command(ctx, "pg_ctl", "-D", s.data(), "-m", how, "-w", "-t", "30", "stop"); err == nil {
			return nil
		}
	}
	return err
}

func (s *Server) data() string     { return filepath.Join(s.dir, "data") }
func (s *Server) password() string { return filepath.Join(s.dir, "password") }
func (s *Server) pidFile() string  { return filepath.Join(s.data(), "postmaster.pid") }
func (s *Server) logFile() string  { return filepath.Join(s.dir, "log") }

// makeDir makes the folder, readable by the server's user alone.
func (s *Server) makeDir() error {
	if err := os.MkdirAll(filepath.Dir(s.dir), 0o755); err != nil {
		return fmt.Errorf("private PostgreSQL: %w", err)
	}
	if err := os.MkdirAll(s.dir, 0o700); err != nil {
		return fmt.Errorf("private PostgreSQL: %w", err)
	}
	return s.give(s.dir) // to whose it is already, where it was there
}

func (s *Server) give(path string) error {
	if s.owner == nil {
		return nil
	}
	uid, _ := strconv.Atoi(s.owner.Uid)
	gid, _ := strconv.Atoi(s.owner.Gid)
	return os.Chown(path, uid, gid)
}

// create makes the database cluster unless it is there, and gives its password.
func (s *Server) create(ctx context.Context) (string, error) {
	if password, err := os.ReadFile(s.password()); err == nil {
		if _, err := os.Stat(filepath.Join(s.data(), "PG_VERSION")); err == nil {
			return string(password), nil
		}
	}
	if _, err := os.Stat(filepath.Join(s.data(), "global", "pg_control")); err == nil {
		return "", fmt.Errorf("private PostgreSQL: the data in %s has lost its password file; nothing was changed", s.dir)
	}
	// What an interrupted creation left holds no data yet.
	if err := os.RemoveAll(s.data()); err != nil {
		return "", err
	}
	secret := make([]byte, 24)
	_, _ = rand.Read(secret) // never fails
	password := hex.EncodeToString(secret)
	if err := os.WriteFile(s.password(), []byte(password), 0o600); err != nil {
		return "", err
	}
	if err := s.give(s.password()); err != nil {
		return "", err
	}
	slog.Info("making a private PostgreSQL", "dir", s.dir)
	return password, s.command(ctx, "initdb", "-D", s.data(), "-U", role, "--pwfile", s.password(), "-A", "scram-sha-256",
		"-E", "UTF8", "--locale=C.UTF-8")
}

// postmaster gives the process of the server that runs on the data, and its port; 0 where none does. It takes no number's word
// for it: after a power cut, or in a container, the number in the file can be that of any other program.
func (s *Server) postmaster() (pid, port int) {
	if pid, port = s.noted(); !s.runsHere(pid) {
		return 0, 0
	}
	return pid, port
}

// noted gives the process and the port that the server's own file speaks of; 0 where there is none.
func (s *Server) noted() (pid, port int) {
	file, err := os.ReadFile(s.pidFile())
	if err != nil {
		return 0, 0
	}
	lines := strings.Split(string(file), "\n") // pid, data folder, start, port, …
	if len(lines) < 4 {
		return 0, 0
	}
	pid, errPid := strconv.Atoi(strings.TrimSpace(lines[0]))
	port, errPort := strconv.Atoi(strings.TrimSpace(lines[3]))
	if errPid != nil || errPort != nil {
		return 0, 0
	}
	return pid, port
}

// answersUnseen says whether a server answers to our password where the file says, though we see no process of it: it may run in
// another container, on the same data.
func (s *Server) answersUnseen(ctx context.Context) bool {
	_, port := s.noted()
	password, err := os.ReadFile(s.password())
	if port == 0 || err != nil {
		return false
	}
	ctx, cancel := context.WithTimeout(ctx, 3*time.Second)
	defer cancel()
	conn, err := pgx.Connect(ctx, address(string(password), port, "postgres"))
	if err != nil {
		return false
	}
	return conn.Close(ctx) == nil
}

func address(password string, port int, database string) string {
	return (&url.URL{Scheme: "postgres", User: url.UserPassword(role, password), Host: "127.0.0.1:" + strconv.Itoa(port),
		Path: database, RawQuery: "sslmode=disable"}).String()
}

// runsHere says whether a process is a PostgreSQL server at work on our data: that stands in its folder.
func (s *Server) runsHere(pid int) bool {
	process := filepath.Join("/proc", strconv.Itoa(pid))
	name, err := os.ReadFile(filepath.Join(process, "comm"))
	if err != nil || !strings.HasPrefix(string(name), "postgres") {
		return false
	}
	where, err := os.Stat(filepath.Join(process, "cwd"))
	if err != nil {
		return false
	}
	data, err := os.Stat(s.data())
	return err == nil && os.SameFile(where, data)
}

// dropStalePID takes away the file that a killed server left: the next one would not start where another program has the number
// in it. It stays as long as any process of the killed one is at work on the data: by it the next one knows to wait.
func (s *Server) dropStalePID(ctx context.Context) error {
	processes, err := filepath.Glob("/proc/[0-9]*")
	if err != nil || len(processes) == 0 {
		return err // nothing is known about who runs: PostgreSQL judges by itself
	}
	for _, p := range processes {
		if pid, err := strconv.Atoi(filepath.Base(p)); err == nil && s.runsHere(pid) {
			return nil
		}
	}
	if s.answersUnseen(ctx) {
		return fmt.Errorf("private PostgreSQL: a server that can't be seen from here runs on the data in %s; stop it where it runs", s.dir)
	}
	if err := os.Remove(s.pidFile()); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	return nil
}

// start starts the server on its port.
func (s *Server) start(ctx context.Context) error {
	if err := s.dropStalePID(ctx); err != nil {
		return err
	}
	options := fmt.Sprintf(
		"-p %d -c listen_addresses=127.0.0.1 -c unix_socket_directories= -c max_wal_size=2GB -c shared_buffers=256MB", s.port,
	)
	before := s.logSize()
	err := s.command(ctx, "pg_ctl", "-D", s.data(), "-l", s.logFile(), "-w", "-t", "60", "-o", options, "start")
	if err != nil {
		return &startError{err, s.lastLog(before)}
	}
	return nil
}

// startError is that the server does not start, with what it wrote about it.
type startError struct {
	err error
	log string
}

func (e *startError) Error() string { return e.err.Error() + "\n" + e.log }
func (e *startError) Unwrap() error { return e.err }

func (s *Server) logSize() int64 {
	info, err := os.Stat(s.logFile())
	if err != nil {
		return 0
	}
	return info.Size()
}

// lastLog is the end of what the server has written into its log since it was of a size.
func (s *Server) lastLog(since int64) string {
	f, err := os.Open(s.logFile())
	if err != nil {
		return ""
	}
	defer f.Close()
	const end = 2000
	if size, err := f.Seek(0, io.SeekEnd); err == nil {
		_, _ = f.Seek(max(since, size-end), io.SeekStart)
	}
	log, _ := io.ReadAll(io.LimitReader(f, end))
	return string(log)
}

func freePort() (int, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return 0, err
	}
	defer l.Close()
	return l.Addr().(*net.TCPAddr).Port, nil
}

// command runs one of the server's programs as the server's user.
func (s *Server) command(ctx context.Context, name string, args ...string) error {
	cmd := exec.CommandContext(ctx, filepath.Join(s.bin, name), args...)
	cmd.Dir = s.dir
	cmd.Env = []string{"PATH=" + os.Getenv("PATH"), "LC_ALL=C.UTF-8"}
	// In a session of its own, so that Ctrl-C reaches us alone and we stop the server in order.
	cmd.SysProcAttr = &syscall.SysProcAttr{Setsid: true}
	if s.owner != nil {
		uid, _ := strconv.ParseUint(s.owner.Uid, 10, 32)
		gid, _ := strconv.ParseUint(s.owner.Gid, 10, 32)
		cmd.SysProcAttr.Credential = &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}
	}
	var out strings.Builder
	if name != "pg_ctl" || !slices.Contains(args, "start") { // the server would keep our pipe open
		cmd.Stdout, cmd.Stderr = &out, &out
	}
	if err := cmd.Run(); err != nil {
		return fmt.Errorf("private PostgreSQL: %s: %w %s", name, err, out.String())
	}
	return nil
}

// ready waits until the server answers, and makes the database.
func (s *Server) ready(ctx context.Context) error {
	admin, err := url.Parse(s.URL)
	if err != nil {
		return err
	}
	admin.Path = "postgres"
	ctx, cancel := context.WithTimeout(ctx, 60*time.Second)
	defer cancel()
	var conn *pgx.Conn
	for {
		if conn, err = pgx.Connect(ctx, admin.String()); err == nil {
			break
		}
		var said *pgconn.PgError
		if errors.As(err, &said) && said.Code == "28P01" {
			return fmt.Errorf("private PostgreSQL: what listens on port %d does not know our password", s.port)
		}
		select {
		case <-ctx.Done():
			return fmt.Errorf("private PostgreSQL does not answer: %w", err)
		case <-time.After(100 * time.Millisecond):
		}
	}
	defer conn.Close(ctx)
	var there bool
	if err := conn.QueryRow(ctx, "select exists(select 1 from pg_database where datname = $1)", role).Scan(&there); err != nil ||
		there {
		return err
	}
	_, err = conn.Exec(ctx, "create database "+role)
	return err
}
