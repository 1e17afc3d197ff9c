package corpus

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/text"
)

// Every answer comes out of the index as the pipeline reads it, and the postings say the same as the answers.
func TestIndexAgainstReading(t *testing.T) {
	p, err := text.NewPipeline("en", text.DefaultSteps())
	if err != nil {
		t.Fatal(err)
	}
	pieces := []string{
		"late", "boats", "café", "cafe", "CAFE", "don't", "bus42", "<p>", "😀", ". ", "\n", " ", " ", "n/a", "£4", "İstanbul",
	}
	rapid.Check(t, func(rt *rapid.T) {
		var answers []string
		for range rapid.IntRange(0, 40).Draw(rt, "answers") {
			answers = append(answers, strings.Join(rapid.SliceOfN(rapid.SampledFrom(pieces), 0, 8).Draw(rt, "pieces"), ""))
		}
		ix := build(t, answers, 2)
		require.Equal(rt, len(answers), ix.Len())
		holds, times := map[uint32]map[uint32]bool{}, map[uint32]int{}
		for i, a := range answers {
			c := p.Clean(a)
			words := ix.Answer(i)
			require.Len(rt, words, len(c.Words))
			for j, w := range c.Words {
				require.Equal(rt, w.Surface, ix.Surface(words[j]))
				require.Equal(rt, w.Sentence, int(ix.Sentences(i)[j]))
				if holds[words[j]] == nil {
					holds[words[j]] = map[uint32]bool{}
				}
				holds[words[j]][uint32(i)] = true
				times[words[j]]++
			}
			statuses := 0
			for s := range text.StatusNames {
				if ix.Status(text.Status(s)).Contains(uint32(i)) {
					statuses++
				}
			}
			require.Equal(rt, 1, statuses, "every answer has one status")
			for step := range p.Steps() {
				require.Equal(rt, c.Touched>>step&1 == 1, ix.Touched(step).Contains(uint32(i)))
			}
		}
		require.Len(rt, holds, ix.Vocabulary(), "no word without an answer")
		for w := range uint32(ix.Vocabulary()) {
			require.Len(rt, holds[w], len(ix.Postings(w)))
			for _, a := range ix.Postings(w) {
				require.True(rt, holds[w][a])
			}
			require.Equal(rt, times[w], ix.Count(w))
			found, ok := ix.Word(ix.Surface(w))
			require.True(rt, ok && found == w)
		}
	})
}

// Answers that are alike are those whose words, joined, are the same; each is in one group, the largest group first.
func TestAlikeAgainstComparingWords(t *testing.T) {
	pieces := []string{"late", "Late", "boat", "  ", ", ", "!", "café", "cafe"}
	rapid.Check(t, func(rt *rapid.T) {
		var answers []string
		for range rapid.IntRange(0, 60).Draw(rt, "answers") {
			answers = append(answers, strings.Join(rapid.SliceOfN(rapid.SampledFrom(pieces), 0, 3).Draw(rt, "pieces"), " "))
		}
		ix := build(t, answers, 2)
		want := map[string][]uint32{}
		short := []uint32{}
		for i := range answers {
			var words []string
			for _, w := range ix.Answer(i) {
				words = append(words, ix.Surface(w))
			}
			if len(words) > 0 {
				key := strings.Join(words, " ")
				want[key] = append(want[key], uint32(i))
				if len(words) < 2 {
					short = append(short, uint32(i))
				}
			}
		}
		last := len(answers)
		for _, g := range ix.Alike() {
			require.LessOrEqual(rt, len(g), last)
			last = len(g)
			var words []string
			for _, w := range ix.Answer(int(g[0])) {
				words = append(words, ix.Surface(w))
			}
			key := strings.Join(words, " ")
			require.Equal(rt, want[key], g)
			delete(want, key)
		}
		for key, g := range want {
			require.Len(rt, g, 1, "%q is like another and in no group", key)
		}
		require.Equal(rt, short, append([]uint32{}, ix.Shorter(2).ToArray()...))
	})
}

// Answers that are nearly alike: each of a group shares at least so much with its first one, by comparing the sets of
// three words in a row; and of all that comparing every answer with every other finds, nearly none is missed.
func TestNearlyAlikeAgainstComparingAll(t *testing.T) {
	word := rapid.SampledFrom(strings.Fields("the boat was late and cold again but tea on deck good"))
	wanted, found := 0, 0
	rapid.Check(t, func(rt *rapid.T) {
		least := rapid.SampledFrom([]float64{0.8, 0.9, 1}).Draw(rt, "least")
		var answers []string
		for range rapid.IntRange(2, 16).Draw(rt, "answers") {
			base := rapid.SliceOfN(word, rapid.SampledFrom([]int{0, 3, 20}).Draw(rt, "length"), 45).Draw(rt, "words")
			for range rapid.IntRange(1, 4).Draw(rt, "copies") {
				copied := slices.Clone(base)
				for range rapid.SampledFrom([]int{0, 1, 1, 2}).Draw(rt, "changes") {
					if len(copied) > 0 {
						copied[rapid.IntRange(0, len(copied)-1).Draw(rt, "at")] = word.Draw(rt, "other")
					}
				}
				answers = append(answers, strings.Join(copied, " "))
			}
		}
		ix := build(t, answers, 2)
		sets := make([]map[string]bool, len(answers))
		for i, a := range answers {
			words := strings.Fields(a)
			sets[i] = map[string]bool{}
			for j := 0; j+3 <= len(words); j++ {
				sets[i][strings.Join(words[j:j+3], " ")] = true
			}
		}
		near := func(a, b uint32) float64 {
			both := 0
			for s := range sets[a] {
				if sets[b][s] {
					both++
				}
			}
			if both == 0 {
				return 0
			}
			return float64(both) / float64(len(sets[a])+len(sets[b])-both)
		}
		want := map[uint32][]uint32{}
		var leaders []uint32
	next:
		for i := range uint32(len(answers)) {
			for _, l := range leaders {
				if near(i, l) >= least {
					want[l] = append(want[l], i)
					wanted++
					continue next
				}
			}
			if len(sets[i]) > 0 {
				leaders = append(leaders, i)
			}
		}
		groups, err := ix.NearlyAlike(t.Context(), least, 2, nil)
		require.NoError(rt, err)
		last := len(answers) + 1
		for _, g := range groups {
			require.LessOrEqual(rt, len(g), last)
			last = len(g)
			for _, a := range g[1:] {
				require.GreaterOrEqual(rt, near(a, g[0]), least)
				require.InDelta(rt, near(a, g[0]), ix.Near(a, g[0]), 1e-12)
				if slices.Contains(want[g[0]], a) {
					found++
				}
			}
		}
	})
	require.GreaterOrEqual(t, float64(found), 0.99*float64(wanted))
	require.Greater(t, wanted, 100)
}

// Blocks against the definition: what is found can't be made longer, has just the answers that hold it, and every row of
// words that enough answers share is in one that they all have.
func TestBlocksAgainstTheDefinition(t *testing.T) {
	word := rapid.SampledFrom(strings.Fields("boat late cold tea a b"))
	found := 0
	rapid.Check(t, func(rt *rapid.T) {
		length, least := rapid.IntRange(2, 4).Draw(rt, "words"), rapid.IntRange(2, 3).Draw(rt, "answers")
		var answers []string
		block := rapid.SliceOfN(word, length, length+4).Draw(rt, "block")
		for range rapid.IntRange(0, 6).Draw(rt, "number") {
			words := rapid.SliceOfN(word, 0, 5).Draw(rt, "before")
			for range rapid.IntRange(0, 2).Draw(rt, "times") {
				words = append(append(words, block...), rapid.SliceOfN(word, 0, 3).Draw(rt, "after")...)
			}
			answers = append(answers, strings.Join(words, " "))
		}
		ix := build(t, answers, 2)
		holding := func(row string) (out []uint32) {
			for i, a := range answers {
				if strings.Contains(" "+a+" ", " "+row+" ") {
					out = append(out, uint32(i))
				}
			}
			return out
		}
		blocks, err := ix.Blocks(t.Context(), length, least)
		require.NoError(rt, err)
		held := map[string]bool{}
		for _, b := range blocks {
			row := surfaces(ix, b.Words)
			require.Equal(rt, holding(row), b.Answers, row)
			require.Equal(rt, b.Answers, ix.Holding(b.Words).ToArray())
			require.GreaterOrEqual(rt, len(b.Answers), least)
			require.GreaterOrEqual(rt, len(b.Words), length)
			for _, w := range strings.Fields("boat late cold tea a b") {
				require.NotEqual(rt, b.Answers, holding(w+" "+row), "%s before %s", w, row)
				require.NotEqual(rt, b.Answers, holding(row+" "+w), "%s after %s", w, row)
			}
			key := row + fmt.Sprint(b.Answers)
			require.False(rt, held[key], "%s stands there once", row)
			held[key] = true
			found++
		}
		for _, a := range answers {
			words := strings.Fields(a)
			for i := 0; i+length <= len(words); i++ {
				row := strings.Join(words[i:i+length], " ")
				if in := holding(row); len(in) >= least {
					require.True(rt, slices.ContainsFunc(blocks, func(b Block) bool {
						return slices.Equal(b.Answers, in) && strings.Contains(" "+surfaces(ix, b.Words)+" ", " "+row+" ")
					}), "%s is in no block", row)
				}
			}
		}
	})
	require.Greater(t, found, 50)
}

func surfaces(ix *Index, words []uint32) string {
	out := make([]string, len(words))
	for i, w := range words {
		out[i] = ix.Surface(w)
	}
	return strings.Join(out, " ")
}
