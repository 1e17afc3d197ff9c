package desk

import (
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/rule"
)

// FrameLine is a category with its figures in a focus.
type FrameLine struct {
	frame.Category
	Path  []string   `json:"path"`
	Net   bool       `json:"net,omitempty"`
	Top   int        `json:"top" doc:"place of its top category in the frame, from 0: its colour"`
	Up    string     `json:"up,omitempty" doc:"the net it stands in"`
	Has   int        `json:"has" doc:"answers in the focus"`
	Share float64    `json:"share" doc:"of the answers in the focus, 0 to 1"`
	Only  int        `json:"only" doc:"answers in the focus that nothing else has"`
	Hits  []RuleLine `json:"hits"`
	Less  []RuleLine `json:"less" doc:"the rules that take away"`
	Hand  int        `json:"hand" doc:"answers it was put on by hand"`
}

// RuleLine is a rule of a category with its figure.
type RuleLine struct {
	Source   string         `json:"source"`
	Answers  int            `json:"answers" doc:"in the focus"`
	Problems []rule.Problem `json:"problems"`
}

// FrameTable is the code frame in a focus.
type FrameTable struct {
	Revision   int         `json:"revision"`
	Base       int         `json:"base" doc:"answers in the focus"`
	Coded      int         `json:"coded" doc:"of those, with a category"`
	Categories []FrameLine `json:"categories"`
}

// Frame gives the code frame with its figures.
func (q *Question) Frame(s *State, f Focus) (FrameTable, error) {
	set, err := q.Focus(s, f)
	if err != nil {
		return FrameTable{}, err
	}
	t := FrameTable{Revision: s.Revision, Base: int(set.GetCardinality()), Coded: int(set.AndCardinality(s.Coding.Coded)), Categories: []FrameLine{}}
	var ups []string // keys of the nets above
	single := s.single()
	for _, r := range s.Coding.Results {
		ups = append(ups[:len(r.Path)-1], r.ID)
		line := FrameLine{Category: *r.Category, Path: r.Path, Net: len(r.Children) > 0, Top: r.Top, Has: int(set.AndCardinality(r.Answers))}
		line.Children = nil
		if len(ups) > 1 {
			line.Up = ups[len(ups)-2]
		}
		line.Share = share(line.Has, t.Base)
		line.Only = int(roaring.And(set, r.Answers).AndCardinality(single))
		line.Hits, line.Less = ruleLines(r.Rules, set), ruleLines(r.Unless, set)
		if on := s.Decisions.On[r.ID]; on != nil {
			line.Hand = int(on.GetCardinality())
		}
		t.Categories = append(t.Categories, line)
	}
	return t, nil
}

func ruleLines(rules []frame.RuleResult, set *roaring.Bitmap) []RuleLine {
	out := []RuleLine{}
	for _, r := range rules {
		out = append(out, RuleLine{r.Source, int(set.AndCardinality(r.Answers)), append([]rule.Problem{}, r.Problems...)})
	}
	return out
}

// single is the set of answers that exactly one category without children has.
func (s *State) single() *roaring.Bitmap {
	once, twice := roaring.New(), roaring.New()
	for _, r := range s.Coding.Results {
		if len(r.Children) == 0 {
			twice.Or(roaring.And(once, r.Answers))
			once.Or(r.Answers)
		}
	}
	once.AndNot(twice)
	return once
}

// RulePreview is what a rule that is being written finds, and what it would change.
type RulePreview struct {
	Problems []rule.Problem `json:"problems"`
	Matches  int            `json:"matches" doc:"answers in the focus that it matches"`
	New      int            `json:"new" doc:"of those, new in its category"`
	Uncoded  int            `json:"uncoded" doc:"of those, without any category now"`
	Only     int            `json:"only" doc:"of those, that no other category has"`
	Shared   int            `json:"shared" doc:"of those, that other categories have too"`
	Lost     int            `json:"lost" doc:"answers in the focus that the category would lose"`
	Examples Page           `json:"examples"`
}

// PreviewRule works out a rule that is being written in a category (empty for none yet), in place of its rule at (from 1;
// 0 for a further one). Which says which examples are wanted: all, new, shared or lost.
func (q *Question) PreviewRule(s *State, f Focus, src, category string, at int, which string, limit int) (RulePreview, error) {
	set, err := q.Focus(s, f)
	if err != nil {
		return RulePreview{}, err
	}
	tried := s.Coding.Try(src)
	out := RulePreview{Problems: append([]rule.Problem{}, tried.Problems...), Examples: Page{Answers: []Answer{}}}
	if !tried.Readable() {
		return out, nil
	}
	found := roaring.And(tried.Answers, set)
	own, after := roaring.New(), found.Clone()
	if r, ok := s.Coding.Of(category); ok {
		own = roaring.And(r.Answers, set)
		after = q.after(s, r, tried, at)
		after.And(set)
	}
	others := roaring.New()
	for _, r := range s.Coding.Results {
		if r.ID != category && len(r.Children) == 0 && !r.Alone {
			others.Or(r.Answers)
		}
	}
	fresh, lost, shared := roaring.AndNot(after, own), roaring.AndNot(own, after), roaring.And(found, others)
	fresh.And(found)
	out.Matches, out.New, out.Lost, out.Shared = int(found.GetCardinality()), int(fresh.GetCardinality()), int(lost.GetCardinality()), int(shared.GetCardinality())
	out.Uncoded = countWithout(found, s.Coding.Coded)
	out.Only = out.Matches - out.Shared
	show := map[string]*roaring.Bitmap{"new": fresh, "lost": lost, "shared": shared}[which]
	if show == nil {
		show = found
	}
	out.Examples.Total = int(show.GetCardinality())
	m := s.marker(Focus{{Kind: "words", Text: src}})
	for it := show.Iterator(); it.HasNext() && len(out.Examples.Answers) < limit; {
		out.Examples.Answers = append(out.Examples.Answers, q.answer(s, m, int(it.Next())))
	}
	return out, nil
}

// after is what the category would have with the rule kept: the coding as a whole is worked out, since nets, "alone" and
// rules that name the category follow.
func (q *Question) after(s *State, r *frame.Result, tried frame.RuleResult, at int) *roaring.Bitmap {
	p := s.Playbook.Clone()
	c, _ := p.Frame.Find(r.ID)
	if at >= 1 && at <= len(c.Rules) {
		c.Rules[at-1] = tried.Source
	} else {
		c.Rules = append(slices.Clone(c.Rules), tried.Source)
	}
	coding := p.Code(s.View, q.Answers, s.Study.Variables, s.Decisions, s.Coding.Knowing(tried))
	done, _ := coding.Of(r.ID)
	return done.Answers.Clone()
}
