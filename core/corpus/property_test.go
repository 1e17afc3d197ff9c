package corpus

import (
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
	pieces := []string{"late", "boats", "café", "cafe", "CAFE", "don't", "bus42", "<p>", "😀", ". ", "\n", " ", " ", "n/a", "£4", "İstanbul"}
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
