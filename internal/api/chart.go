package api

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/export"
	"aftermath/internal/kept"
	"aftermath/internal/view/chart"
)

// registerChart adds the routes of category frequency by segment.
func registerChart(a huma.API, s *server, op func(method, path, id, summary string) huma.Operation) {
	const q = "/questions/{question}"
	huma.Register(a, op(http.MethodPost, q+"/figures", "figures", "The figures of a chart of any kind"), s.figures)
	huma.Register(a, op(http.MethodGet, q+"/chart", "chart", "Categories by segments, with tests"), s.chart)
	huma.Register(a, op(http.MethodGet, q+"/findings", "findings", "The strongest differences over all categories and segments"), s.findings)
	huma.Register(a, op(http.MethodGet, q+"/means", "means", "A number among those with and without each category"), s.means)
	huma.Register(a, op(http.MethodGet, q+"/together", "together", "Which categories come together, or with which values"), s.together)
	huma.Register(a, op(http.MethodGet, q+"/flow", "flow", "What the same people said at two times"), s.flow)
	huma.Register(a, op(http.MethodGet, q+"/questions", "side-by-side", "Categories of several questions side by side"), s.sideBySide)
	huma.Register(a, op(http.MethodGet, q+"/chart/file", "chart-file", "The table of categories by segments as a file"), s.chartFile)
	huma.Register(a, op(http.MethodGet, q+"/charts", "kept-charts", "Charts that were kept, and whether their figures have changed"), s.keptCharts)
	huma.Register(a, op(http.MethodPost, q+"/charts", "keep-chart", "Keep a chart under a name"), s.keepChart)
	const one = q + "/charts/{chart}"
	huma.Register(a, op(http.MethodPut, one, "change-chart", "Give a kept chart another name, note or drawing"), s.changeChart)
	huma.Register(a, op(http.MethodDelete, one, "drop-chart", "Delete a kept chart; it can be brought back"), s.dropChart)
	huma.Register(a, op(http.MethodPost, one+"/restore", "restore-chart", "Bring a kept chart back"), s.restoreChart)
	const sets = "/studies/{study}/column-sets"
	huma.Register(a, op(http.MethodGet, sets, "column-sets", "What the columns of tables are made of, by name"), s.columnSets)
	huma.Register(a, op(http.MethodPost, sets, "keep-columns", "Keep what columns are made of under a name"), s.keepColumns)
	huma.Register(a, op(http.MethodDelete, sets, "drop-columns", "Forget what columns are made of"), s.dropColumns)
}

func (s *server) figures(ctx context.Context, in *struct {
	QuestionInput
	Body chart.Design
}) (*body[chart.AnyFigures], error) {
	if err := in.Body.Check(); err != nil {
		return nil, problem(err)
	}
	return reply(ctx, s, FocusInput{QuestionInput: in.QuestionInput}, func(ctx context.Context, st *state.State, _ focus.Focus) (chart.AnyFigures, error) {
		f, err := in.Body.Figures(ctx, st, in.Body.Focus)
		return chart.AnyFigures{Figures: f}, err
	})
}

// ChartInput names a kept chart of a question.
type ChartInput struct {
	QuestionInput
	Chart int64 `path:"chart"`
}

func (s *server) keptCharts(ctx context.Context, in *QuestionInput) (*body[[]kept.KeptChart], error) {
	q, err := s.desk.Question(ctx, in.Question)
	if err != nil {
		return nil, problem(err)
	}
	return replied(s.kept.KeptCharts(ctx, q))
}

func (s *server) keepChart(ctx context.Context, in *struct {
	QuestionInput
	Body kept.NewChart
}) (*body[Made], error) {
	q, err := s.desk.Question(ctx, in.Question)
	if err != nil {
		return nil, problem(err)
	}
	id, err := s.kept.KeepChart(ctx, q, in.Body)
	return replied(Made{id}, err)
}

// Made is what was made.
type Made struct {
	ID int64 `json:"id"`
}

func (s *server) changeChart(ctx context.Context, in *struct {
	ChartInput
	Body kept.ChartChange
}) (*struct{}, error) {
	q, err := s.desk.Question(ctx, in.Question)
	if err != nil {
		return nil, problem(err)
	}
	return nil, problem(s.kept.ChangeChart(ctx, q, in.Chart, in.Body))
}

func (s *server) dropChart(ctx context.Context, in *ChartInput) (*struct{}, error) {
	return nil, problem(s.kept.DropChart(ctx, in.Question, in.Chart, true))
}

func (s *server) restoreChart(ctx context.Context, in *ChartInput) (*struct{}, error) {
	return nil, problem(s.kept.DropChart(ctx, in.Question, in.Chart, false))
}

func (s *server) columnSets(ctx context.Context, in *StudyReportsInput) (*body[[]kept.ColumnSet], error) {
	return replied(s.kept.ColumnSets(ctx, in.Study))
}

func (s *server) keepColumns(ctx context.Context, in *struct {
	StudyReportsInput
	Body kept.ColumnSet
}) (*struct{}, error) {
	return nil, problem(s.kept.KeepColumnSet(ctx, in.Study, in.Body))
}

func (s *server) dropColumns(ctx context.Context, in *struct {
	StudyReportsInput
	Name string `query:"name" required:"true"`
}) (*struct{}, error) {
	return nil, problem(s.kept.DropColumnSet(ctx, in.Study, in.Name))
}

// ChartTableInput asks for a table. Its name is exported, since huma fills no embedded type whose name is not.
type ChartTableInput struct {
	FocusInput
	chart.Query
}

func (s *server) chart(ctx context.Context, in *ChartTableInput) (*body[chart.Chart], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (chart.Chart, error) {
		return chart.ChartOf(ctx, st, f, in.Query)
	})
}

func (s *server) findings(ctx context.Context, in *ChartTableInput) (*body[chart.Findings], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (chart.Findings, error) {
		return chart.FindingsOf(ctx, st, f, in.Query)
	})
}

func (s *server) means(ctx context.Context, in *struct {
	FocusInput
	chart.MeansQuery
}) (*body[chart.Means], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (chart.Means, error) {
		return chart.MeansOf(ctx, st, f, in.MeansQuery)
	})
}

func (s *server) together(ctx context.Context, in *struct {
	FocusInput
	chart.TogetherQuery
}) (*body[chart.Together], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (chart.Together, error) {
		return chart.TogetherOf(ctx, st, f, in.TogetherQuery)
	})
}

func (s *server) sideBySide(ctx context.Context, in *struct {
	FocusInput
	chart.SideBySideQuery
}) (*body[chart.SideBySide], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (chart.SideBySide, error) {
		return chart.SideBySideOf(ctx, st, f, in.SideBySideQuery)
	})
}

func (s *server) flow(ctx context.Context, in *struct {
	FocusInput
	chart.FlowQuery
}) (*body[chart.Flow], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (chart.Flow, error) {
		return chart.FlowOf(ctx, st, f, in.FlowQuery)
	})
}

func (s *server) chartFile(ctx context.Context, in *struct {
	ChartTableInput
	FormatInput
	Each  bool   `query:"each" doc:"xlsx: a table for each segment of the study, besides that of by"`
	About string `query:"about" maxLength:"2000" doc:"xlsx: the focus in words, to stand under the titles"`
}) (*huma.StreamResponse, error) {
	if in.Format == "csv" && in.Each {
		return nil, problem(fmt.Errorf("%w: a CSV file holds one table; ask for a workbook (format=xlsx), or for one table", state.ErrRequest))
	}
	st, f, err := s.open(ctx, in.FocusInput)
	if err != nil {
		return nil, problem(err)
	}
	tables, err := chart.Tables(ctx, st, f, in.Query, in.Each)
	if err != nil {
		return nil, problem(err)
	}
	if in.Format == "csv" {
		return download("table.csv", export.Types["csv"], func(w io.Writer) error { return export.Table(w, tables[0]) }), nil
	}
	book := export.Workbook{
		Study: st.Study.Name, Question: st.Study.Columns[st.Column].Short(), Tables: tables,
		About: strings.TrimSpace(fmt.Sprintf("%s Revision %d.", in.About, st.Revision)),
	}
	return download("tables.xlsx", export.Types["xlsx"], book.Write), nil
}
