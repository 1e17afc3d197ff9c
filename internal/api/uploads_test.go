package api

import (
	"context"
	"fmt"
	"io"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/files"
)

// A file makes room for newer ones of who sent it, never for somebody else's; it is let go of after a day, and a file more than there
// is room for is refused before it is taken.
func TestUploadsBelongToWhoSentThem(t *testing.T) {
	u := newUploads(t.TempDir())
	send := func(owner string) (string, error) {
		held, err := u.hold(t.Context(), owner, func(to io.Writer) (string, string, error) {
			_, err := io.WriteString(to, "id;answer\nA1;late\nA2;cold\n")
			return "x.csv", "", err
		})
		return held.ID, err
	}
	held := func(id string) bool {
		_, err := u.source(id, nil)
		return err == nil
	}
	first, err := send("Ada")
	require.NoError(t, err)
	other, err := send("Ben")
	require.NoError(t, err)
	require.NotEqual(t, first, other)
	for range KeptUploads - 1 {
		_, err = send("Ada")
		require.NoError(t, err)
	}
	assert.True(t, held(first))
	_, err = send("Ada")
	require.NoError(t, err)
	assert.False(t, held(first), "it was the oldest of hers")
	assert.True(t, held(other))
	left, err := os.ReadDir(u.dir)
	require.NoError(t, err)
	assert.Len(t, left, KeptUploads+1)

	u.files[other].since = time.Now().Add(-uploadsFor - time.Second)
	latest, err := send("Cleo")
	require.NoError(t, err)
	assert.False(t, held(other), "a day is over")
	u.files[latest].size = allUploads
	_, err = send("Dora")
	require.ErrorContains(t, err, "nothing was taken")
	left, err = os.ReadDir(u.dir)
	require.NoError(t, err)
	assert.Len(t, left, KeptUploads+1)

	// What can't be looked into leaves nothing behind, and is no hurry of the sender's.
	u = newUploads(t.TempDir())
	_, err = u.hold(t.Context(), "Ada", func(io.Writer) (string, string, error) { return "", "", fmt.Errorf("%w: gone", errBroken) })
	require.ErrorIs(t, err, errBroken)
	left, err = os.ReadDir(u.dir)
	require.NoError(t, err)
	assert.Empty(t, left)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	require.ErrorIs(t, u.read(ctx, func(ctx context.Context) error { return ctx.Err() }), context.Canceled)
	require.NotErrorIs(t, u.read(ctx, func(ctx context.Context) error { return ctx.Err() }), files.ErrFile)
}
