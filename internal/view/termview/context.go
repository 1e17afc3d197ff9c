package termview

import (
	"context"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/survey"
	"aftermath/core/terms"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// Subject is what is looked at in context: a term, a row of terms, or a rule.
type Subject struct {
	Kind string `query:"of" enum:"term,row,rule" default:"term"`
	Text string `query:"text" required:"true"`
}

// Condition is the focus condition of a subject.
func (x Subject) Condition() focus.Condition { return focus.Is(x.test()) }

func (x Subject) test() focus.Subject {
	switch x.Kind {
	case "rule":
		return focus.Words{Rule: x.Text}
	case "row":
		return focus.Row{Label: x.Text}
	}
	return focus.Term{Label: x.Text}
}

// placesKey names the places of a subject in a focus.
type placesKey struct {
	focus   focus.Key
	subject Subject
	by      terms.Order
}

// Most: places of frequent terms take many megabytes; lines are asked for page by page of one subject.
func (placesKey) Most() int { return 2 }

// placesOf lists where a subject stands in a focus, in an order.
func placesOf(ctx context.Context, s *state.State, f focus.Focus, x Subject, by terms.Order) ([]terms.Place, error) {
	return state.Remember(ctx, s.Memo, placesKey{f.Key(), x, by}, func(ctx context.Context) ([]terms.Place, error) {
		set, err := f.Answers(ctx, s)
		if err != nil {
			return nil, err
		}
		places, err := x.test().Places(ctx, s, set)
		if err == nil {
			terms.Sort(s.View.Index, places, by)
		}
		return places, err
	})
}

// ContextLine is one place where a subject stands, with what stands around it.
type ContextLine struct {
	Answer survey.Respondent `json:"answer" doc:"number of the respondent"`
	Before string            `json:"before"`
	Hit    string            `json:"hit"`
	After  string            `json:"after"`
	Who    string            `json:"who" doc:"what is known of the respondent, shortly"`
}

// ContextPage is a stretch of the lines of a subject.
type ContextPage struct {
	Total   int           `json:"total" doc:"places"`
	Answers int           `json:"answers" doc:"answers with one"`
	Lines   []ContextLine `json:"lines"`
}

// contextWords is how many words are shown on each side.
const contextWords = 12

// Context gives lines of a subject in context: as people read them, or as they were written, with tags and entities.
func Context(
	ctx context.Context, s *state.State, f focus.Focus, x Subject, by terms.Order, asRead bool, offset, limit int,
) (ContextPage, error) {
	places, err := placesOf(ctx, s, f, x, by)
	if err != nil {
		return ContextPage{}, err
	}
	seen := roaring.New()
	for _, p := range places {
		seen.Add(p.Answer)
	}
	page := ContextPage{Total: len(places), Answers: int(seen.GetCardinality()), Lines: []ContextLine{}}
	for _, p := range places[min(offset, len(places)):min(offset+limit, len(places))] {
		page.Lines = append(page.Lines, contextLine(s, p, asRead))
	}
	return page, nil
}

// contextLine cuts the original around a place. White space counts as one blank, line breaks too.
func contextLine(s *state.State, p terms.Place, asRead bool) ContextLine {
	shown := s.Original(int(p.Answer))
	original := shown.Text
	words := s.Reading.Pipeline.Clean(original).Words
	first, last := int(p.Start), int(p.Start+p.Length-1)
	from, to := 0, len(original)
	if first > contextWords {
		from = words[first-contextWords].Start
	}
	if last+contextWords < len(words)-1 {
		to = words[last+contextWords].End
	}
	start, end := words[first].Start, words[last].End
	show := func(from, to int) string { return original[from:to] }
	if asRead {
		show = shown.Read
	}
	cut := func(from, to int) string { return state.OneLine(show(from, to)) }
	line := ContextLine{
		Answer: s.Respondent(int(p.Answer)),
		Before: cut(from, start),
		Hit:    cut(start, end),
		After:  cut(end, to),
		Who:    state.Line(s.Who(int(p.Answer))),
	}
	if from > 0 {
		line.Before = "… " + line.Before
	}
	if to < len(original) && strings.TrimSpace(original[to:]) != "" {
		line.After += " …"
	}
	return line
}

// BranchesOf is what leads to a subject and what follows from it.
type BranchesOf struct {
	Before terms.Branch `json:"before"`
	After  terms.Branch `json:"after"`
}

// Branches builds the trees of what leads to a subject and follows from it.
// Those of terms that are not hidden pass over stop words.
func Branches(
	ctx context.Context, s *state.State, f focus.Focus, x Subject, shape terms.Shape, telling bool,
) (BranchesOf, error) {
	if telling {
		shape.Skip = focus.Hidden(s)
	}
	places, err := placesOf(ctx, s, f, x, terms.AsGiven)
	if err != nil {
		return BranchesOf{}, err
	}
	ix := s.View.Index
	return BranchesOf{terms.Branches(ix, places, false, shape), terms.Branches(ix, places, true, shape)}, nil
}

// Company is what a subject is said with, and by whom more often.
type Company struct {
	Answers  int            `json:"answers" doc:"answers of the focus with the subject"`
	Base     int            `json:"base" doc:"answers of the focus"`
	Terms    []TermWith     `json:"terms" doc:"that come together with it more often than by chance, the strongest first (G²)"`
	Segments []SegmentStand `json:"segments" doc:"where its share differs most from that of the rest"`
	Tested   int            `json:"tested" doc:"segment values that were tested"`
}

// TermWith is a term with how it comes together with a subject.
type TermWith struct {
	Label   string `json:"label"`
	Answers int    `json:"answers" doc:"of the focus with the term"`
	crosstab.CoOccurrence
}

// SegmentStand is a value of a variable with the share of a subject in it and in the rest.
type SegmentStand struct {
	Variable string  `json:"variable"`
	Value    string  `json:"value"`
	Answers  int     `json:"answers" doc:"with the subject and the value"`
	Base     int     `json:"base" doc:"with the value"`
	Share    float64 `json:"share" doc:"0 to 1"`
	Rest     float64 `json:"rest" doc:"share among those with another value"`
	Z        float64 `json:"z" doc:"pooled z against the rest"`
	P        float64 `json:"p" doc:"two-sided, adjusted for the number of tests (Benjamini-Hochberg)"`
}

// CompanyOf says what comes together with a subject in a focus. Least is the number of answers that a term must share.
func CompanyOf(ctx context.Context, s *state.State, f focus.Focus, x Subject, least, limit int) (Company, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Company{}, err
	}
	with, err := f.With(x.Condition()).Answers(ctx, s)
	if err != nil {
		return Company{}, err
	}
	out := Company{
		Answers:  int(with.GetCardinality()),
		Base:     int(set.GetCardinality()),
		Terms:    []TermWith{},
		Segments: []SegmentStand{},
	}
	own := Own(s, x)
	all, err := Count(ctx, s, f, 1, false)
	if err != nil {
		return Company{}, err
	}
	both, err := s.Counter.AnswersPer(ctx, with, state.Workers())
	if err != nil {
		return Company{}, err
	}
	for _, r := range all.Rows {
		t := r.Terms[0]
		if s.View.Terms[t].Stop || own[t] || int(both[t]) < max(least, 1) {
			continue
		}
		if c := crosstab.NewCoOccurrence(int(both[t]), out.Answers, r.Answers, out.Base); c.Lift > 1 {
			out.Terms = append(out.Terms, TermWith{s.View.Terms[t].Label, r.Answers, c})
		}
	}
	slices.SortFunc(out.Terms, func(a, b TermWith) int {
		switch {
		case a.G2 > b.G2:
			return -1
		case a.G2 < b.G2:
			return 1
		}
		return strings.Compare(a.Label, b.Label)
	})
	out.Terms = out.Terms[:min(limit, len(out.Terms))]
	out.stand(s, set, with)
	return out, nil
}

// Own are the terms that a subject is of.
func Own(s *state.State, x Subject) map[int32]bool {
	own := map[int32]bool{}
	switch x.Kind {
	case "term":
		if t, ok := s.View.Find(x.Text); ok {
			own[int32(t)] = true
		}
	case "row":
		if ts, _, ok := s.View.FindRow(x.Text); ok {
			for _, t := range ts {
				own[t] = true
			}
		}
	case "rule":
		if p, _ := s.Coding.Compile(x.Text); p != nil {
			p.Terms(s.View, func(t int) { own[int32(t)] = true })
		}
	}
	return own
}

// stand finds the segment values in which the share of the answers with a subject differs from that in the rest.
func (c *Company) stand(s *state.State, set, with *roaring.Bitmap) {
	var p []float64
	for _, v := range s.Study.Variables {
		if !v.Role.Charted() || len(v.Values) > view.MaxColumns {
			continue
		}
		filled := roaring.And(set, v.Filled())
		here := roaring.And(filled, with)
		for _, value := range v.Values {
			n1, k1 := int(filled.AndCardinality(v.With(value))), int(here.AndCardinality(v.With(value)))
			n2, k2 := int(filled.GetCardinality())-n1, int(here.GetCardinality())-k1
			test, ok := crosstab.CompareShares(k1, n1, k2, n2)
			if !ok {
				continue
			}
			p = append(p, test.P)
			c.Segments = append(c.Segments, SegmentStand{v.Name, value, k1, n1, view.Share(k1, n1), view.Share(k2, n2), test.Z, 0})
		}
	}
	for i, adjusted := range crosstab.FalseDiscovery(p) {
		c.Segments[i].P = adjusted
	}
	c.Tested = len(p)
	c.Segments = slices.DeleteFunc(c.Segments, func(x SegmentStand) bool { return x.P > 0.05 })
	slices.SortStableFunc(c.Segments, func(a, b SegmentStand) int {
		switch {
		case a.Z > b.Z:
			return -1
		case a.Z < b.Z:
			return 1
		}
		return 0
	})
}
