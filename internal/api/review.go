package api

import (
	"context"
	"io"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

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
