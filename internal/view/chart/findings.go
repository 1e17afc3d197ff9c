package chart

import (
	"cmp"
	"context"
	"fmt"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"aftermath/core/crosstab"
	"aftermath/core/frame"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// Findings are the strongest differences over all categories and segments.
type Findings struct {
	Tested   int           `json:"tested" doc:"categories held against the rest in a column: p is corrected for all of them"`
	Sure     int           `json:"sure" doc:"of them surely different: corrected p under 0.05"`
	Segments int           `json:"segments" doc:"variables that were looked at"`
	Weighted bool          `json:"weighted"`
	Findings []FindingHead `json:"findings" doc:"the strongest first: by the end of the interval that is nearer to no difference"`
	Notes    []string      `json:"notes" doc:"what has to be said with the figures, a sentence each"`
}

// FindingHead is a finding with those that say the same again.
type FindingHead struct {
	Finding
	Also []AlsoFound `json:"also" doc:"what it holds besides"`
}

// AlsoFound is a finding that another holds.
type AlsoFound struct {
	Finding
	Why string `json:"why" enum:"column,category,explained" doc:"column: another value of the same variable; category: its net, or a category in it; explained: within the values of the other's variable it is not sure any more"`
}

// Finding is that a category's share in a column is not that in the rest.
type Finding struct {
	Category   string        `json:"category" doc:"key"`
	Path       string        `json:"path"`
	Short      string        `json:"short"`
	Top        int           `json:"top"`
	Variable   string        `json:"variable"`
	Value      string        `json:"value"`
	Said       string        `json:"said" doc:"the finding as a sentence that begins with the category"`
	Share      float64       `json:"share" doc:"in the column, 0 to 1"`
	RestShare  float64       `json:"restShare" doc:"in the rest: the others with a value of the variable"`
	Difference float64       `json:"difference"`
	Low        float64       `json:"low" doc:"lower end of the 95 % interval of the difference (Newcombe)"`
	High       float64       `json:"high"`
	Adjusted   float64       `json:"adjusted" doc:"p, corrected for all that was looked at (Benjamini-Hochberg)"`
	Answers    int           `json:"answers" doc:"in the column with the category, unweighted"`
	Base       crosstab.Base `json:"base" doc:"of the column"`
	Rest       crosstab.Base `json:"rest" doc:"base of the rest"`
	Conditions focus.Focus   `json:"conditions" doc:"narrow a focus to the answers in the column with the category"`

	result *frame.Result
	of     *looked
	column int
}

// Limits of findings.
const (
	mostFindings = 60  // as heads
	mostGrouped  = 400 // that are grouped: the strongest
)

// looked is a variable whose columns are looked at.
type looked struct {
	variable *survey.Variable
	label    string
	filled   *roaring.Bitmap
	columns  []*roaring.Bitmap
	table    crosstab.Table
}

// FindingsOf looks at all categories in all columns of the segments, and groups what differs surely. Of the query, only Base and
// Weighted count.
func FindingsOf(ctx context.Context, s *state.State, f focus.Focus, q Query) (Findings, error) {
	g, all, segments, err := lookedAt(ctx, s, f, q)
	if err != nil {
		return Findings{}, err
	}
	out := Findings{Weighted: g.weights != nil, Segments: segments, Tested: len(all), Findings: []FindingHead{}, Notes: []string{}}
	var sure []*Finding
	for _, x := range all {
		if x.Sure() {
			sure = append(sure, x)
			g.describe(x)
		}
	}
	out.Sure = len(sure)
	slices.SortStableFunc(sure, func(a, b *Finding) int { return cmp.Compare(b.strength(), a.strength()) })
	if out.Findings, err = g.grouped(ctx, sure[:min(len(sure), mostGrouped)]); err != nil {
		return Findings{}, err
	}
	out.Findings = out.Findings[:min(len(out.Findings), mostFindings)]
	out.Notes = findingNotes(out, q, g.weight)
	return out, nil
}

// FindingOf looks at one of all categories and columns again: p is corrected for all of them, as in FindingsOf. It is nil where it
// can't be tested, or is there no more.
func FindingOf(ctx context.Context, s *state.State, f focus.Focus, q Query, category, variable, value string) (*Finding, []string, error) {
	g, all, segments, err := lookedAt(ctx, s, f, q)
	if err != nil {
		return nil, nil, err
	}
	sure := 0
	for _, x := range all {
		if x.Sure() {
			sure++
		}
	}
	// What is said of the order of a list is not said of one.
	notes := findingNotes(Findings{Weighted: g.weights != nil, Segments: segments, Tested: len(all), Sure: sure}, q, g.weight)[:2]
	v, err := s.Study.Variable(variable)
	if err != nil {
		return nil, nil, err
	}
	for _, x := range all {
		if x.Category == category && x.of.variable == v && x.Value == value {
			g.describe(x)
			return x, notes, nil
		}
	}
	return nil, notes, nil
}

// lookedKey names what was looked at in a focus.
type lookedKey struct {
	focus    focus.Key
	base     string
	weighted bool
}

// Most: a report tells several findings of one focus.
func (lookedKey) Most() int { return 3 }

// everything is all findings that can be tested, with p corrected for all of them.
type everything struct {
	findings []Finding
	segments int // variables that they are of
}

// lookedAt are all findings that can be tested, with p corrected for all of them, and how many variables they are of.
func lookedAt(ctx context.Context, s *state.State, f focus.Focus, q Query) (g grounds, all []*Finding, segments int, err error) {
	if q.Base == BaseMentions {
		return g, nil, 0, fmt.Errorf("%w: mentions are not tested; take answers as the base", state.ErrRequest)
	}
	if g, err = ground(ctx, s, f, Query{Base: q.Base, Weighted: q.Weighted}); err != nil {
		return g, nil, 0, err
	}
	key := lookedKey{f.Key(), q.Base, g.weights != nil}
	known, err := state.Remember(ctx, s.Memo, key, func(ctx context.Context) (everything, error) { return g.lookAtAll(ctx) })
	for _, x := range known.findings { // a copy of each: what is said of it is worked out later
		all = append(all, &x)
	}
	return g, all, known.segments, err
}

func (g grounds) lookAtAll(ctx context.Context) (out everything, err error) {
	var p []float64
	for _, v := range g.state.Study.Variables {
		if v.Role == survey.Number || !view.Splits(v) {
			continue
		}
		l, err := g.look(ctx, v)
		if err != nil {
			return out, err
		}
		out.segments++
		for _, x := range l.findings(g.state.Coding.Results) {
			out.findings, p = append(out.findings, *x), append(p, x.Adjusted)
		}
	}
	for i, adjusted := range crosstab.FalseDiscovery(p) {
		out.findings[i].Adjusted = adjusted
	}
	return out, nil
}

// look counts all categories by the values of a variable.
func (g grounds) look(ctx context.Context, v *survey.Variable) (*looked, error) {
	l := &looked{variable: v, label: v.Spec.Short(), filled: roaring.And(g.base, v.Filled())}
	for _, value := range v.Values {
		l.columns = append(l.columns, roaring.And(l.filled, v.With(value)))
	}
	q := crosstab.Query{
		Base: l.filled, Weights: g.weights, Groups: []crosstab.Group{{Columns: l.columns}}, Correction: crosstab.NoCorrection,
		Workers: state.Workers(),
	}
	for _, r := range g.state.Coding.Results {
		q.Rows = append(q.Rows, r.Answers)
	}
	var err error
	l.table, err = crosstab.Make(ctx, q)
	return l, err
}

// findings are all that can be tested; of a variable with two values, that for the value with the greater share. Adjusted is p as
// it is.
func (l *looked) findings(results []*frame.Result) (out []*Finding) {
	for r, result := range results {
		for i, cell := range l.table.Cells[r][1:] {
			if !cell.Rest.Tested || len(l.columns) == 2 && l.apart() && cell.Rest.Z <= 0 {
				continue
			}
			out = append(out, &Finding{
				Category: result.ID, Path: result.PathName(), Short: result.Short, Top: result.Top, Variable: l.variable.Name,
				Value: l.variable.Values[i], Share: cell.Share, Difference: cell.Rest.Difference, Adjusted: cell.Rest.P,
				Answers: cell.Answers, Base: l.table.Bases[i+1], result: result, of: l, column: i,
			})
		}
	}
	return out
}

func (l *looked) apart() bool { return l.variable.Role != survey.Several }

// describe works out what is said of a finding.
func (g grounds) describe(f *Finding) {
	f.Rest = crosstab.NewBase(roaring.AndNot(f.of.filled, f.of.columns[f.column]), g.weights)
	f.RestShare = f.Share - f.Difference
	f.Low, f.High = crosstab.Difference(
		crosstab.Portion{Share: f.Share, Base: f.Base.Effective}, crosstab.Portion{Share: max(0, f.RestShare), Base: f.Rest.Effective},
	)
	f.Conditions = slices.Concat(g.narrow, focus.Focus{focus.Is(focus.Category{ID: f.Category}), is(f.of.variable, f.Value)})
	f.Said = f.sentence()
}

// Sure says whether it differs surely, after all that was looked at.
func (f *Finding) Sure() bool { return f.Adjusted < crosstab.Sure }

// strength is how far from no difference the nearer end of the interval is.
func (f *Finding) strength() float64 {
	if f.Difference < 0 {
		return -f.High
	}
	return f.Low
}

var english = message.NewPrinter(language.English)

// sentence says it in words: "comes up in 13.7 % of answers where passenger type is Commuter, against 3.6 % of the others …".
func (f *Finding) sentence() string {
	share, rest := f.Share, max(0, f.RestShare)
	times := ""
	switch {
	case rest > 0 && share/rest >= 1.5:
		times = english.Sprintf(", %.1f times as often", share/rest)
	case share > 0 && rest/share >= 1.5:
		times = english.Sprintf(", where it is %.1f times as often", rest/share)
	}
	return english.Sprintf(
		"comes up in %.1f %% of answers where %s is %s, against %.1f %% of the others%s "+
			"(difference %s points, 95 %% interval %s to %s; bases %d and %d).",
		100*share, f.of.label, f.Value, 100*rest, times, points(f.Difference), points(f.Low), points(f.High),
		f.Base.Answers, f.Rest.Answers,
	)
}

// points is a difference of shares in points, with its sign.
func points(d float64) string {
	if d < 0 {
		return english.Sprintf("−%.1f", -100*d)
	}
	return english.Sprintf("+%.1f", 100*d)
}

// grouped brings together what says the same again: the strongest is the head.
func (g grounds) grouped(ctx context.Context, sure []*Finding) ([]FindingHead, error) {
	heads := []FindingHead{}
	for _, x := range sure {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		at, why := -1, ""
		for i := range heads {
			if why = g.holds(&heads[i].Finding, x); why != "" {
				at = i
				break
			}
		}
		if at < 0 {
			heads = append(heads, FindingHead{*x, []AlsoFound{}})
			continue
		}
		heads[at].Also = append(heads[at].Also, AlsoFound{*x, why})
	}
	return heads, nil
}

// holds says why a finding is no news beside another; empty: it is.
func (g grounds) holds(head, x *Finding) string {
	switch {
	case !head.result.Related(x.result):
		return ""
	case head.of == x.of && head.column == x.column && head.Difference*x.Difference > 0:
		return "category"
	case head.of == x.of:
		return "column"
	case !g.standsWithin(head.of, x):
		return "explained"
	}
	return ""
}

// standsWithin says whether a finding is still sure among answers that are equal in another variable, its layers; those
// without a value of it are a layer too.
func (g grounds) standsWithin(other *looked, x *Finding) bool {
	column, has := x.of.columns[x.column], x.result.Answers
	rest := roaring.AndNot(x.of.filled, column)
	within := other.columns
	if !other.apart() {
		within = parts(other.columns, other.filled) // layers must be apart: each set of values is one
	}
	portion := func(side, layer *roaring.Bitmap) crosstab.Portion {
		in := roaring.And(side, layer)
		base := crosstab.NewBase(in, g.weights)
		if base.Weighted == 0 {
			return crosstab.Portion{}
		}
		in.And(has)
		return crosstab.Portion{Share: crosstab.NewBase(in, g.weights).Weighted / base.Weighted, Base: base.Effective}
	}
	var layers []crosstab.Layer
	for _, layer := range append(slices.Clone(within), roaring.AndNot(x.of.filled, other.filled)) {
		layers = append(layers, crosstab.Layer{First: portion(column, layer), Second: portion(rest, layer)})
	}
	s, ok := crosstab.Across(layers)
	return ok && s.P < crosstab.Sure && s.Z*x.Difference > 0
}

// mostParts is how many sets of values of a variable with several are told apart.
const mostParts = 64

// parts cut a set so that the answers of each part are in the same of some sets. Sets after which there would be too many parts
// are passed over.
func parts(sets []*roaring.Bitmap, whole *roaring.Bitmap) []*roaring.Bitmap {
	out := []*roaring.Bitmap{whole}
	for _, set := range sets {
		var next []*roaring.Bitmap
		for _, part := range out {
			for _, piece := range []*roaring.Bitmap{roaring.And(part, set), roaring.AndNot(part, set)} {
				if !piece.IsEmpty() {
					next = append(next, piece)
				}
			}
		}
		if len(next) > mostParts {
			break
		}
		out = next
	}
	return out
}

func findingNotes(f Findings, q Query, weight string) []string {
	weighted := "not weighted"
	if f.Weighted {
		weighted = "weighted by " + weight + ", tested on effective bases"
	}
	return []string{
		english.Sprintf(
			"All categories by %s: %d columns of categories were held against the rest of their segment, and %d are surely different "+
				"(two-sided pooled z tests at 95 %%, corrected after Benjamini and Hochberg for all of them).",
			view.Plural(f.Segments, "segment"), f.Tested, f.Sure,
		),
		fmt.Sprintf("Shares of %s, %s.", baseNames[q.Base], weighted),
		"In order of the difference that is sure at least. A finding that another explains stands below it: it is not sure any more " +
			"among answers that are equal in the other's segment (Mantel and Haenszel).",
	}
}
