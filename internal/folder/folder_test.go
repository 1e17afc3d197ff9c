package folder_test

import (
	"os"
	"path/filepath"
	"runtime"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/folder"
)

// What a process left behind that has ended goes at the next start; what one holds that runs stays.
func TestTemporaryFoldersAreCleanedUp(t *testing.T) {
	top := t.TempDir()
	left := filepath.Join(top, "uploads-1")
	require.NoError(t, os.MkdirAll(left, 0o700))
	require.NoError(t, os.WriteFile(filepath.Join(left, "upload-1"), []byte("x"), 0o600))
	other := filepath.Join(top, "kept-1")
	require.NoError(t, os.MkdirAll(other, 0o700))

	first, leave, err := folder.Temporary(top, "uploads")
	require.NoError(t, err)
	assert.NoDirExists(t, left)
	assert.DirExists(t, other)

	second, leaveSecond, err := folder.Temporary(top, "uploads")
	require.NoError(t, err)
	assert.DirExists(t, first, "the one before runs")
	assert.NotEqual(t, first, second)
	_, err = folder.Hold(first)
	assert.ErrorIs(t, err, folder.ErrHeld)

	require.NoError(t, leave())
	require.NoError(t, leaveSecond())
	assert.NoDirExists(t, first)
	assert.NoDirExists(t, second)
}

// A folder is held until its lock is closed, not until the garbage collector finds that nothing refers to it.
func TestHeldWithoutReference(t *testing.T) {
	dir := t.TempDir()
	_, err := folder.Hold(dir)
	require.NoError(t, err)
	for range 3 {
		runtime.GC()
	}
	_, err = folder.Hold(dir)
	assert.ErrorIs(t, err, folder.ErrHeld)
}
