package corpus

import (
	"math/bits"
	"runtime"
	"sync"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/bits-and-blooms/bitset"
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

// Filter takes out of a set the answers that are not kept, on all processors. Each goroutine has a judge of its own.
func Filter(set *bitset.BitSet, judge func() (keep func(answer int) bool)) {
	marks := set.Words()
	run := func(next func() (from int, ok bool)) {
		keep := judge()
		for from, ok := next(); ok; from, ok = next() {
			for i := from; i < min(from+stretch, len(marks)); i++ {
				for rest := marks[i]; rest != 0; rest &= rest - 1 {
					at := bits.TrailingZeros64(rest)
					if !keep(i<<6 + at) {
						marks[i] &^= 1 << at
					}
				}
			}
		}
	}
	var mu sync.Mutex
	at := 0
	next := func() (int, bool) {
		mu.Lock()
		defer mu.Unlock()
		from := at
		at += stretch
		return from, from < len(marks)
	}
	var all sync.WaitGroup
	for range min(runtime.GOMAXPROCS(0), (len(marks)+stretch-1)/stretch) {
		all.Go(func() { run(next) })
	}
	all.Wait()
}
