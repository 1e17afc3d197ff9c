package code

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/rule"
	"aftermath/core/terms"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// Drafts are proposals for categories, made of terms that come together in what no category has.
type Drafts struct {
	Base    int     `json:"base" doc:"answers of the focus that are not coded and not settled; of a net, that it has and nothing inside it"`
	Drafts  []Draft `json:"drafts" doc:"those that gain most first"`
	Refused int     `json:"refused" doc:"drafts that are not proposed again"`
}

// Draft is a proposal for a category.
type Draft struct {
	Name    string   `json:"name"`
	Terms   []string `json:"terms" doc:"the most frequent in the uncoded first"`
	Rule    string   `json:"rule"`
	Matches int      `json:"matches" doc:"answers of the focus that it would have"`
	Gained  int      `json:"gained" doc:"of those, without any category now: the coverage gained; of a net, without any inside it"`
	Shared  int      `json:"shared" doc:"of those, that other categories have, the net aside"`
}

const (
	leastDraft  = 3 // uncoded answers that it gains
	mostDrafts  = 12
	mostMatches = 0.15 // share of the answers of a focus from which a draft says too little
	fewAnswers  = 100  // of a focus, of which any share may be said alike
)

// DraftsOf looks for categories in the answers of a focus that no category has; with the key of a net or category, in those
// that it has and nothing inside it.
func DraftsOf(ctx context.Context, s *state.State, f focus.Focus, net string) (Drafts, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Drafts{}, err
	}
	left := roaring.AndNot(set, s.Coding.Coded)
	slot := frame.Slot{}
	if net != "" {
		r, ok := s.Coding.Of(net)
		if !ok {
			return Drafts{}, fmt.Errorf("%w: the category is gone", state.ErrRequest)
		}
		set = roaring.And(set, r.Answers)
		left, slot.Category = set.Clone(), net
		for _, child := range r.Children {
			if kid, ok := s.Coding.Of(child.ID); ok {
				left.AndNot(kid.Answers)
			}
		}
	}
	left.AndNot(s.Decisions.Settled)
	out := Drafts{Base: int(left.GetCardinality()), Drafts: []Draft{}, Refused: len(s.Scheme.RefusedDrafts)}
	finder := terms.Suggester{Counter: s.Counter, Language: s.Scheme.Language, Workers: state.Workers()}
	themes, err := finder.Themes(ctx, left, s.Study.Name)
	if err != nil {
		return out, err
	}
	refused := refusedTerms(s)
	for _, theme := range themes {
		d, err := draft(ctx, s, slot, set, left, theme)
		if all := set.GetCardinality(); err == nil && float64(d.Matches) > mostMatches*float64(all) && all > fewAnswers {
			d, err = draft(ctx, s, slot, set, left, theme[:1])
		}
		if err != nil {
			return out, err
		}
		if d.Gained >= leastDraft && !overlaps(d.Terms, refused) {
			out.Drafts = append(out.Drafts, d)
		}
	}
	slices.SortStableFunc(out.Drafts, func(a, b Draft) int {
		return cmp.Or(b.Gained-a.Gained, cmp.Compare(a.Name, b.Name))
	})
	out.Drafts = out.Drafts[:min(len(out.Drafts), mostDrafts)]
	return out, nil
}

// draft makes a category of a theme: any of its terms and rows of terms, but for those that find more of what is coded than of
// what is not. It gains nothing if none is left.
func draft(ctx context.Context, s *state.State, slot frame.Slot, set, left *roaring.Bitmap, theme terms.Theme) (Draft, error) {
	d := Draft{}
	var parts []rule.Node
	for _, row := range theme {
		label, phrases := s.View.Terms[row[0]].Label, s.View.Phrases(row[0])
		if len(row) > 1 {
			label += " " + s.View.Terms[row[1]].Label
			phrases = lexicon.NewPhrases(s.View.RowSequence([3]int32{int32(row[0]), int32(row[1]), -1}))
		}
		if found := roaring.And(phrases.Answers(s.View.Index), set); 2*found.AndCardinality(left) < found.GetCardinality() {
			continue
		}
		parts = append(parts, rule.Term(label))
		d.Terms = append(d.Terms, label)
	}
	if len(parts) == 0 {
		return d, nil
	}
	d.Name = draftName(d.Terms)
	d.Rule = rule.AnyOf(parts...).String()
	then, err := s.Coding.Outcome(ctx, slot, d.Rule)
	if err != nil {
		return d, err
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
