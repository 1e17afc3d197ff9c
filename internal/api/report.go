package api

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"maps"
	"net/http"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/internal/document"
	"aftermath/internal/kept"
	"aftermath/internal/view/report"
)

// registerReport adds the routes of reports.
func registerReport(a huma.API, s *server, op func(method, path, id, summary string) huma.Operation) {
	const all = "/studies/{study}/reports"
	huma.Register(a, op(http.MethodGet, all, "reports", "The reports of a study"), s.reports)
	huma.Register(a, op(http.MethodPost, all, "add-report", "Begin a report"), s.addReport)
	huma.Register(a, op(http.MethodGet, "/house-style", "house-style", "How pictures look in all studies"), s.houseStyle)
	huma.Register(a, op(http.MethodPut, "/house-style", "set-house-style", "Set how pictures look in all studies"), s.setHouseStyle)
	const one = all + "/{report}"
	huma.Register(a, op(http.MethodGet, one, "report", "A report with what it says now"), s.report)
	huma.Register(a, op(http.MethodPost, one, "change-report", "Change a report, or undo or redo a change"), s.changeReport)
	huma.Register(a, op(http.MethodDelete, one, "drop-report", "Delete a report; it can be brought back"), s.dropReport)
	huma.Register(a, op(http.MethodPost, one+"/restore", "restore-report", "Bring a report back"), s.restoreReport)
	huma.Register(
		a, op(http.MethodGet, one+"/file", "report-file", "A report, as it is now or was frozen, as a file"), s.reportFile,
	)
	huma.Register(a, op(http.MethodPost, one+"/frozen", "freeze-report", "Keep what a report says now under a name"), s.freeze)
	const frozen = one + "/frozen/{frozen}"
	huma.Register(a, op(http.MethodGet, frozen, "frozen-report", "What a report said when it was frozen"), s.frozen)
	huma.Register(a, op(http.MethodDelete, frozen, "drop-frozen-report", "Delete a frozen report; it can be brought back"), s.dropFrozen)
	huma.Register(a, op(http.MethodPost, frozen+"/restore", "restore-frozen-report", "Bring a frozen report back"), s.restoreFrozen)
}

// StudyReportsInput names a study.
type StudyReportsInput struct {
	Study int64 `path:"study"`
}

// ReportInput names a report of a study.
type ReportInput struct {
	StudyReportsInput
	Report int64 `path:"report"`
}

// FrozenInput names a frozen report.
type FrozenInput struct {
	ReportInput
	Frozen int64 `path:"frozen"`
}

func (s *server) reports(ctx context.Context, in *StudyReportsInput) (*body[[]kept.ReportInfo], error) {
	return replied(s.kept.Reports(ctx, in.Study))
}

func (s *server) houseStyle(ctx context.Context, _ *struct{}) (*body[report.Style], error) {
	return replied(s.kept.HouseStyle(ctx))
}

func (s *server) setHouseStyle(ctx context.Context, in *struct{ Body report.Style }) (*struct{}, error) {
	return nil, problem(s.kept.SetHouseStyle(ctx, in.Body))
}

func (s *server) addReport(ctx context.Context, in *struct {
	StudyReportsInput
	Body struct {
		Name   string         `json:"name" minLength:"1" maxLength:"200"`
		Blocks []report.Block `json:"blocks,omitempty"`
	}
}) (*body[kept.ReportInfo], error) {
	return replied(s.kept.AddReport(ctx, in.Study, in.Body.Name, in.Body.Blocks))
}

func (s *server) report(ctx context.Context, in *ReportInput) (*body[kept.ReportState], error) {
	return replied(s.kept.Report(ctx, in.Study, in.Report))
}

func (s *server) changeReport(ctx context.Context, in *struct {
	ReportInput
	Body kept.ReportChange
}) (*body[kept.ReportInfo], error) {
	return replied(s.kept.ChangeReport(ctx, in.Study, in.Report, in.Body))
}

func (s *server) dropReport(ctx context.Context, in *ReportInput) (*struct{}, error) {
	return nil, problem(s.kept.DropReport(ctx, in.Study, in.Report, true))
}

func (s *server) restoreReport(ctx context.Context, in *ReportInput) (*struct{}, error) {
	return nil, problem(s.kept.DropReport(ctx, in.Study, in.Report, false))
}

func (s *server) freeze(ctx context.Context, in *struct {
	ReportInput
	Body struct {
		Name string `json:"name" minLength:"1" maxLength:"200"`
	}
}) (*body[kept.FrozenInfo], error) {
	return replied(s.kept.Freeze(ctx, in.Study, in.Report, in.Body.Name))
}

func (s *server) frozen(ctx context.Context, in *FrozenInput) (*body[report.Document], error) {
	return replied(s.kept.FrozenPage(ctx, in.Study, in.Report, in.Frozen))
}

func (s *server) dropFrozen(ctx context.Context, in *FrozenInput) (*struct{}, error) {
	return nil, problem(s.kept.DropFrozen(ctx, in.Study, in.Report, in.Frozen, true))
}

func (s *server) restoreFrozen(ctx context.Context, in *FrozenInput) (*struct{}, error) {
	return nil, problem(s.kept.DropFrozen(ctx, in.Study, in.Report, in.Frozen, false))
}

// reportFormat is the name of a file that a report is written as; empty for html.
type reportFormat string

// Schema lists the files.
func (reportFormat) Schema(huma.Registry) *huma.Schema {
	return oneName(slices.Sorted(maps.Keys(document.Formats)))
}

func (s *server) reportFile(ctx context.Context, in *struct {
	ReportInput
	Frozen int64        `query:"frozen" doc:"number of a frozen report; left out: as it is now"`
	Format reportFormat `query:"format" doc:"html if left out"`
	Print  bool         `query:"print" doc:"html: to be shown and printed, not saved"`
}) (*huma.StreamResponse, error) {
	page, err := s.kept.ReportPage(ctx, in.Study, in.Report, in.Frozen)
	if err != nil {
		return nil, problem(err)
	}
	name := cmp.Or(string(in.Format), "html")
	format := document.Formats[name]
	data, err := s.documents.Write(ctx, name, page)
	if err != nil {
		return nil, problem(fmt.Errorf("writing the report: %w", err))
	}
	write := func(w io.Writer) error {
		_, err := w.Write(data)
		return err
	}
	if in.Print {
		return &huma.StreamResponse{Body: func(ctx huma.Context) {
			ctx.SetHeader("Content-Type", format.Type)
			ctx.SetHeader("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; img-src data:; font-src data:; frame-ancestors 'none'")
			_ = write(ctx.BodyWriter()) // who left sees nothing of it
		}}, nil
	}
	return download("report."+format.Extension, format.Type, write), nil
}
