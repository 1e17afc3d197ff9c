package desk

import (
	"fmt"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/survey"
	"aftermath/core/text"
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
	Segment  string        `json:"segment"`
	Base     string        `json:"base" enum:"answered,respondents,coded"`
	Weighted bool          `json:"weighted"`
	Weight   string        `json:"weight,omitempty" doc:"the variable with the weights, if there is one"`
	Columns  []string      `json:"columns" doc:"the total, then the segment's values"`
	Rows     []ChartRow    `json:"rows"`
	Missing  int           `json:"missing" doc:"answers left out because they have no value in the segment"`
	Several  bool          `json:"several" doc:"a respondent may be in several columns"`
	Segments []SegmentName `json:"segments" doc:"what can be charted by"`
	Small    int           `json:"small" doc:"unweighted base under which a column is marked"`
	Tiny     int           `json:"tiny" doc:"unweighted base under which no share is shown"`
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

// SegmentName is a variable that can be charted by.
type SegmentName struct {
	Name   string `json:"name"`
	Role   string `json:"role"`
	Values int    `json:"values"`
}

// maxColumns is how many values a segment of a chart may have.
const maxColumns = 60

// Chart counts the categories by a variable (empty for the first that serves) in a focus.
func (q *Question) Chart(s *State, f Focus, segment, base string, weighted bool) (Chart, error) {
	set, err := q.Focus(s, f)
	if err != nil {
		return Chart{}, err
	}
	c := Chart{Segment: segment, Base: base, Columns: []string{"All"}, Segments: []SegmentName{}, Rows: []ChartRow{}, Small: crosstab.SmallBase, Tiny: crosstab.TinyBase}
	for _, v := range s.Study.Variables {
		if v.Role == survey.Weight && c.Weight == "" {
			c.Weight = v.Name
		}
		if len(v.Values) > 0 && len(v.Values) <= maxColumns {
			c.Segments = append(c.Segments, SegmentName{v.Name, string(v.Role), len(v.Values)})
		}
	}
	if c.Segment == "" && len(c.Segments) > 0 {
		c.Segment = c.Segments[0].Name
	}
	var weights []float64
	if weighted && s.Study.Weights != nil {
		weights, c.Weighted = s.Study.Weights, true
	}
	all, err := q.base(s, set, f, base)
	if err != nil {
		return Chart{}, err
	}
	var columns []*roaring.Bitmap
	if c.Segment != "" {
		v, err := s.Study.Variable(c.Segment)
		if err != nil {
			return Chart{}, err
		}
		if len(v.Values) > maxColumns {
			return Chart{}, fmt.Errorf("%w: %q has %d values; a chart takes up to %d", ErrRequest, v.Name, len(v.Values), maxColumns)
		}
		c.Several = v.Role == survey.Several
		c.Missing = countWithout(all, v.Filled())
		all = roaring.And(all, v.Filled())
		for _, value := range v.Values {
			c.Columns = append(c.Columns, value)
			columns = append(columns, v.With(value))
		}
	}
	var rows []*roaring.Bitmap
	for _, r := range s.Coding.Results {
		c.Rows = append(c.Rows, ChartRow{r.ID, r.Name, r.Short, len(r.Path) - 1, len(r.Children) > 0, r.Top})
		rows = append(rows, r.Answers)
	}
	if base != BaseCoded { // there is nobody uncoded among the coded
		c.Rows = append(c.Rows, ChartRow{Name: "Not coded"})
		rows = append(rows, roaring.AndNot(all, s.Coding.Coded))
	}
	c.Table = crosstab.Make(rows, columns, all, weights)
	return c, nil
}

// base is the set whose answers count as whole.
func (q *Question) base(s *State, set *roaring.Bitmap, f Focus, base string) (*roaring.Bitmap, error) {
	switch base {
	case BaseAnswered:
		return roaring.And(set, s.Reading.Index.Status(text.Answered)), nil
	case BaseCoded:
		return roaring.And(set, s.Coding.Coded), nil
	case BaseRespondents:
		return q.Focus(s, append(slices.Clone(f), Condition{Kind: "status", Text: AnyStatus}))
	}
	return nil, fmt.Errorf("%w: there is no base %q", ErrRequest, base)
}
