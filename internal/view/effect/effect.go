// Package effect is what an edit does to the coding: the same before it is kept, as a preview, and after.
package effect

import (
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
	"aftermath/internal/view/clean"
)

// Effect is what an edit does to the coding of all answers.
type Effect struct {
	Revision       int              `json:"revision"`
	StudyRevision  int              `json:"studyRevision,omitempty" doc:"of the study, where its setup was what was undone or done again"`
	Edit           int64            `json:"edit" doc:"what undo is told to take this back; 0 in previews"`
	Summary        string           `json:"summary"`
	CodedBefore    int              `json:"codedBefore"`
	Coded          int              `json:"coded"`
	AnsweredBefore int              `json:"answeredBefore" doc:"answers that say something: the base"`
	Answered       int              `json:"answered"`
	Categories     []CategoryEffect `json:"categories" doc:"those that gain or lose answers"`
	Read           int              `json:"read" doc:"answers that are read otherwise, whose words change"`
	Proof          []clean.Proof    `json:"proof" doc:"some of those, as they are read then"`
	Merged         []MergedTerm     `json:"merged" doc:"merges that are new or have other variants"`
	Misfits        []Misfit         `json:"misfits" doc:"rules that can no longer be read, or are new and can't be"`
	Rewritten      []Rewritten      `json:"rewritten" doc:"rules that read otherwise then, at most 500"`
	History        History          `json:"history" doc:"what undo and redo would do then; nothing in previews"`
}

// History is what undo and redo would do. They go through the edits of the question and of its study as one line: a new edit on
// it ends what was undone before, for good.
type History struct {
	Undo      *HistoryStep `json:"undo,omitempty" doc:"what undo would take back"`
	Redo      *HistoryStep `json:"redo,omitempty" doc:"what redo would do again"`
	Revisions int          `json:"revisions" doc:"edits of the question and its study that stand"`
}

// HistoryStep is an edit that can be undone, or done again.
type HistoryStep struct {
	Edit    int64  `json:"edit" doc:"its number in the history, which undo and redo are told"`
	Summary string `json:"summary"`
	Warning string `json:"warning,omitempty" doc:"what else goes with it: say it first, and then confirm"`
}

// CategoryEffect is what a category gains and loses.
type CategoryEffect struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Gained int    `json:"gained"`
	Lost   int    `json:"lost"`
}

// Misfit is a rule that does not fit: it names what is not there.
type Misfit struct {
	Category string `json:"category"`
	Rule     string `json:"rule"`
	Message  string `json:"message"`
}

// Rewritten is a rule that reads otherwise.
type Rewritten struct {
	Category string `json:"category"`
	Before   string `json:"before"`
	After    string `json:"after"`
}

const mostRewritten = 500

// Of compares two states.
func Of(ctx context.Context, before, after *state.State, summary string) (Effect, error) {
	e := Effect{
		Revision:       after.Revision,
		Summary:        summary,
		CodedBefore:    int(before.Coding.Coded.GetCardinality()),
		Coded:          int(after.Coding.Coded.GetCardinality()),
		AnsweredBefore: before.Answered(),
		Answered:       after.Answered(),
		Categories:     []CategoryEffect{},
		Proof:          []clean.Proof{},
		Merged:         merged(before, after),
		Misfits:        misfits(before, after),
		Rewritten:      rewritten(before, after),
	}
	for _, r := range after.Coding.Results {
		was := roaring.New()
		if b, ok := before.Coding.Of(r.ID); ok {
			was = b.Answers
		}
		gained, lost := view.CountWithout(r.Answers, was), view.CountWithout(was, r.Answers)
		if gained+lost > 0 {
			e.Categories = append(e.Categories, CategoryEffect{r.ID, r.PathName(), gained, lost})
		}
	}
	for _, r := range before.Coding.Results {
		if _, ok := after.Coding.Of(r.ID); !ok && !r.Answers.IsEmpty() {
			e.Categories = append(e.Categories, CategoryEffect{r.ID, r.PathName(), 0, int(r.Answers.GetCardinality())})
		}
	}
	var err error
	if after.Reading.Index != before.Reading.Index && len(after.Answers) == len(before.Answers) {
		e.Read, e.Proof, err = clean.Changed(ctx, before, after)
	}
	return e, err
}

// rewritten are the rules in whose place others stand.
func rewritten(before, after *state.State) []Rewritten {
	out := []Rewritten{}
	for _, r := range after.Coding.Results {
		was, ok := before.Coding.Of(r.ID)
		if !ok {
			continue
		}
		for i, now := range [][]string{r.Category.Rules, r.Category.Unless, r.Resting} {
			old := [][]string{was.Category.Rules, was.Category.Unless, was.Resting}[i]
			for j, rule := range now {
				if len(old) == len(now) && old[j] != rule && len(out) < mostRewritten {
					out = append(out, Rewritten{r.PathName(), old[j], rule})
				}
			}
		}
	}
	return out
}

// misfits are the rules that can't be read, other than those that could not be read before.
func misfits(before, after *state.State) []Misfit {
	out := []Misfit{}
	bad := func(s *state.State, visit func(r *frame.Result, x frame.RuleResult)) {
		for _, r := range s.Coding.Results {
			for _, x := range slices.Concat(r.Rules, r.Unless) {
				if !x.Readable() {
					visit(r, x)
				}
			}
		}
	}
	known := map[[2]string]bool{}
	bad(before, func(r *frame.Result, x frame.RuleResult) { known[[2]string{r.ID, x.Source}] = true })
	bad(after, func(r *frame.Result, x frame.RuleResult) {
		if !known[[2]string{r.ID, x.Source}] {
			out = append(out, Misfit{r.PathName(), x.Source, x.Problems[0].Message})
		}
	})
	return out
}
