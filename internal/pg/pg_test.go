package pg_test

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/pg"
	"aftermath/internal/pg/pgtest"
)

// A server that a killed run left running is taken over with its data; a stopped one starts again with it.
func TestDataOutlivesTheRun(t *testing.T) {
	dir, err := pgtest.Dir()
	require.NoError(t, err)
	defer os.RemoveAll(dir)
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute)
	defer cancel()
	ask := func(s *pg.Server, sql string) (n int) {
		conn, err := pgx.Connect(ctx, s.URL)
		require.NoError(t, err)
		defer conn.Close(ctx)
		require.NoError(t, conn.QueryRow(ctx, sql).Scan(&n))
		return n
	}
	first, err := pg.Start(ctx, filepath.Join(dir, "pg"))
	require.NoError(t, err)
	conn, err := pgx.Connect(ctx, first.URL)
	require.NoError(t, err)
	_, err = conn.Exec(ctx, "create table kept as select 42 as n")
	require.NoError(t, err)
	require.NoError(t, conn.Close(ctx))

	second, err := pg.Start(ctx, filepath.Join(dir, "pg"))
	require.NoError(t, err)
	assert.Equal(t, first.URL, second.URL, "the running server is taken over")
	require.NoError(t, second.Stop(ctx))

	third, err := pg.Start(ctx, filepath.Join(dir, "pg"))
	require.NoError(t, err)
	assert.Equal(t, 42, ask(third, "select n from kept"))
	require.NoError(t, third.Stop(ctx))

	info, err := os.Stat(filepath.Join(dir, "pg", "password"))
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "only its user can read the password")
}
