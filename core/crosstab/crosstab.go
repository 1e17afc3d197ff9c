// Package crosstab counts categories by segments, weighted, with bases, intervals and tests.
package crosstab

import (
	"context"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/parallel"
)

// Below these unweighted bases a share is marked, or not given at all.
const (
	SmallBase = 30
	TinyBase  = 10
)

// Under these adjusted p values a difference is marked with a capital or a small letter.
const (
	Sure     = 0.05
	FairSure = 0.10
)

// Query is what a table is made of.
type Query struct {
	Rows       []*roaring.Bitmap // an answer may be in several
	Base       *roaring.Bitmap   // no other answer counts
	Weights    []float64         // by answer, not negative; nil counts each as 1
	Groups     []Group
	Correction Correction // of the tests of a row within a nest
	Workers    int        // goroutines at once, at least 1
}

// Group is columns that are held against each other: the values of a segment, or of one within a value of another.
type Group struct {
	Columns []*roaring.Bitmap
	Nest    int     // groups of one nest are corrected together
	Apart   bool    // no answer is in two columns; else pairs and rows are not tested
	Ordered bool    // the columns stand in an order of their own: a trend is tested
	Persons []int32 // by answer: whom it is of; nil where no person is in two columns
}

// Cell is a category in a column.
type Cell struct {
	Answers  int     `json:"answers" doc:"unweighted"`
	Weighted float64 `json:"weighted" doc:"sum of weights"`
	Share    float64 `json:"share" doc:"weighted count / weighted base, 0 to 1"`
	OfRow    float64 `json:"ofRow" doc:"weighted count / weighted count in all, 0 to 1"`
	Low      float64 `json:"low" doc:"lower end of the 95 % interval (Wilson, on the effective base)"`
	High     float64 `json:"high" doc:"upper end"`
	Index    float64 `json:"index" doc:"100 × share / share in the total; 0 where the total has none"`
	Rest     Rest    `json:"rest"`
	Over     []Over  `json:"over,omitempty" doc:"columns of its group that it is over, with an adjusted p under 0.10"`
	Untested int     `json:"untested,omitempty" doc:"columns of its group that it can't be held against: small bases or expected counts"`
}

// Rest holds a column against the other answers of its group that have a value. All is 0 in the total.
type Rest struct {
	Difference float64 `json:"difference" doc:"share in the column less share in the rest"`
	Z          float64 `json:"z" doc:"pooled z on the effective bases"`
	P          float64 `json:"p" doc:"two-sided; 1 where there is no test"`
	Adjusted   float64 `json:"adjusted" doc:"p, corrected for the columns of the row in the nest"`
	Tested     bool    `json:"tested"`
}

// Over is that a share is over that in another column.
type Over struct {
	Column   int     `json:"column" doc:"place of the other column in the table; 0 is the total"`
	P        float64 `json:"p" doc:"two-sided, 0 to 1"`
	Adjusted float64 `json:"adjusted" doc:"p, corrected for the pairs of the row in the nest"`
	Paired   int     `json:"paired,omitempty" doc:"persons in both columns, by whom the two are held against each other (McNemar)"`
}

// GroupTest tests a row in a group.
type GroupTest struct {
	RowTest
	Trend   Standing `json:"trend" doc:"Cochran-Armitage, over columns in order"`
	Trended bool     `json:"trended" doc:"there is a test of the trend"`
}

// Table is a crosstab: Cells[row][column]. Column 0 is the total of all that is in the table; the columns of the groups follow.
type Table struct {
	Bases []Base        `json:"bases"`
	Cells [][]Cell      `json:"cells"`
	Tests [][]GroupTest `json:"tests" doc:"by row and group"`
}

var untested = GroupTest{RowTest: RowTest{Kind: "none", P: 1}, Trend: Standing{P: 1}}

// Make counts rows by columns. An error is that of the context.
func Make(ctx context.Context, q Query) (Table, error) {
	m := making{Query: q}
	t := Table{
		Bases: []Base{NewBase(q.Base, q.Weights)}, Cells: make([][]Cell, len(q.Rows)), Tests: make([][]GroupTest, len(q.Rows)),
	}
	var covered coverage
	for _, g := range q.Groups {
		p := m.part(g, len(t.Bases))
		if g.Apart && !q.Base.IsEmpty() {
			var err error
			if p.place, err = covered.place(ctx, p, int(q.Base.Maximum())+1, q.Workers); err != nil {
				return t, err
			}
		}
		m.parts = append(m.parts, p)
		t.Bases = append(t.Bases, p.bases...)
	}
	m.total = t.Bases[0]
	return t, parallel.Each(ctx, max(q.Workers, 1), len(q.Rows), func() func(int) {
		return func(i int) { t.Cells[i], t.Tests[i] = m.row(q.Rows[i]) }
	})
}

// Letters names columns, from 0: A to Z, then AA, AB and so on.
func Letters(column int) string {
	name := ""
	for n := column; n >= 0; n = n/26 - 1 {
		name = string(rune('A'+n%26)) + name
	}
	return name
}

// Mentions sums up a table whose rows are single things that are said: under each new row those of some of its rows. Shares are of
// all that is said in a column. One answer says several things, so there are neither intervals nor tests.
func (t Table) Mentions(under [][]int) Table {
	out := Table{Bases: make([]Base, len(t.Bases)), Cells: make([][]Cell, len(under)), Tests: make([][]GroupTest, len(under))}
	sum := func(column int, rows []int) (b Base) {
		for _, r := range rows {
			b.Answers += t.Cells[r][column].Answers
			b.Weighted += t.Cells[r][column].Weighted
		}
		return b
	}
	all := make([]int, len(t.Cells))
	for i := range all {
		all[i] = i
	}
	for c := range out.Bases {
		out.Bases[c] = sum(c, all)
	}
	for r, rows := range under {
		total := Cell{}
		for c, base := range out.Bases {
			cell := newCell(sum(c, rows), base, total)
			cell.Low, cell.High = cell.Share, cell.Share
			if c == 0 {
				total = cell.asTotal()
				cell = total
			}
			out.Cells[r] = append(out.Cells[r], cell)
		}
		if len(t.Tests) > 0 {
			out.Tests[r] = make([]GroupTest, len(t.Tests[0]))
			for g := range out.Tests[r] {
				out.Tests[r][g] = untested
			}
		}
	}
	return out
}
