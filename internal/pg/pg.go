// Package pg finds, starts and stops a private PostgreSQL server on loopback.
package pg

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
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
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

// role is the superuser of a private server, and the name of its database.
const role = "aftermath"

// Server is a running private server.
type Server struct {
	// URL is how to connect, with the password.
	URL string

	dir, bin string
	owner    *user.User // who runs the server; nil: us
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
// running there is taken over.
func Start(ctx context.Context, dir string) (*Server, error) {
	bin, err := findBin()
	if err != nil {
		return nil, err
	}
	s := &Server{dir: dir, bin: bin}
	if os.Geteuid() == 0 { // the server refuses to run as root
		if s.owner, err = user.Lookup("postgres"); err != nil {
			return nil, fmt.Errorf("started by root, the server runs as the user postgres: %w", err)
		}
	}
	if err := s.makeDir(); err != nil {
		return nil, err
	}
	password, err := s.create(ctx)
	if err != nil {
		return nil, err
	}
	port, running := s.running()
	if running {
		slog.Info("taking over the PostgreSQL server of an earlier run", "port", port)
	} else if port, err = s.start(ctx); err != nil {
		return nil, err
	}
	s.URL = (&url.URL{Scheme: "postgres", User: url.UserPassword(role, password), Host: "127.0.0.1:" + strconv.Itoa(port), Path: role,
		RawQuery: "sslmode=disable"}).String()
	return s, s.ready(ctx)
}

// Stop stops the server and waits until it has written everything.
func (s *Server) Stop(ctx context.Context) error {
	return s.command(ctx, "pg_ctl", "-D", s.data(), "-m", "fast", "-w", "-t", "60", "stop")
}

func (s *Server) data() string     { return filepath.Join(s.dir, "data") }
func (s *Server) password() string { return filepath.Join(s.dir, "password") }

// findBin finds the newest installed server programs.
func findBin() (string, error) {
	if path, err := exec.LookPath("postgres"); err == nil {
		if real, err := filepath.EvalSymlinks(path); err == nil {
			if _, err := os.Stat(filepath.Join(filepath.Dir(real), "initdb")); err == nil {
				return filepath.Dir(real), nil
			}
		}
	}
	found, _ := filepath.Glob("/usr/lib/postgresql/*/bin/postgres")
	version := func(p string) int {
		n, _ := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(p))))
		return n
	}
	if len(found) == 0 {
		return "", ErrNotInstalled
	}
	return filepath.Dir(slices.MaxFunc(found, func(a, b string) int { return version(a) - version(b) })), nil
}

// makeDir makes the folder, readable by the server's user alone.
func (s *Server) makeDir() error {
	if err := os.MkdirAll(filepath.Dir(s.dir), 0o755); err != nil {
		return fmt.Errorf("private PostgreSQL: %w", err)
	}
	if err := os.MkdirAll(s.dir, 0o700); err != nil {
		return fmt.Errorf("private PostgreSQL: %w", err)
	}
	return s.give(s.dir)
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

// running says whether a server runs on the data, and on which port.
func (s *Server) running() (port int, ok bool) {
	if s.command(context.Background(), "pg_ctl", "-D", s.data(), "status") != nil {
		return 0, false
	}
	pid, err := os.ReadFile(filepath.Join(s.data(), "postmaster.pid"))
	if err != nil {
		return 0, false
	}
	lines := strings.Split(string(pid), "\n") // pid, data folder, start, port, …
	if len(lines) < 4 {
		return 0, false
	}
	port, err = strconv.Atoi(strings.TrimSpace(lines[3]))
	return port, err == nil
}

// start starts the server on a free port.
func (s *Server) start(ctx context.Context) (port int, err error) {
	for range 3 { // another program may take the port first
		if port, err = freePort(); err != nil {
			return 0, err
		}
		options := fmt.Sprintf(
			"-p %d -c listen_addresses=127.0.0.1 -c unix_socket_directories= -c max_wal_size=2GB -c shared_buffers=256MB", port,
		)
		if err = s.command(ctx, "pg_ctl", "-D", s.data(), "-l", filepath.Join(s.dir, "log"), "-w", "-t", "60", "-o", options, "start"); err == nil {
			return port, nil
		}
	}
	log, _ := os.ReadFile(filepath.Join(s.dir, "log"))
	return 0, fmt.Errorf("%w\n%s", err, log[max(0, len(log)-2000):])
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
