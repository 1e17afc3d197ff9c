package crosstab

import (
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A table is what counting answer by answer gives, and its shares, intervals and bases hang together.
func TestTableAgainstCounting(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 60).Draw(t, "answers")
		pick := func(label string) *roaring.Bitmap {
			set := roaring.New()
			for i := range n {
				if rapid.Bool().Draw(t, label) {
					set.Add(uint32(i))
				}
			}
			return set
		}
		base, rows, columns := pick("base"), []*roaring.Bitmap{pick("row"), pick("row")}, []*roaring.Bitmap{
			pick("column"), pick("column"),
		}
		var weights []float64
		if rapid.Bool().Draw(t, "weighted") {
			for range n {
				weights = append(weights, rapid.Float64Range(0.1, 4).Draw(t, "weight"))
			}
		}
		weight := func(i int) float64 {
			if weights == nil {
				return 1
			}
			return weights[i]
		}
		got, err := Make(t.Context(), rows, columns, base, weights)
		require.NoError(t, err)
		for c, column := range append([]*roaring.Bitmap{base}, columns...) {
			count, sum, squares := 0, 0.0, 0.0
			for i := range n {
				if base.Contains(uint32(i)) && column.Contains(uint32(i)) {
					count, sum, squares = count+1, sum+weight(i), squares+weight(i)*weight(i)
				}
			}
			require.Equal(t, count, got.Bases[c].Answers)
			require.InDelta(t, sum, got.Bases[c].Weighted, 1e-9)
			require.LessOrEqual(t, got.Bases[c].Effective, float64(count)+1e-9, "weights never make a sample more precise")
			if count > 0 {
				require.InDelta(t, sum*sum/squares, got.Bases[c].Effective, 1e-9)
			}
			for r, row := range rows {
				cell, hits, with := got.Cells[r][c], 0, 0.0
				for i := range n {
					if base.Contains(uint32(i)) && column.Contains(uint32(i)) && row.Contains(uint32(i)) {
						hits, with = hits+1, with+weight(i)
					}
				}
				require.Equal(t, hits, cell.Answers)
				if count == 0 {
					require.Zero(t, cell.Share)
					continue
				}
				require.InDelta(t, with/sum, cell.Share, 1e-9)
				require.True(t, 0 <= cell.Low && cell.Low <= cell.Share+1e-9 && cell.Share <= cell.High+1e-9 && cell.High <= 1, "%+v", cell)
			}
		}
	})
}
