package code

import (
	"context"
	"fmt"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/induction"
	"aftermath/core/rule"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
	"aftermath/internal/view/answers"
)

// ExampleQuery is answers that belong to a category, and answers that don't.
type ExampleQuery struct {
	In       []survey.Respondent `json:"in" minItems:"1" maxItems:"500" doc:"respondents whose answers belong"`
	Out      []survey.Respondent `json:"out" maxItems:"500" doc:"those whose answers don't"`
	Category string              `json:"category,omitempty" doc:"the one they are examples of; empty for one that is yet to be made"`
}

// Induced is rules that were made from examples.
type Induced struct {
	In     int          `json:"in" doc:"examples that belong and are there"`
	Out    int          `json:"out" doc:"examples that don't"`
	Offers []InducedOne `json:"offers" doc:"the likeliest first, at most five"`
}

// InducedOne is a rule that was made from examples.
type InducedOne struct {
	Rule     string              `json:"rule"`
	Name     string              `json:"name" doc:"what a category of it could be called"`
	Missed   []survey.Respondent `json:"missed" doc:"examples that belong and that it does not catch"`
	Wrong    []survey.Respondent `json:"wrong" doc:"examples that don't belong and that it catches"`
	Matches  int                 `json:"matches" doc:"answers in the focus that it catches"`
	New      int                 `json:"new" doc:"of those, that the category does not have, the examples aside"`
	Uncoded  int                 `json:"uncoded" doc:"of those, without any category now"`
	Examples answers.Page        `json:"examples" doc:"of what it catches, the examples that were given aside"`
}

// Induce makes rules from examples.
func Induce(ctx context.Context, s *state.State, f focus.Focus, want ExampleQuery) (Induced, error) {
	out := Induced{Offers: []InducedOne{}}
	set, err := f.Answers(ctx, s)
	if err != nil {
		return out, err
	}
	ex := induction.Examples{In: answered(s, want.In), Out: answered(s, want.Out)}
	out.In, out.Out = int(ex.In.GetCardinality()), int(ex.Out.GetCardinality())
	if ex.In.Intersects(ex.Out) {
		return out, fmt.Errorf("%w: an answer can't be an example of both", state.ErrRequest)
	}
	given := roaring.Or(ex.In, ex.Out)
	has := given.Clone()
	if r, ok := s.Coding.Of(want.Category); ok {
		has.Or(r.Answers)
	}
	learner := induction.Learner{Counter: s.Counter, Matcher: s.Coding.Matcher(), Language: s.Scheme.Language, Workers: state.Workers()}
	rules, err := learner.Rules(ctx, set, ex)
	if err != nil {
		return out, err
	}
	for _, n := range rules {
		tried, err := s.Coding.Try(ctx, n.String())
		if err != nil {
			return out, err
		}
		found := roaring.And(tried.Answers, set)
		fresh := roaring.AndNot(found, has)
		out.Offers = append(out.Offers, InducedOne{
			Rule:     n.String(),
			Name:     draftName(labels(n)),
			Missed:   s.Study.Rows.Respondents(roaring.AndNot(ex.In, tried.Answers)).List(),
			Wrong:    s.Study.Rows.Respondents(roaring.And(ex.Out, tried.Answers)).List(),
			Matches:  int(found.GetCardinality()),
			New:      int(fresh.GetCardinality()),
			Uncoded:  view.CountWithout(found, s.Coding.Coded),
			Examples: answers.Examples(s, s.Drawn(fresh, 5, 1), focus.Focus{focus.Is(focus.Words{Rule: n.String()})}, 5),
		})
	}
	return out, nil
}

// answered are the rows of respondents who are there and say something.
func answered(s *state.State, of []survey.Respondent) *roaring.Bitmap {
	out := s.Study.Rows.Of(survey.RespondentsOf(of...))
	out.And(s.Reading.Index.Answered())
	return out
}

// labels are the alternatives of a rule, those that are shut out aside.
func labels(n rule.Node) (out []string) {
	for n.Kind() == rule.Without {
		n = n.Kids()[0]
	}
	if n.Kind() != rule.Alternatives {
		return []string{n.String()}
	}
	for _, k := range n.Kids() {
		out = append(out, k.String())
	}
	return out
}
