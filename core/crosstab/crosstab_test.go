package crosstab

import (
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Reference figures worked out with R 4.2.2 (prop.test, correct=FALSE).
func TestWilsonAgainstReference(t *testing.T) {
	base, coded := []float64{412, 268, 95, 24}, []float64{131, 59, 38, 9}
	low := []float64{0.274852695778, 0.174689908091, 0.307228999261, 0.211593675595}
	high := []float64{0.364432909786, 0.273517879452, 0.500543971447, 0.572900375573}
	for i := range base {
		l, h := Wilson(coded[i]/base[i], base[i])
		assert.InDelta(t, low[i], l, 1e-9)
		assert.InDelta(t, high[i], h, 1e-9)
	}
}

func TestWeightedTable(t *testing.T) {
	weights := []float64{0.5, 1.2, 0.8, 2.0, 1.1, 0.9, 1.5, 0.7, 9}
	coded, column := roaring.BitmapOf(0, 2, 3, 6), roaring.BitmapOf(0, 1, 2, 8)
	base := roaring.BitmapOf(0, 1, 2, 3, 4, 5, 6, 7)
	got, err := Make(t.Context(), Query{
		Rows: []*roaring.Bitmap{coded}, Groups: []Group{{Columns: []*roaring.Bitmap{column}}}, Base: base, Weights: weights,
	})
	require.NoError(t, err)
	assert.InDelta(t, 6.82506762849, got.Bases[0].Effective, 1e-9)
	assert.InDelta(t, 0.551724137931, got.Cells[0][0].Share, 1e-9)
	assert.Equal(t, 3, got.Bases[1].Answers, "8 is not in the base")
	assert.InDelta(t, 1.3/2.5, got.Cells[0][1].Share, 1e-12)
	assert.InDelta(t, 100*(1.3/2.5)/0.551724137931, got.Cells[0][1].Index, 1e-9)
	assert.Equal(t, 2, got.Cells[0][1].Answers)
	plain, err := Make(t.Context(), Query{Rows: []*roaring.Bitmap{coded}, Base: base})
	require.NoError(t, err)
	assert.Equal(t, 0.5, plain.Cells[0][0].Share)
}
