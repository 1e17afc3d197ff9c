package scheme

import (
	"slices"
	"strings"

	"aftermath/core/lexicon"
)

// MergeTerms counts terms as one, under a label. A merge among the terms brings its variants along.
type MergeTerms struct {
	Label string   `json:"label"`
	Terms []string `json:"terms"`
}

// SplitMerge takes variants out of a merge, or does away with it.
type SplitMerge struct {
	Label    string   `json:"label" doc:"of the merge"`
	Variants []string `json:"variants,omitempty" doc:"what is taken out; left out, the whole merge goes"`
}

// RenameMerge gives a merge another label. The old one stays a variant, so that nothing that was found is lost.
type RenameMerge struct {
	Label string `json:"label"`
	Name  string `json:"name"`
}

// KeepApart remembers terms that are not to be suggested as one.
type KeepApart struct {
	Label string   `json:"label" doc:"the term they were suggested for"`
	Terms []string `json:"terms" minItems:"1"`
}

// SuggestAgain lets terms that were kept apart be suggested as one again.
type SuggestAgain struct {
	Label string   `json:"label"`
	Terms []string `json:"terms" minItems:"1"`
}

// Kind tells it apart.
func (MergeTerms) Kind() string { return "merge" }

// Kind tells it apart.
func (SplitMerge) Kind() string { return "split" }

// Kind tells it apart.
func (RenameMerge) Kind() string { return "rename merge" }

// Kind tells it apart.
func (KeepApart) Kind() string { return "apart" }

// Kind tells it apart.
func (SuggestAgain) Kind() string { return "suggest again" }

// mergeCalled is the place of a merge, -1 if there is none of that label.
func mergeCalled(in []lexicon.Merge, label string) int {
	return slices.IndexFunc(in, func(m lexicon.Merge) bool { return strings.EqualFold(m.Term, label) })
}

// otherForms is a variant that stands for its own form only, or if it does, with its other forms: a merge has one of the two.
func otherForms(variant string) string {
	if bare, ok := strings.CutPrefix(variant, "="); ok {
		return bare
	}
	return "=" + variant
}

func (e MergeTerms) change(s *Scheme, at Situation) (string, error) {
	label, l := strings.TrimSpace(e.Label), &s.Lexicon
	if label == "" {
		return "", refuse("the merge needs a label")
	}
	to := mergeCalled(l.Merges, label)
	if to < 0 {
		to = len(l.Merges)
		l.Merges = append(l.Merges, lexicon.Merge{Term: label, Variants: []string{}})
	}
	add := func(variant string) {
		m := &l.Merges[to]
		m.Variants = slices.DeleteFunc(m.Variants, func(v string) bool { return v == otherForms(variant) })
		if !slices.Contains(l.Merges[to].Variants, variant) {
			l.Merges[to].Variants = append(l.Merges[to].Variants, variant)
		}
	}
	for _, term := range e.Terms {
		if strings.EqualFold(term, label) {
			continue
		}
		if len(at.View.Typed(term)) == 0 {
			return "", refuse("cleaning leaves nothing of %q, so no answer holds it", term)
		}
		// A word that was separated by hand from what it is merged with belongs there again.
		joinParted(l, []string{strings.TrimPrefix(term, "=")})
		if other := mergeCalled(l.Merges, term); other >= 0 {
			variants := l.Merges[other].Variants
			l.Merges = slices.Delete(l.Merges, other, other+1)
			if other < to {
				to--
			}
			for _, v := range variants {
				add(v)
			}
		}
		add(term)
	}
	return "Merged " + words(e.Terms) + " as " + label, nil
}

func (e SplitMerge) change(s *Scheme, at Situation) (string, error) {
	l, label := &s.Lexicon, strings.TrimSpace(e.Label)
	i := mergeCalled(l.Merges, label)
	if i < 0 {
		return "", refuse("there is no merge %q", label)
	}
	m := &l.Merges[i]
	for _, member := range e.Variants {
		throwOut(l, m, at.View, member)
	}
	if len(e.Variants) == 0 || len(m.Variants) == 0 {
		l.Merges = slices.Delete(l.Merges, i, i+1)
		return "Parted the merge " + label, nil
	}
	return "Took " + words(e.Variants) + " out of " + label, nil
}

// throwOut takes a member out of a merge: its variant goes, and a single word that the label or another variant would still reach
// is separated by hand.
func throwOut(l *lexicon.Lexicon, m *lexicon.Merge, v *lexicon.View, member string) {
	typed := v.Typed(member)
	m.Variants = slices.DeleteFunc(m.Variants, func(variant string) bool {
		return variant == member || len(typed) > 1 && v.Reaches(variant, typed)
	})
	reached := slices.ContainsFunc(
		append([]string{m.Term}, m.Variants...), func(variant string) bool { return v.Reaches(variant, typed) },
	)
	if len(typed) == 1 && reached {
		partWord(l, member)
	}
}

func (e RenameMerge) change(s *Scheme, _ Situation) (string, error) {
	to := strings.TrimSpace(e.Name)
	if to == "" {
		return "", refuse("the new name is empty")
	}
	i := mergeCalled(s.Lexicon.Merges, e.Label)
	if i < 0 {
		return "", refuse("there is no merge %q", e.Label)
	}
	m := &s.Lexicon.Merges[i]
	m.Variants = slices.DeleteFunc(m.Variants, func(v string) bool { return v == to })
	if !slices.Contains(m.Variants, m.Term) && m.Term != to {
		m.Variants = append(m.Variants, m.Term)
	}
	m.Term = to
	return "Renamed " + e.Label + " to " + to, nil
}

func (e KeepApart) change(s *Scheme, _ Situation) (string, error) {
	l := &s.Lexicon
	if e.Label == "" || len(e.Terms) == 0 {
		return "", refuse("say which terms are kept apart")
	}
	i := mergeCalled(l.Apart, e.Label)
	if i < 0 {
		i = len(l.Apart)
		l.Apart = append(l.Apart, lexicon.Merge{Term: e.Label, Variants: []string{}})
	}
	for _, t := range e.Terms {
		if !slices.Contains(l.Apart[i].Variants, t) {
			l.Apart[i].Variants = append(l.Apart[i].Variants, t)
		}
	}
	return "Kept " + words(e.Terms) + " apart from " + e.Label, nil
}

// Terms are kept apart whichever of the two they were suggested for, so both sides are looked through.
func (e SuggestAgain) change(s *Scheme, _ Situation) (string, error) {
	if e.Label == "" || len(e.Terms) == 0 {
		return "", refuse("say which terms")
	}
	l := &s.Lexicon
	same := func(a string) func(b string) bool { return func(b string) bool { return strings.EqualFold(a, b) } }
	for i := range l.Apart {
		m := &l.Apart[i]
		m.Variants = slices.DeleteFunc(m.Variants, func(v string) bool {
			return strings.EqualFold(m.Term, e.Label) && slices.ContainsFunc(e.Terms, same(v)) ||
				strings.EqualFold(v, e.Label) && slices.ContainsFunc(e.Terms, same(m.Term))
		})
	}
	l.Apart = slices.DeleteFunc(l.Apart, func(m lexicon.Merge) bool { return len(m.Variants) == 0 })
	return "Let " + words(e.Terms) + " be suggested with " + e.Label + " again", nil
}
