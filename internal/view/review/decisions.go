package review

import (
	"cmp"
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// Decisions are those that were made by hand in a focus, against what the rules say.
type Decisions struct {
	Answers    int                 `json:"answers" doc:"answers of the focus on which anything was decided, settled ones aside"`
	Categories []CategoryDecisions `json:"categories" doc:"those with decisions, in the order of the frame"`
	Made       []MadeBy            `json:"made" doc:"by whom and when; the newest first"`
	Notes      []NotedDecision     `json:"notes" doc:"decisions with a note, the newest first; at most 500"`
}

// CategoryDecisions are the decisions on a category. The rules say what they would without any decision.
type CategoryDecisions struct {
	ID        string              `json:"id"`
	Name      string              `json:"name" doc:"its path"`
	Added     []survey.Respondent `json:"added" doc:"respondents on whose answers it was put that its rules don't give it to"`
	Taken     []survey.Respondent `json:"taken" doc:"respondents off whose answers it was taken that its rules give it to"`
	Needless  []survey.Respondent `json:"needless" doc:"respondents on whose answers the rules say the same as the hand"`
	Suggested []survey.Respondent `json:"suggested" doc:"respondents on whose answers it was put since it is likely, unread"`
}

// MadeBy is the decisions that somebody made on a day.
type MadeBy struct {
	By        string `json:"by" doc:"as they called themselves; empty where nobody said"`
	Day       string `json:"day" doc:"as 2006-01-02; empty for those of earlier programs"`
	Suggested bool   `json:"suggested" doc:"put on since they are likely, unread"`
	Decisions int    `json:"decisions" doc:"settled ones among them"`
}

// NotedDecision is a decision with a note.
type NotedDecision struct {
	Respondent survey.Respondent `json:"respondent"`
	Category   string            `json:"category" doc:"its path"`
	To         scheme.Mark       `json:"to" enum:"on,off"`
	scheme.Origin
}

const mostNotes = 500

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
		suggested := within(s.Decisions.Suggested[r.ID], set)
		needless := roaring.And(on, r.ByRules)
		needless.Or(roaring.AndNot(off, r.ByRules))
		added := roaring.AndNot(on, r.ByRules)
		added.AndNot(suggested)
		out.Categories = append(out.Categories, CategoryDecisions{
			ID:        r.ID,
			Name:      r.PathName(),
			Added:     all(s, added),
			Taken:     all(s, roaring.And(off, r.ByRules)),
			Needless:  all(s, needless),
			Suggested: all(s, suggested),
		})
	}
	out.Answers = int(decided.GetCardinality())
	out.Made, out.Notes = origins(s, set)
	return out, ctx.Err()
}

// origins sums up by whom and when the decisions in a set of rows were made, and lists those with a note.
func origins(s *state.State, set *roaring.Bitmap) (made []MadeBy, notes []NotedDecision) {
	in := s.Study.Rows.Respondents(set)
	count := map[MadeBy]int{}
	notes = []NotedDecision{}
	for _, m := range s.Scheme.Decisions.All() {
		these := survey.RespondentsOf(m.Respondents...).And(in)
		count[MadeBy{By: m.By, Day: m.Day, Suggested: m.Suggested}] += these.Len()
		r, ok := s.Coding.Of(m.Category)
		if m.Note == "" || !ok {
			continue
		}
		for p := range these.All() {
			notes = append(notes, NotedDecision{p, r.PathName(), m.To, m.Origin})
		}
	}
	made = []MadeBy{}
	for m, n := range count {
		if m.Decisions = n; n > 0 {
			made = append(made, m)
		}
	}
	slices.SortFunc(made, func(a, b MadeBy) int {
		return cmp.Or(cmp.Compare(b.Day, a.Day), cmp.Compare(a.By, b.By), cmp.Compare(b.Decisions, a.Decisions))
	})
	slices.SortStableFunc(notes, func(a, b NotedDecision) int { return cmp.Compare(b.Day, a.Day) })
	return made, notes[:min(len(notes), mostNotes)]
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
