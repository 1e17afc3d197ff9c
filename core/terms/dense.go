package terms

import (
	"context"
	"iter"
	"math/bits"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/parallel"
)

// dense is a set of answers as one bit for each: the form that is quickest to walk through and to ask.
type dense []uint64

func newDense(set *roaring.Bitmap) dense { return set.ToDense() }

// without is 1 for an answer that is not in the set, 0 for one that is.
func (d dense) without(a uint32) int32 {
	if i := int(a >> 6); i < len(d) {
		return int32(1 - d[i]>>(a&63)&1)
	}
	return 1
}

// each walks through the answers of a part of a set, whose first bit stands for the answer from.
func (d dense) each(from uint32) iter.Seq[uint32] {
	return func(yield func(uint32) bool) {
		for i, word := range d {
			for ; word != 0; word &= word - 1 {
				if !yield(from + uint32(i)<<6 + uint32(bits.TrailingZeros64(word))) {
					return
				}
			}
		}
	}
}

// walk is each, but ends when ctx does.
func (d dense) walk(ctx context.Context, from uint32) iter.Seq[uint32] {
	return func(yield func(uint32) bool) {
		n := 0
		for a := range d.each(from) {
			if n++; n%1024 == 0 && ctx.Err() != nil {
				return
			}
			if !yield(a) {
				return
			}
		}
	}
}

// split shares the set among workers: each is made one after the other, by its number, its part and where that begins; then
// all of them run at once.
func (d dense) split(workers int, worker func(w int, part dense, from uint32) (run func())) {
	workers = max(1, min(workers, len(d)/16))
	var runs []func()
	for w := range workers {
		from, to := w*len(d)/workers, (w+1)*len(d)/workers
		runs = append(runs, worker(w, d[from:to], uint32(from)<<6))
	}
	parallel.Run(runs...)
}
