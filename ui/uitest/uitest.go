// Package uitest looks whether the built interface is that of the source, for tests that run it.
package uitest

import (
	"io/fs"
	"os"
	"path/filepath"
	"runtime"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// Fresh fails a test where the interface is not built, or its source is newer than what was built: the test would be of another
// program.
func Fresh(t testing.TB) {
	t.Helper()
	_, here, _, _ := runtime.Caller(0)
	ui := filepath.Dir(filepath.Dir(here))
	built, err := os.Stat(filepath.Join(ui, "dist", "index.html"))
	require.NoError(t, err, "the interface is not built; run make ui")
	var newest time.Time
	var file string
	err = filepath.WalkDir(filepath.Join(ui, "src"), func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		info, err := d.Info()
		if err == nil && info.ModTime().After(newest) {
			newest, file = info.ModTime(), path
		}
		return err
	})
	require.NoError(t, err)
	require.False(t, newest.After(built.ModTime()), "ui/dist is older than %s; run make ui", file)
}
