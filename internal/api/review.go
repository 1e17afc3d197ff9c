package api

import (
	"context"
	"io"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/report/review"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
)

// registerReview adds the routes of how good the coding is.
func registerReview(a huma.API, s *server, op func(method, path, id, summary string) huma.Operation) {
	const q = "/questions/{question}"
	agree := op(http.MethodPost, q+"/agreement", "agreement", "How far the coding agrees with a sample that was coded by hand")
	agree.MaxBodyBytes = 16 << 20
	huma.Register(a, agree, s.agreement)
	huma.Register(a, op(http.MethodGet, q+"/decisions", "decisions", "Decisions by hand, against what the rules say"), s.decisions)
	huma.Register(a, op(http.MethodGet, q+"/queue", "queue", "Answers in the order in which they are gone through"), s.queue)
	huma.Register(a, op(http.MethodGet, q+"/groups", "groups", "What is left, in groups that one rule or decision may do for"), s.groups)
	huma.Register(a, op(http.MethodGet, q+"/suggester", "suggester", "How well likely categories are told"), s.suggester)
	huma.Register(a, op(http.MethodGet, q+"/likely", "likely", "What is left with its likely categories, as one edit puts them on"), s.likely)
	huma.Register(a, op(http.MethodGet, q+"/coverage", "coverage", "How far answers are coded, by the values of a variable"), s.coverage)
	huma.Register(a, op(http.MethodPost, q+"/texts", "try-texts", "How texts would be coded, and what they are likely to have"), s.texts)
	huma.Register(
		a, op(http.MethodGet, q+"/sample.csv", "blind-sample", "A random sample of answers, to be coded elsewhere"), s.blindSample,
	)
}

func (s *server) agreement(ctx context.Context, in *struct {
	QuestionInput
	Body struct {
		CSV string `json:"csv" minLength:"1" doc:"a table with the columns id and category: a row for each category of an answer, and one without for none"`
	}
}) (*body[review.AgreementTable], error) {
	return reply(
		ctx, s, FocusInput{QuestionInput: in.QuestionInput},
		func(ctx context.Context, st *state.State, _ focus.Focus) (review.AgreementTable, error) {
			rows, err := readTable([]byte(in.Body.CSV))
			if err != nil {
				return review.AgreementTable{}, err
			}
			return review.AgreementOf(ctx, st, rows)
		},
	)
}

func (s *server) decisions(ctx context.Context, in *FocusInput) (*body[review.Decisions], error) {
	return reply(ctx, s, *in, review.DecisionsOf)
}

func (s *server) blindSample(ctx context.Context, in *struct {
	FocusInput
	Size int    `query:"size" minimum:"1" maximum:"100000" default:"200"`
	Seed uint64 `query:"seed" default:"1" doc:"the same draws the same"`
}) (*huma.StreamResponse, error) {
	st, f, err := s.open(ctx, in.FocusInput)
	if err != nil {
		return nil, problem(err)
	}
	rows, err := review.Blind(ctx, st, f, in.Size, in.Seed)
	if err != nil {
		return nil, problem(err)
	}
	return download("sample.csv", "text/csv; charset=utf-8", func(w io.Writer) error {
		out := files.NewWriter(w)
		for _, row := range rows {
			if err := out.Write(row); err != nil {
				return err
			}
		}
		return out.Flush()
	}), nil
}

func (s *server) queue(ctx context.Context, in *struct {
	FocusInput
	Order  string `query:"order" enum:"file,likely,doubtful,longest,newest,random" default:"file" doc:"those but the first and the last three learn from coded answers, and wait until that is done for the first time"`
	At     int    `query:"at" minimum:"-1" default:"-1" doc:"number of a respondent: offset counts from that answer, or from where it would stand; -1: from the beginning"`
	Offset int    `query:"offset" doc:"may be negative"`
	Limit  int    `query:"limit" minimum:"1" maximum:"500" default:"20"`
	Likely bool   `query:"likely" doc:"with likely categories, in every order"`
}) (*body[review.Queue], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (review.Queue, error) {
		q := review.QueueQuery{Order: review.Order(in.Order), Offset: in.Offset, Limit: in.Limit, Likely: in.Likely}
		if in.At >= 0 {
			at := survey.Respondent(in.At)
			q.From = &at
		}
		return review.QueueOf(ctx, st, f, q)
	})
}

func (s *server) groups(ctx context.Context, in *FocusInput) (*body[review.Groups], error) {
	return reply(ctx, s, *in, review.GroupsOf)
}

func (s *server) suggester(ctx context.Context, in *FocusInput) (*body[review.Suggester], error) {
	return reply(ctx, s, *in, review.SuggesterOf)
}

func (s *server) likely(ctx context.Context, in *struct {
	FocusInput
	Least float64 `query:"least" minimum:"0.5" maximum:"1" default:"0.95" doc:"the least chance"`
}) (*body[review.Sure], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (review.Sure, error) {
		return review.SureOf(ctx, st, f, in.Least)
	})
}

func (s *server) coverage(ctx context.Context, in *struct {
	FocusInput
	By string `query:"by" doc:"name of a variable; empty for the total alone"`
}) (*body[review.Coverage], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (review.Coverage, error) {
		return review.CoverageOf(ctx, st, f, in.By)
	})
}

// TriedTexts are texts with how they would be coded, in the order they were given.
type TriedTexts struct {
	Texts []review.TriedText `json:"texts"`
}

func (s *server) texts(ctx context.Context, in *struct {
	QuestionInput
	Body struct {
		Texts []string `json:"texts" minItems:"1" maxItems:"500" doc:"each up to 20,000 letters"`
	}
}) (*body[TriedTexts], error) {
	return reply(
		ctx, s, FocusInput{QuestionInput: in.QuestionInput},
		func(ctx context.Context, st *state.State, _ focus.Focus) (TriedTexts, error) {
			tried, err := review.TryTexts(ctx, st, in.Body.Texts)
			return TriedTexts{tried}, err
		},
	)
}
