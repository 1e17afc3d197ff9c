package corpus

import (
	"context"
	"slices"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Dense sets hold what sparse ones hold; answers with a word are those in which it stands; a filter keeps what its judge keeps,
// whatever the number of answers.
func TestSetsOfAnswers(t *testing.T) {
	words := []string{"deck", "boat", "late", "tea", "crew"}
	rapid.Check(t, func(rt *rapid.T) {
		var answers []string
		for range rapid.IntRange(1, 700).Draw(rt, "answers") {
			answers = append(answers, strings.Join(rapid.SliceOfN(rapid.SampledFrom(words), 0, 3).Draw(rt, "answer"), " "))
		}
		ix := build(t, answers, 2)
		set := roaring.BitmapOf(rapid.SliceOf(rapid.Uint32Range(0, uint32(len(answers)-1))).Draw(rt, "set")...)
		require.Equal(rt, set.ToArray(), Sparse(ix.Dense(set)).ToArray())

		sought := rapid.SliceOfNDistinct(rapid.SampledFrom(words), 1, 3, rapid.ID[string]).Draw(rt, "sought")
		var numbers []uint32
		for _, w := range sought {
			if n, ok := ix.Word(w); ok {
				numbers = append(numbers, n)
			}
		}
		want := roaring.New()
		for i, a := range answers {
			if slices.ContainsFunc(strings.Fields(a), func(w string) bool { return slices.Contains(sought, w) }) {
				want.Add(uint32(i))
			}
		}
		require.Equal(rt, want.ToArray(), ix.With(numbers).ToArray())

		third := ix.Dense(set)
		require.NoError(
			t, Filter(context.Background(), third, func() func(int) bool { return func(answer int) bool { return answer%3 == 0 } }),
		)
		want = roaring.New()
		for _, a := range set.ToArray() {
			if a%3 == 0 {
				want.Add(a)
			}
		}
		require.Equal(rt, want.ToArray(), Sparse(third).ToArray())
	})
}
