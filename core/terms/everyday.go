package terms

import (
	"strings"
	"unicode"

	"aftermath/core/lexicon"
	"aftermath/core/words"
)

// Everyday is how often each term is said in everyday speech, among a million words: of its single words together; below
// 0 for signs and numbers. It is nil for languages of which that is not known.
type Everyday []float64

// NewEveryday works it out for the terms of a view in a language.
func NewEveryday(v *lexicon.View, language string) Everyday {
	table := words.Of(language)
	if table == nil {
		return nil
	}
	out := make(Everyday, len(v.Terms))
	for t, term := range v.Terms {
		if strings.IndexFunc(term.Label, unicode.IsLetter) < 0 {
			out[t] = -1
			continue
		}
		for _, w := range term.Words {
			out[t] += table.Said(v.Index.Surface(w))
		}
	}
	return out
}

// More is how many times as often as in everyday speech a term is said that is said so many times among so many words.
// Once in a million words is added on both sides, so that words that nobody says there have a figure. 0 where nothing is
// known.
func (e Everyday) More(term, times, among int) float64 {
	if e == nil || among == 0 || e[term] < 0 {
		return 0
	}
	return (1e6*float64(times)/float64(among) + 1) / (e[term] + 1)
}
