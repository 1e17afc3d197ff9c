package termview

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/lexicon"
	"aftermath/core/survey"
	"aftermath/core/terms"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// Comparison is the terms that tell two groups of answers apart.
type Comparison struct {
	Segment  string             `json:"segment"`
	Segments []view.SegmentName `json:"segments" doc:"variables that can be compared by"`
	Values   []string           `json:"values" doc:"of the segment"`
	A        Side               `json:"a"`
	B        Side               `json:"b"`
	Terms    []TermApart        `json:"terms" doc:"those with enough answers: of each side those that differ most surely first, those of A first"`
	Tested   int                `json:"tested" doc:"terms with enough answers, for which p is adjusted"`
	Both     int                `json:"both" doc:"answers on both sides, of respondents with both values: the test takes them for different ones"`
	Weight   string             `json:"weight,omitempty" doc:"the variable with the weights, if there is one"`
	Weighted bool               `json:"weighted" doc:"shares are weighted; tests and counts are not"`
	Small    int                `json:"small" doc:"base under which a side is marked"`
	Tiny     int                `json:"tiny" doc:"base under which no share is shown"`
	More     int                `json:"more" doc:"terms with enough answers that are not listed"`
	Missing  int                `json:"missing" doc:"answers of the focus without a value: they are on neither side"`
}

// Side is one of the two groups.
type Side struct {
	Name    string `json:"name"`
	Value   string `json:"value" doc:"empty for the rest"`
	Answers int    `json:"answers"`
	Words   int    `json:"words"`
}

// TermApart is a term with its figures on both sides.
type TermApart struct {
	Label  string  `json:"label"`
	ATimes int     `json:"aTimes"`
	BTimes int     `json:"bTimes"`
	A      int     `json:"a" doc:"answers on the first side"`
	B      int     `json:"b" doc:"answers on the second"`
	AShare float64 `json:"aShare" doc:"of the answers of that side, 0 to 1"`
	BShare float64 `json:"bShare"`
	crosstab.Keyness
	crosstab.Apart
	Adjusted float64 `json:"adjusted" doc:"p adjusted for the number of terms (Benjamini-Hochberg)"`

	terms [3]int32
}

// CompareQuery says what is compared with what.
type CompareQuery struct {
	By    string // a variable; the first that serves if empty
	A, B  string // values; an empty B is the rest
	Least int    // answers that a term must have on both sides together
	Limit int    // terms per side

	Row      int    // terms in a row: 1 to 3
	Class    string // single terms of this word class only
	Weighted bool   // shares
}

// comparable lists the variables that part respondents.
func comparable(s *state.State) []view.SegmentName {
	out := []view.SegmentName{}
	for _, v := range s.Study.Variables {
		if view.Splits(v) {
			out = append(out, view.NameOf(v))
		}
	}
	return out
}

// Compare finds the terms that tell two values of a segment apart, by keyness.
func Compare(ctx context.Context, s *state.State, f focus.Focus, want CompareQuery) (Comparison, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Comparison{}, err
	}
	out := Comparison{Segment: want.By, Segments: comparable(s), Terms: []TermApart{}, Values: []string{}}
	if out.Segment == "" && len(out.Segments) > 0 {
		out.Segment = out.Segments[0].Name
	}
	if out.Segment == "" {
		return out, nil
	}
	v, err := s.Study.Variable(out.Segment)
	if err != nil {
		return out, err
	}
	out.Values = append(out.Values, v.Values...)
	if len(v.Values) == 0 {
		return out, fmt.Errorf("%w: %q has no values to compare", state.ErrRequest, v.Name)
	}
	if want.A == "" {
		want.A = v.Values[0]
	}
	a, b, err := sides(v, set, want)
	if err != nil {
		return out, err
	}
	out.Missing = view.CountWithout(set, v.Filled())
	want.Row = min(max(want.Row, 1), 3)
	out.Both, out.Small, out.Tiny = int(a.AndCardinality(b)), crosstab.SmallBase, crosstab.TinyBase
	left, err := side(ctx, s, sideKey{f.Key(), v.Name, want.A, "", want.Row}, a)
	if err != nil {
		return out, err
	}
	right, err := side(ctx, s, sideKey{f.Key(), v.Name, want.B, want.A, want.Row}, b)
	if err != nil {
		return out, err
	}
	out.A = Side{want.A, want.A, left.Base, left.Words}
	out.B = Side{cmp.Or(want.B, "the rest"), want.B, right.Base, right.Words}
	out.Terms, out.Tested = apart(s, left, right, want)
	out.More = out.Tested - len(out.Terms)
	for _, w := range s.Study.Variables {
		if w.Role == survey.Weight && out.Weight == "" {
			out.Weight = w.Name
		}
	}
	if out.Weighted = want.Weighted && s.Study.Weights != nil; out.Weighted {
		weigh(s, out.Terms, a, b)
	}
	return out, ctx.Err()
}

// weigh has the shares of terms be of weights.
func weigh(s *state.State, list []TermApart, a, b *roaring.Bitmap) {
	ofA, ofB := crosstab.NewBase(a, s.Study.Weights).Weighted, crosstab.NewBase(b, s.Study.Weights).Weighted
	share := func(found, side *roaring.Bitmap, of float64) float64 {
		if of == 0 {
			return 0
		}
		return crosstab.NewBase(roaring.And(found, side), s.Study.Weights).Weighted / of
	}
	for i := range list {
		x := &list[i]
		found := s.View.Phrases(int(x.terms[0]))
		if x.terms[1] >= 0 {
			found = lexicon.NewPhrases(s.View.RowSequence(x.terms))
		}
		with := found.Answers(s.View.Index)
		x.AShare, x.BShare = share(with, a, ofA), share(with, b, ofB)
	}
}

// sides are the two groups within a focus. Respondents with both values are on both sides.
func sides(v *survey.Variable, set *roaring.Bitmap, want CompareQuery) (a, b *roaring.Bitmap, err error) {
	for _, value := range []string{want.A, want.B} {
		if value != "" && !slices.Contains(v.Values, value) {
			return nil, nil, fmt.Errorf("%w: %q has no value %q", state.ErrRequest, v.Name, value)
		}
	}
	if want.A == want.B {
		return nil, nil, fmt.Errorf("%w: %q can't be compared with itself", state.ErrRequest, want.A)
	}
	a = roaring.And(set, v.With(want.A))
	if want.B != "" {
		return a, roaring.And(set, v.With(want.B)), nil
	}
	return a, roaring.AndNot(roaring.And(set, v.Filled()), v.With(want.A)), nil
}

// sideKey names one side of a comparison: those of a focus with a value, or, where that is empty, the rest beside another value.
type sideKey struct {
	focus          focus.Key
	by             string
	value, besides string
	row            int // terms in a row
}

func (sideKey) Most() int { return 10 }

// side counts the terms of one side.
func side(ctx context.Context, s *state.State, key sideKey, set *roaring.Bitmap) (terms.Table, error) {
	return state.Remember(ctx, s.Memo, key, func(ctx context.Context) (terms.Table, error) {
		if key.row > 1 {
			return s.Counter.CountRows(ctx, set, s.Coding.Coded, key.row, state.Workers(), false)
		}
		return s.Counter.Count(ctx, set, s.Coding.Coded, state.Workers())
	})
}

// apart lists the terms that are more of one side than of the other, and says how many were tested.
func apart(s *state.State, left, right terms.Table, want CompareQuery) (out []TermApart, tested int) {
	at := map[[3]int32]*TermApart{}
	var order [][3]int32
	get := func(t [3]int32) *TermApart {
		if at[t] == nil {
			at[t] = &TermApart{terms: t}
			order = append(order, t)
		}
		return at[t]
	}
	for _, r := range left.Rows {
		x := get(r.Terms)
		x.A, x.ATimes, x.AShare = r.Answers, r.Times, view.Share(r.Answers, left.Base)
	}
	for _, r := range right.Rows {
		x := get(r.Terms)
		x.B, x.BTimes, x.BShare = r.Answers, r.Times, view.Share(r.Answers, right.Base)
	}
	of := func([3]int32) bool { return true }
	if want.Class != "" && want.Class != AnyClass {
		is := ofClass(s, want.Class)
		of = func(t [3]int32) bool { return is(t[0]) || t[1] >= 0 && is(t[1]) || t[2] >= 0 && is(t[2]) }
	}
	var all []*TermApart
	var p []float64
	for _, t := range order {
		x := at[t]
		if want.Row == 1 && s.View.Terms[t[0]].Stop || x.A+x.B < want.Least || !of(t) {
			continue
		}
		x.Keyness = crosstab.NewKeyness(x.ATimes, left.Words, x.BTimes, right.Words)
		x.Apart = crosstab.NewApart(x.A, left.Base, x.B, right.Base)
		all, p = append(all, x), append(p, x.P)
	}
	bySide := map[bool][]TermApart{}
	for i, adjusted := range crosstab.FalseDiscovery(p) {
		x := all[i]
		x.Adjusted = adjusted
		if x.Label = s.View.Terms[x.terms[0]].Label; want.Row > 1 {
			x.Label = label(s, terms.Row{Terms: x.terms})
		}
		bySide[x.AShare >= x.BShare] = append(bySide[x.AShare >= x.BShare], *x)
	}
	for _, first := range []bool{true, false} {
		list := bySide[first]
		slices.SortFunc(list, func(a, b TermApart) int {
			return cmp.Or(cmp.Compare(b.G2OfAnswers, a.G2OfAnswers), cmp.Compare(b.Keyness.G2, a.Keyness.G2), strings.Compare(a.Label, b.Label))
		})
		list = list[:min(want.Limit, len(list))]
		for i := range list {
			if want.Row > 1 {
				list[i].Label = s.Counter.RowLabel(list[i].terms)
			}
		}
		out = append(out, list...)
	}
	return append([]TermApart{}, out...), len(all)
}

// TextFigures are the figures of the text of a group of answers.
type TextFigures struct {
	Name     string  `json:"name"`
	Answers  int     `json:"answers"`
	Words    int     `json:"words"`
	Distinct int     `json:"distinct" doc:"different words"`
	Richness float64 `json:"richness" doc:"different words to be expected among 1,000 of its words; 0 with fewer words than that"`
	Mean     float64 `json:"mean" doc:"words per answer"`
	Median   float64 `json:"median" doc:"words per answer"`
}

// CoveragePoint says how much of the text the first terms cover.
type CoveragePoint struct {
	Terms int     `json:"terms" doc:"the most frequent ones"`
	Label string  `json:"label" doc:"the last of them"`
	Share float64 `json:"share" doc:"of all words, 0 to 1"`
}

// Corpus is what there is to know of the text of a focus as a whole.
type Corpus struct {
	Segment  string             `json:"segment"`
	Segments []view.SegmentName `json:"segments"`
	Figures  []TextFigures      `json:"figures" doc:"all, then each value of the segment"`
	Coverage []CoveragePoint    `json:"coverage" doc:"of all terms, stop words too"`
	Telling  []CoveragePoint    `json:"telling" doc:"of the terms that are not hidden"`
	Half     int                `json:"half" doc:"how many of the most frequent terms, stop words too, make up half of all words; 0 if all do not"`
	Terms    int                `json:"terms" doc:"different terms"`
	Sample   int                `json:"sample" doc:"words that richness speaks of"`
}

// richnessOf is the length of the sample that richness speaks of.
const richnessOf = 1000

// CorpusOf gives the figures of the text, by a segment.
func CorpusOf(ctx context.Context, s *state.State, f focus.Focus, by string) (Corpus, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Corpus{}, err
	}
	out := Corpus{Segment: by, Segments: comparable(s), Sample: richnessOf, Figures: []TextFigures{}}
	all, err := figures(ctx, s, "All", set)
	if err != nil {
		return Corpus{}, err
	}
	out.Figures = append(out.Figures, all)
	if by == "" && len(out.Segments) > 0 {
		out.Segment = out.Segments[0].Name
	}
	if out.Segment != "" {
		v, err := s.Study.Variable(out.Segment)
		if err != nil {
			return Corpus{}, err
		}
		if len(v.Values) > view.MaxColumns {
			return Corpus{}, fmt.Errorf(
				"%w: %q has %d values; %d can be shown", state.ErrRequest, v.Name, len(v.Values), view.MaxColumns,
			)
		}
		parts := make([]TextFigures, len(v.Values))
		err = view.Each(ctx, len(v.Values), func(i int) {
			parts[i], _ = figures(ctx, s, v.Values[i], roaring.And(set, v.With(v.Values[i]))) // Each gives the context's error
		})
		if err != nil {
			return Corpus{}, err
		}
		out.Figures = append(out.Figures, parts...)
	}
	counted, err := Count(ctx, s, f, 1, false)
	if err != nil {
		return Corpus{}, err
	}
	out.Terms = len(counted.Rows)
	if out.Coverage, out.Half, err = coverage(ctx, s, set, counted, true); err != nil {
		return Corpus{}, err
	}
	out.Telling, _, err = coverage(ctx, s, set, counted, false)
	return out, err
}

func figures(ctx context.Context, s *state.State, name string, set *roaring.Bitmap) (TextFigures, error) {
	out := TextFigures{Name: name, Answers: int(set.GetCardinality())}
	counts := make([]int, s.View.Index.Vocabulary())
	var lengths []int
	for it := set.Iterator(); it.HasNext(); {
		if len(lengths)%4096 == 0 && ctx.Err() != nil {
			return TextFigures{}, ctx.Err()
		}
		words := s.View.Index.Answer(int(it.Next()))
		out.Words += len(words)
		lengths = append(lengths, len(words))
		for _, w := range words {
			counts[w]++
		}
	}
	counts = slices.DeleteFunc(counts, func(n int) bool { return n == 0 })
	out.Distinct, out.Richness = len(counts), crosstab.Richness(counts, richnessOf)
	if len(lengths) > 0 {
		out.Mean = float64(out.Words) / float64(len(lengths))
		slices.Sort(lengths)
		out.Median = float64(lengths[len(lengths)/2]+lengths[(len(lengths)-1)/2]) / 2
	}
	return out, nil
}

// coverage says how many of all words the most frequent terms take up, at about 60 points, and how many of them make up half of
// all words. A word that two of them hold, as the merge "customer service" and "service" do, counts once. Without the hidden
// ones it is of all words too.
func coverage(ctx context.Context, s *state.State, set *roaring.Bitmap, t terms.Table, hidden bool) (out []CoveragePoint, half int, err error) {
	rows := slices.DeleteFunc(slices.Clone(t.Rows), func(r terms.Row) bool { return s.View.Terms[r.Terms[0]].Stop && !hidden })
	slices.SortFunc(rows, func(a, b terms.Row) int { return cmp.Or(b.Times-a.Times, int(a.Terms[0])-int(b.Terms[0])) })
	taken, err := wordsTaken(ctx, s, set, rows)
	if err != nil {
		return nil, 0, err
	}
	out = []CoveragePoint{}
	sum, next := 0, 1
	for i, r := range rows {
		if sum += taken[i]; half == 0 && 2*sum >= t.Words {
			half = i + 1
		}
		if i+1 == next || i == len(rows)-1 {
			out = append(out, CoveragePoint{i + 1, s.View.Terms[r.Terms[0]].Label, view.Share(sum, t.Words)})
			next = max(next+1, next*6/5)
		}
	}
	return out, half, nil
}

// wordsTaken counts, of the words of a set of answers, those that each of some terms holds and none before it.
func wordsTaken(ctx context.Context, s *state.State, set *roaring.Bitmap, rows []terms.Row) ([]int, error) {
	none := int32(len(rows))
	place := make([]int32, len(s.View.Terms))
	for t := range place {
		place[t] = none
	}
	several := map[uint32][]int32{} // by answer: terms of several words that stand there
	for i, r := range rows {
		t := r.Terms[0]
		place[t] = int32(i)
		if ps := s.View.Phrases(int(t)); !ps.Single() {
			for it := roaring.And(ps.Answers(s.View.Index), set).Iterator(); it.HasNext(); {
				a := it.Next()
				several[a] = append(several[a], t)
			}
		}
	}
	taken := make([]int, len(rows)+1)
	var first []int32 // of each word: the first term that holds it
	n := 0
	for it := set.Iterator(); it.HasNext(); n++ {
		if n%4096 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		a := it.Next()
		words := s.View.Index.Answer(int(a))
		first = first[:0]
		for _, w := range words {
			first = append(first, place[s.View.TermOf(w)])
		}
		for _, t := range several[a] {
			s.View.Phrases(int(t)).Each(words, s.View.Index.Sentences(int(a)), func(start, length int) {
				for i := start; i < start+length; i++ {
					first[i] = min(first[i], place[t])
				}
			})
		}
		for _, p := range first {
			taken[p]++
		}
	}
	return taken[:len(rows)], nil
}
