package crosstab

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

func counted(both, only, missed, neither int) Agreement {
	return NewAgreement(Unweighted(both), Unweighted(only), Unweighted(missed), Unweighted(neither))
}

// An answer of weight 2 counts as two in every share, and in no interval: the weights of a few heavy ones tell less.
func TestWeightedAgreement(t *testing.T) {
	heavy := func(n int) (c Weighed) {
		for range n {
			c.Add(2)
		}
		return c
	}
	a, plain := NewAgreement(heavy(35), Unweighted(12), Unweighted(9), Unweighted(209)), counted(70, 12, 9, 209)
	assert.InDelta(t, plain.Precision, a.Precision, 1e-12)
	assert.InDelta(t, plain.Recall, a.Recall, 1e-12)
	assert.InDelta(t, plain.F1, a.F1, 1e-12)
	assert.InDelta(t, plain.Kappa, a.Kappa, 1e-12)
	assert.Equal(t, []int{35, 12, 9, 209}, []int{a.Both, a.Only, a.Missed, a.Neither})
	assert.Greater(t, a.PrecisionHigh-a.PrecisionLow, plain.PrecisionHigh-plain.PrecisionLow)
	assert.Greater(t, a.KappaHigh-a.KappaLow, plain.KappaHigh-plain.KappaLow)
	// All of one weight is as no weights, whatever it is.
	same := NewAgreement(heavy(70), heavy(12), heavy(9), heavy(209))
	assert.InDeltaSlice(
		t, []float64{plain.PrecisionLow, plain.RecallHigh, plain.KappaLow}, []float64{same.PrecisionLow, same.RecallHigh, same.KappaLow}, 1e-9,
	)
}

// Figures made with R 4.2.2.
func TestAgreementAgainstReference(t *testing.T) {
	a := counted(70, 12, 9, 209)
	assert.InDelta(t, 0.853658536585, a.Precision, 1e-9)
	assert.InDelta(t, 0.886075949367, a.Recall, 1e-9)
	assert.InDelta(t, 0.869565217391, a.F1, 1e-9)
	assert.InDelta(t, 0.821751923947, a.Kappa, 1e-9)
}

// The interval of kappa is about that of samples drawn anew from the same table.
func TestKappaIntervalAgainstDrawing(t *testing.T) {
	cells := [4]int{70, 12, 9, 209}
	a := counted(cells[0], cells[1], cells[2], cells[3])
	r := rand.New(rand.NewPCG(1, 2))
	sum, squares := 0.0, 0.0
	const draws = 4000
	for range draws {
		var drawn [4]int
		for range 300 {
			at := r.IntN(300)
			for i, n := range cells {
				if at -= n; at < 0 {
					drawn[i]++
					break
				}
			}
		}
		k := counted(drawn[0], drawn[1], drawn[2], drawn[3]).Kappa
		sum, squares = sum+k, squares+k*k
	}
	deviation := math.Sqrt(squares/draws - math.Pow(sum/draws, 2))
	assert.InDelta(t, deviation, (a.KappaHigh-a.KappaLow)/(2*z975), 0.003)
}

// Of two coders and a category, kappa is the agreement beyond that of drawing each one's answers blindly; and swapping the two
// changes only which of precision and recall is which.
func TestAgreementAgainstDefinition(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		coded := rapid.SliceOfN(rapid.Bool(), 1, 40).Draw(t, "coded")
		hand := rapid.SliceOfN(rapid.Bool(), len(coded), len(coded)).Draw(t, "hand")
		var n [4]int
		agree, chance := 0.0, 0.0
		for i, c := range coded {
			switch {
			case c && hand[i]:
				n[0]++
			case c:
				n[1]++
			case hand[i]:
				n[2]++
			default:
				n[3]++
			}
			if c == hand[i] {
				agree++
			}
			for _, h := range hand {
				if c == h {
					chance++
				}
			}
		}
		agree, chance = agree/float64(len(coded)), chance/float64(len(coded)*len(coded))
		a, b := counted(n[0], n[1], n[2], n[3]), counted(n[0], n[2], n[1], n[3])
		want := 1.0
		if chance < 1 {
			want = (agree - chance) / (1 - chance)
		}
		assert.InDelta(t, want, a.Kappa, 1e-9)
		assert.Equal(t, []float64{a.Precision, a.Recall, a.F1}, []float64{b.Recall, b.Precision, b.F1})
		assert.InDelta(t, a.Kappa, b.Kappa, 1e-12)
		assert.True(t, a.KappaLow <= a.Kappa+1e-12 && a.Kappa <= a.KappaHigh+1e-12)
	})
}

// The worked example of four coders and twelve units in K. Krippendorff, Computing Krippendorff's alpha-reliability (2011).
func TestAlphaAgainstWorkedExample(t *testing.T) {
	const o = Missing
	coders := [4][12]int{
		{1, 2, 3, 3, 2, 1, 4, 1, 2, o, o, o}, {1, 2, 3, 3, 2, 2, 4, 1, 2, 5, o, 3}, {o, 3, 3, 3, 2, 3, 4, 2, 2, 5, 1, o},
		{1, 2, 3, 3, 2, 4, 4, 1, 2, 5, 1, o},
	}
	var units [][]int
	for u := range 12 {
		units = append(units, []int{coders[0][u], coders[1][u], coders[2][u], coders[3][u]})
	}
	alpha, ok := Alpha(units)
	assert.True(t, ok)
	assert.InDelta(t, 0.743, alpha, 0.0005)
	_, ok = Alpha([][]int{{1, o}, {o, 2}})
	assert.False(t, ok)
	alpha, _ = Alpha([][]int{{1, 1}, {1, 1}})
	assert.Equal(t, 1.0, alpha)
}

// Alpha is one less the disagreement within units over that of all values paired: by its definition over pairs.
func TestAlphaAgainstDefinition(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		units := rapid.SliceOfN(rapid.SliceOfN(rapid.IntRange(-1, 2), 2, 4), 1, 8).Draw(t, "units")
		var all []int
		within, n := 0.0, 0.0
		for _, u := range units {
			var values []int
			for _, v := range u {
				if v >= 0 {
					values = append(values, v)
				}
			}
			if len(values) < 2 {
				continue
			}
			all = append(all, values...)
			n += float64(len(values))
			for i, a := range values {
				for j, b := range values {
					if i != j && a != b {
						within += 1 / float64(len(values)-1)
					}
				}
			}
		}
		between := 0.0
		for i, a := range all {
			for j, b := range all {
				if i != j && a != b {
					between++
				}
			}
		}
		alpha, ok := Alpha(units)
		assert.Equal(t, n > 0, ok)
		switch {
		case !ok:
		case between == 0:
			assert.Equal(t, 1.0, alpha)
		default:
			assert.InDelta(t, 1-within/n/(between/(n*(n-1))), alpha, 1e-9)
		}
	})
}
