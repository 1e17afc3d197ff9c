package chart

import (
	"context"
	"fmt"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// FlowQuery asks what the same people said at two times.
type FlowQuery struct {
	By         string `query:"by" json:"by,omitempty" doc:"the variable that says when; left out: the first wave"`
	From       string `query:"from" json:"from,omitempty" doc:"its value that came first; left out: the first of them"`
	To         string `query:"to" json:"to,omitempty" doc:"its value that came after; left out: the one after from"`
	Rows       string `query:"rows" json:"rows,omitempty" enum:"nets,categories" default:"nets" doc:"nets: the top level; categories: those that are no nets"`
	Correction string `query:"correction" json:"correction,omitempty" enum:"benjamini-hochberg,holm,bonferroni,none" default:"benjamini-hochberg"`
}

// Flow is what the same people said at two times.
type Flow struct {
	By      string      `json:"by" doc:"empty where nobody answered at two times"`
	Values  []string    `json:"values" doc:"of the variable, in time"`
	Waves   []string    `json:"waves" doc:"variables that say when"`
	From    string      `json:"from"`
	To      string      `json:"to"`
	Persons int         `json:"persons" doc:"who answered at both times, an answer of theirs being in the focus"`
	Nodes   []FlowNode  `json:"nodes" doc:"categories as in the frame, then none"`
	Links   []FlowLink  `json:"links" doc:"that hold somebody"`
	Notes   []string    `json:"notes"`
	Narrow  focus.Focus `json:"narrow" doc:"narrows a focus to the answers of these people at both times"`
}

// FlowNode is a category at both times.
type FlowNode struct {
	ID        string      `json:"id" doc:"key of the category; empty for none"`
	Name      string      `json:"name"`
	Short     string      `json:"short"`
	Top       int         `json:"top" doc:"its colour; -1 for none"`
	Before    int         `json:"before" doc:"people who had it at the first time"`
	After     int         `json:"after"`
	Both      int         `json:"both" doc:"people who had it at both times"`
	Tested    bool        `json:"tested" doc:"enough people changed"`
	P         float64     `json:"p" doc:"McNemar's, of before against after; corrected for all categories"`
	FromFocus focus.Focus `json:"fromFocus" doc:"narrows a focus, with narrow, to people who had it at the first time"`
	ToFocus   focus.Focus `json:"toFocus"`
}

// FlowLink is people who had one category at the first time and another at the second.
type FlowLink struct {
	From    int `json:"from" doc:"place among the nodes, from 0"`
	To      int `json:"to"`
	Persons int `json:"persons"`
}

// FlowOf holds what people said at one time against what the same people said at another.
func FlowOf(ctx context.Context, s *state.State, f focus.Focus, q FlowQuery) (Flow, error) {
	out := Flow{
		Values: []string{}, Waves: []string{}, Nodes: []FlowNode{}, Links: []FlowLink{}, Notes: []string{}, Narrow: focus.Focus{},
	}
	correction, err := Query{Correction: q.Correction}.correction()
	if err != nil {
		return out, err
	}
	for _, v := range s.Study.Variables {
		if v.Role == survey.Wave && len(v.Values) > 1 {
			out.Waves = append(out.Waves, v.Name)
		}
	}
	persons, err := s.Study.Persons(ctx)
	if err != nil || persons == nil || q.By == "" && len(out.Waves) == 0 {
		return out, err
	}
	if q.By == "" {
		q.By = out.Waves[0]
	}
	v, err := s.Study.Variable(q.By)
	if err != nil {
		return out, err
	}
	out.By, out.Values = v.Name, s.Study.InTime(v)
	if out.From, out.To, err = between(out.Values, q); err != nil {
		return out, err
	}
	set, err := f.Answers(ctx, s)
	if err != nil {
		return out, err
	}
	answered := s.Reading.Index.Status(text.Answered)
	before, after := roaring.And(answered, v.With(out.From)), roaring.And(answered, v.With(out.To))
	who := func(of *roaring.Bitmap) *roaring.Bitmap { return crosstab.Persons(persons, of) }
	all := roaring.And(who(before), who(after))
	all.And(who(roaring.And(set, roaring.Or(before, after))))
	out.Persons = int(all.GetCardinality())
	said := func(value string, how, id string) focus.Condition {
		return focus.Is(focus.Person{Name: v.Name, Values: []string{value}, Had: how, Category: id})
	}
	out.Narrow = focus.Focus{
		focus.Is(focus.Variable{Name: v.Name, Op: "=", Values: []string{out.From, out.To}}), said(out.From, "any", ""), said(out.To, "any", ""),
	}
	var firsts, seconds []*roaring.Bitmap
	add := func(n FlowNode, has *roaring.Bitmap, how string) {
		first, second := who(roaring.And(before, has)), who(roaring.And(after, has))
		first.And(all)
		second.And(all)
		n.Before, n.After, n.Both = int(first.GetCardinality()), int(second.GetCardinality()), int(first.AndCardinality(second))
		n.FromFocus, n.ToFocus = focus.Focus{said(out.From, how, n.ID)}, focus.Focus{said(out.To, how, n.ID)}
		out.Nodes, firsts, seconds = append(out.Nodes, n), append(firsts, first), append(seconds, second)
	}
	for _, r := range s.Coding.Results {
		if ctx.Err() != nil {
			return out, ctx.Err()
		}
		if q.Rows == "categories" && len(r.Children) == 0 || q.Rows != "categories" && len(r.Path) == 1 {
			add(FlowNode{ID: r.ID, Name: r.Name, Short: r.Short, Top: r.Top}, r.Answers, "")
		}
	}
	add(FlowNode{Name: "no category", Top: -1}, roaring.AndNot(answered, s.Coding.Coded), "none")
	for i, first := range firsts {
		for j, second := range seconds {
			if n := int(first.AndCardinality(second)); n > 0 {
				out.Links = append(out.Links, FlowLink{i, j, n})
			}
		}
	}
	out.test(correction)
	level := "Categories of the top level"
	if q.Rows == "categories" {
		level = "Categories that are no nets"
	}
	out.Notes = []string{
		english.Sprintf(
			"%d people answered both in %s and in %s, by their identifiers. %s; who has several is in several "+
				"links, so links add up to more than the people.", out.Persons, out.From, out.To, level,
		),
		fmt.Sprintf("Before against after by McNemar's test, two-sided, %s among the categories; not weighted.", correctionNames[correction]),
	}
	return out, nil
}

// between are the two times that are asked for.
func between(values []string, q FlowQuery) (from, to string, err error) {
	if from = q.From; from == "" && len(values) > 0 {
		from = values[0]
	}
	at := slices.Index(values, from)
	if at < 0 {
		return "", "", fmt.Errorf("%w: there is no %q in %s", state.ErrRequest, from, q.By)
	}
	if to = q.To; to == "" {
		to = values[min(at+1, len(values)-1)]
	}
	if !slices.Contains(values, to) || to == from {
		return "", "", fmt.Errorf("%w: two times are held against each other, that differ", state.ErrRequest)
	}
	return from, to, nil
}

// test holds before against after, for each category.
func (f *Flow) test(correction crosstab.Correction) {
	var p []float64
	var of []int
	for i := range f.Nodes {
		n := &f.Nodes[i]
		standing, ok := crosstab.Paired(n.After-n.Both, n.Before-n.Both)
		if n.Tested, n.P = ok, standing.P; ok {
			p, of = append(p, standing.P), append(of, i)
		}
	}
	for k, adjusted := range correction.Adjust(p) {
		f.Nodes[of[k]].P = adjusted
	}
}
