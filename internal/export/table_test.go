package export

import (
	"bytes"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/crosstab"
	"aftermath/core/frame"
	"aftermath/core/playbook"
	"aftermath/internal/desk/report/chart"
)

func TestTableWritesUnroundedShares(t *testing.T) {
	c := chart.Chart{
		Base:    "answered",
		Columns: []string{"All", "North"},
		Label:   "=Route",
		Rows:    []chart.ChartRow{{ID: "c1", Name: "People", Net: true}, {ID: "c2", Name: "Crew", Depth: 1}, {Name: "Not coded"}},
		Table: crosstab.Table{Bases: []crosstab.Base{{Answers: 3, Weighted: 3, Effective: 3}, {Answers: 1, Weighted: 1, Effective: 1}},
			Cells: [][]crosstab.Cell{
				{{Answers: 1, Weighted: 1, Share: 1.0 / 3}, {}}, {{Answers: 1, Weighted: 1, Share: 1.0 / 3}, {}},
				{{Answers: 2, Weighted: 2, Share: 2.0 / 3}, {Answers: 1, Weighted: 1, Share: 1}},
			}},
	}
	var b bytes.Buffer
	require.NoError(t, Table(&b, c))
	assert.Equal(t, `category,All: answers,All: weighted,All: share,'=Route North: answers,'=Route North: weighted,'=Route North: share
base (answered),3,3,,1,1,
effective base,3,,,1,,
People,1,1,0.3333333333333333,0,0,0
People / Crew,1,1,0.3333333333333333,0,0,0
Not coded,2,2,0.6666666666666666,1,1,1
`, b.String())
}

// What was put on unread is said in every file that has any of it, and in none that has not.
func TestFilesSayWhatIsSuggested(t *testing.T) {
	p := playbook.New("en")
	p.Frame = frame.Frame{{Name: "Late", Rules: []string{"late"}}, {Name: "Cold"}}
	p.Frame.Complete(nil, 0)
	answers := []string{"late", "cold tea", ""}
	r, err := p.Read(t.Context(), answers, 1, nil)
	require.NoError(t, err)
	d := frame.NewDecisions()
	d.On["c2"], d.Suggested = roaring.BitmapOf(0, 1), map[string]*roaring.Bitmap{"c2": roaring.BitmapOf(1)}
	c, err := p.Code(t.Context(), p.View(r), answers, nil, d, nil)
	require.NoError(t, err)
	data := Data{Columns: []string{"answer"}, Cell: func(row, _ int) string { return answers[row] }, ID: -1, Decisions: d}
	wide := func() string {
		var b bytes.Buffer
		require.NoError(t, Wide(&b, data, r.Index, c))
		return b.String()
	}
	long := func() string {
		var b bytes.Buffer
		require.NoError(t, Long(&b, data, r.Index, c))
		return b.String()
	}
	assert.Equal(t, "answer,Late,Cold,\"suggested, unread\"\nlate,1,1,\ncold tea,0,1,Cold\n,,,\n", wide())
	assert.Equal(t, "row,answer,category,code,\"suggested, unread\"\n1,late,Late,1,\n1,late,Cold,2,\n2,cold tea,Cold,2,1\n", long())
	data.Decisions = frame.NewDecisions()
	assert.Equal(t, "answer,Late,Cold\nlate,1,1\ncold tea,0,1\n,,\n", wide())
	assert.Equal(t, "row,answer,category,code\n1,late,Late,1\n1,late,Cold,2\n2,cold tea,Cold,2\n", long())
}
