package export

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/crosstab"
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
