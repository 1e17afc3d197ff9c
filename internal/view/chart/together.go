package chart

import (
	"context"
	"fmt"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// TogetherQuery asks which categories come together in answers, or with which values of a segment.
type TogetherQuery struct {
	Base string `query:"base" json:"base,omitempty" enum:"answered,respondents,coded" default:"answered" doc:"the answers among which they may meet"`
	Rows string `query:"rows" json:"rows,omitempty" enum:"all,nets,categories" default:"categories" doc:"nets: the top level only; categories: those that are no nets"`
	Only string `query:"only" json:"only,omitempty" doc:"JSON: a list of keys of categories; no others are looked at"`
	With string `query:"with" json:"with,omitempty" doc:"a variable: categories are held against its values, not against each other"`
}

// Together is how often categories meet in answers.
type Together struct {
	Base     int                `json:"base" doc:"answers among which they may meet, unweighted"`
	Nodes    []TogetherNode     `json:"nodes" doc:"categories, as in the frame; then values"`
	Pairs    []TogetherPair     `json:"pairs" doc:"of two categories that do not stand in one another, or of a category and a value"`
	Segments []view.SegmentName `json:"segments"`
	Narrow   focus.Focus        `json:"narrow" doc:"narrows a focus to the base"`
	Notes    []string           `json:"notes"`
}

// TogetherNode is a category, or a value of the segment.
type TogetherNode struct {
	Kind       string      `json:"kind" enum:"category,value"`
	Name       string      `json:"name"`
	Path       string      `json:"path"`
	Short      string      `json:"short"`
	Top        int         `json:"top" doc:"colour of its top category; -1 for a value"`
	Answers    int         `json:"answers" doc:"of the base"`
	Conditions focus.Focus `json:"conditions" doc:"narrow a focus to its answers"`

	result *Row
	set    *roaring.Bitmap
}

// TogetherPair is two of them.
type TogetherPair struct {
	A int `json:"a" doc:"place among the nodes, from 0"`
	B int `json:"b" doc:"place among the nodes, after a"`
	crosstab.CoOccurrence
	P    float64 `json:"p" doc:"of G², corrected for all pairs (Benjamini-Hochberg)"`
	Sure bool    `json:"sure" doc:"p under 0.05, and no expected count under 5"`
}

// mostNodes is how many categories and values are held against each other.
const mostNodes = 200

// TogetherOf counts how often categories meet in the answers of a focus. Counts are not weighted.
func TogetherOf(ctx context.Context, s *state.State, f focus.Focus, q TogetherQuery) (Together, error) {
	g, err := ground(ctx, s, f, Query{Base: q.Base})
	if err != nil {
		return Together{}, err
	}
	out := Together{
		Nodes: []TogetherNode{}, Pairs: []TogetherPair{}, Segments: segmentsOf(s), Narrow: append(focus.Focus{}, g.narrow...),
	}
	base := g.base
	var with *survey.Variable
	if q.With != "" {
		if with, err = s.Study.Variable(q.With); err != nil {
			return out, err
		}
		base = roaring.And(base, with.Filled())
		out.Narrow = append(out.Narrow, having(with))
	}
	out.Base = int(base.GetCardinality())
	if out.Nodes, err = g.nodes(q, with, base); err != nil {
		return out, err
	}
	for a := range out.Nodes {
		for b := a + 1; b < len(out.Nodes); b++ {
			if meets(&out.Nodes[a], &out.Nodes[b], with != nil) {
				out.Pairs = append(out.Pairs, TogetherPair{A: a, B: b})
			}
		}
	}
	p := make([]float64, len(out.Pairs))
	err = view.Each(ctx, len(out.Pairs), func(i int) {
		x := &out.Pairs[i]
		a, b := out.Nodes[x.A], out.Nodes[x.B]
		x.CoOccurrence = crosstab.NewCoOccurrence(int(a.set.AndCardinality(b.set)), a.Answers, b.Answers, out.Base)
		p[i] = crosstab.NewApart(x.Both, a.Answers, b.Answers-x.Both, out.Base-a.Answers).P
	})
	if err != nil {
		return out, err
	}
	for i, adjusted := range crosstab.FalseDiscovery(p) {
		x := &out.Pairs[i]
		x.P = adjusted
		x.Sure = adjusted < crosstab.Sure && leastExpected(out.Nodes[x.A].Answers, out.Nodes[x.B].Answers, out.Base) >= 5
	}
	out.Notes = []string{
		english.Sprintf("Among %d answers, each pair of categories that do not stand in one another; counts are not weighted.", out.Base),
		"Lift is how many times as often they meet as they would if neither drew the other; Jaccard is answers with both of those with " +
			"either. Sure pairs differ from chance by G² at 95 %, corrected after Benjamini and Hochberg for all pairs, where no expected " +
			"count is under 5.",
	}
	if with != nil {
		out.Notes[0] = english.Sprintf(
			"Among %d answers with %s, each category with each value; counts are not weighted.", out.Base, with.Spec.Short(),
		)
	}
	return out, nil
}

// nodes are what is held against each other.
func (g grounds) nodes(q TogetherQuery, with *survey.Variable, base *roaring.Bitmap) ([]TogetherNode, error) {
	level := q.Rows
	if level == "" {
		level = "categories"
	}
	rows, err := rowsOf(g.state, Query{Base: q.Base, Rows: level, Only: q.Only}, base)
	if err != nil {
		return nil, err
	}
	out := []TogetherNode{}
	add := func(n TogetherNode, all *roaring.Bitmap) {
		n.set = roaring.And(base, all)
		n.Answers = int(n.set.GetCardinality())
		out = append(out, n)
	}
	for i, r := range rows {
		if r.ID != "" {
			add(TogetherNode{
				Kind: "category", Name: r.Name, Path: r.Path, Short: r.Short, Top: r.Top, Conditions: r.Conditions, result: &rows[i],
			}, r.answers)
		}
	}
	if with != nil {
		for _, value := range g.state.Study.InTime(with) {
			add(TogetherNode{Kind: "value", Name: value, Path: value, Top: -1, Conditions: focus.Focus{is(with, value)}}, with.With(value))
		}
	}
	if len(out) > mostNodes {
		return nil, fmt.Errorf(
			"%w: %d categories and values are too many to hold against each other; choose up to %d", state.ErrRequest, len(out), mostNodes,
		)
	}
	return out, nil
}

// meets says whether a pair is looked at.
func meets(a, b *TogetherNode, withValues bool) bool {
	switch {
	case a.result != nil && b.result != nil:
		return !withValues && !a.result.result.Related(b.result.result)
	case a.result == nil && b.result == nil:
		return false
	}
	return true
}

// leastExpected is the least expected count of a 2 × 2 table.
func leastExpected(a, b, n int) float64 {
	if n == 0 {
		return 0
	}
	return float64(min(a, n-a)) * float64(min(b, n-b)) / float64(n)
}
