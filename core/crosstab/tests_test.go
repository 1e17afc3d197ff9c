package crosstab

import (
	"math"
	"math/big"
	"slices"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The figures were made with R 4.2.2: chisq.test and prop.test without correction, fisher.test, p.adjust, mcnemar.test without
// correction, prop.trend.test, t.test (Welch), cor.test, pnorm and qnorm.

var (
	referenceBase  = []int{412, 268, 95, 24}
	referenceCoded = []int{131, 59, 38, 9}
)

func referenceParts() (parts []Portion) {
	for i, n := range referenceBase {
		parts = append(parts, portionOf(referenceCoded[i], n))
	}
	return parts
}

func TestRowAgainstReference(t *testing.T) {
	row := TestRow(referenceParts(), true)
	assert.Equal(t, "chi-square", row.Kind)
	assert.Equal(t, 3, row.DF)
	assert.InDelta(t, 13.9840786037, row.ChiSquare, 1e-9)
	assert.InDelta(t, 0.00292690481333, row.P, 1e-9)
	assert.InDelta(t, 0.132295032878, row.V, 1e-9)
	assert.False(t, row.Weak)

	assert.InDelta(t, 0.02122156621, Fisher(2, 27, 14, 45), 1e-9)
	few := []Portion{portionOf(1, 10), portionOf(6, 12)}
	exact := TestRow(few, true)
	assert.Equal(t, "fisher", exact.Kind)
	assert.InDelta(t, Fisher(1, 10, 6, 12), exact.P, 1e-12)
	weak := TestRow(few, false)
	assert.Equal(t, "chi-square", weak.Kind, "weighted counts are no whole numbers")
	assert.True(t, weak.Weak)
	// A fifth of the expected counts may be under 5, none under 1.
	large := portionOf(20, 40)
	assert.False(t, TestRow([]Portion{large, large, large, large, portionOf(2, 8)}, true).Weak)
	assert.True(t, TestRow([]Portion{large, large, portionOf(2, 8)}, true).Weak)
	assert.True(t, TestRow([]Portion{large, large, large, large, portionOf(1, 1)}, true).Weak)
	assert.Equal(t, "none", TestRow([]Portion{portionOf(3, 9), {}}, true).Kind, "one part without anybody")
	assert.Equal(t, "none", TestRow([]Portion{portionOf(9, 9), portionOf(4, 4)}, true).Kind, "everybody has it")
}

func TestPairsAgainstReference(t *testing.T) {
	z := []float64{2.777712967708, -1.529086915815, -0.58177927536, -3.403831640214, -1.719488520456, 0.223854451827}
	p := []float64{
		0.005474295271231, 0.12624289853297, 0.560715365406375, 0.000664476955632, 0.085525456148286, 0.822870558477246,
	}
	parts := referenceParts()
	at := 0
	for i := range parts {
		for j := i + 1; j < len(parts); j++ {
			s, ok := Compare(parts[i], parts[j])
			assert.Equal(t, j != 3, ok, "no test on a base of 24")
			if ok {
				assert.InDelta(t, z[at], s.Z, 1e-9)
				assert.InDelta(t, p[at], s.P, 1e-9)
			}
			at++
		}
	}
	for correction, want := range map[Correction][]float64{
		NoCorrection:      p,
		Bonferroni:        {0.03284577162738, 0.75745739119782, 1, 0.00398686173379, 0.51315273688971, 1},
		BenjaminiHochberg: {0.01642288581369, 0.18936434779945, 0.67285843848765, 0.00398686173379, 0.17105091229657, 0.82287055847725},
		Holm:              {0.02737147635615, 0.37872869559891, 1, 0.00398686173379, 0.34210182459314, 1},
	} {
		assert.InDeltaSlice(t, want, correction.Adjust(p), 1e-9, correction)
	}
}

func TestColumnsAgainstTheRestAgainstReference(t *testing.T) {
	z := []float64{1.362615412488, -3.362000006755, 2.350101281215}
	p := []float64{0.173003748858882, 0.000773801217047, 0.01876830341362}
	for i := range z {
		s, ok := CompareShares(referenceCoded[i], referenceBase[i], 237-referenceCoded[i], 799-referenceBase[i])
		assert.True(t, ok)
		assert.InDelta(t, z[i], s.Z, 1e-9)
		assert.InDelta(t, p[i], s.P, 1e-9)
	}
	_, ok := CompareShares(9, 24, 228, 775)
	assert.False(t, ok)
}

func TestWeightedColumnsAgainstReference(t *testing.T) {
	first := []float64{
		0.5, 1.2, 0.8, 2.0, 1.1, 0.9, 1.5, 0.7, 1.3, 0.6, 1.0, 0.4, 1.8, 1.2, 0.9, 1.1, 0.7, 1.6, 0.8, 1.0, 1.4, 0.5, 0.9, 1.2, 1.1,
		0.8, 0.7, 1.3, 1.0, 0.6, 1.5, 0.9, 1.2, 0.8,
	}
	second := []float64{
		1.1, 0.9, 1.0, 1.3, 0.7, 0.8, 1.2, 1.5, 0.6, 1.0, 0.9, 1.4, 0.8, 1.1, 0.5, 1.6, 0.7, 1.0, 1.2, 0.9, 0.8, 1.1, 1.3, 0.6, 1.0,
		0.9, 1.2, 0.7, 1.4, 0.8, 1.0, 1.1, 0.9, 1.2, 0.8, 1.3,
	}
	coded := []int{
		1, 0, 1, 1, 0, 0, 1, 0, 1, 0, 1, 1, 0, 0, 1, 0, 1, 0, 1, 1, 0, 0, 1, 0, 1, 0, 1, 1, 0, 0, 1, 0, 1, 0,
		0, 0, 1, 0, 0, 1, 0, 0, 0, 0, 0, 1, 0, 0, 1, 0, 0, 0, 0, 0, 1, 0, 0, 1, 0, 0, 0, 0, 0, 1, 0, 0, 1, 0, 0, 0,
	}
	has := roaring.New()
	for i, c := range coded {
		if c == 1 {
			has.Add(uint32(i))
		}
	}
	ranges := func(from, to uint64) *roaring.Bitmap { b := roaring.New(); b.AddRange(from, to); return b }
	all := ranges(0, 70)
	got, err := Make(t.Context(), Query{
		Rows: []*roaring.Bitmap{has}, Base: all, Weights: slices.Concat(first, second),
		Groups: []Group{{Columns: []*roaring.Bitmap{ranges(0, 34), ranges(34, 70)}, Apart: true}},
	})
	require.NoError(t, err)
	a, b := got.Cells[0][1], got.Cells[0][2]
	assert.InDelta(t, 0.502857142857, a.Share, 1e-9)
	assert.InDelta(t, 0.187327823691, b.Share, 1e-9)
	assert.InDelta(t, 30.113077679449, got.Bases[1].Effective, 1e-9)
	assert.InDelta(t, 33.70913277053, got.Bases[2].Effective, 1e-9)
	assert.InDelta(t, 0.33435833075, a.Low, 1e-9)
	assert.InDelta(t, 0.670709467174, a.High, 1e-9)
	require.Len(t, a.Over, 1)
	assert.Equal(t, 2, a.Over[0].Column)
	assert.InDelta(t, math.Erfc(2.663708192698/math.Sqrt2), a.Over[0].P, 1e-9)
	assert.InDelta(t, 2.663708192698, a.Rest.Z, 1e-9, "there is no other in the rest")
}

func TestPairedAgainstReference(t *testing.T) {
	s, ok := Paired(74, 104)
	assert.True(t, ok)
	assert.InDelta(t, 5.056179775281, s.Z*s.Z, 1e-9)
	assert.InDelta(t, 0.0245382705587, s.P, 1e-9)
	assert.Negative(t, s.Z)
	_, ok = Paired(4, 5)
	assert.False(t, ok)
}

func TestTrendAgainstReference(t *testing.T) {
	var parts []Portion
	base := []int{210, 220, 215, 190, 205}
	for i, k := range []int{15, 22, 31, 28, 41} {
		parts = append(parts, portionOf(k, base[i]))
	}
	s, ok := Trend(parts)
	assert.True(t, ok)
	assert.InDelta(t, 16.919830959931, s.Z*s.Z, 1e-9)
	assert.InDelta(t, 3.89920924414e-05, s.P, 1e-9)
	assert.Positive(t, s.Z)
	slices.Reverse(parts)
	back, _ := Trend(parts)
	assert.InDelta(t, -s.Z, back.Z, 1e-9)
	_, ok = Trend(parts[:2])
	assert.False(t, ok)
}

var (
	scoresWith    = []float64{3, 5, 2, 6, 4, 7, 1, 5, 3, 4, 6, 2, 5, 4, 3, 0, 8, 4, 5, 2, 3, 6, 1, 4, 5, 3, 2, 7, 4, 3, 5, 6}
	scoresWithout = []float64{
		8, 9, 7, 6, 10, 8, 7, 9, 5, 8, 9, 10, 6, 7, 8, 9, 4, 8, 7, 9, 10, 8, 6, 9, 7, 5, 8, 9, 8, 7, 6, 10, 9, 8, 3, 7, 8, 9, 6, 8,
	}
)

func allOf(n int) *roaring.Bitmap { b := roaring.New(); b.AddRange(0, uint64(n)); return b }

func TestMeansAgainstReference(t *testing.T) {
	a := NewSample(allOf(len(scoresWith)), scoresWith, nil)
	b := NewSample(allOf(len(scoresWithout)), scoresWithout, nil)
	assert.InDelta(t, 4, a.Mean, 1e-9)
	assert.InDelta(t, 7.625, b.Mean, 1e-9)
	m, ok := CompareMeans(a, b)
	assert.True(t, ok)
	assert.InDelta(t, -8.533515861408, m.T, 1e-9)
	assert.InDelta(t, 61.649378832205, m.DF, 1e-9)
	assert.InDelta(t, 4.92663360407e-12, m.P, 1e-17)
	assert.InDelta(t, -4.47425038486, m.Low, 1e-9)
	assert.InDelta(t, -2.77574961514, m.High, 1e-9)
	assert.InDelta(t, -2.057084981204, m.D, 1e-9)

	_, ok = CompareMeans(a, NewSample(allOf(29), scoresWithout, nil))
	assert.False(t, ok, "a base of 29")
	both := slices.Concat(scoresWith, scoresWithout)
	has := make([]float64, len(both))
	for i := range scoresWith {
		has[i] = 1
	}
	c, ok := Correlate(has, both)
	assert.True(t, ok)
	assert.InDelta(t, -0.719722639305, c.Pearson, 1e-9)
	assert.InDelta(t, 1.05160570071e-12, c.P, 1e-17)
	assert.InDelta(t, -0.815428935881, c.Low, 1e-9)
	assert.InDelta(t, -0.585714407209, c.High, 1e-9)
	assert.InDelta(t, -0.727960183533, c.Spearman, 1e-9)

	net := NewNet(NewSample(allOf(len(both)), both, nil), Bands(allOf(len(both)), both, nil, NetEdges()))
	assert.InDelta(t, 0.180555555556, net.High, 1e-9)
	assert.InDelta(t, 0.527777777778, net.Low, 1e-9)
	assert.InDelta(t, -0.347222222222, net.Score, 1e-9)
	assert.InDelta(t, 0.090351940098, net.Error, 1e-9)
}

// Counts summed up in one pass are those summed up in two.
func TestCountSample(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(0, 60).Draw(t, "n")
		x, w, set := make([]float64, n), make([]float64, n), roaring.New()
		for i := range n {
			x[i], w[i] = float64(rapid.IntRange(0, 12).Draw(t, "x")), rapid.SampledFrom([]float64{0, 0.3, 1, 2.5}).Draw(t, "w")
			if rapid.Bool().Draw(t, "in") {
				set.Add(uint32(i))
			}
		}
		if rapid.Bool().Draw(t, "plain") {
			w = nil
		}
		got, want := NewCountSample(set, x, w), NewSample(set, x, w)
		assert.Equal(t, want.Answers, got.Answers)
		for _, pair := range [][2]float64{{want.Weighted, got.Weighted}, {want.Mean, got.Mean}, {want.N, got.N}, {want.spread, got.spread}, {want.squares, got.squares}} {
			assert.InDelta(t, pair[0], pair[1], 1e-9)
		}
	})
}

// Numbers with weights are summed up as the formulas are written.
func TestSampleAgainstItsDefinition(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 40).Draw(t, "n")
		x, w := make([]float64, n), make([]float64, n)
		set := roaring.New()
		var sum, squares, total float64
		for i := range n {
			x[i] = rapid.SampledFrom([]float64{math.NaN(), -3, 0, 1, 2.5, 9, 10}).Draw(t, "x")
			w[i] = rapid.SampledFrom([]float64{0, 0.5, 1, 3}).Draw(t, "w")
			if rapid.Bool().Draw(t, "in") {
				set.Add(uint32(i))
				if x[i] == x[i] {
					sum, squares, total = sum+w[i], squares+w[i]*w[i], total+w[i]*x[i]
				}
			}
		}
		got := NewSample(set, x, w)
		assert.InDelta(t, sum, got.Weighted, 1e-9)
		if sum == 0 {
			assert.Zero(t, got.Answers)
			return
		}
		base := sum * sum / squares
		assert.InDelta(t, total/sum, got.Mean, 1e-9)
		assert.InDelta(t, base, got.N, 1e-9)
		spread := 0.0
		for i := range n {
			if set.Contains(uint32(i)) && x[i] == x[i] {
				spread += w[i] * (x[i] - total/sum) * (x[i] - total/sum)
			}
		}
		if base > 1+1e-9 {
			assert.InDelta(t, spread/sum*base/(base-1), got.Variance, 1e-9)
		}
		part := setOf(slices.Collect(func(yield func(bool) bool) {
			for i := range n {
				yield(set.Contains(uint32(i)) && i%3 == 0)
			}
		}))
		left, want := got.Less(NewSample(part, x, w)), NewSample(roaring.AndNot(set, part), x, w)
		assert.Equal(t, want.Answers, left.Answers)
		assert.InDelta(t, want.Mean, left.Mean, 1e-9)
		assert.InDelta(t, want.N, left.N, 1e-6)
		if want.N > 1+1e-6 {
			assert.InDelta(t, want.Variance, left.Variance, 1e-6)
		}
	})
}

// A part of all is correlated with numbers as zeros and ones are.
func TestCorrelationOfAPart(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(4, 60).Draw(t, "n")
		x, has := make([]float64, n), make([]float64, n)
		part := roaring.New()
		for i := range n {
			x[i] = rapid.SampledFrom([]float64{0, 1, 2, 7, 9.5}).Draw(t, "x")
			if rapid.Bool().Draw(t, "has") {
				has[i] = 1
				part.Add(uint32(i))
			}
		}
		want, ok := Correlate(has, x)
		ranks := Ranks(x)
		of := func(set *roaring.Bitmap, numbers []float64) Sample { return NewSample(set, numbers, nil) }
		got, gotOK := CorrelateWith(of(part, x), of(allOf(n), x), of(part, ranks), of(allOf(n), ranks))
		require.Equal(t, ok, gotOK)
		if ok && math.Abs(want.Pearson) < 1-1e-9 {
			assert.InDeltaSlice(
				t, []float64{want.Pearson, want.Low, want.High, want.P, want.Spearman},
				[]float64{got.Pearson, got.Low, got.High, got.P, got.Spearman}, 1e-6,
			)
		}
	})
}

// Fisher's p is held against whole numbers: every table with the margins, counted in full.
func TestFisherAgainstCounting(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n1, n2 := rapid.IntRange(1, 25).Draw(t, "n1"), rapid.IntRange(1, 25).Draw(t, "n2")
		k1, k2 := rapid.IntRange(0, n1).Draw(t, "k1"), rapid.IntRange(0, n2).Draw(t, "k2")
		ways := func(i int) *big.Int {
			a, b := new(big.Int).Binomial(int64(n1), int64(i)), new(big.Int).Binomial(int64(n2), int64(k1+k2-i))
			return a.Mul(a, b)
		}
		seen, whole, those := ways(k1), new(big.Int), new(big.Int)
		for i := max(0, k1+k2-n2); i <= min(n1, k1+k2); i++ {
			w := ways(i)
			whole.Add(whole, w)
			if w.Cmp(seen) <= 0 {
				those.Add(those, w)
			}
		}
		want, _ := new(big.Rat).SetFrac(those, whole).Float64()
		assert.InDelta(t, want, Fisher(k1, n1, k2, n2), 1e-9)
	})
}

// In one layer, Mantel and Haenszel's test is Pearson's on a base less one; a difference that only comes of the layers is none.
func TestAcrossLayers(t *testing.T) {
	a, b := portionOf(131, 412), portionOf(59, 268)
	one, ok := Across([]Layer{{a, b}})
	assert.True(t, ok)
	row := TestRow([]Portion{a, b}, false)
	assert.InDelta(t, row.ChiSquare*(412+268-1)/(412+268), one.Z*one.Z, 1e-9)
	assert.Positive(t, one.Z)

	layers := []Layer{{portionOf(80, 100), portionOf(320, 400)}, {portionOf(40, 400), portionOf(10, 100)}}
	apart, ok := Across(layers)
	assert.True(t, ok)
	assert.InDelta(t, 0, apart.Z, 1e-9)
	mixed, _ := CompareShares(120, 500, 330, 500)
	assert.Greater(t, math.Abs(mixed.Z), 10.0, "taken without its layers it looks like a difference")
}

func TestDifference(t *testing.T) {
	low, high := Difference(portionOf(56, 70), portionOf(48, 80)) // R. G. Newcombe, 1998, table II, line (a)
	assert.InDelta(t, 0.0524, low, 5e-5)
	assert.InDelta(t, 0.3339, high, 5e-5)
}

// Holm's is read off the definition: each p times how many are not under it, and never under what a lesser one has.
func TestHolmAgainstItsDefinition(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		p := rapid.SliceOfN(rapid.SampledFrom([]float64{0.001, 0.01, 0.02, 0.03, 0.2, 0.9}), 0, 10).Draw(t, "p")
		for i, got := range Holm.Adjust(p) {
			want := 0.0
			for _, x := range p {
				if x <= p[i] {
					notUnder := 0
					for _, y := range p {
						if y >= x {
							notUnder++
						}
					}
					want = max(want, min(1, x*float64(notUnder)))
				}
			}
			require.InDelta(t, want, got, 1e-12)
		}
	})
}
