// Package chart is category frequency by respondent segment: tables with their tests, what differs most, and means.
package chart

import (
	"context"
	"fmt"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/text"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// Chart is a table of categories by segments.
type Chart struct {
	crosstab.Table
	Query    Query              `json:"query" doc:"what was asked for"`
	Nests    []Nest             `json:"nests"`
	Columns  []Column           `json:"columns" doc:"the total, then those of the nests"`
	Rows     []Row              `json:"rows"`
	Parts    bool               `json:"parts" doc:"its categories are parts of the base: nothing is counted in two rows"`
	Mean     []Mean             `json:"mean" doc:"by column: the number of categories that an answer has"`
	Weighted bool               `json:"weighted"`
	Weight   string             `json:"weight,omitempty" doc:"the variable with the weights, if there is one"`
	Segments []view.SegmentName `json:"segments" doc:"what columns can be made of"`
	// Suggested is said wherever the figures go.
	Suggested  int         `json:"suggested" doc:"answers of the base to which categories were put on since they are likely, unread"`
	Conditions focus.Focus `json:"conditions" doc:"narrow a focus to the base, whatever the segments; those of a row and a column narrow it to a cell"`
	Notes      []string    `json:"notes" doc:"what has to be said with the figures wherever they go, a sentence each"`
	Small      int         `json:"small" doc:"unweighted base under which a column is marked"`
	Tiny       int         `json:"tiny" doc:"unweighted base under which no share is shown"`
}

// Mean is a mean number with its interval.
type Mean struct {
	Value float64 `json:"value"`
	Low   float64 `json:"low" doc:"lower end of its 95 % interval (Student's t, on the effective base)"`
	High  float64 `json:"high"`
}

// ChartOf counts the categories by segments in a focus.
func ChartOf(ctx context.Context, s *state.State, f focus.Focus, q Query) (Chart, error) {
	g, err := ground(ctx, s, f, q)
	if err != nil {
		return Chart{}, err
	}
	nests, err := q.nests(s)
	if err != nil {
		return Chart{}, err
	}
	columns, err := columnsOf(ctx, s, nests, g.base)
	if err != nil {
		return Chart{}, err
	}
	rows, err := rowsOf(s, q, columns.base)
	if err != nil {
		return Chart{}, err
	}
	c := Chart{
		Query: q, Nests: columns.nests, Columns: columns.list, Rows: make([]Row, len(rows)), Segments: segmentsOf(s),
		Weighted: g.weights != nil, Weight: g.weight, Conditions: slices.Concat(focus.Focus{}, g.narrow),
		Small: crosstab.SmallBase, Tiny: crosstab.TinyBase,
	}
	t, err := g.count(ctx, rows, columns)
	if err != nil {
		return Chart{}, err
	}
	c.Bases, c.Cells, c.Tests = t.Bases, make([][]crosstab.Cell, len(rows)), make([][]crosstab.GroupTest, len(rows))
	for to, from := range arrange(rows, t, q.Sort, s.Scheme.Fields, c.Columns) {
		c.Rows[to], c.Cells[to], c.Tests[to] = rows[from], t.Cells[from], t.Tests[from]
	}
	c.Parts = g.apart(rows, columns.base)
	if c.Mean, err = g.mean(ctx, columns); err != nil {
		return Chart{}, err
	}
	c.Suggested = int(s.Suggested().AndCardinality(columns.base))
	c.Notes = notesOf(c, g.correction)
	return c, nil
}

// grounds is what figures of a focus are worked out on.
type grounds struct {
	state      *state.State
	query      Query
	correction crosstab.Correction
	base       *roaring.Bitmap
	narrow     focus.Focus // narrows the focus to the base
	weights    []float64   // nil: each answer counts as 1
	weight     string      // the variable with the weights
}

func ground(ctx context.Context, s *state.State, f focus.Focus, q Query) (grounds, error) {
	g := grounds{state: s, query: q}
	var err error
	if g.correction, err = q.correction(); err != nil {
		return g, err
	}
	set, err := f.Answers(ctx, s)
	if err != nil {
		return g, err
	}
	switch q.Base {
	case BaseAnswered, "":
		g.base = roaring.And(set, s.Reading.Index.Status(text.Answered))
	case BaseCoded, BaseMentions:
		g.base = roaring.And(set, s.Coding.Coded)
		g.narrow = focus.Focus{focus.Is(focus.Coded{})}
	case BaseRespondents:
		any := focus.Is(focus.Status{Name: focus.AnyStatus})
		g.narrow = focus.Focus{any}
		if g.base, err = f.With(any).Answers(ctx, s); err != nil {
			return g, err
		}
	default:
		return g, fmt.Errorf("%w: there is no base %q", state.ErrRequest, q.Base)
	}
	g.weight = s.Study.Weight()
	if q.Weighted && s.Study.Weights != nil {
		g.weights = s.Study.Weights
	}
	return g, nil
}

// count counts rows by columns, of answers or of mentions.
func (g grounds) count(ctx context.Context, rows []Row, of columns) (crosstab.Table, error) {
	q := crosstab.Query{
		Base: of.base, Weights: g.weights, Groups: of.groups, Correction: g.correction, Workers: state.Workers(),
	}
	if g.query.Base != BaseMentions {
		for _, r := range rows {
			q.Rows = append(q.Rows, r.answers)
		}
		return crosstab.Make(ctx, q)
	}
	results := g.state.Coding.Results
	for _, r := range results {
		q.Rows = append(q.Rows, r.Carries())
	}
	own, err := crosstab.Make(ctx, q)
	if err != nil {
		return own, err
	}
	// The bases are the mentions of all categories.
	return own.Mentions(mentionsUnder(results, rows)), nil
}

// apart says whether nothing is counted in two of the rows.
func (g grounds) apart(rows []Row, base *roaring.Bitmap) bool {
	var sets []*roaring.Bitmap
	sum := uint64(0)
	if g.query.Base == BaseMentions {
		counted := map[int]bool{} // categories whose mentions a row has
		for i, under := range mentionsUnder(g.state.Coding.Results, rows) {
			if rows[i].ID == "" {
				continue
			}
			for _, category := range under {
				if counted[category] {
					return false
				}
				counted[category] = true
			}
		}
		return true
	}
	for _, r := range rows {
		if r.ID == "" {
			continue
		}
		sets = append(sets, r.answers)
		sum += r.answers.AndCardinality(base)
	}
	return sum == roaring.FastOr(sets...).AndCardinality(base)
}

// mean is the mean number of categories of an answer in each column.
func (g grounds) mean(ctx context.Context, of columns) ([]Mean, error) {
	numbers, err := g.state.CategoryCounts(ctx)
	if err != nil {
		return nil, err
	}
	sets := []*roaring.Bitmap{of.base}
	for _, group := range of.groups {
		sets = append(sets, group.Columns...)
	}
	out := make([]Mean, len(sets))
	err = view.Each(ctx, len(sets), func(i int) {
		sample := crosstab.NewCountSample(sets[i], numbers, g.weights)
		out[i].Value = sample.Mean
		out[i].Low, out[i].High, _ = sample.Interval()
	})
	return out, err
}

// Tables are the table of a query and, if each is set, one more for each segment of the study that is not the only one in it.
func Tables(ctx context.Context, s *state.State, f focus.Focus, q Query, each bool) ([]Chart, error) {
	first, err := ChartOf(ctx, s, f, q)
	if err != nil {
		return nil, err
	}
	out := []Chart{first}
	if !each {
		return out, nil
	}
	for _, v := range s.Study.Variables {
		if !view.Splits(v) || len(first.Nests) == 1 && slices.Equal(first.Nests[0].Variables, []string{v.Name}) {
			continue
		}
		next := q
		if next.By, err = byOf([][]string{{v.Name}}); err != nil {
			return nil, err
		}
		table, err := ChartOf(ctx, s, f, next)
		if err != nil {
			return nil, err
		}
		out = append(out, table)
	}
	return out, nil
}
