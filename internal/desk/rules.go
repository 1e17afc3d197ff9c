package desk

import (
	"cmp"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/rule"
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
func (s *State) slot(want RuleQuery) frame.Slot {
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

// RulePreview is what a rule that is being written finds, and what it would change.
type RulePreview struct {
	Problems []rule.Problem   `json:"problems"`
	Base     int              `json:"base" doc:"answers in the focus"`
	Matches  int              `json:"matches" doc:"of those, that it matches"`
	New      int              `json:"new" doc:"answers in the focus that its category would gain; without one, those it matches"`
	Uncoded  int              `json:"uncoded" doc:"of the matches, without any category now"`
	Only     int              `json:"only" doc:"of the matches, that no other category has"`
	Shared   int              `json:"shared" doc:"of the matches, that other categories have too"`
	Lost     int              `json:"lost" doc:"answers in the focus that its category would lose"`
	With     []CategoryCount  `json:"with" doc:"the categories it shares matches with, the most first"`
	Others   []CategoryEffect `json:"others" doc:"other categories that would gain or lose answers in the focus"`
	Segments []SegmentCount   `json:"segments" doc:"by the values of the variable that was asked for"`
	Examples Page             `json:"examples"`
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

// PreviewRule works out what a rule that is being written finds and would change.
func (q *Question) PreviewRule(s *State, f Focus, want RuleQuery) (RulePreview, error) {
	set, err := q.Focus(s, f)
	if err != nil {
		return RulePreview{}, err
	}
	tried := s.Coding.Try(want.Rule)
	out := RulePreview{Problems: append([]rule.Problem{}, tried.Problems...), Base: int(set.GetCardinality()), With: []CategoryCount{}, Others: []CategoryEffect{},
		Segments: []SegmentCount{}, Examples: Page{Answers: []Answer{}}}
	if !tried.Readable() {
		return out, nil
	}
	found := roaring.And(tried.Answers, set)
	own, _ := s.Coding.Of(want.Category)
	fresh, lost := found, roaring.New()
	if own != nil {
		for i, c := range q.changes(s, tried, s.slot(want)) {
			gained, gone := roaring.And(c.Gained, set), roaring.And(c.Lost, set)
			if i == 0 {
				fresh, lost = gained, gone
			} else if !gained.IsEmpty() || !gone.IsEmpty() {
				out.Others = append(out.Others, CategoryEffect{c.ID, c.PathName(), int(gained.GetCardinality()), int(gone.GetCardinality())})
			}
		}
	}
	shared := s.Coding.Elsewhere(found, own)
	out.Matches, out.New, out.Lost, out.Shared = int(found.GetCardinality()), int(fresh.GetCardinality()), int(lost.GetCardinality()), int(shared.GetCardinality())
	out.Uncoded, out.Only = countWithout(found, s.Coding.Coded), out.Matches-out.Shared
	for _, r := range s.Coding.Results {
		if !r.Alone && (own == nil || !r.Related(own)) {
			if n := int(found.AndCardinality(r.Carries())); n > 0 {
				out.With = append(out.With, categoryCount(r, n))
			}
		}
	}
	slices.SortStableFunc(out.With, func(a, b CategoryCount) int { return b.Answers - a.Answers })
	if out.Segments, err = s.bySegment(want.By, set, found); err != nil {
		return out, err
	}
	show := map[string]*roaring.Bitmap{"new": fresh, "lost": lost, "shared": shared}[want.Show]
	if show == nil {
		show = found
	}
	out.Examples = q.examples(s, show, Focus{{Kind: "words", Text: want.Rule}}, want.Limit)
	return out, nil
}

// bySegment counts answers by the values of a variable; none where no variable is named.
func (s *State) bySegment(name string, set, found *roaring.Bitmap) ([]SegmentCount, error) {
	out := []SegmentCount{}
	if name == "" {
		return out, nil
	}
	v, err := s.Study.Variable(name)
	if err != nil {
		return out, err
	}
	for _, value := range v.Values[:min(len(v.Values), maxColumns)] {
		x := SegmentCount{Value: value, Base: int(set.AndCardinality(v.With(value))), Answers: int(found.AndCardinality(v.With(value)))}
		x.Share = share(x.Answers, x.Base)
		out = append(out, x)
	}
	return out, nil
}

// examples are the first answers of a set, marked by what a focus speaks of.
func (q *Question) examples(s *State, set *roaring.Bitmap, f Focus, limit int) Page {
	if limit == 0 {
		limit = 20
	}
	out := Page{Total: int(set.GetCardinality()), Answers: []Answer{}}
	m := s.marker(f)
	for it := set.Iterator(); it.HasNext() && len(out.Answers) < limit; {
		out.Answers = append(out.Answers, q.answer(s, m, int(it.Next())))
	}
	return out
}

// changes is what a rule in a slot would change: its category first. Where other rules speak of what changes, the whole
// frame is coded anew.
func (q *Question) changes(s *State, tried frame.RuleResult, slot frame.Slot) []frame.Change {
	if direct, ok := s.Coding.Trial(slot, tried, s.Decisions); ok {
		return direct
	}
	p := s.Playbook.Clone()
	c, _ := p.Frame.Find(slot.Category)
	list := &c.Rules
	if slot.Unless {
		list = &c.Unless
	}
	if slot.At >= 1 && slot.At <= len(*list) {
		(*list)[slot.At-1] = tried.Source
	} else {
		*list = append(*list, tried.Source)
	}
	return s.Coding.Changes(p.Code(s.View, q.Answers, s.Study.Variables, s.Decisions, s.Coding.Knowing(tried)), slot.Category)
}

// Misses are the near misses of a rule: answers that lack just one part of it, and that its category does not have.
type Misses struct {
	Total    int    `json:"total" doc:"different answers in the focus"`
	Ways     []Miss `json:"ways" doc:"those with fewer answers first: what lacks least"`
	Examples Page   `json:"examples" doc:"of the way that was asked for"`
}

// Miss is one way to lack one part of a rule.
type Miss struct {
	Lacks   string `json:"lacks" doc:"in words"`
	Start   int    `json:"start" doc:"first rune of the part in the rule"`
	End     int    `json:"end"`
	Rule    string `json:"rule" doc:"the rule that asks for this one thing less"`
	Answers int    `json:"answers" doc:"in the focus"`
	Uncoded int    `json:"uncoded" doc:"of those, without any category"`
}

// Misses finds the near misses of a rule. Way says of which examples are wanted: its relaxed rule, empty for the first.
func (q *Question) Misses(s *State, f Focus, want RuleQuery, way string) (Misses, error) {
	set, err := q.Focus(s, f)
	if err != nil {
		return Misses{}, err
	}
	out := Misses{Ways: []Miss{}, Examples: Page{Answers: []Answer{}}}
	tree, problems := rule.Parse(want.Rule)
	tried := s.Coding.Try(want.Rule)
	if len(problems) > 0 || !tried.Readable() {
		return out, nil
	}
	rest := roaring.AndNot(set, tried.Answers)
	if r, ok := s.Coding.Of(want.Category); ok {
		rest.AndNot(r.Answers)
	}
	all := roaring.New()
	sets := map[string]*roaring.Bitmap{}
	for _, x := range tree.Relax() {
		src := x.Rule.String()
		looser := s.Coding.Try(src)
		missed := roaring.And(looser.Answers, rest)
		if _, again := sets[src]; again || missed.IsEmpty() {
			continue
		}
		sets[src] = missed
		all.Or(missed)
		out.Ways = append(out.Ways, Miss{x.Lacks, x.Start, x.End, src, int(missed.GetCardinality()), countWithout(missed, s.Coding.Coded)})
	}
	slices.SortStableFunc(out.Ways, func(a, b Miss) int { return cmp.Compare(a.Answers, b.Answers) })
	out.Total = int(all.GetCardinality())
	if way == "" && len(out.Ways) > 0 {
		way = out.Ways[0].Rule
	}
	if shown := sets[way]; shown != nil {
		out.Examples = q.examples(s, shown, Focus{{Kind: "words", Text: way}}, want.Limit)
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
var kindNames = map[rule.Kind]string{rule.Word: "a term", rule.Quote: "these words in a row, no other forms", rule.Exact: "this word and no other form", rule.List: "a term list",
	rule.Category: "a category", rule.Condition: "respondents", rule.Regex: "a pattern of the original text", rule.Any: "any answer", rule.Of: "some of these", rule.Row: "in a row",
	rule.Alternatives: "any of these", rule.Near: "within reach", rule.With: "both in the answer", rule.Without: "the one without the other"}

// mostWords is how many words a part lists.
const mostWords = 12

// PartAt says what the part of a rule at a rune finds; nil if there is none.
func (q *Question) PartAt(s *State, f Focus, src string, at int) (*RulePart, error) {
	set, err := q.Focus(s, f)
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
	out := &RulePart{Start: n.Start, End: n.End, Text: n.String(), What: kindNames[n.Kind], Words: []MemberLine{},
		Answers: int(set.AndCardinality(s.Coding.Matcher().Answers(p)))}
	switch n.Kind {
	case rule.Near:
		out.What = n.Reach.Words()
	case rule.Word, rule.Quote, rule.Exact, rule.List, rule.Row, rule.Alternatives:
		out.Words = s.found(p, set)
	}
	slices.SortFunc(out.Words, func(a, b MemberLine) int { return cmp.Or(b.Times-a.Times, cmp.Compare(a.Text, b.Text)) })
	if out.More = max(0, len(out.Words)-mostWords); out.More > 0 {
		out.Words = out.Words[:mostWords]
	}
	return out, nil
}

// found counts what a part finds in a set of answers, each stretch of words as respondents mostly gave it.
func (s *State) found(p *rule.Program, set *roaring.Bitmap) []MemberLine {
	ix := s.View.Index
	single, rows := map[uint32]int{}, map[string]int{}
	s.Coding.Matcher().Places(p, set, func(answer uint32, start, length int) {
		words := ix.Answer(int(answer))[start : start+length]
		if length == 1 {
			single[words[0]]++
		} else {
			rows[ix.Spelled(words)]++
		}
	})
	out := []MemberLine{}
	for w, times := range single {
		out = append(out, MemberLine{ix.Spelling(w), times})
	}
	for row, times := range rows {
		out = append(out, MemberLine{row, times})
	}
	return out
}
