package files

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestReadCSV(t *testing.T) {
	got, err := ReadCSV(strings.NewReader("\ufeffid,answer,,answer\n1,\"two\nlines, \"\"quoted\"\"\",x,y\n"), nil)
	require.NoError(t, err)
	assert.Equal(t, []string{"id", "answer", "column 3", "answer (2)"}, got.Columns)
	assert.Equal(t, [][]string{{"1", "two\nlines, \"quoted\"", "x", "y"}}, got.Rows)
}

func TestBrokenFilesNameRowAndReason(t *testing.T) {
	for in, want := range map[string]string{
		"":                                     "it is empty",
		"a,b\n1,2\n3\n":                        "row 3 has 1 cells, the header has 2",
		"a,b\n1,\"x\n":                         "row 2 (line 2",
		"a,b\n1,x\"y\n":                        "a quote stands inside a cell",
		"a,b\n1,\xff\n":                        `row 2, column "b": the cell is not UTF-8`,
		"a,b\n1,\x00\n":                        "zero byte",
		"a\n" + strings.Repeat("x", MaxCell+1): `row 2, column "a": the cell has`,
	} {
		_, err := ReadCSV(strings.NewReader(in), nil)
		require.ErrorIs(t, err, ErrFile)
		assert.Contains(t, err.Error(), want)
	}
}

func TestFormulasAreMadeText(t *testing.T) {
	var b bytes.Buffer
	w := NewWriter(&b)
	require.NoError(t, w.Write([]string{"=1+1", "-3.5", "- none", "@x", "plain"}))
	require.NoError(t, w.Flush())
	assert.Equal(t, "'=1+1,-3.5,'- none,'@x,plain\n", b.String())
}

func FuzzReadCSV(f *testing.F) {
	f.Add([]byte("a,b\n1,\"x\n\"\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		got, err := ReadCSV(bytes.NewReader(data), nil)
		if err == nil {
			for _, row := range got.Rows {
				require.Len(t, row, len(got.Columns))
			}
		}
	})
}
