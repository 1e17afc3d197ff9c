package chart

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"math"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/frame"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// MeansQuery is what a table of means is made of. By does not count.
type MeansQuery struct {
	Query
	Of    string `query:"of" json:"of,omitempty" doc:"the number; the first that there is if left out"`
	Bands string `query:"bands" json:"bands,omitempty" doc:"JSON: where each band but the first begins, ascending; left out: 7 and 9 for whole numbers from 0 to 10, else none"`
}

// Means is a number, such as how likely somebody is to recommend, among those with and without each category.
type Means struct {
	Of       string             `json:"of" doc:"the number; empty if the study has none"`
	Label    string             `json:"label"`
	Numbers  []view.SegmentName `json:"numbers" doc:"what means can be taken of"`
	Bands    []string           `json:"bands" doc:"their names"`
	Edges    []float64          `json:"edges" doc:"where each band but the first begins"`
	Scale    bool               `json:"scale" doc:"whole numbers from 0 to 10: there is a net score"`
	All      MeanSide           `json:"all"`
	Rows     []MeanRow          `json:"rows"`
	Missing  int                `json:"missing" doc:"answers of the base without the number: left out"`
	Weighted bool               `json:"weighted"`
	Weight   string             `json:"weight,omitempty"`
	Narrow   focus.Focus        `json:"conditions" doc:"narrow a focus to the base"`
	Notes    []string           `json:"notes" doc:"what has to be said with the figures, a sentence each"`
}

// MeanSide is a number among some answers.
type MeanSide struct {
	crosstab.Sample
	Low   float64      `json:"low" doc:"lower end of the 95 % interval of the mean (Student's t)"`
	High  float64      `json:"high"`
	Bands []float64    `json:"bands" doc:"shares of the bands, 0 to 1"`
	Net   crosstab.Net `json:"net"`
}

// MeanRow is a category: the number among those with it and those without.
type MeanRow struct {
	Row
	With        MeanSide                `json:"with"`
	Without     MeanSide                `json:"without"`
	Difference  crosstab.MeanDifference `json:"apart" doc:"with less without"`
	Tested      bool                    `json:"tested" doc:"both bases are 30 or more, and the numbers differ"`
	Adjusted    float64                 `json:"adjusted" doc:"p, corrected for the rows of the table; 1 where there is no test"`
	Correlation crosstab.Correlation    `json:"correlation" doc:"of having the category with the number, not weighted"`
	Correlated  bool                    `json:"correlated"`
}

// MeansOf holds a number with each category against the same without it.
func MeansOf(ctx context.Context, s *state.State, f focus.Focus, q MeansQuery) (Means, error) {
	if q.Base == BaseMentions {
		return Means{}, fmt.Errorf("%w: means are of answers, not of mentions; take another base", state.ErrRequest)
	}
	g, err := ground(ctx, s, f, q.Query)
	if err != nil {
		return Means{}, err
	}
	m := Means{
		Numbers: numbersOf(s), Bands: []string{}, Edges: []float64{}, Rows: []MeanRow{}, Weighted: g.weights != nil, Weight: g.weight,
		All: MeanSide{Bands: []float64{}}, Narrow: slices.Concat(focus.Focus{}, g.narrow), Notes: []string{},
	}
	if m.Of = q.Of; m.Of == "" {
		if len(m.Numbers) == 0 {
			return m, nil
		}
		m.Of = m.Numbers[0].Name
	}
	v, err := s.Study.Variable(m.Of)
	if err != nil {
		return Means{}, err
	}
	if v.Role != survey.Number {
		return Means{}, fmt.Errorf("%w: %q is a %s; means are taken of numbers", state.ErrRequest, v.Name, v.Role)
	}
	m.Of, m.Label = v.Name, v.Spec.Short()
	base := roaring.And(g.base, v.Filled())
	m.Missing = view.CountWithout(g.base, v.Filled())
	m.Narrow = append(m.Narrow, having(v))
	rows, err := rowsOf(s, q.Query, base)
	if err != nil {
		return Means{}, err
	}
	w := weighing{numbers: v.Numbers, weights: g.weights}
	if err := w.cut(v.Filled(), q.Bands); err != nil {
		return Means{}, err
	}
	m.Bands, m.Edges, m.Scale = w.names(), append(m.Edges, w.edges...), w.scale
	all := w.sums(base)
	if m.Rows, err = w.rows(ctx, rows, base, all); err != nil {
		return Means{}, err
	}
	m.All = w.side(all)
	correctMeans(m.Rows, g.correction)
	m.Rows = arrangeMeans(m.Rows, q.Sort, s.Scheme.Fields)
	m.Notes = meanNotes(m, q, g)
	return m, nil
}

// numbersOf are the numbers of a study.
func numbersOf(s *state.State) []view.SegmentName {
	out := []view.SegmentName{}
	for _, v := range s.Study.Variables {
		if v.Role == survey.Number && !v.Filled().IsEmpty() {
			out = append(out, view.NameOf(v))
		}
	}
	return out
}

// weighing sums a number up, in bands too.
type weighing struct {
	numbers, weights []float64
	edges            []float64
	low, high        float64
	whole, scale     bool
}

// cut reads where the bands begin, and what numbers all respondents gave: bands are the same in every focus.
func (w *weighing) cut(filled *roaring.Bitmap, bands string) error {
	w.low, w.high, w.whole = math.Inf(1), math.Inf(-1), true
	for it := filled.Iterator(); it.HasNext(); {
		if x := w.numbers[it.Next()]; x == x {
			w.low, w.high = min(w.low, x), max(w.high, x)
			w.whole = w.whole && x == math.Trunc(x)
		}
	}
	w.scale = w.whole && w.low == 0 && w.high == 10 // one from 1 to 7 is another
	if bands == "" {
		if w.scale {
			w.edges = crosstab.NetEdges()
		}
		return nil
	}
	if err := json.Unmarshal([]byte(bands), &w.edges); err != nil {
		return fmt.Errorf("%w: the bands can't be read: %w", state.ErrRequest, err)
	}
	if len(w.edges) > 20 || !slices.IsSorted(w.edges) || len(slices.Compact(slices.Clone(w.edges))) < len(w.edges) {
		return fmt.Errorf("%w: bands begin at up to 20 numbers, each greater than the one before", state.ErrRequest)
	}
	return nil
}

// names are those of the bands, none where there is one only.
func (w *weighing) names() []string {
	out := []string{}
	if len(w.edges) == 0 {
		return out
	}
	plain := func(x float64) string { return english.Sprint(x) }
	between := func(from, to float64) string {
		switch {
		case !w.whole || math.Trunc(from) != from || math.Trunc(to) != to:
			return plain(from) + " to under " + plain(to)
		case to-1 <= from:
			return plain(from)
		}
		return plain(from) + "–" + plain(to-1)
	}
	first, last := "under "+plain(w.edges[0]), plain(w.edges[len(w.edges)-1])+" and over"
	wholeEdge := func(edge float64) bool { return w.whole && edge == math.Trunc(edge) }
	if edge := w.edges[0]; wholeEdge(edge) && w.low < edge {
		first = between(w.low, edge)
	}
	if edge := w.edges[len(w.edges)-1]; wholeEdge(edge) && w.high >= edge {
		last = between(edge, w.high+1)
	}
	out = append(out, first)
	for i := 1; i < len(w.edges); i++ {
		out = append(out, between(w.edges[i-1], w.edges[i]))
	}
	return append(out, last)
}

// sums are a number among some answers, as far as it can be added up and taken away.
type sums struct {
	sample crosstab.Sample
	bands  []float64 // weights
	net    []float64 // weights of the bands of a net score; nil where there is none
}

func (w *weighing) sums(set *roaring.Bitmap) sums {
	out := sums{sample: crosstab.NewSample(set, w.numbers, w.weights), bands: crosstab.Bands(set, w.numbers, w.weights, w.edges)}
	if w.scale {
		out.net = crosstab.Bands(set, w.numbers, w.weights, crosstab.NetEdges())
	}
	return out
}

// less is what is left when a part is taken away.
func (s sums) less(part sums) sums {
	out := sums{sample: s.sample.Less(part.sample)}
	left := func(all, part []float64) (out []float64) {
		for i := range all {
			out = append(out, max(0, all[i]-part[i]))
		}
		return out
	}
	out.bands, out.net = left(s.bands, part.bands), left(s.net, part.net)
	if out.sample.Answers == 0 { // else what is left is the last digits of a difference
		clear(out.bands)
		clear(out.net)
	}
	return out
}

// side is the number as it is shown.
func (w *weighing) side(s sums) MeanSide {
	side := MeanSide{Sample: s.sample, Bands: []float64{}}
	side.Low, side.High, _ = s.sample.Interval()
	if w.scale {
		side.Net = crosstab.NewNet(s.sample, s.net)
	}
	if len(w.edges) == 0 {
		return side
	}
	for _, weight := range s.bands {
		if s.sample.Weighted > 0 {
			weight /= s.sample.Weighted
		}
		side.Bands = append(side.Bands, weight)
	}
	return side
}

// rows sums up each category and what is left without it.
func (w *weighing) rows(ctx context.Context, rows []Row, base *roaring.Bitmap, all sums) ([]MeanRow, error) {
	answers := base.ToArray()
	numbers := make([]float64, len(answers))
	for i, a := range answers {
		numbers[i] = w.numbers[a]
	}
	ranks := make([]float64, len(w.numbers))
	for i, rank := range crosstab.Ranks(numbers) {
		ranks[answers[i]] = rank
	}
	plain := crosstab.NewSample(base, w.numbers, nil)
	plainRanks := crosstab.NewSample(base, ranks, nil)
	out := make([]MeanRow, len(rows))
	err := view.Each(ctx, len(rows), func(i int) {
		with := roaring.And(base, rows[i].answers)
		part := w.sums(with)
		m := MeanRow{Row: rows[i], Without: w.side(all.less(part)), With: w.side(part), Adjusted: 1}
		m.Difference, m.Tested = crosstab.CompareMeans(m.With.Sample, m.Without.Sample)
		unweighted := part.sample
		if w.weights != nil {
			unweighted = crosstab.NewSample(with, w.numbers, nil)
		}
		m.Correlation, m.Correlated = crosstab.CorrelateWith(unweighted, plain, crosstab.NewSample(with, ranks, nil), plainRanks)
		out[i] = m
	})
	return out, err
}

// correctMeans corrects p for the rows of the table that are categories.
func correctMeans(rows []MeanRow, correction crosstab.Correction) {
	var p []float64
	var of []int
	for i, r := range rows {
		if r.Tested && r.ID != "" {
			p, of = append(p, r.Difference.P), append(of, i)
		} else if r.Tested {
			rows[i].Adjusted = r.Difference.P // any category, or none: one question, not one of many
		}
	}
	for i, adjusted := range correction.Adjust(p) {
		rows[of[i]].Adjusted = adjusted
	}
}

// arrangeMeans puts rows in order: as in the frame, by name, by size, or by the mean with them ("mean", the lowest first) or
// the difference ("apart", the lowest first). Rows that sum up stay last.
func arrangeMeans(rows []MeanRow, sort string, fields frame.Fields) []MeanRow {
	compare := map[string]func(a, b MeanRow) int{
		"name":  func(a, b MeanRow) int { return cmp.Compare(a.Name, b.Name) },
		"size":  func(a, b MeanRow) int { return cmp.Compare(b.With.Weighted, a.With.Weighted) },
		"mean":  func(a, b MeanRow) int { return cmp.Compare(a.With.Mean, b.With.Mean) },
		"apart": func(a, b MeanRow) int { return cmp.Compare(a.Difference.Difference, b.Difference.Difference) },
	}[sort]
	if compare == nil {
		plain := make([]Row, len(rows))
		for i := range rows {
			plain[i] = rows[i].Row
		}
		var out []MeanRow
		for _, i := range arrange(plain, crosstab.Table{}, sort, fields, nil) {
			rows[i].Row = plain[i]
			out = append(out, rows[i])
		}
		return out
	}
	kinds := []string{RowValue, RowCategory, RowOthers, RowHidden, RowAny, RowUncoded}
	slices.SortStableFunc(rows, func(a, b MeanRow) int {
		if d := cmp.Compare(slices.Index(kinds, a.Kind), slices.Index(kinds, b.Kind)); d != 0 || a.ID == "" {
			return d
		}
		return compare(a, b)
	})
	for i := range rows {
		if rows[i].Kind == RowCategory {
			rows[i].Name = rows[i].Path // in another order, the net is not above it
		}
	}
	return rows
}

func meanNotes(m Means, q MeansQuery, g grounds) []string {
	weighted, effective := "not weighted", ""
	if m.Weighted {
		weighted, effective = "weighted by "+m.Weight, " on effective bases"
	}
	notes := []string{fmt.Sprintf("Mean of %s among %s with the category and without it, %s.", m.Label, baseNames[q.Base], weighted)}
	if m.Missing > 0 {
		notes = append(notes, fmt.Sprintf("%s without %s: left out.", sentence(view.Plural(m.Missing, "answer")), m.Label))
	}
	notes = append(notes, fmt.Sprintf(
		"Intervals are at 95 %% (Student's t; of the difference, Welch's)%s. ▲ and ▼: surely higher or lower with the category, by "+
			"Welch's test, %s among the rows; none on a base under %d. d is Cohen's, in pooled standard deviations; r is Pearson's "+
			"correlation, not weighted.",
		effective, correctionNames[g.correction], crosstab.SmallBase,
	))
	if m.Scale {
		notes = append(notes, "Net score: the share of 9 and 10 less the share of 0 to 6.")
	}
	return notes
}
