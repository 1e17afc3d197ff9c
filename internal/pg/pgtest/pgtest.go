// Package pgtest gives tests a real PostgreSQL: one private server per test program, one database per test.
package pgtest

import (
	"context"
	"fmt"
	"net/url"
	"os"
	"path/filepath"
	"sync/atomic"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"

	"aftermath/internal/pg"
)

var (
	server    *pg.Server
	databases atomic.Int64
)

// Main runs a package's tests with a server beside them, and cleans up after all of them. Call it from TestMain.
func Main(m *testing.M, after ...func()) {
	code := run(m)
	for _, clean := range after {
		clean()
	}
	os.Exit(code)
}

func run(m *testing.M) int {
	dir, err := Dir()
	if err != nil {
		fmt.Fprintln(os.Stderr, "pgtest:", err)
		return 1
	}
	defer os.RemoveAll(dir)
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute)
	defer cancel()
	if server, err = pg.Start(ctx, filepath.Join(dir, "pg")); err != nil {
		fmt.Fprintln(os.Stderr, "pgtest:", err)
		return 1
	}
	defer func() { _ = server.Stop(context.Background()) }()
	if err := unsynced(ctx); err != nil {
		fmt.Fprintln(os.Stderr, "pgtest:", err)
		return 1
	}
	return m.Run()
}

// unsynced has the server leave it to the operating system when data reach the disk: tests kill servers, not machines.
func unsynced(ctx context.Context) error {
	conn, err := pgx.Connect(ctx, server.URL)
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	for _, statement := range []string{
		"alter system set fsync = off", "alter system set full_page_writes = off", "select pg_reload_conf()",
	} {
		if _, err := conn.Exec(ctx, statement); err != nil {
			return err
		}
	}
	return nil
}

// Dir makes a temporary folder that the server's user can reach.
func Dir() (string, error) {
	dir, err := os.MkdirTemp("", "aftermath-test-")
	if err != nil {
		return "", err
	}
	return dir, os.Chmod(dir, 0o755)
}

// Database makes an empty database and gives its URL.
func Database(t testing.TB) string {
	t.Helper()
	name := fmt.Sprintf("test%d", databases.Add(1))
	ctx, cancel := context.WithTimeout(context.Background(), 30*time.Second)
	defer cancel()
	conn, err := pgx.Connect(ctx, server.URL)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close(ctx)
	if _, err := conn.Exec(ctx, "create database "+name); err != nil {
		t.Fatal(err)
	}
	u, err := url.Parse(server.URL)
	if err != nil {
		t.Fatal(err)
	}
	u.Path = name
	return u.String()
}

// Exec runs a statement on a database: for a state that no method of ours leads to.
func Exec(t testing.TB, database, statement string) {
	t.Helper()
	on(t, database, func(ctx context.Context, conn *pgx.Conn) error {
		_, err := conn.Exec(ctx, statement)
		return err
	})
}

// Query gives the one value, a text, that a statement has for a database.
func Query(t testing.TB, database, statement string) (value string) {
	t.Helper()
	on(t, database, func(ctx context.Context, conn *pgx.Conn) error { return conn.QueryRow(ctx, statement).Scan(&value) })
	return value
}

func on(t testing.TB, database string, do func(ctx context.Context, conn *pgx.Conn) error) {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 30*time.Second)
	defer cancel()
	conn, err := pgx.Connect(ctx, database)
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close(ctx)
	if err := do(ctx, conn); err != nil {
		t.Fatal(err)
	}
}
