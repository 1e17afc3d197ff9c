package backup

import (
	"archive/zip"
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// written is a back-up in a file.
func written(t require.TestingT, dir string, data []byte) string {
	path := filepath.Join(dir, "x")
	require.NoError(t, os.WriteFile(path, data, 0o600))
	return path
}

// What can be written can be read, and what could not be read is not written: the bounds are the same on both sides.
func TestWhatIsWrittenCanBeRead(t *testing.T) {
	lines, list, directory := maxLine, maxManifest, maxDirectory
	defer func() { maxLine, maxManifest, maxDirectory = lines, list, directory }()
	dir := t.TempDir()
	rapid.Check(t, func(rt *rapid.T) {
		maxLine = rapid.IntRange(1<<16+1, 1<<17).Draw(rt, "longest line") // no less than what is read at a time
		maxManifest = rapid.IntRange(300, 3000).Draw(rt, "longest list")
		maxDirectory = rapid.IntRange(16<<10, 18<<10).Draw(rt, "longest directory")
		var to bytes.Buffer
		w := NewWriter(&to, time.Now())
		var err error
		wanted := map[string][]string{}
		for i := range rapid.IntRange(0, 12).Draw(rt, "parts") {
			name := fmt.Sprintf("studies/%d/part", i)
			err = w.Part(name, func(line func([]byte) error) error {
				for range rapid.IntRange(0, 3).Draw(rt, "lines") {
					size := rapid.SampledFrom([]int{3, 100, maxLine - 2, maxLine - 1, maxLine, maxLine + 1}).Draw(rt, "size")
					text := `"` + strings.Repeat("x", size-2) + `"`
					wanted[name] = append(wanted[name], text)
					if err := line([]byte(text)); err != nil {
						return err
					}
				}
				return nil
			})
			if err != nil {
				break
			}
		}
		if err == nil {
			err = w.Close()
		}
		if err != nil {
			require.ErrorIs(rt, err, ErrTooLarge)
			return
		}
		a, err := Open(t.Context(), written(rt, dir, to.Bytes()), 1<<40)
		require.NoError(rt, err)
		defer a.Close()
		for name, want := range wanted {
			var got []string
			require.NoError(rt, a.Lines(t.Context(), name, func(line []byte) error { got = append(got, string(line)); return nil }))
			require.Equal(rt, want, got)
		}
	})
}

// A part that is there twice, by the list of the file or by its own, and one that is more than it says, are refused.
func TestPartsAreNamedOnce(t *testing.T) {
	pack := func(manifest string, parts ...[2]string) string {
		var to bytes.Buffer
		z := zip.NewWriter(&to)
		for _, p := range append(parts, [2]string{manifestName, manifest}) {
			f, err := z.Create(p[0])
			require.NoError(t, err)
			_, err = f.Write([]byte(p[1]))
			require.NoError(t, err)
		}
		require.NoError(t, z.Close())
		return written(t, t.TempDir(), to.Bytes())
	}
	const one = `{"name":"a","lines":1,"bytes":3,"sha256":"4355a46b19d348dc2f57c046f8ef63d4538ebb936000f3c9ee954a27460dd865"}` // of "1\n" it is another
	for says, path := range map[string]string{
		"two parts called a": pack(`{"aftermathBackup":1,"parts":[`+one+`]}`, [2]string{"a", "1\n"}, [2]string{"a", "2\n"}),
		"names a twice":      pack(`{"aftermathBackup":1,"parts":[`+one+`,`+one+`]}`, [2]string{"a", "1\n"}),
		"not what was written": pack(`{"aftermathBackup":1,"parts":[{"name":"a","lines":1,"bytes":2,"sha256":"x"}]}`,
			[2]string{"a", "1\n"}),
		"unpacks to more than": pack(`{"aftermathBackup":1,"parts":[{"name":"a","lines":1,"bytes":2000000000,"sha256":"x"}]}`, [2]string{"a", "1\n"}),
	} {
		_, err := Open(t.Context(), path, 1<<30)
		require.ErrorIs(t, err, ErrBackup, says)
		assert.ErrorContains(t, err, says)
	}
	// One of accounts is of a format that earlier programs refuse.
	var to bytes.Buffer
	require.NoError(t, NewAccountsWriter(&to, time.Now()).Close())
	a, err := Open(t.Context(), written(t, t.TempDir(), to.Bytes()), 1<<30)
	require.NoError(t, err)
	defer a.Close()
	assert.True(t, a.Accounts && a.Format > Format)
}
