package api

import (
	"context"
	"fmt"
	"io"
	"os"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/files"
)

// A file makes room for newer ones of who sent it, never for somebody else's; it is let go of after a day, and a file more than there
// is room for is refused before it is taken.
func TestUploadsBelongToWhoSentThem(t *testing.T) {
	u := newUploads(t.TempDir(), nil)
	send := func(owner string) (string, error) {
		held, err := u.hold(t.Context(), owner, 0, func(to io.Writer) (string, string, error) {
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
	u = newUploads(t.TempDir(), nil)
	_, err = u.hold(t.Context(), "Ada", 0, func(io.Writer) (string, string, error) { return "", "", fmt.Errorf("%w: gone", errBroken) })
	require.ErrorIs(t, err, errBroken)
	left, err = os.ReadDir(u.dir)
	require.NoError(t, err)
	assert.Empty(t, left)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	require.ErrorIs(t, u.read(ctx, func(ctx context.Context) error { return ctx.Err() }), context.Canceled)
	require.NotErrorIs(t, u.read(ctx, func(ctx context.Context) error { return ctx.Err() }), files.ErrFile)
}

// A file that there is no room for is refused before it comes, and one that fills the disk on its way is broken off; nothing of it is
// left, and it is called what it is.
func TestUploadsLeaveRoomOnTheDisk(t *testing.T) {
	free := uint64(spaceLeft + 100)
	left := func() (uint64, error) { return free, nil }
	server := serve(t, Options{Free: left}).URL
	for _, to := range []string{"/uploads?name=x.csv", "/restore"} {
		status, body, _ := ask(t, "POST", server+prefix+to, strings.Repeat("a line\n", 100), "Content-Type", "application/zip")
		assert.Equal(t, 507, status, "%s: %s", to, body)
		assert.Contains(t, body, "disk is full")
	}
	// Where nobody says how much it is, it is broken off on the way.
	u := newUploads(t.TempDir(), left)
	_, _, err := u.receive(0, func(to io.Writer) error {
		for range 100 {
			if _, err := to.Write(make([]byte, 1<<20)); err != nil {
				return err
			}
			free = spaceLeft - 1
		}
		return nil
	})
	require.ErrorIs(t, err, syscall.ENOSPC)
	all, err := os.ReadDir(u.dir)
	require.NoError(t, err)
	assert.Empty(t, all)
	free = spaceLeft + 1<<30
	status, body, _ := ask(t, "POST", server+prefix+"/uploads?name=x.csv", "id,answer\n1,late\n", "Content-Type", "text/csv")
	assert.Equal(t, 200, status, body)
}
