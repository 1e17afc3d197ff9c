package lexicon_test

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/lexicon"
	"aftermath/core/lexicon/lexicontest"
	"aftermath/core/terms"
)

func view(t require.TestingT, l lexicon.Lexicon, answers ...string) *lexicon.View {
	return lexicontest.View(t, "en", l, answers...)
}

// table gives the term table as label to answers and times, stop words left out.
func table(v *lexicon.View) map[string][2]int {
	out := map[string][2]int{}
	for _, r := range must(terms.NewCounter(v, nil).Count(context.Background(), v.Index.Answered(), roaring.New(), 2)).Rows {
		if t := v.Terms[r.Terms[0]]; !t.Stop {
			out[t.Label] = [2]int{r.Answers, r.Times}
		}
	}
	return out
}

var crossing = []string{
	"Queues, queues and a queue", "The line was long. A long wait", "Queuing for the ferries", "ferry staff went home",
	"tailbacks!", "go, waiting lines",
}

func TestInflectionsJoinAndShowTheMostFrequentSurface(t *testing.T) {
	got := table(view(t, lexicon.Default("en"), crossing...))
	assert.Equal(t, [2]int{2, 4}, got["queues"], "queues twice, queue and queuing once")
	assert.Equal(t, [2]int{2, 2}, got["wait"], "a tie goes by the alphabet")
	assert.Equal(t, [2]int{2, 2}, got["ferries"])
	assert.NotContains(t, got, "the")
	assert.NotContains(t, got, "went", "it belongs to go, which is a stop word")
}

func TestMerges(t *testing.T) {
	l := lexicon.Default("en")
	l.Merges = []lexicon.Merge{{Term: "queue", Variants: []string{"line", "tailback*", "long wait"}}}
	v := view(t, l, crossing...)
	got := table(v)
	assert.Equal(t, [2]int{5, 8}, got["queue"], "3, line and long wait, queuing, tailbacks, lines")
	assert.Equal(t, [2]int{1, 2}, got["long"], "nothing is taken away from other terms")
	queue, _ := v.Find("queue")
	assert.Equal(
		t,
		[]lexicon.Member{{"queues", 2}, {"line", 1}, {"lines", 1}, {"long wait", 1}, {"queue", 1}, {"queuing", 1}, {"tailbacks", 1}},
		must(v.Members(context.Background(), queue)),
	)
	for _, typed := range []string{"queue", "lines", "Tailback", "long wait", "QUEUES"} {
		term, ok := v.Find(typed)
		require.True(t, ok, typed)
		assert.Equal(t, "queue", v.Terms[term].Label, typed)
	}
	_, ok := v.Find("wait long")
	assert.False(t, ok)
}

// A variant that begins with "=" counts in its own form only, in rows too.
func TestVariantsOfOneForm(t *testing.T) {
	v := view(t, lexicon.Lexicon{Inflections: true, Merges: []lexicon.Merge{
		{Term: "carrier", Variants: []string{"=ups", "=post boxes"}},
	}}, "ups lost it", "up and away", "post boxes", "post box", "carriers")
	of := func(rule string) []uint32 { return lexicon.InRow(v.Row(v.Typed(rule))...).Answers(v.Index).ToArray() }
	assert.Equal(t, []uint32{0, 2, 4}, of("carrier"))
	assert.Equal(t, []uint32{1}, of("up"), "the other form stays a term of its own")
	assert.True(t, v.Reaches("=ups", []string{"ups"}))
	assert.False(t, v.Reaches("=ups", []string{"up"}))
	assert.Equal(t, []uint32{0}, v.ListPhrases("=ups").Answers(v.Index).ToArray())
	assert.Equal(t, []uint32{2}, v.VariantAnswers("=post boxes").ToArray())
}

func TestMergePrecedenceAndClash(t *testing.T) {
	l := lexicon.Default("en")
	l.Merges = []lexicon.Merge{
		{Term: "pattern", Variants: []string{"wait*"}}, {Term: "stem", Variants: []string{"wait"}},
		{Term: "named", Variants: []string{"waits", "wait"}},
	}
	v := view(t, l, "wait", "waits", "waited", "waiter")
	got := table(v)
	assert.Equal(t, map[string][2]int{"pattern": {1, 1}, "stem": {2, 2}, "named": {1, 1}}, got)
	assert.Equal(t, []lexicon.Clash{{"wait", "stem", "named"}}, v.Clashes)
}

func TestStopWordsKeepWins(t *testing.T) {
	l := lexicon.Default("en")
	l.StopWords.Add, l.StopWords.Keep = []string{"Ferry"}, []string{"home", "the"}
	got := table(view(t, l, crossing...))
	assert.NotContains(t, got, "ferries", "one word hides its whole term")
	assert.Contains(t, got, "the")
}

func TestParted(t *testing.T) {
	l := lexicon.Default("en")
	l.Parted = []string{"waits"}
	got := table(view(t, l, "wait", "waits", "waited"))
	assert.Equal(t, [2]int{1, 1}, got["waits"])
	assert.Equal(t, [2]int{2, 2}, got["wait"])
}

func TestPartedWordsStandApartFromPatternsToo(t *testing.T) {
	l := lexicon.Default("en")
	l.Merges = []lexicon.Merge{{Term: "late", Variants: []string{"delay*"}}}
	l.Parted = []string{"delayed"}
	got := table(view(t, l, "delay", "delays", "delayed"))
	assert.Equal(t, map[string][2]int{"late": {2, 2}, "delayed": {1, 1}}, got)
}

func TestTypedWordsPassThroughCleaning(t *testing.T) {
	v := view(t, lexicon.Default("en"), "x")
	assert.Equal(t, []string{"do", "not"}, v.Typed("Don’t"))
	assert.Equal(t, []string{"caf*"}, v.Typed("Caf**"))
	assert.Equal(t, []string{"q????"}, v.Typed("q????"))
	assert.Empty(t, v.Typed("!!"))
}

func TestLexiconIsChecked(t *testing.T) {
	for _, l := range []lexicon.Lexicon{{StopWords: lexicon.StopWords{Base: "xx"}}, {Merges: []lexicon.Merge{{Term: " "}}},
		{Merges: []lexicon.Merge{{Term: "a"}, {Term: "A"}}}, {Lists: []lexicon.List{{Name: "negators"}}}, {Lists: []lexicon.List{{Name: "x"}, {Name: "x"}}}} {
		assert.ErrorIs(t, l.Check(), lexicon.ErrLexicon)
	}
}

// must gives what can't fail here.
func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// Terms that are kept apart are so from both sides, whichever was the label.
func TestKeptApartFromBothSides(t *testing.T) {
	l := lexicon.Lexicon{Apart: []lexicon.Merge{{Term: "boat", Variants: []string{"boot", "bout"}}}}
	for _, pair := range [][2]string{{"boat", "boot"}, {"boot", "boat"}, {"Boat", "bout"}, {"bout", "boat"}} {
		assert.True(t, l.KeptApart(pair[0], pair[1]), pair)
	}
	assert.False(t, l.KeptApart("boot", "bout"), "nothing was said of these two")
	assert.False(t, l.KeptApart("boat", "queue"))
}

func ExampleView() {
	l := lexicon.Default("en")
	l.Merges = []lexicon.Merge{{Term: "queue", Variants: []string{"tailback", "long wait"}}}
	v := view(lexicontest.Example{}, l, "Queues everywhere", "a long wait", "no tailbacks at all")
	term, _ := v.Find("tailback")
	fmt.Println(v.Terms[term].Label, v.Phrases(term).Answers(v.Index).ToArray())
	// Output: queue [0 1 2]
}

func TestComparativesStandApartIfSet(t *testing.T) {
	l := lexicon.Default("en")
	got := table(view(t, l, "cheap", "cheaper cheapest", "good", "better"))
	assert.Equal(t, [2]int{2, 3}, got["cheap"])
	assert.Equal(t, [2]int{2, 2}, got["better"])
	l.ComparativesApart = true
	v := view(t, l, "cheap", "cheaper cheapest", "good", "better", "queue queues")
	got = table(v)
	for _, word := range []string{"cheap", "cheaper", "cheapest", "good", "better"} {
		assert.Equal(t, [2]int{1, 1}, got[word], word)
	}
	assert.Equal(t, [2]int{1, 2}, got["queue"])
	_, ok := v.Find("cheapest of all")
	assert.False(t, ok)
}

// What stands by endings alone where there is no table of words.
func TestInflectionsOfOtherLanguages(t *testing.T) {
	for language, words := range map[string][2]string{
		"de": {"nicht | nichts", "Schiff Schiffe"},
		"fr": {"chaleureux chaleureuse chaleureuses | chaleur", "nombreux nombreuses"},
	} {
		for _, w := range words {
			groups := strings.Split(w, " | ")
			v := lexicontest.View(t, language, lexicon.Lexicon{Inflections: true}, groups...)
			assert.Len(t, v.Terms, len(groups), w)
		}
	}
}

// Words that were separated together count as one term of their own, in rules and merges, too.
func TestPartedTogether(t *testing.T) {
	l := lexicon.Default("en")
	l.Parted = []string{"waits, waited"}
	v := view(t, l, "wait", "waits", "waited", "waiting", "queue")
	got := table(v)
	assert.Equal(t, [2]int{2, 2}, got["wait"])
	assert.Equal(t, [2]int{2, 2}, got["waited"])
	assert.Len(t, v.Inflected("waits"), 2)
	assert.Len(t, v.Inflected("wait"), 2)
	term, ok := v.Find("waits")
	require.True(t, ok)
	assert.Equal(t, "waited", v.Terms[term].Label)
	l.Merges = []lexicon.Merge{{Term: "queue", Variants: []string{"waits"}}}
	got = table(view(t, l, "wait", "waits", "waited", "waiting", "queue"))
	assert.Equal(t, [2]int{3, 3}, got["queue"])
	assert.Equal(t, [2]int{2, 2}, got["wait"])
}
