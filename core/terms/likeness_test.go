package terms_test

import (
	"context"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/lexicon"
	"aftermath/core/terms"
)

// What stands in the surroundings of a place is found by them; what stands elsewhere is not, and a place does not speak for
// the terms at it.
func TestLikeAround(t *testing.T) {
	var texts []string
	for i := range 60 {
		texts = append(
			texts,
			[]string{"please mend the broken toilet today", "please mend the broken washroom today", "please mend the broken heating today",
				"crew were kind to my dog", "we saw whales from the deck", "the toilet was clean enough"}[i%6],
		)
	}
	v := view(t, lexicon.Default("en"), texts...)
	term := func(label string) int {
		n, ok := v.Find(label)
		require.True(t, ok, label)
		return n
	}
	all := roaring.New()
	all.AddRange(0, uint64(len(texts)))
	var places []terms.Place
	for i := 0; i < len(texts); i += 6 {
		places = append(places, terms.Place{Answer: uint32(i), Start: 4, Length: 1}) // the broken toilets
	}
	chosen := []int{term("washroom"), term("heating"), term("kind"), term("whales"), term("toilet")}
	var found []int
	c := terms.NewCounter(v, nil)
	for _, l := range must(c.LikeAround(context.Background(), all, places, chosen)) {
		found = append(found, l.Term)
		assert.InDelta(t, 1, l.Score, 0.3)
	}
	assert.ElementsMatch(t, chosen[:2], found, "the toilet stands in clean places too, and its own places do not count")
	assert.Empty(t, must(c.LikeAround(context.Background(), all, nil, chosen)), "nothing is like nowhere")
}
