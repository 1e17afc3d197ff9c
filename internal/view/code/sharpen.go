package code

import (
	"aftermath/internal/view/termview"

	"cmp"
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/rule"
	"aftermath/core/terms"
	"aftermath/core/words"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// Sharpening is what might be made of a rule, each proposal with its effect.
type Sharpening struct {
	Matches      int        `json:"matches" doc:"answers in the focus that the rule matches now"`
	Wrong        int        `json:"wrong" doc:"of those, taken off the category by hand"`
	Meant        []Proposal `json:"meant" doc:"terms that mean the same as one of the rule's, by the table of words"`
	Alternatives []Proposal `json:"alternatives" doc:"terms around which the same words stand; never the opposite of one of the rule's"`
	Missed       []Proposal `json:"missed" doc:"terms frequent in answers that lack just one part of the rule, in place of that part"`
	Partners     []Proposal `json:"partners" doc:"terms that come with what it finds more often than by chance"`
	Exclusions   []Proposal `json:"exclusions" doc:"negators before it, where it stands somewhere; and terms that stand in what was taken off by hand more often than in the rest"`
}

// Proposal is a rule that may take the place of another.
type Proposal struct {
	Term    string  `json:"term"`
	For     string  `json:"for,omitempty" doc:"missed: the part it would stand beside"`
	Rule    string  `json:"rule"`
	Gained  int     `json:"gained" doc:"answers in the focus that it matches and the rule does not"`
	Lost    int     `json:"lost" doc:"answers in the focus that the rule matches and it does not"`
	Uncoded int     `json:"uncoded" doc:"of the gained, without any category now"`
	Wrong   int     `json:"wrong" doc:"of the lost, taken off by hand"`
	Score   float64 `json:"score" doc:"alternatives: likeness, 0 to 1; the others: G²"`
}

const (
	mostProposals = 8
	mostLikened   = 400 // most frequent terms among which alternatives are looked for
	mostPlaces    = 20_000
	leastMeant    = 0.15 // closeness in meaning from which a term may stand for another
)

// Sharpen looks for what might be made of a rule.
func Sharpen(ctx context.Context, s *state.State, f focus.Focus, want RuleQuery) (Sharpening, error) {
	out := Sharpening{Meant: []Proposal{}, Alternatives: []Proposal{}, Missed: []Proposal{}, Partners: []Proposal{}, Exclusions: []Proposal{}}
	set, err := f.Answers(ctx, s)
	if err != nil {
		return out, err
	}
	tree, problems := rule.Parse(want.Rule)
	tried, err := s.Coding.Try(ctx, want.Rule)
	if err != nil || len(problems) > 0 || !tried.Readable() {
		return out, err
	}
	x := &sharpener{ctx: ctx, s: s, set: set, tree: tree, found: roaring.And(tried.Answers, set), wrong: roaring.New()}
	if off := s.Decisions.Off[want.Category]; off != nil {
		x.wrong.Or(off)
		x.wrong.And(x.found)
	}
	x.own = termview.Own(s, termview.Subject{Kind: "rule", Text: want.Rule})
	out.Matches, out.Wrong = int(x.found.GetCardinality()), int(x.wrong.GetCardinality())
	counted, err := termview.Count(ctx, s, f, 1, false)
	if err != nil {
		return out, err
	}
	x.answers = make([]int32, len(s.View.Terms))
	for _, r := range counted.Rows {
		x.answers[r.Terms[0]] = int32(r.Answers)
	}
	x.table = words.Of(s.Scheme.Language)
	out.Meant = x.meant()
	out.Alternatives = x.alternatives(tried)
	out.Missed = x.missed()
	out.Partners = x.joined(x.found, set, x.answers, func(term rule.Node) rule.Node { return rule.Both(tree, term) })
	if !x.wrong.IsEmpty() {
		excluding := x.joined(
			x.wrong, x.found, x.answersPer(x.found), func(term rule.Node) rule.Node { return rule.Except(tree, term) },
		)
		out.Exclusions = append(out.Exclusions, slices.DeleteFunc(excluding, func(p Proposal) bool { return p.Wrong == 0 })...)
	}
	out.Exclusions = append(out.Exclusions, x.negated()...)
	return out, x.err
}

// sharpener works on one rule in one focus.
type sharpener struct {
	ctx               context.Context
	err               error // the first; what is worked out after it is not used
	s                 *state.State
	set, found, wrong *roaring.Bitmap
	tree              rule.Node
	own               map[int32]bool // terms that the rule is of
	table             *words.Table   // nil for languages that have none
	answers           []int32        // of the focus, per term
}

// try runs a rule.
func (x *sharpener) try(src string) frame.RuleResult {
	tried, err := x.s.Coding.Try(x.ctx, src)
	if err != nil {
		x.err = cmp.Or(x.err, err)
		return frame.RuleResult{Answers: roaring.New()}
	}
	return tried
}

// answersPer counts the answers of a set with each term.
func (x *sharpener) answersPer(set *roaring.Bitmap) []int32 {
	out, err := x.s.Counter.AnswersPer(x.ctx, set, state.Workers())
	if err != nil {
		x.err = cmp.Or(x.err, err)
		return make([]int32, len(x.s.View.Terms))
	}
	return out
}

// term is a term as a rule writes it.
func (x *sharpener) term(t int) rule.Node { return rule.Term(x.s.View.Terms[t].Label) }

// proposal works out the effect of a rule.
func (x *sharpener) proposal(t int, n rule.Node, score float64) (Proposal, bool) {
	tried := x.try(n.String())
	if !tried.Readable() {
		return Proposal{}, false
	}
	now := roaring.And(tried.Answers, x.set)
	gained, lost := roaring.AndNot(now, x.found), roaring.AndNot(x.found, now)
	return Proposal{
			Term:    x.s.View.Terms[t].Label,
			Rule:    n.String(),
			Gained:  int(gained.GetCardinality()),
			Lost:    int(lost.GetCardinality()),
			Uncoded: view.CountWithout(gained, x.s.Coding.Coded),
			Wrong:   int(lost.AndCardinality(x.wrong)),
			Score:   score,
		}, !gained.IsEmpty() ||
			!lost.IsEmpty()
}

// against says whether a term is the opposite of one of the rule's, or another thing of the same kind.
func (x *sharpener) against(t int) bool {
	for own := range x.own {
		if terms.Differ(x.table, x.s.View.Terms[own].Label, x.s.View.Terms[t].Label) {
			return true
		}
	}
	return false
}

// meant are the terms that mean the same as one of the rule's, the closest first.
func (x *sharpener) meant() []Proposal {
	type close struct {
		term int
		near float64
	}
	var found []close
	for t, n := range x.answers {
		if n == 0 || x.own[int32(t)] || x.s.View.Terms[t].Stop {
			continue
		}
		near := 0.0
		for own := range x.own {
			near = max(near, x.table.Closeness(x.s.View.Terms[own].Label, x.s.View.Terms[t].Label))
		}
		if near >= leastMeant && !x.against(t) {
			found = append(found, close{t, near})
		}
	}
	slices.SortFunc(found, func(a, b close) int {
		return cmp.Or(cmp.Compare(b.near, a.near), int(x.answers[b.term]-x.answers[a.term]), a.term-b.term)
	})
	out := []Proposal{}
	for _, f := range found {
		if p, ok := x.proposal(f.term, rule.AnyOf(x.tree, x.term(f.term)), f.near); ok && p.Gained > 0 && len(out) < mostProposals {
			out = append(out, p)
		}
	}
	return out
}

// negated is the rule without what stands right after a negator, if it stands somewhere and that drops anything.
func (x *sharpener) negated() []Proposal {
	n := rule.Unless(x.tree, &rule.ListNode{Name: lexicon.Negators}, rule.Reach{Direction: '<', Distance: 3})
	tried := x.try(n.String())
	if !tried.Readable() {
		return []Proposal{}
	}
	lost := roaring.AndNot(x.found, tried.Answers)
	if lost.IsEmpty() {
		return []Proposal{}
	}
	return []Proposal{{
		Term: "@" + lexicon.Negators, For: "negated", Rule: n.String(), Lost: int(lost.GetCardinality()),
		Wrong: int(lost.AndCardinality(x.wrong)),
	}}
}

// alternatives are the terms that are used like what the rule finds.
func (x *sharpener) alternatives(tried frame.RuleResult) []Proposal {
	var places []terms.Place
	err := x.s.Coding.Places(x.ctx, tried, x.found, mostPlaces, func(answer uint32, start, length int) {
		places = append(places, terms.Place{Answer: answer, Start: int32(start), Length: int32(length)})
	})
	var chosen []int
	for t, n := range x.answers {
		if n >= 3 && !x.own[int32(t)] && !x.s.View.Terms[t].Stop && !x.against(t) {
			chosen = append(chosen, t)
		}
	}
	slices.SortStableFunc(chosen, func(a, b int) int { return int(x.answers[b] - x.answers[a]) })
	chosen = chosen[:min(len(chosen), mostLikened)]
	out := []Proposal{}
	like, errLike := x.s.Counter.LikeAround(x.ctx, x.set, places, chosen)
	x.err = cmp.Or(x.err, err, errLike)
	for _, l := range like {
		if p, ok := x.proposal(l.Term, rule.AnyOf(x.tree, x.term(l.Term)), l.Score); ok && len(out) < mostProposals {
			out = append(out, p)
		}
	}
	return out
}

// missed are terms of the near misses, to stand beside the part that those lack.
func (x *sharpener) missed() []Proposal {
	out := []Proposal{}
	for _, way := range rule.Relax(x.tree) {
		part, other := rule.Lacking(x.tree, way)
		if part == nil {
			continue
		}
		looser := x.try(way.Rule.String())
		near := roaring.AndNot(roaring.And(looser.Answers, x.set), x.found)
		for _, t := range x.telling(near, x.set, x.answers) {
			if p, ok := x.proposal(t.term, other(x.term(t.term)), t.g2); ok && p.Gained > 0 {
				p.For = part.String()
				out = append(out, p)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Proposal) int { return cmp.Or(b.Uncoded-a.Uncoded, b.Gained-a.Gained) })
	return out[:min(len(out), mostProposals)]
}

// joined are terms that tell a part of a set from the rest, each joined to the rule.
func (x *sharpener) joined(in, all *roaring.Bitmap, answers []int32, join func(term rule.Node) rule.Node) []Proposal {
	out := []Proposal{}
	for _, t := range x.telling(in, all, answers) {
		if p, ok := x.proposal(t.term, join(x.term(t.term)), t.g2); ok {
			out = append(out, p)
		}
	}
	return out
}

type tellingTerm struct {
	term int
	g2   float64
}

// telling are the terms whose share of answers is higher in a part of a set than in the rest, the surest first (G²). The
// answers of the set that hold each term are given.
func (x *sharpener) telling(in, all *roaring.Bitmap, answers []int32) (out []tellingTerm) {
	a := x.answersPer(in)
	n, m := int(in.GetCardinality()), int(all.GetCardinality())
	for t := range x.s.View.Terms {
		if a[t] < 2 || x.own[int32(t)] || x.s.View.Terms[t].Stop {
			continue
		}
		if c := crosstab.NewCoOccurrence(int(a[t]), n, int(answers[t]), m); c.Lift > 1 && c.G2 > 3.84 {
			out = append(out, tellingTerm{t, c.G2})
		}
	}
	slices.SortFunc(out, func(p, q tellingTerm) int { return cmp.Or(cmp.Compare(q.g2, p.g2), p.term-q.term) })
	return out[:min(len(out), mostProposals)]
}
