package induction

import (
	"context"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/playbook"
	"aftermath/core/rule"
	"aftermath/core/terms"
)

func learner(t require.TestingT, answers []string) Learner {
	p := playbook.New("en")
	r, err := p.Read(context.Background(), answers, 1, nil)
	require.NoError(t, err)
	v := p.View(r)
	scope := rule.Scope{View: v, Text: func(i int) string { return answers[i] }}
	return Learner{Counter: terms.NewCounter(v, nil), Matcher: &rule.Matcher{Scope: &scope}, Language: "en", Workers: 1}
}

// What each piece is weighed by is what a rule of it finds; what shuts out examples that don't belong loses none that do; and
// no rule is offered twice or can't be read.
func TestOffersAreWhatTheyWereWeighedBy(t *testing.T) {
	word := rapid.SampledFrom([]string{"queue", "queues", "long", "ticket", "the", "rude", "crew", "tea", "cold", "never", "dog", "."})
	rapid.Check(t, func(t *rapid.T) {
		var answers []string
		for range rapid.IntRange(4, 30).Draw(t, "answers") {
			answers = append(answers, strings.Join(rapid.SliceOfN(word, 1, 7).Draw(t, "answer"), " "))
		}
		l := learner(t, answers)
		row := rapid.Uint32Range(0, uint32(len(answers)-1))
		ex := Examples{In: roaring.BitmapOf(rapid.SliceOfN(row, 1, 6).Draw(t, "in")...), Out: roaring.BitmapOf(rapid.SliceOfN(row, 0, 6).Draw(t, "out")...)}
		ex.Out.AndNot(ex.In)
		answered := l.Counter.View.Index.Answered()
		found := func(n rule.Node) *roaring.Bitmap {
			p, problems := rule.Compile(n.String(), l.Matcher.Scope)
			require.NotNil(t, p, "%s: %v", n, problems)
			set, err := l.Matcher.Answers(context.Background(), p)
			require.NoError(t, err)
			return set
		}
		ex.In.And(answered)
		ex.Out.And(answered)
		if ex.In.IsEmpty() {
			return
		}
		s, err := l.search(context.Background(), answered, ex)
		require.NoError(t, err)
		pairs, err := s.pairs(context.Background())
		require.NoError(t, err)
		for _, p := range append(append(s.singles(), pairs...), s.against...) {
			set := found(p.node)
			require.True(t, set.Equals(p.answers), "%s finds %v and was weighed by %v", p.node, set, p.answers)
			require.Equal(t, int(set.GetCardinality()), p.all)
			require.True(t, roaring.And(set, ex.In).Equals(p.in))
			require.True(t, roaring.And(set, ex.Out).Equals(p.out))
		}
		offers, err := l.Rules(context.Background(), answered, ex)
		require.NoError(t, err)
		seen := map[string]bool{}
		for _, n := range offers {
			set := found(n)
			require.False(t, seen[set.String()], "two rules find the same")
			seen[set.String()] = true
			with := n
			for with.Kind() == rule.Without {
				with = with.Kids()[0]
			}
			require.Equal(t, found(with).AndCardinality(ex.In), set.AndCardinality(ex.In), "%s loses an example", n)
			require.NotZero(t, set.AndCardinality(ex.In))
		}
	})
}

func TestOffers(t *testing.T) {
	l := learner(t, []string{
		"the queue was long", "a long queue again", "queue at the gate", "cold tea", "tea was cold", "rude crew", "late", "a queue for tea",
	})
	answered := l.Counter.View.Index.Answered()
	offers, err := l.Rules(t.Context(), answered, Examples{In: roaring.BitmapOf(0, 1), Out: roaring.BitmapOf(7)})
	require.NoError(t, err)
	var got []string
	for _, n := range offers {
		got = append(got, n.String())
	}
	require.Contains(t, got, "long")
	require.Contains(t, strings.Join(got, "\n"), "queue - tea")
	offers, err = l.Rules(t.Context(), answered, Examples{In: roaring.New(), Out: roaring.BitmapOf(7)})
	require.NoError(t, err)
	require.Empty(t, offers)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = l.Rules(ctx, answered, Examples{In: roaring.BitmapOf(0, 1), Out: roaring.New()})
	require.ErrorIs(t, err, context.Canceled)
}
