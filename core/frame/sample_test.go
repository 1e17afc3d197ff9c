package frame

import (
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// A sample is so many of the set and of nothing else, and each of the set is about as likely to be in it.
func TestSample(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		set := roaring.BitmapOf(rapid.SliceOf(rapid.Uint32Range(0, 300_000)).Draw(t, "set")...)
		size, seed := rapid.IntRange(0, 60).Draw(t, "size"), rapid.Uint64().Draw(t, "seed")
		got := Sample(set, size, seed)
		assert.Equal(t, min(uint64(size), set.GetCardinality()), got.GetCardinality())
		assert.Equal(t, got.GetCardinality(), got.AndCardinality(set))
		assert.True(t, got.Equals(Sample(set, size, seed)), "the same seed draws the same")
		more := Sample(set, size+3, seed)
		assert.Equal(t, got.GetCardinality(), got.AndCardinality(more), "a larger sample holds the smaller one")
	})
	set := roaring.BitmapOf(3, 5, 8, 13, 21, 34, 55, 89)
	drawn := map[uint32]int{}
	for seed := range uint64(8000) {
		for _, a := range Sample(set, 3, seed).ToArray() {
			drawn[a]++
		}
	}
	for _, a := range set.ToArray() {
		assert.InDelta(t, 3000, drawn[a], 220, "answer %d", a) // 5 standard deviations of a binomial
	}
}
