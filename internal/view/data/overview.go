// Package data is what the view Data asks for, and the state of the study in figures, for the rail.
package data

import (
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/text"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/clean"
	"aftermath/internal/view/termview"
)

// Overview is a question's state in figures, for the rail: all are of the whole question, but for the focus's own.
type Overview struct {
	Revision     int            `json:"revision"`
	Respondents  int            `json:"respondents"`
	Statuses     map[string]int `json:"statuses"`
	Answered     int            `json:"answered"`
	Coded        int            `json:"coded" doc:"answered with a category"`
	Left         int            `json:"left" doc:"answered, not coded, not settled"`
	Settled      int            `json:"settled"`
	Terms        int            `json:"terms" doc:"different ones in the answered, stop words aside"`
	Hidden       int            `json:"hidden" doc:"terms that are stop words"`
	Categories   int            `json:"categories"`
	RuleProblems int            `json:"ruleProblems" doc:"rules that can't be read"`
	Focus        int            `json:"focus" doc:"answers in the focus that was given"`
	Warnings     int            `json:"warnings" doc:"mends that there are for hazards and left-overs of cleaning; 0 until they were looked for"`
	ByHand       int            `json:"byHand" doc:"answers with a category put on by hand"`
}

// OverviewOf gives the figures.
func OverviewOf(ctx context.Context, s *state.State, f focus.Focus) (Overview, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Overview{}, err
	}
	ix := s.Reading.Index
	o := Overview{
		Revision:    s.Revision,
		Warnings:    clean.Warnings(s),
		Respondents: len(s.Answers),
		Statuses:    map[string]int{},
		Focus:       int(set.GetCardinality()),
	}
	for i, name := range text.StatusNames {
		o.Statuses[name] = int(ix.Status(text.Status(i)).GetCardinality())
	}
	o.Answered = s.Answered()
	uncoded := roaring.AndNot(ix.Answered(), s.Coding.Coded)
	o.Coded = o.Answered - int(uncoded.GetCardinality())
	o.Settled = int(uncoded.AndCardinality(s.Decisions.Settled))
	o.Left = int(uncoded.GetCardinality()) - o.Settled
	counted, err := termview.Count(ctx, s, nil, 1, false)
	if err != nil {
		return Overview{}, err
	}
	for _, r := range counted.Rows {
		if s.View.Terms[r.Terms[0]].Stop {
			o.Hidden++
		} else {
			o.Terms++
		}
	}
	byHand := roaring.New()
	for _, on := range s.Decisions.On {
		byHand.Or(on)
	}
	o.ByHand = int(byHand.GetCardinality())
	for _, r := range s.Coding.Results {
		o.Categories++
		for _, x := range slices.Concat(r.Rules, r.Unless) {
			if !x.Readable() {
				o.RuleProblems++
			}
		}
	}
	return o, nil
}
