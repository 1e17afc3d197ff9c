package export

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

func question(t *testing.T, answers ...string) *state.State {
	ids := make([]string, len(answers))
	for i := range ids {
		ids[i] = fmt.Sprintf("R%d", i+1)
	}
	book := playbook.New("en")
	columns := []survey.Spec{{Name: "id", Role: survey.Identifier}, {Name: "said", Role: survey.OpenEnded}}
	q, err := state.Unstored(context.Background(), columns, [][]string{ids, answers}, 1, book)
	require.NoError(t, err)
	return q
}

// The weights were worked out by hand: three answers, tea in 2 of them (idf ln(4/3)+1), boat in 2, queue in 1 (ln(4/2)+1).
func TestMatrix(t *testing.T) {
	q := question(t, "tea tea boat", "n/a", "the boat", "queue for tea")
	write := func(values string, how func(Matrix, context.Context, io.Writer) error) string {
		m, err := NewMatrix(t.Context(), q, nil, values, 1, 10)
		require.NoError(t, err)
		var b bytes.Buffer
		require.NoError(t, how(m, t.Context(), &b))
		return b.String()
	}
	for values, want := range map[string]string{
		"counts": "R1,1,2,0\nR3,1,0,0\nR4,0,1,1\n",
		"binary": "R1,1,1,0\nR3,1,0,0\nR4,0,1,1\n",
		"share":  "R1,0.3333333333333333,0.6666666666666666,0\nR3,0.5,0,0\nR4,0,0.3333333333333333,0.3333333333333333\n",
		"tfidf":  "R1,0.4472135954999579,0.8944271909999159,0\nR3,1,0,0\nR4,0,0.6053485081062916,0.7959605415681652\n",
	} {
		assert.Equal(t, "respondent,boat,tea,queue\n"+want, write(values, Matrix.CSV), values)
	}
	packed := write("counts", Matrix.MatrixMarket)
	z, err := zip.NewReader(strings.NewReader(packed), int64(len(packed)))
	require.NoError(t, err)
	files := map[string]string{}
	for _, f := range z.File {
		r, err := f.Open()
		require.NoError(t, err)
		data, err := io.ReadAll(r)
		require.NoError(t, err)
		files[f.Name] = string(data)
	}
	assert.Equal(t, map[string]string{
		"columns.csv": "column,term\n1,boat\n2,tea\n3,queue\n", "rows.csv": "row,respondent\n1,R1\n2,R3\n3,R4\n",
		"matrix.mtx": "%%MatrixMarket matrix coordinate integer general\n% answers by terms: counts; rows.csv and columns.csv say which\n3 3 5\n1 1 1\n1 2 2\n2 1 1\n3 2 1\n3 3 1\n",
	}, files)
	none, err := NewMatrix(t.Context(), q, focus.Focus{focus.Is(focus.Words{Rule: "rude"})}, "counts", 1, 10)
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, none.CSV(t.Context(), &b))
	assert.Equal(t, "respondent\n", b.String())
}

func TestSheets(t *testing.T) {
	rows := func(yield func([]any) bool) {
		_ = yield([]any{"term", "answers"}) && yield([]any{"=1+1", 3}) && yield([]any{"tea", 0.5})
	}
	var b bytes.Buffer
	require.NoError(t, Sheet(&b, "csv", "terms", rows))
	assert.Equal(t, "term,answers\n'=1+1,3\ntea,0.5\n", b.String())
	b.Reset()
	require.NoError(t, Sheet(&b, "xlsx", "terms", rows))
	f, err := excelize.OpenReader(&b)
	require.NoError(t, err)
	got, err := f.GetRows("terms")
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"term", "answers"}, {"=1+1", "3"}, {"tea", "0.5"}}, got)
	formula, err := f.GetCellFormula("terms", "A2")
	require.NoError(t, err)
	assert.Empty(t, formula, "a text stays a text")
	kind, err := f.GetCellType("terms", "B2")
	require.NoError(t, err)
	assert.NotEqual(t, excelize.CellTypeInlineString, kind, "a number stays a number")
}
