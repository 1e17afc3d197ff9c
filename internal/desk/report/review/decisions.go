package review

import (
	"context"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// Decisions are those that were made by hand in a focus, against what the rules say.
type Decisions struct {
	Answers    int                 `json:"answers" doc:"answers of the focus on which anything was decided, settled ones aside"`
	Categories []CategoryDecisions `json:"categories" doc:"those with decisions, in the order of the frame"`
}

// CategoryDecisions are the decisions on a category. The rules say what they would without any decision.
type CategoryDecisions struct {
	ID       string              `json:"id"`
	Name     string              `json:"name" doc:"its path"`
	Added    []survey.Respondent `json:"added" doc:"respondents on whose answers it was put that its rules don't give it to"`
	Taken    []survey.Respondent `json:"taken" doc:"respondents off whose answers it was taken that its rules give it to"`
	Needless []survey.Respondent `json:"needless" doc:"respondents on whose answers the rules say the same as the hand"`
}

// DecisionsOf holds the decisions by hand against the rules.
func DecisionsOf(ctx context.Context, s *state.State, f focus.Focus) (Decisions, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Decisions{}, err
	}
	out := Decisions{Categories: []CategoryDecisions{}}
	decided := roaring.New()
	for _, r := range s.Coding.Results {
		on, off := within(s.Decisions.On[r.ID], set), within(s.Decisions.Off[r.ID], set)
		if on.IsEmpty() && off.IsEmpty() {
			continue
		}
		decided.Or(on)
		decided.Or(off)
		needless := roaring.And(on, r.ByRules)
		needless.Or(roaring.AndNot(off, r.ByRules))
		out.Categories = append(out.Categories, CategoryDecisions{
			ID:       r.ID,
			Name:     r.PathName(),
			Added:    all(s, roaring.AndNot(on, r.ByRules)),
			Taken:    all(s, roaring.And(off, r.ByRules)),
			Needless: all(s, needless),
		})
	}
	out.Answers = int(decided.GetCardinality())
	return out, ctx.Err()
}

func within(of, set *roaring.Bitmap) *roaring.Bitmap {
	if of == nil {
		return roaring.New()
	}
	return roaring.And(of, set)
}

func all(s *state.State, rows *roaring.Bitmap) []survey.Respondent {
	return append([]survey.Respondent{}, s.Study.Rows.Respondents(rows).List()...)
}
