package terms

import (
	"context"
	"slices"
	"strings"
	"unicode"

	"aftermath/core/terms"
	"aftermath/core/words"
	"aftermath/internal/desk/state"
)

type saidKey struct{}

func (saidKey) Most() int { return 1 }

// everyday compares how often terms are said with how often people say them in everyday speech. It is nil for languages of which
// that is not known.
type everyday []float64 // times among a million words, by term: of its single words together; below 0 for signs and numbers

func everydayOf(ctx context.Context, s *state.State) (everyday, error) {
	table := words.Of(s.Scheme.Language)
	if table == nil {
		return nil, nil
	}
	return state.Remember(ctx, s.Memo, saidKey{}, func(context.Context) (everyday, error) {
		out := make(everyday, len(s.View.Terms))
		for t, term := range s.View.Terms {
			if strings.IndexFunc(term.Label, unicode.IsLetter) < 0 {
				out[t] = -1
				continue
			}
			for _, w := range term.Words {
				out[t] += table.Said(s.View.Index.Surface(w))
			}
		}
		return out, nil
	})
}

// more is how many times as often a single term is said among so many words as in everyday speech. Once in a million words is
// added on both sides, so that words that nobody says there have a figure. 0 where nothing is known.
func (e everyday) more(r terms.Row, said int) float64 {
	if e == nil || r.Terms[1] >= 0 || said == 0 || e[r.Terms[0]] < 0 {
		return 0
	}
	return (1e6*float64(r.Times)/float64(said) + 1) / (e[r.Terms[0]] + 1)
}

// ofClass says of single terms whether they are of a word class, by the word they are called by.
func ofClass(s *state.State, class string) func(term int32) bool {
	table := words.Of(s.Scheme.Language)
	return func(term int32) bool {
		classes := table.Of(s.View.Terms[term].Label)
		if class == OtherClass {
			return len(classes) == 0
		}
		return slices.ContainsFunc(classes, func(c words.Class) bool { return c.String() == class })
	}
}

// OtherClass are words that the table of the language does not have: names, mostly, and slips.
const OtherClass = "other"
