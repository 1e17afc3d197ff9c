package scheme_test

import (
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/oneof"
	"aftermath/core/playbook"
	. "aftermath/core/scheme"
	"aftermath/core/survey"
)

// A category that is split, or merged into others, loses no answer and gains none: neither by its rules, whatever takes away from them
// or rests, nor by hand.
func TestMergeAndSplitLoseNothing(t *testing.T) {
	words := []string{"queue", "late", "boat", "tea", "tailback", "cold"}
	rapid.Check(t, func(t *rapid.T) {
		some := func(label string, least int) []string {
			return rapid.SliceOfNDistinct(rapid.SampledFrom(words), least, 3, rapid.ID).Draw(t, label)
		}
		s := New(playbook.New("en"), Decisions{})
		after := func(e Edit) Scheme {
			c, err := Apply(t.Context(), s, e, situation(t, s))
			require.NoError(t, err)
			return c.Scheme
		}
		key := func(name string) string {
			p, ok := s.Frame.ByPath([]string{name})
			require.True(t, ok)
			return p.ID
		}
		for _, name := range []string{"A", "B", "D"} {
			s = after(AddCategory{Name: name, Rules: some("rules", 1), Unless: some("unless", 0)})
			if rapid.IntRange(0, 4).Draw(t, "off") == 0 {
				s = after(ChangeCategory{Category: key(name), Off: oneof.Given(true)})
			}
			for _, to := range []Mark{On, Off} {
				answers := rapid.SliceOfNDistinct(
					rapid.SampledFrom([]survey.Respondent{0, 1, 2, 3, 9, 10, 11}), 1, 2, rapid.ID,
				).Draw(t, string(to))
				s = after(Decide{Category: key(name), Answers: answers, To: to})
			}
		}
		// coded gives the answers that each category of a scheme has.
		coded := func(s Scheme) map[string]*roaring.Bitmap {
			out := map[string]*roaring.Bitmap{}
			for _, r := range situation(t, s).Coding.Results {
				out[r.PathName()] = r.Answers
			}
			return out
		}
		was := coded(s)
		a, _ := s.Frame.ByPath([]string{"A"})
		split := coded(after(SplitCategory{Category: key("A"), Name: "C", Rules: a.Rules[:1]}))
		require.Zero(t, roaring.AndNot(was["A"], roaring.Or(split["A"], split["C"])).GetCardinality(), "split off %v", a.Rules[:1])
		merged := coded(after(MergeCategories{Category: key("A"), Into: key("B")}))
		require.NotContains(t, merged, "A")
		require.Equal(t, roaring.Or(was["A"], was["B"]).ToArray(), merged["B"].ToArray())
		all := coded(after(MergeCategories{Category: key("A"), Into: key("B"), Also: []string{key("D")}}))
		require.Equal(t, roaring.FastOr(was["A"], was["B"], was["D"]).ToArray(), all["B"].ToArray(), "three made one")
	})
}
