package crosstab

import (
	"math"

	"github.com/RoaringBitmap/roaring/v2"
)

// z975 is the 97.5 % quantile of the standard normal distribution: the interval around a share is at 95 %.
const z975 = 1.959963984540054

// Base is what a column's shares are of.
type Base struct {
	Answers   int     `json:"answers" doc:"unweighted"`
	Weighted  float64 `json:"weighted" doc:"sum of weights"`
	Effective float64 `json:"effective" doc:"(sum of weights)² / sum of squared weights: the simple sample that is as precise"`

	squares float64 // sum of squared weights
}

// NewBase sums the weights of a set; nil counts each answer as 1.
func NewBase(set *roaring.Bitmap, weights []float64) Base {
	n := int(set.GetCardinality())
	if weights == nil {
		return Base{n, float64(n), float64(n), float64(n)}
	}
	b := Base{Answers: n}
	blocks(set, func(answers []uint32) {
		for _, i := range answers {
			b.Weighted += weights[i]
			b.squares += weights[i] * weights[i]
		}
	})
	return b.finished()
}

func (b Base) finished() Base {
	b.Effective = 0
	if b.squares > 0 {
		b.Effective = b.Weighted * b.Weighted / b.squares
	}
	return b
}

// blocks visits a set block by block, which is several times as quick as one by one.
func blocks(set *roaring.Bitmap, visit func(answers []uint32)) {
	var block [1024]uint32
	for it := set.ManyIterator(); ; {
		n := it.NextMany(block[:])
		if n == 0 {
			return
		}
		visit(block[:n])
	}
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

// less is what is left of a sum of a set when that of a part of it is taken away.
func (b Base) less(part Base) Base {
	out := Base{Answers: b.Answers - part.Answers}
	if out.Answers > 0 { // else what is left is the last digits of a difference
		out.Weighted, out.squares = b.Weighted-part.Weighted, b.squares-part.squares
	}
	return out.finished()
}

// share is a sum as a portion of its base.
func (b Base) share(of Base) Portion {
	if of.Weighted <= 0 {
		return Portion{}
	}
	return Portion{b.Weighted / of.Weighted, of.Effective}
}
