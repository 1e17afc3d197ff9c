package pg_test

import (
	"context"
	"fmt"
	"io"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/pg"
	"aftermath/internal/pg/pgtest"
)

// ask runs a query that gives one number.
func ask(t *testing.T, ctx context.Context, s *pg.Server, sql string) (n int) {
	t.Helper()
	conn, err := pgx.Connect(ctx, s.URL)
	require.NoError(t, err)
	defer conn.Close(ctx)
	require.NoError(t, conn.QueryRow(ctx, sql).Scan(&n))
	return n
}

func begin(t *testing.T) (ctx context.Context, dir string) {
	top, err := pgtest.Dir()
	require.NoError(t, err)
	t.Cleanup(func() { os.RemoveAll(top) })
	ctx, cancel := context.WithTimeout(context.Background(), 3*time.Minute)
	t.Cleanup(cancel)
	return ctx, filepath.Join(top, "pg")
}

// holder, given a folder, starts its server and waits to be killed: TestDataOutlivesTheRun runs it as a process of its own.
func TestMain(m *testing.M) {
	if dir := os.Getenv("AFTERMATH_TEST_HOLDS"); dir != "" {
		if _, err := pg.Start(context.Background(), dir); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		fmt.Println("holds")
		// A program in which nothing can happen any more is ended by the runtime as a deadlock: one that waits for a time is not.
		time.Sleep(10 * time.Minute)
		os.Exit(0)
	}
	os.Exit(m.Run())
}

// A folder belongs to one program at a time; another one can join its server. A server that a killed run left running is taken over
// with its data, and a stopped one starts again with it.
func TestDataOutlivesTheRun(t *testing.T) {
	ctx, dir := begin(t)
	first := exec.CommandContext(ctx, os.Args[0])
	first.Env = append(os.Environ(), "AFTERMATH_TEST_HOLDS="+dir)
	said, err := first.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, first.Start())
	word := make([]byte, 5)
	_, err = io.ReadFull(said, word)
	require.NoError(t, err)

	_, err = pg.Start(ctx, dir)
	require.ErrorIs(t, err, pg.ErrInUse)
	require.ErrorContains(t, err, fmt.Sprint("process ", first.Process.Pid))
	joined, err := pg.Join(ctx, dir)
	require.NoError(t, err)
	conn, err := pgx.Connect(ctx, joined.URL)
	require.NoError(t, err)
	_, err = conn.Exec(ctx, "create table kept as select 42 as n")
	require.NoError(t, err)
	require.NoError(t, conn.Close(ctx))
	require.NoError(t, joined.Stop(ctx))
	assert.Equal(t, 42, ask(t, ctx, joined, "select n from kept"), "who has joined stops nothing")

	require.NoError(t, first.Process.Kill())
	_ = first.Wait()
	second, err := pg.Start(ctx, dir)
	require.NoError(t, err)
	assert.Equal(t, joined.URL, second.URL, "the running server is taken over")
	require.NoError(t, second.Stop(ctx))

	// The number in what a power cut leaves behind can be that of any program by now: here, of the test itself.
	stale := fmt.Sprintf("%d\n%s/data\n1700000000\n5432\n\n127.0.0.1\n", os.Getpid(), dir)
	require.NoError(t, os.WriteFile(filepath.Join(dir, "data", "postmaster.pid"), []byte(stale), 0o644))
	third, err := pg.Start(ctx, dir)
	require.NoError(t, err)
	assert.Equal(t, 42, ask(t, ctx, third, "select n from kept"))
	require.NoError(t, third.Stop(ctx))

	info, err := os.Stat(filepath.Join(dir, "password"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "only its user can read the password")

	require.NoError(t, os.WriteFile(filepath.Join(dir, "data", "PG_VERSION"), []byte("9\n"), 0o600))
	_, err = pg.Start(ctx, dir)
	require.ErrorContains(t, err, "made by PostgreSQL 9")
	require.ErrorContains(t, err, "nothing was changed")
}

// A server that is killed is there again by itself, at the same place, with all that was acknowledged; while it is away, that is
// said.
func TestKilledServerIsStartedAgain(t *testing.T) {
	ctx, dir := begin(t)
	s, err := pg.Start(ctx, dir)
	require.NoError(t, err)
	conn, err := pgx.Connect(ctx, s.URL)
	require.NoError(t, err)
	_, err = conn.Exec(ctx, "create table kept as select 42 as n")
	require.NoError(t, err)

	watching, leave := context.WithCancel(ctx)
	changes := make(chan pg.Health, 16)
	done := make(chan struct{})
	go func() {
		defer close(done)
		s.Watch(watching, func() { changes <- s.Health() })
	}()
	pid, err := os.ReadFile(filepath.Join(dir, "data", "postmaster.pid"))
	require.NoError(t, err)
	var postmaster int
	_, err = fmt.Sscan(string(pid), &postmaster)
	require.NoError(t, err)
	require.NoError(t, syscall.Kill(postmaster, syscall.SIGKILL))

	next := func() pg.Health {
		select {
		case h := <-changes:
			return h
		case <-ctx.Done():
			t.Fatal("nothing was told")
		}
		return pg.Health{}
	}
	assert.False(t, next().Down.IsZero(), "that it is away is told")
	for !next().Down.IsZero() { // while it does not start yet, why is told
	}
	assert.Equal(t, 42, ask(t, ctx, s, "select n from kept"))
	leave()
	<-done
	require.NoError(t, s.Stop(ctx))
}

// What answers to our password where the folder says that its server is, and can't be seen from here, is left alone.
func TestServersThatCannotBeSeenAreLeftAlone(t *testing.T) {
	ctx, dir := begin(t)
	_, other := begin(t)
	s, err := pg.Start(ctx, dir)
	require.NoError(t, err)
	require.NoError(t, s.Stop(ctx))
	unseen, err := pg.Start(ctx, other)
	require.NoError(t, err)
	u, err := url.Parse(unseen.URL)
	require.NoError(t, err)
	password, _ := u.User.Password()
	require.NoError(t, os.WriteFile(filepath.Join(dir, "password"), []byte(password), 0o600))
	noted := fmt.Sprintf("4194303\n%s/data\n1700000000\n%s\n\n127.0.0.1\n", dir, u.Port())
	require.NoError(t, os.WriteFile(filepath.Join(dir, "data", "postmaster.pid"), []byte(noted), 0o644))
	_, err = pg.Start(ctx, dir)
	require.ErrorContains(t, err, "can't be seen from here")
	assert.FileExists(t, filepath.Join(dir, "data", "postmaster.pid"))
	require.NoError(t, unseen.Stop(ctx))
}
