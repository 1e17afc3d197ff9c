// Package crosstab counts categories by segments, weighted, with bases and intervals.
package crosstab

import (
	"context"
	"math"

	"github.com/RoaringBitmap/roaring/v2"
)

// z975 is the 97.5 % quantile of the standard normal distribution: the interval around a share is at 95 %.
const z975 = 1.959963984540054

// Below these unweighted bases a share is marked, or not given at all.
const (
	SmallBase = 30
	TinyBase  = 10
)

// Base is what a column's shares are of.
type Base struct {
	Answers   int     `json:"answers" doc:"unweighted"`
	Weighted  float64 `json:"weighted" doc:"sum of weights"`
	Effective float64 `json:"effective" doc:"(sum of weights)² / sum of squared weights: the simple sample that is as precise"`
}

// Cell is a category in a column.
type Cell struct {
	Answers  int     `json:"answers" doc:"unweighted"`
	Weighted float64 `json:"weighted" doc:"sum of weights"`
	Share    float64 `json:"share" doc:"weighted count / weighted base, 0 to 1"`
	Low      float64 `json:"low" doc:"lower end of the 95 % interval (Wilson, on the effective base)"`
	High     float64 `json:"high" doc:"upper end"`
	Index    float64 `json:"index" doc:"100 × share / share in the total; 0 where the total has none"`
}

// Table is a crosstab: Cells[row][column]. Column 0 is the total of all that is in the table.
type Table struct {
	Bases []Base   `json:"bases"`
	Cells [][]Cell `json:"cells"`
}

// Make counts rows by columns among the answers in base. Weights are by answer; nil counts each as 1. An answer may be
// in several rows and several columns. An error is that of the context.
func Make(ctx context.Context, rows, columns []*roaring.Bitmap, base *roaring.Bitmap, weights []float64) (Table, error) {
	all := append([]*roaring.Bitmap{base}, columns...)
	t := Table{}
	for _, column := range all {
		t.Bases = append(t.Bases, NewBase(roaring.And(column, base), weights))
	}
	for _, row := range rows {
		if err := ctx.Err(); err != nil {
			return Table{}, err
		}
		cells := make([]Cell, len(all))
		for i, column := range all {
			set := roaring.And(row, column)
			set.And(base)
			cells[i] = newCell(NewBase(set, weights), t.Bases[i])
			if cells[0].Share > 0 {
				cells[i].Index = 100 * (cells[i].Share / cells[0].Share)
			}
		}
		t.Cells = append(t.Cells, cells)
	}
	return t, nil
}

func newCell(count, base Base) Cell {
	c := Cell{Answers: count.Answers, Weighted: count.Weighted}
	if base.Weighted > 0 {
		c.Share = count.Weighted / base.Weighted
		c.Low, c.High = Wilson(c.Share, base.Effective)
	}
	return c
}

// NewBase sums the weights of a set; nil counts each answer as 1.
func NewBase(set *roaring.Bitmap, weights []float64) Base {
	n := int(set.GetCardinality())
	if weights == nil {
		return Base{n, float64(n), float64(n)}
	}
	b := Base{Answers: n}
	squares := 0.0
	for it := set.Iterator(); it.HasNext(); {
		w := weights[it.Next()]
		b.Weighted += w
		squares += w * w
	}
	if squares > 0 {
		b.Effective = b.Weighted * b.Weighted / squares
	}
	return b
}

// Wilson gives the 95 % score interval of a share (0 to 1) on a base of n > 0 (E. B. Wilson, 1927).
func Wilson(share, n float64) (low, high float64) {
	if n <= 0 {
		return 0, 0
	}
	const z2 = z975 * z975
	middle := (share + z2/(2*n)) / (1 + z2/n)
	half := z975 / (1 + z2/n) * math.Sqrt(share*(1-share)/n+z2/(4*n*n))
	return max(middle-half, 0), min(middle+half, 1)
}
