package lexicon

import (
	"context"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/corpus"
	"aftermath/core/text"
)

func view(t require.TestingT, l Lexicon, answers ...string) *View {
	p, err := text.NewPipeline("en", text.DefaultSteps())
	require.NoError(t, err)
	ix, err := corpus.Build(context.Background(), p, text.NewNoAnswers(p, nil), answers, 1, nil)
	require.NoError(t, err)
	return NewView(NewStems("en", ix), p, l)
}

// table gives the term table as label to answers and times, stop words left out.
func table(v *View) map[string][2]int {
	counts, _ := v.Count(v.Index.Answered(), roaring.New())
	out := map[string][2]int{}
	for _, c := range counts {
		if !v.Terms[c.Term].Stop {
			out[v.Terms[c.Term].Label] = [2]int{c.Answers, c.Times}
		}
	}
	return out
}

var crossing = []string{"Queues, queues and a queue", "The line was long. A long wait", "Queuing for the ferries", "ferry staff went home", "tailbacks!", "go, waiting lines"}

func TestInflectionsJoinAndShowTheMostFrequentSurface(t *testing.T) {
	got := table(view(t, Default("en"), crossing...))
	assert.Equal(t, [2]int{2, 4}, got["queues"], "queues twice, queue and queuing once")
	assert.Equal(t, [2]int{2, 2}, got["wait"], "a tie goes by the alphabet")
	assert.Equal(t, [2]int{2, 2}, got["ferries"])
	assert.NotContains(t, got, "the")
	assert.NotContains(t, got, "went", "it belongs to go, which is a stop word")
}

func TestMerges(t *testing.T) {
	l := Default("en")
	l.Merges = []Merge{{Term: "queue", Variants: []string{"line", "tailback*", "long wait"}}}
	v := view(t, l, crossing...)
	got := table(v)
	assert.Equal(t, [2]int{5, 8}, got["queue"], "3, line and long wait, queuing, tailbacks, lines")
	assert.Equal(t, [2]int{1, 2}, got["long"], "nothing is taken away from other terms")
	queue, _ := v.Find("queue")
	assert.Equal(t, []Member{{"queues", 2}, {"line", 1}, {"lines", 1}, {"long wait", 1}, {"queue", 1}, {"queuing", 1}, {"tailbacks", 1}}, v.Members(queue))
	for _, typed := range []string{"queue", "lines", "Tailback", "long wait", "QUEUES"} {
		term, ok := v.Find(typed)
		require.True(t, ok, typed)
		assert.Equal(t, "queue", v.Terms[term].Label, typed)
	}
	_, ok := v.Find("wait long")
	assert.False(t, ok)
}

func TestMergePrecedenceAndClash(t *testing.T) {
	l := Default("en")
	l.Merges = []Merge{{Term: "pattern", Variants: []string{"lin*"}}, {Term: "stem", Variants: []string{"line"}}, {Term: "named", Variants: []string{"lines", "line"}}}
	v := view(t, l, "line", "lines", "lined", "linen")
	got := table(v)
	assert.Equal(t, map[string][2]int{"pattern": {1, 1}, "stem": {2, 2}, "named": {1, 1}}, got)
	assert.Equal(t, []Clash{{"line", "stem", "named"}}, v.Clashes)
}

func TestStopWordsKeepWins(t *testing.T) {
	l := Default("en")
	l.StopWords.Add, l.StopWords.Keep = []string{"Ferry"}, []string{"home", "the"}
	got := table(view(t, l, crossing...))
	assert.NotContains(t, got, "ferries", "one word hides its whole term")
	assert.Contains(t, got, "the")
}

func TestParted(t *testing.T) {
	l := Default("en")
	l.Parted = []string{"university"}
	got := table(view(t, l, "universe", "university", "universities"))
	assert.Equal(t, [2]int{1, 1}, got["university"])
	assert.Equal(t, [2]int{2, 2}, got["universe"])
}

func TestTypedWordsPassThroughCleaning(t *testing.T) {
	v := view(t, Default("en"), "x")
	assert.Equal(t, []string{"do", "not"}, v.Typed("Don’t"))
	assert.Equal(t, []string{"caf*"}, v.Typed("Caf**"))
	assert.Equal(t, []string{"q????"}, v.Typed("q????"))
	assert.Empty(t, v.Typed("!!"))
}

func TestLexiconIsChecked(t *testing.T) {
	for _, l := range []Lexicon{{StopWords: StopWords{Base: "xx"}}, {Merges: []Merge{{Term: " "}}},
		{Merges: []Merge{{Term: "a"}, {Term: "A"}}}, {Lists: []List{{Name: "negators"}}}, {Lists: []List{{Name: "x"}, {Name: "x"}}}} {
		assert.ErrorIs(t, l.Check(), ErrLexicon)
	}
}

// Counts do not change with the order of the rows, and a merge's answers are the union of its variants'.
func TestCountProperties(t *testing.T) {
	words := []string{"queue", "queues", "line", "lines", "long", "wait", "tea", "the", "tailback"}
	rapid.Check(t, func(t *rapid.T) {
		answers := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) string {
			return strings.Join(rapid.SliceOfN(rapid.SampledFrom(words), 0, 6).Draw(t, "words"), " ")
		}), 1, 20).Draw(t, "answers")
		l := Default("en")
		l.Merges = []Merge{{Term: "queue", Variants: []string{"tailback", "long wait"}}}
		shuffled := rapid.Permutation(answers).Draw(t, "order")
		require.Equal(t, table(view(t, l, answers...)), table(view(t, l, shuffled...)))

		v := view(t, l, answers...)
		term, ok := v.Find("queue")
		require.True(t, ok)
		union := 0
		for _, a := range answers {
			if strings.Contains(a, "queue") || strings.Contains(a, "tailback") || strings.Contains(a, "long wait") {
				union++
			}
		}
		require.Equal(t, union, int(v.Phrases(term).Answers(v.Index).GetCardinality()))
	})
}
