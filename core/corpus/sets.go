package corpus

import (
	"context"
	"math/bits"
	"runtime"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/bits-and-blooms/bitset"

	"aftermath/core/parallel"
)

// NewSet is a set of no answers, as one bit for each: the form that is quickest to join and to fill.
func (ix *Index) NewSet() *bitset.BitSet { return bitset.New(uint(ix.Len())) }

// Dense gives a set of answers as one bit for each.
func (ix *Index) Dense(set *roaring.Bitmap) *bitset.BitSet {
	out := ix.NewSet()
	words := out.Words()
	copy(words, set.ToDense())
	return out
}

// Sparse gives a set of answers in the form that is kept.
func Sparse(set *bitset.BitSet) *roaring.Bitmap { return roaring.FromDense(set.Words(), true) }

// Mark adds the answers that hold any of the words to a set.
func (ix *Index) Mark(words []uint32, to *bitset.BitSet) {
	marks := to.Words()
	for _, w := range words {
		for _, a := range ix.Postings(w) {
			marks[a>>6] |= 1 << (a & 63)
		}
	}
}

// stretch is how many answers one goroutine looks at before it takes further ones, by 64.
const stretch = 256

// Filter takes out of a set the answers that are not kept, on all processors. Each goroutine has a judge of its own. It gives up
// when ctx ends; the set is not whole then, and the error says so.
func Filter(ctx context.Context, set *bitset.BitSet, judge func() (keep func(answer int) bool)) error {
	marks := set.Words()
	return parallel.Each(ctx, runtime.GOMAXPROCS(0), (len(marks)+stretch-1)/stretch, func() func(int) {
		keep := judge()
		return func(n int) {
			for i := n * stretch; i < min((n+1)*stretch, len(marks)) && ctx.Err() == nil; i++ {
				for rest := marks[i]; rest != 0; rest &= rest - 1 {
					at := bits.TrailingZeros64(rest)
					if !keep(i<<6 + at) {
						marks[i] &^= 1 << at
					}
				}
			}
		}
	})
}
