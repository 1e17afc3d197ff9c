package demo

import (
	"context"
	"maps"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/playbook"
	"aftermath/core/terms"
)

// The generator knows which words it misspelt and what was meant. A suggestion is right if the term that it would join a
// misspelling with is the one that the word meant belongs to.
func TestSuggestedMisspellings(t *testing.T) {
	s := Make(Seed, Respondents)
	for column, question := range map[int]string{10: Change, 11: Enjoy} {
		var answers []string
		for _, row := range s.Rows {
			answers = append(answers, row[column])
		}
		book := playbook.New("en")
		reading, err := book.Read(context.Background(), answers, 2, nil)
		require.NoError(t, err)
		v := book.View(reading)
		// Planted words that stand in the answers and are not joined with what was meant anyhow. Of these, what could be
		// suggested: no suggestion may rest on fewer than two answers.
		planted := map[string]string{}
		answersOf := map[int]*roaring.Bitmap{}
		for typed, meant := range s.Typos {
			if _, ok := reading.Index.Word(typed); !ok {
				continue
			}
			a, ok := v.Find(typed)
			b, known := v.Find(meant)
			if ok && known && a != b {
				planted[typed] = meant
				if answersOf[b] == nil {
					answersOf[b] = roaring.New()
				}
				answersOf[b].Or(v.Phrases(a).Answers(reading.Index))
			}
		}
		could := map[string]bool{}
		for typed, meant := range planted {
			b, _ := v.Find(meant)
			w, _ := reading.Index.Word(typed)
			short := len(typed) < 6 && len(reading.Index.Postings(w)) < 2 // written once, it may be anything: left alone
			could[typed] = answersOf[b].GetCardinality() >= 2 && !short
		}
		maps.DeleteFunc(could, func(_ string, ok bool) bool { return !ok })
		found, err := terms.Suggester{Counter: terms.NewCounter(v, nil), Language: "en", Workers: 2}.Find(context.Background())
		require.NoError(t, err)
		suggested, right, caught := 0, 0, 0
		var wrong []string
		for _, g := range found {
			require.GreaterOrEqual(t, g.Answers.GetCardinality(), uint64(2))
			if g.Kind != terms.Misspelt {
				continue
			}
			for _, x := range g.Variants {
				suggested++
				meant, ok := s.Typos[x.Text]
				a, _ := v.Find(g.Term)
				b, _ := v.Find(meant)
				if ok && a == b {
					right++
					if could[x.Text] {
						caught++
					}
				} else {
					wrong = append(wrong, x.Text+" as "+g.Term)
				}
			}
		}
		precision, recall := float64(right)/float64(suggested), float64(caught)/float64(len(could))
		t.Logf(
			"%s: precision %.3f (%d of %d), recall %.3f (%d of %d, of %d planted); wrong: %v", question, precision, right, suggested,
			recall, caught, len(could), len(planted), wrong,
		)
		assert.GreaterOrEqual(t, precision, 0.9)
		assert.GreaterOrEqual(t, recall, 0.8)
	}
}
