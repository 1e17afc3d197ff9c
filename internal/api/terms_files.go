package api

import (
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/termview"

	"context"
	"fmt"
	"io"
	"iter"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/core/survey"
	"aftermath/core/terms"
	"aftermath/internal/export"
)

// FormatInput is the format of a file that is asked for.
type FormatInput struct {
	Format string `query:"format" enum:"csv,xlsx" default:"csv"`
}

// tableFile answers with a table as a file.
func tableFile[T any](
	ctx context.Context, s *server, in FocusInput, format, name string,
	ask func(ctx context.Context, st *state.State, f focus.Focus) (T, error), rows func(*state.State, T) iter.Seq[[]any],
) (*huma.StreamResponse, error) {
	st, f, err := s.open(ctx, in)
	if err != nil {
		return nil, problem(err)
	}
	made, err := ask(ctx, st, f)
	if err != nil {
		return nil, problem(err)
	}
	return download(name+"."+format, export.Types[format], func(w io.Writer) error {
		return export.Sheet(w, format, name, rows(st, made))
	}), nil
}

func (s *server) termsOut(ctx context.Context, in *struct {
	FocusInput
	TermFilters
	FormatInput
}) (*huma.StreamResponse, error) {
	return tableFile(
		ctx,
		s,
		in.FocusInput,
		in.Format,
		"terms",
		func(ctx context.Context, st *state.State, f focus.Focus) (termview.TermTable, error) {
			want := in.query(0, maxOut)
			want.NoStrips = true
			return termview.Terms(ctx, st, f, want)
		},
		plainly(export.Terms),
	)
}

// maxOut is how many lines a file holds at most: as many as a sheet.
const maxOut = 1_048_000

func (s *server) contextOut(ctx context.Context, in *struct {
	ContextInput
	FormatInput
}) (*huma.StreamResponse, error) {
	return tableFile(
		ctx,
		s,
		in.FocusInput,
		in.Format,
		"context-as-"+in.Show,
		func(ctx context.Context, st *state.State, f focus.Focus) (termview.ContextPage, error) {
			return termview.Context(ctx, st, f, in.Subject, terms.Order(in.By), in.Show == "read", 0, maxOut)
		},
		func(st *state.State, p termview.ContextPage) iter.Seq[[]any] {
			return export.Context(p, func(r survey.Respondent) string {
				row, _ := st.Study.Rows.Row(r)
				return st.Called(row)
			})
		},
	)
}

// plainly makes rows of what needs nothing of the state.
func plainly[T any](of func(T) iter.Seq[[]any]) func(*state.State, T) iter.Seq[[]any] {
	return func(_ *state.State, made T) iter.Seq[[]any] { return of(made) }
}

func (s *server) compareOut(ctx context.Context, in *struct {
	CompareInput
	FormatInput
}) (*huma.StreamResponse, error) {
	return tableFile(ctx, s, in.FocusInput, in.Format, "comparison", in.ask, plainly(export.Compared))
}

func (s *server) companyOut(ctx context.Context, in *struct {
	CompanyInput
	FormatInput
}) (*huma.StreamResponse, error) {
	return tableFile(ctx, s, in.FocusInput, in.Format, "said-with", in.ask, plainly(export.Company))
}

func (s *server) corpusOut(ctx context.Context, in *struct {
	CorpusInput
	FormatInput
}) (*huma.StreamResponse, error) {
	return tableFile(ctx, s, in.FocusInput, in.Format, "text", in.ask, plainly(export.Corpus))
}

func (s *server) timelineOut(ctx context.Context, in *struct {
	TimelineInput
	FormatInput
}) (*huma.StreamResponse, error) {
	return tableFile(ctx, s, in.FocusInput, in.Format, "over-time", in.ask, plainly(export.Timeline))
}

func (s *server) risingOut(ctx context.Context, in *struct {
	RisingInput
	FormatInput
}) (*huma.StreamResponse, error) {
	return tableFile(ctx, s, in.FocusInput, in.Format, "rising", in.ask, plainly(export.Rising))
}

func (s *server) networkOut(ctx context.Context, in *struct {
	NetworkInput
	FormatInput
}) (*huma.StreamResponse, error) {
	return tableFile(ctx, s, in.FocusInput, in.Format, "network", in.ask, plainly(export.Network))
}

func (s *server) matrix(ctx context.Context, in *struct {
	FocusInput
	Format string `query:"format" enum:"csv,zip" default:"csv" doc:"a table, or Matrix Market with what its rows and columns are"`
	Values string `query:"values" enum:"counts,binary,share,tfidf" default:"counts"`
	Least  int    `query:"least" minimum:"1" default:"2" doc:"answers that a term must have"`
	Terms  int    `query:"terms" minimum:"1" maximum:"100000" default:"2000" doc:"how many of the most frequent terms at most"`
}) (*huma.StreamResponse, error) {
	st, f, err := s.open(ctx, in.FocusInput)
	if err != nil {
		return nil, problem(err)
	}
	m, err := export.NewMatrix(ctx, st, f, in.Values, in.Least, in.Terms)
	if err != nil {
		return nil, problem(err)
	}
	if in.Format == "zip" {
		return download("matrix-"+in.Values+".zip", "application/zip", func(w io.Writer) error { return m.MatrixMarket(ctx, w) }), nil
	}
	if err := m.Check(); err != nil {
		return nil, problem(fmt.Errorf("%w: %w", state.ErrRequest, err))
	}
	return download("matrix-"+in.Values+".csv", export.Types["csv"], func(w io.Writer) error { return m.CSV(ctx, w) }), nil
}
