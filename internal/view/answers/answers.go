// Package answers is the pane of answers beside every view: who said what, marked by what the focus speaks of, and which
// categories it has.
package answers

import (
	"context"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// Answer is one answer as lists show it.
type Answer struct {
	Number  survey.Respondent `json:"number" doc:"of the respondent; it stays, whatever rows come and go"`
	Parts   []focus.Part      `json:"parts" doc:"the original, cut at its highlights"`
	Who     []state.About     `json:"who" doc:"what is known of the respondent, shortly"`
	Status  string            `json:"status"`
	Settled bool              `json:"settled,omitempty"`
	Codes   []Code            `json:"codes"`
}

// Code is a category that an answer has, with the reason.
type Code struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Short  string `json:"short"`
	Top    int    `json:"top" doc:"place of its top category in the frame, from 0: its colour"`
	Rules  []int  `json:"rules" doc:"numbers of the rules that match, from 1"`
	ByHand bool   `json:"byHand,omitempty"`
	scheme.Origin
}

// Page is a part of a list of answers.
type Page struct {
	Total   int      `json:"total"`
	Offset  int      `json:"offset" doc:"place of the first one listed"`
	Answers []Answer `json:"answers"`
}

// List gives the answers of a focus from offset on, in the order of the file. With the number of a respondent above 0, offset
// counts from the first answer whose respondent is not before that one, and may be negative.
func List(ctx context.Context, s *state.State, f focus.Focus, from survey.Respondent, offset, limit int) (Page, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Page{}, err
	}
	if row := s.Study.Rows.RowFrom(from); row > 0 {
		offset += int(set.Rank(uint32(row - 1)))
	}
	p := Page{Total: int(set.GetCardinality()), Offset: max(offset, 0), Answers: []Answer{}}
	m := f.Marker(s)
	for i := p.Offset; i < p.Total && len(p.Answers) < limit && ctx.Err() == nil; i++ {
		row, err := set.Select(uint32(i))
		if err != nil {
			return Page{}, err
		}
		p.Answers = append(p.Answers, One(s, m, int(row)))
	}
	return p, ctx.Err()
}

// Examples are the first answers of a set of rows, marked by what a focus speaks of.
func Examples(s *state.State, set *roaring.Bitmap, f focus.Focus, limit int) Page {
	if limit == 0 {
		limit = 20
	}
	out := Page{Total: int(set.GetCardinality()), Answers: []Answer{}}
	m := f.Marker(s)
	for it := set.Iterator(); it.HasNext() && len(out.Answers) < limit; {
		out.Answers = append(out.Answers, One(s, m, int(it.Next())))
	}
	return out
}

// One is the answer in a row.
func One(s *state.State, m focus.Marker, row int) Answer {
	a := Answer{
		Number:  s.Respondent(row),
		Parts:   m.Parts(row),
		Who:     s.Who(row),
		Settled: s.Decisions.Settled.Contains(uint32(row)),
		Codes:   []Code{},
	}
	for i, name := range text.StatusNames {
		if s.Reading.Index.Status(text.Status(i)).Contains(uint32(row)) {
			a.Status = name
		}
	}
	for _, r := range s.Coding.Results {
		if code, ok := CodeOf(r, uint32(row), s.Decisions); ok {
			if code.ByHand {
				code.Origin = s.Scheme.Decisions.Origin(a.Number, r.ID)
			}
			a.Codes = append(a.Codes, code)
		}
	}
	return a
}

// CodeOf gives a category of the answer in a row with the reason; not a net that only has what its children have.
func CodeOf(r *frame.Result, row uint32, d frame.Decisions) (Code, bool) {
	if !r.Answers.Contains(row) {
		return Code{}, false
	}
	rules, byHand := r.Why(row, d)
	if len(r.Children) > 0 && len(rules) == 0 {
		return Code{}, false
	}
	c := Code{ID: r.ID, Name: r.Name, Short: r.Short, Top: r.Top, Rules: []int{}, ByHand: byHand}
	for _, i := range rules {
		c.Rules = append(c.Rules, i+1)
	}
	return c, true
}
