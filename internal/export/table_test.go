package export

import (
	"bytes"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/crosstab"
	"aftermath/core/frame"
	"aftermath/core/playbook"
	"aftermath/internal/view/chart"
)

func TestTableWritesUnroundedShares(t *testing.T) {
	c := chart.Chart{
		Nests:   []chart.Nest{{Label: "=Route"}},
		Columns: []chart.Column{{Name: "All", Nest: -1}, {Name: "North", Values: []string{"North"}, Letter: "A"}, {Name: "South", Values: []string{"South"}, Letter: "B"}},
		Rows:    []chart.Row{{Path: "People"}, {Path: "People / Crew"}, {Path: "Not coded"}},
		Mean:    []chart.Mean{{Value: 2.0 / 3}, {Value: 1}, {}},
		Notes:   []string{"One note, with a comma."},
		Table: crosstab.Table{
			Bases: []crosstab.Base{{Answers: 3, Effective: 3}, {Answers: 1, Effective: 1}, {Answers: 2, Effective: 2}},
			Cells: [][]crosstab.Cell{
				{
					{Answers: 1, Share: 1.0 / 3, Low: 0.25, High: 0.5, Index: 100},
					{Answers: 1, Share: 1, Index: 300, Over: []crosstab.Over{{Column: 2, Adjusted: 0.01}}},
					{Rest: crosstab.Rest{Tested: true, Adjusted: 0.02}},
				},
				{{}, {Over: []crosstab.Over{{Column: 2, Adjusted: 0.07}}}, {}},
				{{Answers: 2, Share: 2.0 / 3}, {}, {Answers: 2, Share: 1, Index: 150}},
			},
		},
	}
	var b bytes.Buffer
	require.NoError(t, Table(&b, c))
	lines := strings.Split(b.String(), "\n")
	assert.True(t, strings.HasPrefix(
		lines[0],
		"category,All: answers,All: share,All: low,All: high,All: index,All: over,All: p against the rest,'=Route North (A): answers,",
	), lines[0])
	assert.Equal(t, []string{
		"base (answered),3,,,,,,,1,,,,,,,2,,,,,,",
		"effective base,3,,,,,,,1,,,,,,,2,,,,,,",
		"People,1,0.3333333333333333,0.25,0.5,,,,1,1,0,0,300,B,,0,0,0,0,0,,0.02",
		"People / Crew,0,0,0,0,,,,0,0,0,0,0,b,,0,0,0,0,0,,",
		"Not coded,2,0.6666666666666666,0,0,,,,0,0,0,0,0,,,2,1,0,0,150,,",
		"mean number of categories,0.6666666666666666,,,,,,,1,,,,,,,0,,,,,,",
		`note,"One note, with a comma.",,,,,,,,,,,,,,,,,,,,`, "",
	}, lines[1:])
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
	data := Coded{
		Data:  Data{Columns: []string{"answer"}, Cell: func(row, _ int) string { return answers[row] }, ID: -1, Decisions: d},
		Index: r.Index, Coding: c,
	}
	of := func(shape string) string {
		var b bytes.Buffer
		data.Shape = shape
		require.NoError(t, data.Write(t.Context(), &b, CodedFormats[0]))
		return b.String()
	}
	wide, long := func() string { return of(Wide) }, func() string { return of(Long) }
	assert.Equal(t, "answer,Late,Cold,\"suggested, unread\"\nlate,1,1,\ncold tea,0,1,Cold\n,,,\n", wide())
	assert.Equal(t, "row,answer,category,code,\"suggested, unread\"\n1,late,Late,1,\n1,late,Cold,2,\n2,cold tea,Cold,2,1\n", long())
	data.Decisions = frame.NewDecisions()
	assert.Equal(t, "answer,Late,Cold\nlate,1,1\ncold tea,0,1\n,,\n", wide())
	assert.Equal(t, "row,answer,category,code\n1,late,Late,1\n1,late,Cold,2\n2,cold tea,Cold,2\n", long())
}
