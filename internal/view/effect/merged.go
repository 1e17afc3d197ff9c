package effect

import (
	"cmp"
	"slices"

	"aftermath/core/lexicon"
	"aftermath/internal/desk/state"
)

// MergedTerm is what becomes of a merge that is new or has other variants.
type MergedTerm struct {
	Label  string      `json:"label"`
	Before int         `json:"before" doc:"answers that say something and held what is called so before"`
	After  int         `json:"after" doc:"answers that say something and hold it then"`
	Hidden bool        `json:"hidden,omitempty" doc:"a stop word is among it: it is hidden from lists"`
	Takes  []TermTaken `json:"takes" doc:"other terms that it takes words from which it does not name"`
}

// TermTaken is what a merge takes from another term.
type TermTaken struct {
	Label string   `json:"label"`
	Words []string `json:"words" doc:"the most frequent first; at most 6"`
	Times int      `json:"times" doc:"occurrences of the words in the whole question"`
}

const mostTaken = 6

// merged compares the merges of two states.
func merged(before, after *state.State) []MergedTerm {
	out := []MergedTerm{}
	if before.Reading.Index != after.Reading.Index ||
		slices.EqualFunc(before.View.Lexicon.Merges, after.View.Lexicon.Merges, sameMerge) {
		return out
	}
	answers := func(s *state.State, term int) int {
		return int(s.View.Phrases(term).Answers(s.View.Index).AndCardinality(s.View.Index.Answered()))
	}
	for i, m := range after.View.Lexicon.Merges {
		if slices.ContainsFunc(before.View.Lexicon.Merges, func(b lexicon.Merge) bool { return sameMerge(b, m) }) {
			continue
		}
		term := after.View.MergeTerm(i)
		one := MergedTerm{Label: m.Term, After: answers(after, term), Hidden: after.View.Terms[term].Stop}
		was, known := before.View.Find(m.Term)
		if known {
			one.Before = answers(before, was)
		}
		one.Takes = taken(before, after, m, term)
		out = append(out, one)
	}
	return out
}

func sameMerge(a, b lexicon.Merge) bool {
	return a.Term == b.Term && slices.Equal(a.Variants, b.Variants)
}

// taken are the terms that a merge takes words from which it does not name: those of a stem, or of a pattern.
func taken(before, after *state.State, m lexicon.Merge, term int) []TermTaken {
	named := map[int]bool{}
	for _, name := range append([]string{m.Term}, m.Variants...) {
		if t, ok := before.View.Find(name); ok && !lexicon.Wild(name) {
			named[t] = true
		}
	}
	by := map[int]*TermTaken{}
	for _, w := range after.View.Terms[term].Words { // the most frequent first
		t := before.View.TermOf(w)
		if named[t] {
			continue
		}
		if by[t] == nil {
			by[t] = &TermTaken{Label: before.View.Terms[t].Label, Words: []string{}}
		}
		if by[t].Times += before.View.Index.Count(w); len(by[t].Words) < mostTaken {
			by[t].Words = append(by[t].Words, before.View.Index.Spelling(w))
		}
	}
	out := []TermTaken{}
	for _, x := range by {
		out = append(out, *x)
	}
	slices.SortFunc(out, func(a, b TermTaken) int { return cmp.Or(b.Times-a.Times, cmp.Compare(a.Label, b.Label)) })
	return out
}
