package termview

import (
	"context"
	"slices"

	"aftermath/core/terms"
	"aftermath/core/words"
	"aftermath/internal/desk/state"
)

type saidKey struct{}

func (saidKey) Most() int { return 1 }

func everydayOf(ctx context.Context, s *state.State) (terms.Everyday, error) {
	return state.Remember(ctx, s.Memo, saidKey{}, func(context.Context) (terms.Everyday, error) {
		return terms.NewEveryday(s.View, s.Scheme.Language), nil
	})
}

// more is how many times as often as in everyday speech a single term is said among so many words; 0 for rows of terms.
func more(e terms.Everyday, r terms.Row, among int) float64 {
	if r.Terms[1] >= 0 {
		return 0
	}
	return e.More(int(r.Terms[0]), r.Times, among)
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

// AnyClass is no filter.
const AnyClass = "any"

// OtherClass are words that the table of the language does not have: names, mostly, and slips.
const OtherClass = "other"
