package code

import (
	"cmp"
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/rule"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
	"aftermath/internal/view/answers"
	"aftermath/internal/view/effect"
)

// RuleQuery is a rule that is being written.
type RuleQuery struct {
	Rule     string `json:"rule" maxLength:"20000"`
	Category string `json:"category,omitempty" doc:"the category it is written in, empty for none yet"`
	Unless   bool   `json:"unless,omitempty" doc:"it takes away"`
	Was      string `json:"was,omitempty" doc:"the rule whose place it takes, empty for a further one"`
	Show     string `json:"show,omitempty" enum:"all,new,shared,lost" doc:"which examples are wanted"`
	By       string `json:"by,omitempty" doc:"a variable: matches by its values"`
	Limit    int    `json:"limit,omitempty" minimum:"0" maximum:"100" doc:"examples"`
}

// slot is where the rule would stand.
func (want RuleQuery) slot(s *state.State) frame.Slot {
	out := frame.Slot{Category: want.Category, Unless: want.Unless}
	if r, ok := s.Coding.Of(want.Category); ok && want.Was != "" {
		list := r.Category.Rules
		if want.Unless {
			list = r.Category.Unless
		}
		out.At = slices.Index(list, want.Was) + 1
	}
	return out
}

// RulePreview is what a rule that is being written finds, and what is so once it is kept: all figures are those that there are
// then.
type RulePreview struct {
	Problems []rule.Problem          `json:"problems"`
	Holding  []rule.Held             `json:"holding" doc:"what its joints hold together, the whole of it aside"`
	Base     int                     `json:"base" doc:"answers in the focus"`
	Matches  int                     `json:"matches" doc:"of those, that it matches"`
	New      int                     `json:"new" doc:"answers in the focus that its category gains; without one, those it matches"`
	Uncoded  int                     `json:"uncoded" doc:"of the matches, without any category now"`
	Only     int                     `json:"only" doc:"of the matches, that no other category has then"`
	Shared   int                     `json:"shared" doc:"of the matches, that other categories have too then"`
	Lost     int                     `json:"lost" doc:"answers in the focus that its category loses"`
	With     []CategoryCount         `json:"with" doc:"the categories it shares matches with then, the most first"`
	Others   []effect.CategoryEffect `json:"others" doc:"other categories that gain or lose answers in the focus, the nets that it stands in aside"`
	Segments []SegmentCount          `json:"segments" doc:"by the values of the variable that was asked for"`
	Examples answers.Page            `json:"examples"`
}

// CategoryCount is a category with a number of answers.
type CategoryCount struct {
	ID      string `json:"id"`
	Name    string `json:"name"`
	Short   string `json:"short"`
	Top     int    `json:"top"`
	Answers int    `json:"answers"`
}

func categoryCount(r *frame.Result, answers int) CategoryCount {
	return CategoryCount{r.ID, r.PathName(), r.Short, r.Top, answers}
}

// SegmentCount is a value of a variable with a number of its answers.
type SegmentCount struct {
	Value   string  `json:"value"`
	Base    int     `json:"base" doc:"answers in the focus with the value"`
	Answers int     `json:"answers"`
	Share   float64 `json:"share" doc:"0 to 1"`
}

// PreviewRule works out what a rule that is being written finds, and what is so once it is kept.
func PreviewRule(ctx context.Context, s *state.State, f focus.Focus, want RuleQuery) (RulePreview, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return RulePreview{}, err
	}
	then, err := s.Coding.Outcome(ctx, want.slot(s), want.Rule)
	if err != nil {
		return RulePreview{}, err
	}
	out := RulePreview{
		Problems: append([]rule.Problem{}, then.Rule.Problems...),
		Holding:  rule.Holding(want.Rule),
		Base:     int(set.GetCardinality()),
		With:     []CategoryCount{},
		Others:   []effect.CategoryEffect{},
		Segments: []SegmentCount{},
		Examples: answers.Page{Answers: []answers.Answer{}},
	}
	found := roaring.And(then.Rule.Answers, set)
	fresh, lost := roaring.And(then.Changes[0].Gained, set), roaring.And(then.Changes[0].Lost, set)
	for _, c := range then.Changes[1:] {
		if gained, gone := int(c.Gained.AndCardinality(set)), int(c.Lost.AndCardinality(set)); gained+gone > 0 {
			out.Others = append(out.Others, effect.CategoryEffect{ID: c.ID, Name: c.PathName(), Gained: gained, Lost: gone})
		}
	}
	shared := then.Shared(found)
	out.Matches, out.Shared = int(found.GetCardinality()), int(shared.GetCardinality())
	out.New, out.Lost = int(fresh.GetCardinality()), int(lost.GetCardinality())
	out.Uncoded, out.Only = view.CountWithout(found, s.Coding.Coded), out.Matches-out.Shared
	then.With(found, func(r *frame.Result, n int) { out.With = append(out.With, categoryCount(r, n)) })
	slices.SortStableFunc(out.With, func(a, b CategoryCount) int { return b.Answers - a.Answers })
	if out.Segments, err = bySegment(s, want.By, set, found); err != nil {
		return out, err
	}
	show := map[string]*roaring.Bitmap{"new": fresh, "lost": lost, "shared": shared}[want.Show]
	if show == nil {
		show = found
	}
	out.Examples = answers.Examples(s, show, focus.Focus{focus.Is(focus.Words{Rule: want.Rule})}, want.Limit)
	return out, nil
}

// bySegment counts answers by the values of a variable; none where no variable is named.
func bySegment(s *state.State, name string, set, found *roaring.Bitmap) ([]SegmentCount, error) {
	out := []SegmentCount{}
	if name == "" {
		return out, nil
	}
	v, err := s.Study.Variable(name)
	if err != nil {
		return out, err
	}
	for _, value := range v.Values[:min(len(v.Values), view.MaxColumns)] {
		x := SegmentCount{Value: value, Base: int(set.AndCardinality(v.With(value))), Answers: int(found.AndCardinality(v.With(value)))}
		x.Share = view.Share(x.Answers, x.Base)
		out = append(out, x)
	}
	return out, nil
}

// Misses are the near misses of a rule: answers that lack just one part of it, and that its category does not have.
type Misses struct {
	Total    int          `json:"total" doc:"different answers in the focus"`
	Ways     []Miss       `json:"ways" doc:"the nearest first: what stands only a little too far apart, then elsewhere in the answer, then what lacks a part"`
	Examples answers.Page `json:"examples" doc:"of the way that was asked for"`
}

// Miss is one way to lack one part of a rule.
type Miss struct {
	Lacks   string `json:"lacks" doc:"in words"`
	Start   int    `json:"start" doc:"first rune of the part in the rule"`
	End     int    `json:"end"`
	Rule    string `json:"rule" doc:"the rule that asks for this one thing less"`
	Answers int    `json:"answers" doc:"in the focus"`
	Uncoded int    `json:"uncoded" doc:"of those, without any category"`

	way rule.Way
}

// MissesOf finds the near misses of a rule. Way says of which examples are wanted: its relaxed rule, empty for the first.
func MissesOf(ctx context.Context, s *state.State, f focus.Focus, want RuleQuery, way string) (Misses, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Misses{}, err
	}
	out := Misses{Ways: []Miss{}, Examples: answers.Page{Answers: []answers.Answer{}}}
	tree, problems := rule.Parse(want.Rule)
	tried, err := s.Coding.Try(ctx, want.Rule)
	if err != nil || len(problems) > 0 || !tried.Readable() {
		return out, err
	}
	rest := roaring.AndNot(set, tried.Answers)
	if r, ok := s.Coding.Of(want.Category); ok {
		rest.AndNot(r.Answers)
	}
	all := roaring.New()
	sets := map[string]*roaring.Bitmap{}
	for _, x := range rule.Relax(tree) {
		src := x.Rule.String()
		looser, err := s.Coding.Try(ctx, src)
		if err != nil {
			return out, err
		}
		missed := roaring.And(looser.Answers, rest)
		if _, again := sets[src]; again || missed.IsEmpty() {
			continue
		}
		sets[src] = missed
		all.Or(missed)
		out.Ways = append(
			out.Ways,
			Miss{x.Lacks, x.Start, x.End, src, int(missed.GetCardinality()), view.CountWithout(missed, s.Coding.Coded), x.Way},
		)
	}
	slices.SortStableFunc(out.Ways, func(a, b Miss) int { return cmp.Or(int(a.way-b.way), a.Answers-b.Answers) })
	out.Total = int(all.GetCardinality())
	if way == "" && len(out.Ways) > 0 {
		way = out.Ways[0].Rule
	}
	if shown := sets[way]; shown != nil {
		out.Examples = answers.Examples(s, shown, focus.Focus{focus.Is(focus.Words{Rule: way})}, want.Limit)
	}
	return out, nil
}

// RulePart is a part of a rule that one points at.
type RulePart struct {
	Start   int          `json:"start"`
	End     int          `json:"end"`
	Text    string       `json:"text"`
	What    string       `json:"what" doc:"what it is, in words"`
	Answers int          `json:"answers" doc:"in the focus, with this part alone"`
	Words   []MemberLine `json:"words" doc:"what a part that stands somewhere finds in the focus, the most frequent first; at most 12"`
	More    int          `json:"more" doc:"further ones"`
}

// MemberLine is words in a row with their occurrences.
type MemberLine struct {
	Text  string `json:"text"`
	Times int    `json:"times"`
}

// kindNames say what parts and joints are.
var kindNames = map[rule.Kind]string{
	rule.Word:         "a term",
	rule.Quote:        "these words in a row, no other forms",
	rule.Exact:        "this word and no other form",
	rule.List:         "a term list",
	rule.Category:     "a category",
	rule.Condition:    "respondents",
	rule.Regex:        "a pattern of the original text",
	rule.Any:          "any answer",
	rule.Of:           "some of these",
	rule.Row:          "in a row",
	rule.Alternatives: "any of these",
	rule.Near:         "within reach",
	rule.With:         "both in the answer",
	rule.Without:      "the one without the other",
}

// mostWords is how many words a part lists.
const mostWords = 12

// PartAt says what the part of a rule at a rune finds; nil if there is none.
func PartAt(ctx context.Context, s *state.State, f focus.Focus, src string, at int) (*RulePart, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return nil, err
	}
	n := rule.PartAt(src, at)
	if n == nil {
		return nil, nil
	}
	p, _ := s.Coding.Compile(n.String())
	if p == nil {
		return nil, nil
	}
	found, err := s.Coding.Matcher().Answers(ctx, p)
	if err != nil {
		return nil, err
	}
	start, end := n.Span()
	out := &RulePart{
		Start:   start,
		End:     end,
		Text:    n.String(),
		What:    kindNames[n.Kind()],
		Words:   []MemberLine{},
		Answers: int(set.AndCardinality(found)),
	}
	switch n.Kind() {
	case rule.Near:
		out.What = n.(*rule.NearNode).Reach.Words()
	case rule.Word, rule.Quote, rule.Exact, rule.List, rule.Row, rule.Alternatives:
		if out.Words, err = foundWords(ctx, s, p, set); err != nil {
			return nil, err
		}
	}
	slices.SortFunc(out.Words, func(a, b MemberLine) int { return cmp.Or(b.Times-a.Times, cmp.Compare(a.Text, b.Text)) })
	if out.More = max(0, len(out.Words)-mostWords); out.More > 0 {
		out.Words = out.Words[:mostWords]
	}
	return out, nil
}

// foundWords counts what a part finds in a set of answers, each stretch of words as respondents mostly gave it.
func foundWords(ctx context.Context, s *state.State, p *rule.Program, set *roaring.Bitmap) ([]MemberLine, error) {
	ix := s.View.Index
	single, rows := map[uint32]int{}, map[string]int{}
	err := s.Coding.Matcher().Places(ctx, p, set, func(answer uint32, start, length int) bool {
		words := ix.Answer(int(answer))[start : start+length]
		if length == 1 {
			single[words[0]]++
		} else {
			rows[ix.Spelled(words)]++
		}
		return true
	})
	out := []MemberLine{}
	for w, times := range single {
		out = append(out, MemberLine{ix.Spelling(w), times})
	}
	for row, times := range rows {
		out = append(out, MemberLine{row, times})
	}
	return out, err
}
