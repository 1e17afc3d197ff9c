package api

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/core/frame"
	"aftermath/core/survey"
	"aftermath/internal/desk/state"
	"aftermath/internal/export"
)

// registerCoded adds the route of the coded data.
func registerCoded(a huma.API, s *server, op func(method, path, id, summary string) huma.Operation) {
	huma.Register(a, op(http.MethodGet, "/questions/{question}/coded", "coded", "The coded data, in a format"), s.coded)
}

type codedInput struct {
	QuestionInput
	Format  codedFormat `query:"format" doc:"csv if left out"`
	Shape   string      `query:"shape" enum:"wide,mentions,long" default:"wide" doc:"wide: a column per category; mentions: numbers of categories in columns; long: a row per answer and category"`
	Values  string      `query:"values" enum:"digits,yesno,labels" default:"digits" doc:"wide: 1 and 0, yes and no, or the category's name"`
	Hand    bool        `query:"hand" default:"true" doc:"with the decisions by hand"`
	Show    string      `query:"show" enum:"written,read,cleaned,none" default:"written" doc:"answers as written; as people read them, without tags; as they were cleaned; or not at all"`
	Masked  bool        `query:"masked" doc:"with personal data masked, even where the study does not mask it"`
	Columns string      `query:"columns" doc:"JSON: the columns of the data that come along, by name; all if left out"`
	Pack    bool        `query:"pack" doc:"a ZIP file with a data dictionary, the list of categories and, for CSV, metadata (CSVW) beside it"`
}

// codedFormat is the name of a format of coded data; empty for the usual one.
type codedFormat string

// Schema lists the formats.
func (codedFormat) Schema(huma.Registry) *huma.Schema {
	var names []string
	for _, f := range export.CodedFormats {
		names = append(names, f.Name)
	}
	return oneName(names)
}

// oneName describes one of some names.
func oneName(names []string) *huma.Schema {
	s := &huma.Schema{Type: huma.TypeString}
	for _, name := range names {
		s.Enum = append(s.Enum, name)
	}
	s.PrecomputeMessages()
	return s
}

func (s *server) coded(ctx context.Context, in *codedInput) (*huma.StreamResponse, error) {
	st, _, err := s.open(ctx, FocusInput{QuestionInput: in.QuestionInput})
	if err != nil {
		return nil, problem(err)
	}
	format, err := export.CodedFormatOf(cmp.Or(string(in.Format), export.CodedFormats[0].Name))
	if err != nil {
		return nil, problem(fmt.Errorf("%w: %w", state.ErrRequest, err))
	}
	c, err := in.of(ctx, st)
	if err != nil {
		return nil, problem(err)
	}
	with := map[bool]string{true: "with-decisions", false: "rules-only"}[in.Hand]
	name := fmt.Sprintf("coded-%s-%s-as-%s.%s", in.Shape, with, in.Show, format.Name)
	if in.Pack {
		return download(name+".zip", "application/zip", func(w io.Writer) error { return c.Pack(ctx, w, format) }), nil
	}
	return download(name, format.Type, func(w io.Writer) error { return c.Write(ctx, w, format) }), nil
}

// of is the coded data that is asked for.
func (in *codedInput) of(ctx context.Context, st *state.State) (export.Coded, error) {
	c := export.Coded{Index: st.Reading.Index, Coding: st.Coding, Shape: in.Shape, Values: in.Values}
	c.Data = export.Data{ID: -1, Text: -1, Decisions: st.Decisions}
	if !in.Hand {
		var err error
		c.Decisions = frame.NewDecisions()
		if c.Coding, err = st.Scheme.Code(ctx, st.View, st.Answers, st.Study.Variables, frame.NewDecisions(), st.Coding); err != nil {
			return c, err
		}
	}
	chosen, err := in.chosen(st)
	if err != nil {
		return c, err
	}
	suffix := map[string]string{"read": " (as read)", "cleaned": " (cleaned)"}[in.Show]
	for i, column := range chosen {
		spec := st.Study.Columns[column]
		name := spec.Name
		if spec.Role == survey.OpenEnded {
			name += suffix
		}
		c.Columns = append(c.Columns, name)
		if spec.Role == survey.Identifier && c.ID < 0 {
			c.ID = i
		}
		if column == st.Column {
			c.Text = i
		}
	}
	c.Cell = func(row, column int) string { return in.cell(st, row, chosen[column]) }
	return c, nil
}

// chosen are the columns of the study that come along.
func (in *codedInput) chosen(st *state.State) (out []int, err error) {
	var names []string
	if in.Columns != "" {
		if err := json.Unmarshal([]byte(in.Columns), &names); err != nil {
			return nil, fmt.Errorf("%w: the columns can't be read: %w", state.ErrRequest, err)
		}
		for _, name := range names {
			if !slices.ContainsFunc(st.Study.Columns, func(s survey.Spec) bool { return s.Name == name }) {
				return nil, fmt.Errorf("%w: there is no column %q", state.ErrRequest, name)
			}
		}
	}
	for i, spec := range st.Study.Columns {
		if in.Columns != "" && !slices.Contains(names, spec.Name) || in.Show == "none" && spec.Role == survey.OpenEnded {
			continue
		}
		out = append(out, i)
	}
	return out, nil
}

// cell is a cell as it is asked for.
func (in *codedInput) cell(st *state.State, row, column int) string {
	open := st.Study.Columns[column].Role == survey.OpenEnded
	cell := st.Cell(row, column)
	if open && in.Show == "read" {
		cell = st.CellAsRead(row, column)
	}
	if in.Masked {
		cell = st.Reading.Masker.Mask(cell)
	}
	if open && in.Show == "cleaned" {
		cell = st.Reading.Pipeline.Clean(cell).Text
	}
	return cell
}
