package terms_test

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/lexicon"
	"aftermath/core/lexicon/lexicontest"
	"aftermath/core/terms"
)

func view(t require.TestingT, l lexicon.Lexicon, answers ...string) *lexicon.View {
	return lexicontest.View(t, "en", l, answers...)
}

func queues() lexicon.Lexicon {
	l := lexicon.Default("en")
	l.Merges = []lexicon.Merge{
		{Term: "queue", Variants: []string{"tailback", "long wait"}},
		{Term: "tea", Variants: []string{"hot drink", "hot drink queue"}},
	}
	return l
}

var said = []string{"queue", "queues", "line", "long", "wait", "waits", "tea", "the", "tailback", "hot", "drink", ". ", "of"}

func answers(t *rapid.T) []string {
	return rapid.SliceOfN(rapid.Custom(func(t *rapid.T) string {
		return strings.Join(rapid.SliceOfN(rapid.SampledFrom(said), 0, 9).Draw(t, "words"), " ")
	}), 1, 24).Draw(t, "answers")
}

func focus(t *rapid.T, n int, name string) *roaring.Bitmap {
	set := roaring.New()
	for i := range n {
		if rapid.Bool().Draw(t, fmt.Sprint(name, i)) {
			set.Add(uint32(i))
		}
	}
	return set
}

// The quick counts are compared with ones made straight from the definitions, answer by answer.
func TestCountsAgainstDefinitions(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		texts := answers(t)
		v := view(t, queues(), texts...)
		set, coded := focus(t, len(texts), "in"), focus(t, len(texts), "coded")
		set.And(v.Index.Answered())
		c := terms.NewCounter(v, nil)
		bags := map[uint32]map[int]int{} // occurrences by answer and term
		df := map[int]int{}
		for it := v.Index.Answered().Iterator(); it.HasNext(); {
			a := it.Next()
			bags[a] = map[int]int{}
			for term := range v.Terms {
				v.Phrases(term).Each(v.Index.Answer(int(a)), v.Index.Sentences(int(a)), func(int, int) { bags[a][term]++ })
				if bags[a][term] > 0 {
					df[term]++
				} else {
					delete(bags[a], term)
				}
			}
		}
		type row struct{ answers, times, uncoded int }
		want, distinct, words := map[int]row{}, map[int]float64{}, 0
		for it := set.Iterator(); it.HasNext(); {
			a := it.Next()
			words += len(v.Index.Answer(int(a)))
			length := 0.0
			weight := func(term, times int) float64 {
				return float64(times) * (math.Log((1+float64(v.Index.Answered().GetCardinality()))/(1+float64(df[term]))) + 1)
			}
			for term, times := range bags[a] {
				if !v.Terms[term].Stop {
					length += weight(term, times) * weight(term, times)
				}
			}
			for term, times := range bags[a] {
				r := want[term]
				r.answers, r.times = r.answers+1, r.times+times
				if !coded.Contains(a) {
					r.uncoded++
				}
				want[term] = r
				if !v.Terms[term].Stop {
					distinct[term] += weight(term, times) / math.Sqrt(length)
				}
			}
		}
		for workers := 1; workers <= 2; workers++ {
			got := must(c.Count(context.Background(), set, coded, workers))
			require.Equal(t, int(set.GetCardinality()), got.Base)
			require.Equal(t, words, got.Words)
			require.Len(t, got.Rows, len(want))
			mean := must(c.Distinct(context.Background(), set, workers))
			for _, r := range got.Rows {
				term := int(r.Terms[0])
				require.Equal(t, want[term], row{r.Answers, r.Times, r.Uncoded}, v.Terms[term].Label)
				require.InDelta(t, distinct[term]/float64(r.Answers), mean[term], 1e-12)
			}
		}
		// Together: the answers with both.
		chosen := make([]int, len(v.Terms))
		for i := range chosen {
			chosen[i] = i
		}
		for a, list := range must(c.Pairs(context.Background(), set, chosen, 2)) {
			for b := a; b < len(chosen); b++ {
				both := 0
				for it := set.Iterator(); it.HasNext(); {
					if bag := bags[it.Next()]; bag[a] > 0 && bag[b] > 0 {
						both++
					}
				}
				require.EqualValues(t, both, list[b])
			}
		}
	})
}

// Rows of terms: every two or three words in one sentence, that neither begin nor end in a stop word.
func TestRowsAgainstDefinition(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		texts := answers(t)
		v := view(t, queues(), texts...)
		set := v.Index.Answered()
		n := rapid.IntRange(2, 3).Draw(t, "n")
		want := map[[3]int32][2]int{}
		for it := set.Iterator(); it.HasNext(); {
			a := int(it.Next())
			words, sentences := v.Index.Answer(a), v.Index.Sentences(a)
			seen := map[[3]int32]bool{}
			for i := 0; i+n <= len(words); i++ {
				key := [3]int32{terms.None, terms.None, terms.None}
				for j := range n {
					key[j] = int32(v.TermOf(words[i+j]))
				}
				if sentences[i] != sentences[i+n-1] || v.Terms[key[0]].Stop || v.Terms[key[n-1]].Stop {
					continue
				}
				x := want[key]
				x[1]++
				if !seen[key] {
					x[0]++
				}
				seen[key], want[key] = true, x
			}
		}
		got := must(terms.NewCounter(v, nil).CountRows(context.Background(), set, roaring.New(), n, 2, false))
		rare := 0
		for key, x := range want {
			if x[0] == 1 {
				rare++
				delete(want, key)
			}
		}
		require.Equal(t, rare, got.Rare)
		require.Len(t, got.Rows, len(want))
		for _, r := range got.Rows {
			require.Equal(t, want[r.Terms], [2]int{r.Answers, r.Times})
			// Every figure can be read: the row finds its answers again.
			require.EqualValues(t, r.Answers, lexicon.NewPhrases(v.RowSequence(r.Terms)).Answers(v.Index).GetCardinality())
		}
	})
}

func TestRowsAreLabelledAndHidden(t *testing.T) {
	l := lexicon.Default("en")
	texts := []string{"long queues here", "a long queue", "Long queues again", "the car deck", "car deck"}
	v := view(t, l, texts...)
	rows := func(v *lexicon.View, hidden bool) (labels []string) {
		c := terms.NewCounter(v, nil)
		for _, r := range must(c.CountRows(context.Background(), v.Index.Answered(), roaring.New(), 2, 1, hidden)).Rows {
			labels = append(labels, c.RowLabel(r.Terms))
		}
		return labels
	}
	assert.Equal(t, []string{"car deck", "long queues"}, rows(v, false))
	l.StopWords.Add = []string{"long queue"}
	v = v.With(l)
	assert.Equal(t, []string{"car deck"}, rows(v, false))
	assert.Equal(t, []string{"long queues"}, rows(v, true))
	assert.NotContains(t, table(v), "zzz")
	assert.Contains(t, table(v), "queues", "a hidden row hides none of its words")
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

// Counts do not change with the order of the rows, a merge's answers are the union of its variants', and other stop words
// give the same view as a new one.
func TestCountProperties(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		texts, l := answers(t), queues()
		require.Equal(t, table(view(t, l, texts...)), table(view(t, l, rapid.Permutation(texts).Draw(t, "order")...)))
		v := view(t, l, texts...)
		term, ok := v.Find("queue")
		require.True(t, ok)
		union := v.VariantAnswers("queue")
		for _, variant := range l.Merges[0].Variants {
			union.Or(v.VariantAnswers(variant))
		}
		require.Equal(t, union.ToArray(), v.Phrases(term).Answers(v.Index).ToArray())
		l.StopWords = lexicon.StopWords{Add: []string{"queue"}, Keep: []string{"the"}}
		require.Equal(t, table(view(t, l, texts...)), table(v.With(l)))
	})
}

func TestContextIsSorted(t *testing.T) {
	v := view(t, lexicon.Default("en"), "b queue d a", "the queue", "a queue. d", "c queue d")
	queue, _ := v.Find("queue")
	lines := func(by terms.Order) (out []string) {
		places := must(terms.Places(context.Background(), v.Index, v.Phrases(queue), v.Index.Answered()))
		terms.Sort(v.Index, places, by)
		for _, p := range places {
			var words []string
			for _, w := range v.Index.Answer(int(p.Answer)) {
				words = append(words, v.Index.Surface(w))
			}
			out = append(out, strings.Join(words, " "))
		}
		return out
	}
	assert.Equal(t, []string{"the queue", "a queue d", "c queue d", "b queue d a"}, lines(terms.ByAfter))
	assert.Equal(t, []string{"a queue d", "b queue d a", "c queue d", "the queue"}, lines(terms.ByBefore))
	assert.Equal(t, []string{"b queue d a", "the queue", "a queue d", "c queue d"}, lines(terms.AsGiven))
}

// Nothing is lost in a tree: at every fork the branches drawn, those that are not, and the ends make up the whole; and the
// answers of a branch are those with its words in a row.
func TestBranchesAddUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		texts := answers(t)
		v := view(t, lexicon.Default("en"), texts...)
		queue, ok := v.Find("queue")
		if !ok {
			return
		}
		places := must(terms.Places(context.Background(), v.Index, v.Phrases(queue), v.Index.Answered()))
		after := rapid.Bool().Draw(t, "after")
		shape := terms.Shape{Depth: 3, Breadth: rapid.IntRange(1, 6).Draw(t, "breadth"), Least: rapid.IntRange(1, 3).Draw(t, "least")}
		var check func(b terms.Branch, words []string, depth int)
		check = func(b terms.Branch, words []string, depth int) {
			if len(words) > 0 {
				sequence := lexicon.Sequence{v.Phrases(queue).Words()}
				for _, w := range words {
					sequence = append(sequence, v.Exact(w))
				}
				if !after {
					slices.Reverse(sequence)
				}
				require.EqualValues(
					t, b.Answers, roaring.And(lexicon.NewPhrases(sequence).Answers(v.Index), v.Index.Answered()).GetCardinality(),
				)
			}
			if depth == shape.Depth {
				return
			}
			sum := b.Ends + b.MoreTime
			for _, kid := range b.Branches {
				sum += kid.Times
				require.GreaterOrEqual(t, kid.Answers, shape.Least)
				check(kid, append(slices.Clone(words), kid.Word), depth+1)
			}
			require.Equal(t, b.Times, sum)
		}
		check(terms.Branches(v.Index, places, after, shape), nil, 0)
	})
}

// What follows a place, some words passed over, is what follows it in the answer without those words.
func TestBranchesThatPassOverWords(t *testing.T) {
	words := rapid.SampledFrom([]string{"queue", "the", "at", "gate", "boat", "long"})
	rapid.Check(t, func(t *rapid.T) {
		var with, without []string
		for range rapid.IntRange(1, 8).Draw(t, "answers") {
			answer := rapid.SliceOfN(words, 1, 8).Draw(t, "answer")
			with = append(with, strings.Join(answer, " "))
			without = append(without, strings.Join(slices.DeleteFunc(slices.Clone(answer), func(w string) bool { return w == "the" || w == "at" }), " "))
		}
		tree := func(texts []string, skip bool, after bool) terms.Branch {
			v := view(t, lexicon.Lexicon{}, texts...)
			queue, ok := v.Find("queue")
			if !ok {
				return terms.Branch{Branches: []terms.Branch{}}
			}
			places, err := terms.Places(context.Background(), v.Index, v.Phrases(queue), v.Index.Answered())
			require.NoError(t, err)
			shape := terms.Shape{Depth: 3, Breadth: 10, Least: 1}
			if skip {
				shape.Skip = func(w uint32) bool { return v.Index.Surface(w) == "the" || v.Index.Surface(w) == "at" }
			}
			return terms.Branches(v.Index, places, after, shape)
		}
		for _, after := range []bool{true, false} {
			require.Equal(t, sorted(tree(without, false, after)), sorted(tree(with, true, after)))
		}
	})
}

// sorted puts branches in the order of the alphabet: of as many answers each, they come in the order of the index.
func sorted(b terms.Branch) terms.Branch {
	for i := range b.Branches {
		b.Branches[i] = sorted(b.Branches[i])
	}
	slices.SortFunc(b.Branches, func(x, y terms.Branch) int { return strings.Compare(x.Word, y.Word) })
	return b
}

func TestNetworkClustersWhatComesTogether(t *testing.T) {
	var texts []string
	for i := range 40 {
		texts = append(texts, []string{"cold tea cafe", "tea cafe cold", "deck lorry ramp", "lorry deck ramp", "staff"}[i%5])
	}
	v := view(t, lexicon.Default("en"), texts...)
	c := terms.NewCounter(v, nil)
	var chosen []int
	for _, w := range []string{"tea", "deck", "cafe", "lorry", "cold", "ramp", "staff"} {
		term, ok := v.Find(w)
		require.True(t, ok)
		chosen = append(chosen, term)
	}
	for range 5 { // the same every time
		links, more, err := c.Network(
			context.Background(), v.Index.Answered(), chosen, terms.NetworkQuery{Measure: terms.ByG2, Both: 2, Most: 100}, 2,
		)
		require.NoError(t, err)
		assert.Len(t, links, 6)
		assert.Zero(t, more)
		assert.Equal(t, [][]int{{0, 2, 4}, {1, 3, 5}}, terms.Clusters(links, terms.ByG2))
	}
	assert.EqualValues(
		t,
		16,
		c.AtLeastTwo(v.Index.Answered(), chosen[:1:1]).GetCardinality()+c.AtLeastTwo(
			v.Index.Answered(), []int{chosen[0], chosen[2]},
		).GetCardinality(),
	)
	_, more, err := c.Network(
		context.Background(), v.Index.Answered(), chosen, terms.NetworkQuery{Measure: terms.ByLift, Both: 2, Most: 4}, 1,
	)
	require.NoError(t, err)
	assert.Equal(t, 2, more)
}

// must gives what can't fail here.
func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

func ExampleCounter_Count() {
	v := view(lexicontest.Example{}, queues(), "the queue was long", "a tailback, and cold tea", "tea")
	table, _ := terms.NewCounter(v, nil).Count(context.Background(), v.Index.Answered(), roaring.New(), 1)
	for _, r := range table.Rows {
		if t := v.Terms[r.Terms[0]]; t.Label == "queue" {
			fmt.Println(t.Label, "in", r.Answers, "answers,", r.Times, "times")
		}
	}
	// Output: queue in 2 answers, 2 times
}
