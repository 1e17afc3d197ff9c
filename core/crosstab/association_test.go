package crosstab

import (
	"context"
	"fmt"
	"math"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The figures were made with R 4.2.2 (chisq.test, prop.test, fisher.test, p.adjust, pnorm and the formulas written out).
func TestAssociationAgainstReference(t *testing.T) {
	k := NewKeyness(88, 12000, 41, 15500)
	assert.InDelta(t, 31.6601253736, k.G2, 1e-9)
	assert.InDelta(t, 1.47111342368, k.Ratio, 1e-9)

	c := NewCoOccurrence(46, 120, 150, 900)
	assert.InDelta(t, 38.6766310879, c.G2, 1e-9)
	assert.InDelta(t, 1.20163386117, c.PMI, 1e-9)
	assert.InDelta(t, 0.205357142857, c.Jaccard, 1e-9)
	assert.InDelta(t, 2.3, c.Lift, 1e-9)
}

func TestMoreThanBefore(t *testing.T) {
	assert.InDelta(t, 17.0/70, MoreThanBefore(3, 4, 1, 4), 1e-12, "the lady who tasted tea")
	assert.InDelta(t, 1, MoreThanBefore(0, 4, 4, 4), 1e-12)
}

// The tail that is at least k and the one that is under it make up everything; the other way round they mirror.
func TestFisherTailsAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n1, n2 := rapid.IntRange(1, 300).Draw(t, "n1"), rapid.IntRange(1, 300).Draw(t, "n2")
		k1, k2 := rapid.IntRange(1, n1).Draw(t, "k1"), rapid.IntRange(0, n2).Draw(t, "k2")
		under := MoreThanBefore(k2+1, n2, k1-1, n1) // at least k2+1 in the other sample is at most k1-1 in this one
		assert.InDelta(t, 1, MoreThanBefore(k1, n1, k2, n2)+under, 1e-9)
	})
}

func TestRichness(t *testing.T) {
	assert.InDelta(t, 2, Richness([]int{3, 3}, 6), 1e-9, "all of it")
	assert.InDelta(t, 1, Richness([]int{5, 2, 1}, 1), 1e-9)
	assert.InDelta(t, 1+3.0/5, Richness([]int{3, 3}, 2), 1e-9, "the second is another in 3 of 5 draws")
	assert.Zero(t, Richness([]int{1}, 2))
	assert.False(t, math.IsNaN(Richness([]int{1_000_000, 1}, 1000)))
}

// Each p is adjusted to the least that any p not under it gives: the step that keeps the order of the p values.
func TestFalseDiscoveryAgainstItsDefinition(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := rapid.SliceOfN(rapid.SampledFrom([]float64{0.001, 0.01, 0.02, 0.021, 0.03, 0.2, 0.9, 1}), 0, 12).Draw(t, "p")
		for i, got := range FalseDiscovery(p) {
			want := 1.0
			for _, least := range p {
				rank := 0
				for _, x := range p {
					if x <= least {
						rank++
					}
				}
				if least >= p[i] {
					want = min(want, least*float64(len(p))/float64(rank))
				}
			}
			require.InDelta(t, want, got, 1e-12)
		}
	})
}

func ExampleMake() {
	coded, north := roaring.BitmapOf(0, 1, 4), roaring.BitmapOf(0, 1, 2)
	t, _ := Make(context.Background(), Query{
		Rows: []*roaring.Bitmap{coded}, Base: roaring.BitmapOf(0, 1, 2, 3, 4),
		Groups: []Group{{Columns: []*roaring.Bitmap{north}}},
	})
	all, column := t.Cells[0][0], t.Cells[0][1]
	fmt.Printf("%.0f %% of all, %.0f %% in the north, index %.0f\n", 100*all.Share, 100*column.Share, column.Index)
	// Output: 60 % of all, 67 % in the north, index 111
}
