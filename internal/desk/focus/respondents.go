package focus

import (
	"context"
	"fmt"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/state"
)

// Variable passes answers of respondents with some values of a variable.
type Variable struct {
	Name   string   `json:"name" doc:"of the variable"`
	Op     string   `json:"op,omitempty" enum:"=,!=,<,<=,>,>=" doc:"how values are compared; = if left out"`
	Values []string `json:"values" doc:"one of them is enough"`
}

// Kind is variable.
func (Variable) Kind() string { return "variable" }

// Scope is the respondents.
func (Variable) Scope() Scope { return Scope{On: OnRespondents} }

func (v Variable) answers(_ context.Context, s *state.State) (*roaring.Bitmap, error) {
	found, err := s.Study.Variable(v.Name)
	if err != nil {
		return nil, err
	}
	op := v.Op
	if op == "" {
		op = "="
	}
	set, err := found.Select(op, v.Values, len(s.Answers))
	if err != nil {
		return nil, fmt.Errorf("%w: %w", state.ErrRequest, err)
	}
	return set, nil
}

func (Variable) mark(*Marker) {}

// Person passes all answers of the people of whom an answer with one of some values of a variable says something, and has a
// category, or any or none.
type Person struct {
	Name     string   `json:"name" doc:"of the variable"`
	Values   []string `json:"values" doc:"one of them is enough"`
	Had      string   `json:"text,omitempty" enum:"any,none" doc:"what the answer had: any category, or none; left out: the one that id names"`
	Category string   `json:"id,omitempty" doc:"the category"`
}

// Kind is person.
func (Person) Kind() string { return "person" }

// Scope is the scheme, which codes the answer.
func (p Person) Scope() Scope { return Scope{On: OnScheme, Categories: given(p.Category)} }

func (p Person) answers(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	v, err := s.Study.Variable(p.Name)
	if err != nil {
		return nil, err
	}
	persons, err := s.Study.Persons(ctx)
	if err != nil {
		return nil, err
	}
	set := roaring.New()
	for _, value := range p.Values {
		set.Or(v.With(value))
	}
	set.And(s.Reading.Index.Status(text.Answered))
	switch p.Had {
	case "any":
	case "none":
		set.AndNot(s.Coding.Coded)
	case "":
		r, ok := s.Coding.Of(p.Category)
		if !ok {
			return nil, gone("a category in the focus")
		}
		set.And(r.Answers)
	default:
		return nil, fmt.Errorf("%w: people had a category, any, or none, not %q", state.ErrRequest, p.Had)
	}
	if persons == nil {
		return set, nil // everybody answered once
	}
	who, out := crosstab.Persons(persons, set), roaring.New()
	for row, person := range persons {
		if row%4096 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if person >= 0 && who.Contains(uint32(person)) {
			out.Add(uint32(row))
		}
	}
	return out, nil
}

func (Person) mark(*Marker) {}

// Respondents passes the answers of listed respondents.
type Respondents struct {
	Numbers []survey.Respondent `json:"answers,omitempty" doc:"numbers of the respondents"`
}

// Kind is answers.
func (Respondents) Kind() string { return "answers" }

// Scope is the respondents, whether they say something or not.
func (Respondents) Scope() Scope { return Scope{On: OnRespondents, Unanswered: true} }

func (r Respondents) answers(_ context.Context, s *state.State) (*roaring.Bitmap, error) {
	return s.Study.Rows.Of(survey.RespondentsOf(r.Numbers...)), nil
}

func (Respondents) mark(*Marker) {}
