package store

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/survey"
	"aftermath/internal/pg"
	"aftermath/internal/pg/pgtest"
)

// processes are all of a private PostgreSQL: the one that the folder names, and its children.
func processes(t *testing.T, dir string) (pids []int) {
	file, err := os.ReadFile(filepath.Join(dir, "data", "postmaster.pid"))
	require.NoError(t, err)
	first, _, _ := strings.Cut(string(file), "\n")
	all, _ := filepath.Glob("/proc/[0-9]*/stat")
	for _, path := range all {
		stat, err := os.ReadFile(path)
		if err != nil {
			continue
		}
		_, rest, _ := strings.Cut(string(stat), ") ") // state, parent, …
		fields := strings.Fields(rest)
		name := filepath.Base(filepath.Dir(path))
		if pid, _ := strconv.Atoi(name); name == first || len(fields) > 1 && fields[1] == first {
			pids = append(pids, pid)
		}
	}
	require.NotEmpty(t, pids)
	return pids
}

// A PostgreSQL that hangs keeps nobody waiting: what waits for it is let go of, what comes is refused, and when it answers again all
// goes on, over the same store.
func TestAHungDatabaseIsSaid(t *testing.T) {
	dir, err := pgtest.Dir()
	require.NoError(t, err)
	defer os.RemoveAll(dir)
	server, err := pg.Start(ctx, filepath.Join(dir, "pg"))
	require.NoError(t, err)
	defer func() { assert.NoError(t, server.Stop(ctx)) }()
	s, err := Open(ctx, server.URL)
	require.NoError(t, err)
	defer s.Close()
	s.edge.hangsAfter, s.edge.probeEvery = time.Second, 50*time.Millisecond
	watching, stop := context.WithCancel(ctx)
	said := make(chan bool, 10)
	var watched sync.WaitGroup
	watched.Go(func() { s.Watch(watching, func(hung bool) { said <- hung }) })
	defer func() { stop(); watched.Wait() }()
	claim, err := s.Claim(ctx)
	require.NoError(t, err)
	defer claim.LetGo()
	require.NoError(t, s.Ping(ctx))
	signal := func(what syscall.Signal) {
		for _, pid := range processes(t, filepath.Join(dir, "pg")) {
			_ = syscall.Kill(pid, what)
		}
	}
	signal(syscall.SIGSTOP)
	defer signal(syscall.SIGCONT)
	waiting := make(chan error, 3)
	begun := time.Now()
	go func() { waiting <- s.Ping(ctx) }()
	go func() { _, err := s.Users(ctx); waiting <- err }()
	go func() {
		study := Study{Setup: Setup{Name: "x", Columns: []survey.Spec{{Name: "first", Role: survey.OpenEnded}}}}
		waiting <- s.Load(ctx, &study, of([]string{"late"}), empty)
	}()
	for range 3 {
		select {
		case err := <-waiting:
			require.True(t, Away(err), "%v", err)
		case <-time.After(30 * time.Second):
			t.Fatal("it is still waited for")
		}
	}
	assert.Less(t, time.Since(begun), 20*time.Second)
	require.True(t, <-said)
	again := time.Now()
	require.ErrorIs(t, s.Ping(ctx), ErrHung)
	assert.Less(t, time.Since(again), time.Second, "nobody waits a second time")
	signal(syscall.SIGCONT)
	select {
	case hung := <-said:
		require.False(t, hung)
	case <-time.After(30 * time.Second):
		t.Fatal("it answers again, and that is not seen")
	}
	require.NoError(t, s.Ping(ctx))
	_, err = s.Users(ctx)
	require.NoError(t, err)
}

// Many who ask at once wait in line for few connections, and all are answered.
func TestManyShareFewConnections(t *testing.T) {
	url := pgtest.Database(t)
	s, err := OpenWithin(ctx, url, 3)
	require.NoError(t, err)
	defer s.Close()
	var asking sync.WaitGroup
	var most atomic.Int64
	for range 200 {
		asking.Go(func() {
			assert.NoError(t, s.onOne(ctx, func(conn *pgx.Conn) error {
				var n int64
				err := conn.QueryRow(ctx, "select count(*) from pg_stat_activity where datname = current_database()").Scan(&n)
				for m := most.Load(); n > m && !most.CompareAndSwap(m, n); m = most.Load() {
				}
				return err
			}))
		})
	}
	asking.Wait()
	assert.LessOrEqual(t, most.Load(), int64(3))
}

// A database is one server's. Where it was cut off it takes the database again, unless another one was faster.
func TestADatabaseIsOneServers(t *testing.T) {
	url := pgtest.Database(t)
	s, err := Open(ctx, url)
	require.NoError(t, err)
	defer s.Close()
	s.edge.probeEvery = 50 * time.Millisecond
	first, err := s.Claim(ctx)
	require.NoError(t, err)
	_, err = s.Claim(ctx)
	require.ErrorIs(t, err, ErrClaimed)
	require.ErrorContains(t, err, fmt.Sprintf("process %d on", os.Getpid()))
	keeping, stop := context.WithCancel(ctx)
	kept := make(chan error)
	go func() { kept <- first.Keep(keeping) }()
	cut := "select pg_terminate_backend(pid) from pg_stat_activity where application_name like 'aftermath server%' and datname = current_database()"
	pgtest.Exec(t, url, cut)
	require.Eventually(t, func() bool {
		other, err := s.Claim(ctx)
		if err == nil {
			other.LetGo()
		}
		return errors.Is(err, ErrClaimed)
	}, 30*time.Second, 300*time.Millisecond, "it is taken again")
	pgtest.Exec(t, url, cut)
	var other *Claim
	require.Eventually(t, func() bool { other, err = s.Claim(ctx); return err == nil }, 30*time.Second, time.Millisecond)
	select {
	case err := <-kept:
		require.ErrorIs(t, err, ErrClaimed, "another one was faster")
	case <-time.After(30 * time.Second):
		t.Fatal("two servers work on one database")
	}
	stop()
	other.LetGo()
}

// A file whose reader panics is an error of its request: nothing of it is stored, and the next one is.
func TestARowThatPanicsIsAnError(t *testing.T) {
	s := opened(t)
	study := Study{Setup: Setup{Name: "x", Columns: []survey.Spec{{Name: "first", Role: survey.OpenEnded}}}}
	err := s.Load(ctx, &study, func(row func(cells []string) error) error {
		if err := row([]string{"late"}); err != nil {
			return err
		}
		panic("a fault in a reader")
	}, empty)
	require.ErrorContains(t, err, "a fault in a reader")
	all, err := s.Studies(ctx, false)
	require.NoError(t, err)
	require.Empty(t, all)
	_, _ = loaded(t, s, []string{"late", "again"})
}

// Who breaks a load off has cancelled it: nothing is wrong with the database, and nothing is stored.
func TestALoadThatIsCancelled(t *testing.T) {
	s := opened(t)
	within, cancel := context.WithCancel(ctx)
	study := Study{Setup: Setup{Name: "x", Columns: []survey.Spec{{Name: "first", Role: survey.OpenEnded}}}}
	err := s.Load(within, &study, func(row func(cells []string) error) error {
		for i := 0; ; i++ {
			if i == 50_000 {
				cancel()
			}
			if err := row([]string{strings.Repeat("late ", 20)}); err != nil {
				return err
			}
		}
	}, empty)
	require.ErrorIs(t, err, context.Canceled)
	require.False(t, Away(err), "%v", err)
	all, err := s.Studies(ctx, false)
	require.NoError(t, err)
	require.Empty(t, all)
}
