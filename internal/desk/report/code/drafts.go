package code

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/frame"
	"aftermath/core/rule"
	"aftermath/core/terms"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// Drafts are proposals for categories, made of terms that come together in what no category has.
type Drafts struct {
	Base    int     `json:"base" doc:"answers of the focus that are not coded and not settled"`
	Drafts  []Draft `json:"drafts" doc:"those that gain most first"`
	Refused int     `json:"refused" doc:"drafts that are not proposed again"`
}

// Draft is a proposal for a category.
type Draft struct {
	Name    string   `json:"name"`
	Terms   []string `json:"terms" doc:"the most frequent in the uncoded first"`
	Rule    string   `json:"rule"`
	Matches int      `json:"matches" doc:"answers of the focus that it would have"`
	Gained  int      `json:"gained" doc:"of those, without any category now: the coverage gained"`
	Shared  int      `json:"shared" doc:"of those, that other categories have"`
}

const (
	draftTerms = 200 // most frequent terms among which drafts are looked for
	draftWords = 6   // terms of one draft at most
	leastDraft = 3   // uncoded answers that a term must stand in
	mostDrafts = 12
	surelyMore = 3.84 // G² from which a term stands in the uncoded more than by chance (5 %)
	broadTerm  = 0.25 // share of uncoded answers from which a term says too little by itself
)

// DraftsOf looks for categories in the answers of a focus that no category has.
func DraftsOf(ctx context.Context, s *state.State, f focus.Focus) (Drafts, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Drafts{}, err
	}
	left := roaring.AndNot(set, s.Coding.Coded)
	left.AndNot(s.Decisions.Settled)
	n, base := int(set.GetCardinality()), int(left.GetCardinality())
	out := Drafts{Base: base, Drafts: []Draft{}, Refused: len(s.Scheme.RefusedDrafts)}
	uncoded, err := s.Counter.AnswersPer(ctx, left, state.Workers())
	if err != nil {
		return out, err
	}
	all, err := s.Counter.AnswersPer(ctx, set, state.Workers())
	if err != nil {
		return out, err
	}
	var chosen []int
	for t := range s.View.Terms {
		k := int(uncoded[t])
		if k < leastDraft || s.View.Terms[t].Stop || float64(k) > broadTerm*float64(base) && base > 100 ||
			len(s.View.Terms[t].Label) < 3 {
			continue
		}
		// What stands in the uncoded no more than elsewhere is no theme of theirs, unless all is uncoded.
		if c := crosstab.NewCoOccurrence(k, base, int(all[t]), n); base == n || c.Lift > 1 && c.G2 >= surelyMore {
			chosen = append(chosen, t)
		}
	}
	slices.SortFunc(chosen, func(a, b int) int { return cmp.Or(int(uncoded[b]-uncoded[a]), a-b) })
	chosen = chosen[:min(len(chosen), draftTerms)]
	links, _, err := s.Counter.Network(
		ctx, left, chosen, terms.NetworkQuery{Measure: terms.ByG2, Least: surelyMore, Both: 2, Most: 4 * draftTerms}, state.Workers(),
	)
	if err != nil {
		return out, err
	}
	grouped := map[int]bool{}
	var groups [][]int
	for _, members := range terms.Clusters(links, terms.ByG2) {
		var group []int
		for _, m := range members { // ascending, and so the most frequent first
			grouped[m] = true
			group = append(group, chosen[m])
		}
		groups = append(groups, group)
	}
	for i, t := range chosen {
		if !grouped[i] {
			groups = append(groups, []int{t})
		}
	}
	refused := refusedTerms(s)
	for _, group := range groups {
		d, err := draft(ctx, s, set, left, group[:min(len(group), draftWords)])
		if err != nil {
			return out, err
		}
		if d.Gained >= leastDraft && !overlaps(d.Terms, refused) {
			out.Drafts = append(out.Drafts, d)
		}
	}
	slices.SortStableFunc(out.Drafts, func(a, b Draft) int { return cmp.Or(b.Gained-a.Gained, cmp.Compare(a.Name, b.Name)) })
	out.Drafts = out.Drafts[:min(len(out.Drafts), mostDrafts)]
	return out, nil
}

// draft makes a category of terms: any of them, less those that find more of what is coded than of what is not.
func draft(ctx context.Context, s *state.State, set, left *roaring.Bitmap, group []int) (Draft, error) {
	var labels []rule.Node
	d := Draft{}
	var kept []int
	for _, t := range group {
		found := roaring.And(s.View.Phrases(t).Answers(s.View.Index), set)
		if 2*found.AndCardinality(left) >= found.GetCardinality() {
			kept = append(kept, t)
		}
	}
	if len(kept) == 0 { // each alone is said of other things too: two together are not
		kept = group
	}
	for _, t := range kept {
		label := s.View.Terms[t].Label
		labels = append(labels, rule.Term(label))
		d.Terms = append(d.Terms, label)
	}
	d.Name = draftName(d.Terms)
	any := rule.AnyOf(labels...)
	d.Rule = any.String()
	then, err := s.Coding.Outcome(ctx, frame.Slot{}, d.Rule)
	if err != nil {
		return d, err
	}
	if found := roaring.And(then.Rule.Answers, set); len(kept) >= 3 && 2*found.AndCardinality(left) < found.GetCardinality() {
		d.Rule = rule.AtLeast(2, any).String()
		if then, err = s.Coding.Outcome(ctx, frame.Slot{}, d.Rule); err != nil {
			return d, err
		}
	}
	found := roaring.And(then.Rule.Answers, set)
	d.Matches, d.Gained = int(found.GetCardinality()), int(found.AndCardinality(left))
	d.Shared = int(then.Shared(found).GetCardinality())
	return d, nil
}

// draftName is made of the first two terms.
func draftName(terms []string) string {
	name := strings.Join(terms[:min(2, len(terms))], " and ")
	first := []rune(name)
	return strings.ToUpper(string(first[:1])) + string(first[1:])
}

// refusedTerms are the terms of drafts that were refused, each a list.
func refusedTerms(s *state.State) (out [][]string) {
	for _, src := range s.Scheme.RefusedDrafts {
		n, _ := rule.Parse(src)
		if of, ok := n.(*rule.OfNode); ok {
			n = of.Among
		}
		if n == nil {
			continue
		}
		parts := []rule.Node{n}
		if any, ok := n.(*rule.AlternativesNode); ok {
			parts = any.Of
		}
		var labels []string
		for _, p := range parts {
			labels = append(labels, p.String())
		}
		out = append(out, labels)
	}
	return out
}

// overlaps says whether half of the terms or more stand in one of the lists.
func overlaps(terms []string, lists [][]string) bool {
	return slices.ContainsFunc(lists, func(list []string) bool {
		n := 0
		for _, t := range terms {
			if slices.Contains(list, t) {
				n++
			}
		}
		return 2*n >= len(terms)
	})
}
