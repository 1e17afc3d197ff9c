package chart

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"aftermath/core/crosstab"
	"aftermath/core/frame"
	"aftermath/core/survey"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// Bases of a chart.
const (
	BaseAnswered    = "answered"
	BaseRespondents = "respondents"
	BaseCoded       = "coded"
	BaseMentions    = "mentions"
)

// Query is what a table or chart is made of.
type Query struct {
	By         string `query:"by" json:"by,omitempty" doc:"the variable whose values are the columns; or JSON: a list of lists of variables, those of one list nested, the outer first; [] for the total only; left out: the first that serves"`
	Base       string `query:"base" json:"base,omitempty" enum:"answered,respondents,coded,mentions" default:"answered" doc:"what shares are shares of"`
	Weighted   bool   `query:"weighted" json:"weighted,omitempty"`
	Rows       string `query:"rows" json:"rows,omitempty" enum:"all,nets,categories" default:"all" doc:"nets: the top level only; categories: those that are no nets"`
	Only       string `query:"only" json:"only,omitempty" doc:"JSON: a list of keys of categories; no others are rows"`
	Where      string `query:"where" json:"where,omitempty" doc:"JSON: the values that categories must have to be rows, lists by the names of fields; an empty value is none"`
	Group      string `query:"group" json:"group,omitempty" doc:"a field of categories: each of its values is a row, over the categories that have it; with rows=nets those rows alone"`
	Sort       string `query:"sort" json:"sort,omitempty" default:"frame" doc:"frame, size, name, field: and the name of a field, or the key of a column: by its share"`
	Least      int    `query:"least" json:"least,omitempty" minimum:"0" doc:"categories with fewer answers in all stand in one row"`
	Correction string `query:"correction" json:"correction,omitempty" enum:"benjamini-hochberg,holm,bonferroni,none" default:"benjamini-hochberg" doc:"of the tests of a row within a segment"`
}

// Limits of a table.
const (
	maxDepth   = 3
	maxColumns = 400
)

// nests reads which variables the columns are made of.
func (q Query) nests(s *state.State) ([][]*survey.Variable, error) {
	names, err := q.names()
	if err != nil {
		return nil, err
	}
	if names == nil {
		if first := segmentsOf(s); len(first) > 0 {
			names = [][]string{{first[0].Name}}
		}
	}
	var out [][]*survey.Variable
	for _, nest := range names {
		if len(nest) == 0 || len(nest) > maxDepth {
			return nil, fmt.Errorf("%w: up to %d variables are nested in one another", state.ErrRequest, maxDepth)
		}
		var vs []*survey.Variable
		for _, name := range nest {
			v, err := s.Study.Variable(name)
			if err != nil {
				return nil, err
			}
			if len(v.Values) > view.MaxColumns {
				return nil, fmt.Errorf(
					"%w: %q has %d values; a table takes up to %d: make a variable of bands or groups of it", state.ErrRequest, v.Name,
					len(v.Values), view.MaxColumns,
				)
			}
			if slices.Contains(vs, v) {
				return nil, fmt.Errorf("%w: %q is nested in itself", state.ErrRequest, v.Name)
			}
			vs = append(vs, v)
		}
		out = append(out, vs)
	}
	return out, nil
}

// names are those of the variables; nil where none are given.
func (q Query) names() ([][]string, error) {
	if q.By == "" {
		return nil, nil
	}
	if !strings.HasPrefix(q.By, "[") {
		return [][]string{{q.By}}, nil
	}
	names := [][]string{}
	if err := json.Unmarshal([]byte(q.By), &names); err != nil {
		return nil, fmt.Errorf("%w: what the columns are made of can't be read: %w", state.ErrRequest, err)
	}
	return names, nil
}

func (q Query) only() (keys []string, err error) {
	if q.Only == "" {
		return nil, nil
	}
	if err := json.Unmarshal([]byte(q.Only), &keys); err != nil {
		return nil, fmt.Errorf("%w: the chosen categories can't be read: %w", state.ErrRequest, err)
	}
	return keys, nil
}

// where gives the values that categories must have to be rows, by fields.
func (q Query) where(fields frame.Fields) (map[string][]string, error) {
	if q.Where == "" {
		return nil, nil
	}
	var where map[string][]string
	if err := json.Unmarshal([]byte(q.Where), &where); err != nil {
		return nil, fmt.Errorf("%w: which categories are rows can't be read: %w", state.ErrRequest, err)
	}
	for name := range where {
		if f, ok := fields.Find(name); !ok || f.Name != name {
			return nil, fmt.Errorf("%w: the field %q, by which rows are chosen, is gone; choose the rows anew", state.ErrRequest, name)
		}
	}
	return where, nil
}

// correction is how p values are adjusted.
func (q Query) correction() (crosstab.Correction, error) {
	c := crosstab.Correction(q.Correction)
	if c == "" {
		c = crosstab.BenjaminiHochberg
	}
	if !slices.Contains(crosstab.Corrections, c) {
		return c, fmt.Errorf("%w: there is no correction %q", state.ErrRequest, c)
	}
	return c, nil
}

// segmentsOf are the variables that tables are made by: those that part respondents into groups first.
func segmentsOf(s *state.State) []view.SegmentName {
	out, others := []view.SegmentName{}, []view.SegmentName{}
	for _, v := range s.Study.Variables {
		switch {
		case len(v.Values) == 0 || len(v.Values) > view.MaxColumns:
		case v.Role == survey.Number:
			others = append(others, view.NameOf(v))
		default:
			out = append(out, view.NameOf(v))
		}
	}
	return append(out, others...)
}

// byOf writes the variables of columns as a query has them.
func byOf(names [][]string) (string, error) {
	by, err := json.Marshal(names)
	return string(by), err
}
