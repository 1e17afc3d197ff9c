package frame

import (
	"container/heap"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"
)

// Sample draws so many members of a set at random, each as likely as any other; the whole set where it has no more. Who is
// drawn depends on the seed and on the member alone: a larger sample holds the smaller one, and a set that grows changes it as
// little as can be.
func Sample(set *roaring.Bitmap, size int, seed uint64) *roaring.Bitmap {
	if size >= int(set.GetCardinality()) {
		return set.Clone()
	}
	return roaring.BitmapOf(Drawn(set, size, seed)...)
}

// Drawn is a sample in the order in which it is drawn: of a larger one, the smaller one comes first.
func Drawn(set *roaring.Bitmap, size int, seed uint64) []uint32 {
	drawn := &lots{}
	for it := set.Iterator(); size > 0 && it.HasNext(); {
		m := it.Next()
		lot := lot{Lot(m, seed), m}
		if len(*drawn) < size {
			heap.Push(drawn, lot)
		} else if lot.number < (*drawn)[0].number {
			(*drawn)[0] = lot
			heap.Fix(drawn, 0)
		}
	}
	out := make([]uint32, len(*drawn))
	for i := range slices.Backward(out) {
		out[i] = heap.Pop(drawn).(lot).member
	}
	return out
}

// Lot is the number that a member draws.
func Lot(member uint32, seed uint64) uint64 { return mixed(mixed(seed) ^ uint64(member)) }

// lot is the number that a member drew: those with the lowest are the sample.
type lot struct {
	number uint64
	member uint32
}

// lots is a heap with the highest number on top.
type lots []lot

func (l lots) Len() int           { return len(l) }
func (l lots) Less(i, j int) bool { return l[i].number > l[j].number }
func (l lots) Swap(i, j int)      { l[i], l[j] = l[j], l[i] }
func (l *lots) Push(x any)        { *l = append(*l, x.(lot)) }
func (l *lots) Pop() any {
	last := len(*l) - 1
	x := (*l)[last]
	*l = (*l)[:last]
	return x
}

// mixed is a number of which every bit depends on every bit of another (the finalizer of SplitMix64: G. L. Steele, D. Lea and
// C. H. Flood, 2014).
func mixed(x uint64) uint64 {
	x += 0x9e3779b97f4a7c15
	x = (x ^ x>>30) * 0xbf58476d1ce4e5b9
	x = (x ^ x>>27) * 0x94d049bb133111eb
	return x ^ x>>31
}
