// Package chart is category frequency by respondent segment.
package chart

import (
	"cmp"
	"context"
	"fmt"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/report"
	"aftermath/internal/desk/state"
)

// Bases of a chart.
const (
	BaseAnswered    = "answered"
	BaseRespondents = "respondents"
	BaseCoded       = "coded"
)

// Chart is categories by a segment.
type Chart struct {
	crosstab.Table
	Segment  string               `json:"segment"`
	Label    string               `json:"label" doc:"the short label of the segment, or its name"`
	Base     string               `json:"base" enum:"answered,respondents,coded"`
	Weighted bool                 `json:"weighted"`
	Weight   string               `json:"weight,omitempty" doc:"the variable with the weights, if there is one"`
	Columns  []string             `json:"columns" doc:"the total, then the segment's values"`
	Rows     []ChartRow           `json:"rows"`
	Missing  int                  `json:"missing" doc:"answers left out because they have no value in the segment"`
	Several  bool                 `json:"several" doc:"a respondent may be in several columns"`
	Segments []report.SegmentName `json:"segments" doc:"what can be charted by"`
	// Suggested is said wherever the figures go.
	Suggested int `json:"suggested" doc:"answers of the base to which categories were put on since they are likely, unread"`
	Small     int `json:"small" doc:"unweighted base under which a column is marked"`
	Tiny      int `json:"tiny" doc:"unweighted base under which no share is shown"`
}

// ChartRow is a category.
type ChartRow struct {
	ID    string `json:"id" doc:"empty: not coded, the last row unless the base is the coded"`
	Name  string `json:"name"`
	Short string `json:"short"`
	Depth int    `json:"depth"`
	Net   bool   `json:"net,omitempty"`
	Top   int    `json:"top"`
}

// ChartOf counts the categories by a variable (empty for the first that serves) in a focus.
func ChartOf(ctx context.Context, s *state.State, f focus.Focus, segment, base string, weighted bool) (Chart, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Chart{}, err
	}
	c := Chart{
		Segment:  segment,
		Base:     base,
		Columns:  []string{"All"},
		Segments: []report.SegmentName{},
		Rows:     []ChartRow{},
		Small:    crosstab.SmallBase,
		Tiny:     crosstab.TinyBase,
	}
	first := "" // what parts respondents into groups, before what may be charted too
	for _, v := range s.Study.Variables {
		if v.Role == survey.Weight && c.Weight == "" {
			c.Weight = v.Name
		}
		if len(v.Values) > 0 && len(v.Values) <= report.MaxColumns {
			c.Segments = append(c.Segments, report.NameOf(v))
			if first == "" && v.Role != survey.Number {
				first = v.Name
			}
		}
	}
	if c.Segment == "" && len(c.Segments) > 0 {
		c.Segment = cmp.Or(first, c.Segments[0].Name)
	}
	var weights []float64
	if weighted && s.Study.Weights != nil {
		weights, c.Weighted = s.Study.Weights, true
	}
	all, err := baseOf(ctx, s, set, f, base)
	if err != nil {
		return Chart{}, err
	}
	var columns []*roaring.Bitmap
	if c.Segment != "" {
		v, err := s.Study.Variable(c.Segment)
		if err != nil {
			return Chart{}, err
		}
		if len(v.Values) > report.MaxColumns {
			return Chart{}, fmt.Errorf(
				"%w: %q has %d values; a chart takes up to %d", state.ErrRequest, v.Name, len(v.Values), report.MaxColumns,
			)
		}
		c.Several, c.Label = v.Role == survey.Several, v.Spec.Short()
		c.Missing = report.CountWithout(all, v.Filled())
		all = roaring.And(all, v.Filled())
		for _, value := range v.Values {
			c.Columns = append(c.Columns, value)
			columns = append(columns, v.With(value))
		}
	}
	suggested := roaring.New()
	for _, set := range s.Decisions.Suggested {
		suggested.Or(set)
	}
	c.Suggested = int(suggested.AndCardinality(all))
	var rows []*roaring.Bitmap
	for _, r := range s.Coding.Results {
		c.Rows = append(c.Rows, ChartRow{r.ID, r.Name, r.Short, len(r.Path) - 1, len(r.Children) > 0, r.Top})
		rows = append(rows, r.Answers)
	}
	if base != BaseCoded { // there is nobody uncoded among the coded
		c.Rows = append(c.Rows, ChartRow{Name: "Not coded"})
		rows = append(rows, roaring.AndNot(all, s.Coding.Coded))
	}
	c.Table, err = crosstab.Make(ctx, rows, columns, all, weights)
	return c, err
}

// baseOf is the set whose answers count as whole.
func baseOf(ctx context.Context, s *state.State, set *roaring.Bitmap, f focus.Focus, base string) (*roaring.Bitmap, error) {
	switch base {
	case BaseAnswered:
		return roaring.And(set, s.Reading.Index.Status(text.Answered)), nil
	case BaseCoded:
		return roaring.And(set, s.Coding.Coded), nil
	case BaseRespondents:
		return f.With(focus.Condition{Kind: "status", Text: focus.AnyStatus}).Answers(ctx, s)
	}
	return nil, fmt.Errorf("%w: there is no base %q", state.ErrRequest, base)
}
