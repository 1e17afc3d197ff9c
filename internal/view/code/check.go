package code

import (
	"context"
	"fmt"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/frame"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
	"aftermath/internal/view/answers"
)

// Checked is how right a rule or a category was found to be, by a random sample of what it catches. What it no longer catches,
// since words or other rules changed, is not counted.
type Checked struct {
	Right     int     `json:"right"`
	Wrong     int     `json:"wrong"`
	Precision float64 `json:"precision" doc:"right of both, 0 to 1"`
	Low       float64 `json:"low" doc:"95 % interval (Wilson)"`
	High      float64 `json:"high"`
	Matches   int     `json:"matches" doc:"answers that it caught then, focus aside"`
	Now       int     `json:"now" doc:"answers that it catches now"`
}

// caught are the answers that a rule gives its category, before decisions by hand; of the category as a whole, all that it has.
func caught(r *frame.Result, text string) (*roaring.Bitmap, bool) {
	if text == "" {
		return r.Answers, true
	}
	i := slices.IndexFunc(r.Rules, func(x frame.RuleResult) bool { return x.Source == text })
	if i < 0 {
		return nil, false
	}
	out := r.Rules[i].Answers.Clone()
	for _, u := range r.Unless {
		out.AndNot(u.Answers)
	}
	return out, true
}

// checked is what is known of a rule of a category; nil if it was never looked over.
func checked(s *state.State, r *frame.Result, text string) *Checked {
	for _, c := range r.Checks {
		if c.Rule != text {
			continue
		}
		now, ok := caught(r, text)
		if !ok {
			return nil // it rests
		}
		out := &Checked{
			Right:   int(now.AndCardinality(s.Study.Rows.Of(survey.RespondentsOf(c.Right...)))),
			Wrong:   int(now.AndCardinality(s.Study.Rows.Of(survey.RespondentsOf(c.Wrong...)))),
			Matches: c.Matches,
			Now:     int(now.GetCardinality()),
		}
		out.Precision = view.Share(out.Right, out.Right+out.Wrong)
		out.Low, out.High = crosstab.Wilson(out.Precision, float64(out.Right+out.Wrong))
		return out
	}
	return nil
}

// CheckSample is a random sample of what a rule catches, to be looked over.
type CheckSample struct {
	Matches int              `json:"matches" doc:"answers that it catches, focus aside"`
	Answers []answers.Answer `json:"answers" doc:"the sample, marked by what the rule finds, in an order that is random too"`
	// What was found before, of this sample or another.
	Right []survey.Respondent `json:"right" doc:"respondents whose answers were found right before"`
	Wrong []survey.Respondent `json:"wrong"`
}

// SampleOf draws a random sample of what a rule of a category catches; of all that the category has where no rule is named. A
// larger sample holds the smaller one.
func SampleOf(_ context.Context, s *state.State, category, text string, size int, seed uint64) (CheckSample, error) {
	out := CheckSample{Answers: []answers.Answer{}, Right: []survey.Respondent{}, Wrong: []survey.Respondent{}}
	r, ok := s.Coding.Of(category)
	if !ok {
		return out, fmt.Errorf("%w: the category is gone", state.ErrRequest)
	}
	set, ok := caught(r, text)
	if !ok {
		return out, fmt.Errorf("%w: the rule %q is no longer in %s", state.ErrRequest, text, r.PathName())
	}
	out.Matches = int(set.GetCardinality())
	marked := focus.Focus{focus.Is(focus.Category{ID: category})}
	if text != "" {
		marked = focus.Focus{focus.Is(focus.Words{Rule: text})}
	}
	marker := marked.Marker(s)
	for _, p := range s.DrawnInOrder(set, size, seed) {
		if row, there := s.Study.Rows.Row(p); there {
			out.Answers = append(out.Answers, answers.One(s, marker, row))
		}
	}
	for _, c := range r.Checks {
		if c.Rule == text {
			out.Right, out.Wrong = c.Right, c.Wrong
		}
	}
	return out, nil
}
