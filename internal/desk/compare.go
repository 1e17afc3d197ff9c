package desk

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/survey"
	"aftermath/core/terms"
)

// Comparison is the terms that tell two groups of answers apart.
type Comparison struct {
	Segment  string        `json:"segment"`
	Segments []SegmentName `json:"segments" doc:"variables that can be compared by"`
	Values   []string      `json:"values" doc:"of the segment"`
	A        Side          `json:"a"`
	B        Side          `json:"b"`
	Terms    []TermApart   `json:"terms" doc:"those with enough answers: the strongest of each side by G², those of A first"`
	More     int           `json:"more" doc:"terms with enough answers that are not listed"`
	Missing  int           `json:"missing" doc:"answers of the focus without a value: they are on neither side"`
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
}

// CompareQuery says what is compared with what.
type CompareQuery struct {
	By    string // a variable; the first that serves if empty
	A, B  string // values; an empty B is the rest
	Least int    // answers that a term must have on both sides together
	Limit int    // terms per side
}

// comparable lists the variables that part respondents.
func (s *State) comparable() []SegmentName {
	out := []SegmentName{}
	for _, v := range s.Study.Variables {
		if v.Role.Charted() && len(v.Values) > 1 && len(v.Values) <= maxColumns {
			out = append(out, SegmentName{v.Name, string(v.Role), len(v.Values)})
		}
	}
	return out
}

// Compare finds the terms that tell two values of a segment apart, by keyness.
func (q *Question) Compare(s *State, f Focus, want CompareQuery) (Comparison, error) {
	set, err := q.Focus(s, f)
	if err != nil {
		return Comparison{}, err
	}
	out := Comparison{Segment: want.By, Segments: s.comparable(), Terms: []TermApart{}, Values: []string{}}
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
		return out, fmt.Errorf("%w: %q has no values to compare", ErrRequest, v.Name)
	}
	if want.A == "" {
		want.A = v.Values[0]
	}
	a, b, err := sides(v, set, want)
	if err != nil {
		return out, err
	}
	out.Missing = countWithout(set, v.Filled())
	left, right := q.side(s, f, v.Name, want.A, a), q.side(s, f, v.Name, want.A+"\x00"+want.B, b)
	out.A = Side{want.A, want.A, left.Base, left.Words}
	out.B = Side{cmp.Or(want.B, "the rest"), want.B, right.Base, right.Words}
	out.Terms, out.More = s.apart(left, right, want)
	return out, nil
}

// sides are the two groups within a focus. Respondents with both values are on both sides.
func sides(v *survey.Variable, set *roaring.Bitmap, want CompareQuery) (a, b *roaring.Bitmap, err error) {
	for _, value := range []string{want.A, want.B} {
		if value != "" && !slices.Contains(v.Values, value) {
			return nil, nil, fmt.Errorf("%w: %q has no value %q", ErrRequest, v.Name, value)
		}
	}
	if want.A == want.B {
		return nil, nil, fmt.Errorf("%w: %q can't be compared with itself", ErrRequest, want.A)
	}
	a = roaring.And(set, v.With(want.A))
	if want.B != "" {
		return a, roaring.And(set, v.With(want.B)), nil
	}
	return a, roaring.AndNot(roaring.And(set, v.Filled()), v.With(want.A)), nil
}

// side counts the terms of one side.
func (q *Question) side(s *State, f Focus, by, value string, set *roaring.Bitmap) terms.Table {
	return q.counted(s, fmt.Sprint("side", by, value, f), func() terms.Table {
		return s.Counter.Count(set, s.Coding.Coded, workers())
	})
}

// apart lists the terms that are more of one side than of the other.
func (s *State) apart(left, right terms.Table, want CompareQuery) (out []TermApart, more int) {
	at := map[int32]*TermApart{}
	var order []int32
	get := func(t int32) *TermApart {
		if at[t] == nil {
			at[t] = &TermApart{Label: s.View.Terms[t].Label}
			order = append(order, t)
		}
		return at[t]
	}
	for _, r := range left.Rows {
		x := get(r.Terms[0])
		x.A, x.ATimes, x.AShare = r.Answers, r.Times, share(r.Answers, left.Base)
	}
	for _, r := range right.Rows {
		x := get(r.Terms[0])
		x.B, x.BTimes, x.BShare = r.Answers, r.Times, share(r.Answers, right.Base)
	}
	bySide := map[bool][]TermApart{}
	for _, t := range order {
		x := at[t]
		if s.View.Terms[t].Stop || x.A+x.B < want.Least {
			continue
		}
		x.Keyness = crosstab.NewKeyness(x.ATimes, left.Words, x.BTimes, right.Words)
		bySide[x.Ratio >= 0] = append(bySide[x.Ratio >= 0], *x)
	}
	for _, first := range []bool{true, false} {
		list := bySide[first]
		slices.SortFunc(list, func(a, b TermApart) int { return cmp.Or(cmp.Compare(b.G2, a.G2), strings.Compare(a.Label, b.Label)) })
		n := min(want.Limit, len(list))
		out, more = append(out, list[:n]...), more+len(list)-n
	}
	return append([]TermApart{}, out...), more
}

// TextFigures are the figures of the text of a group of answers.
type TextFigures struct {
	Name     string  `json:"name"`
	Answers  int     `json:"answers"`
	Words    int     `json:"words"`
	Distinct int     `json:"distinct" doc:"different words"`
	Richness float64 `json:"richness" doc:"different words to be expected among 1,000 of its words; 0 with fewer words than that"`
	Mean     float64 `json:"mean" doc:"words per answer"`
	Median   int     `json:"median" doc:"words per answer"`
}

// CoveragePoint says how much of the text the first terms cover.
type CoveragePoint struct {
	Terms int     `json:"terms" doc:"the most frequent ones"`
	Label string  `json:"label" doc:"the last of them"`
	Share float64 `json:"share" doc:"of all words, 0 to 1"`
}

// Corpus is what there is to know of the text of a focus as a whole.
type Corpus struct {
	Segment  string          `json:"segment"`
	Segments []SegmentName   `json:"segments"`
	Figures  []TextFigures   `json:"figures" doc:"all, then each value of the segment"`
	Coverage []CoveragePoint `json:"coverage" doc:"of all terms, stop words too"`
	Telling  []CoveragePoint `json:"telling" doc:"of the terms that are not hidden"`
	Terms    int             `json:"terms" doc:"different terms"`
	Sample   int             `json:"sample" doc:"words that richness speaks of"`
}

// richnessOf is the length of the sample that richness speaks of.
const richnessOf = 1000

// Corpus gives the figures of the text, by a segment.
func (q *Question) Corpus(s *State, f Focus, by string) (Corpus, error) {
	set, err := q.Focus(s, f)
	if err != nil {
		return Corpus{}, err
	}
	out := Corpus{Segment: by, Segments: s.comparable(), Sample: richnessOf, Figures: []TextFigures{s.figures("All", set)}}
	if by == "" && len(out.Segments) > 0 {
		out.Segment = out.Segments[0].Name
	}
	if out.Segment != "" {
		v, err := s.Study.Variable(out.Segment)
		if err != nil {
			return Corpus{}, err
		}
		if len(v.Values) > maxColumns {
			return Corpus{}, fmt.Errorf("%w: %q has %d values; %d can be shown", ErrRequest, v.Name, len(v.Values), maxColumns)
		}
		figures := make([]TextFigures, len(v.Values))
		each(len(v.Values), func(i int) { figures[i] = s.figures(v.Values[i], roaring.And(set, v.With(v.Values[i]))) })
		out.Figures = append(out.Figures, figures...)
	}
	counted, err := q.count(s, f, 1, false)
	if err != nil {
		return Corpus{}, err
	}
	out.Terms = len(counted.Rows)
	out.Coverage, out.Telling = s.coverage(counted, true), s.coverage(counted, false)
	return out, nil
}

func (s *State) figures(name string, set *roaring.Bitmap) TextFigures {
	out := TextFigures{Name: name, Answers: int(set.GetCardinality())}
	counts := make([]int, s.View.Index.Vocabulary())
	var lengths []int
	for it := set.Iterator(); it.HasNext(); {
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
		out.Median = lengths[len(lengths)/2]
	}
	return out
}

// coverage sums the occurrences of the most frequent terms, at about 60 points. Terms with several words count their
// places, so a word may count twice where merges overlap; shares stop at 1.
func (s *State) coverage(t terms.Table, hidden bool) []CoveragePoint {
	rows := slices.DeleteFunc(slices.Clone(t.Rows), func(r terms.Row) bool { return s.View.Terms[r.Terms[0]].Stop && !hidden })
	slices.SortFunc(rows, func(a, b terms.Row) int { return cmp.Or(b.Times-a.Times, int(a.Terms[0])-int(b.Terms[0])) })
	out := []CoveragePoint{}
	sum, next := 0, 1
	for i, r := range rows {
		sum += r.Times
		if i+1 == next || i == len(rows)-1 {
			out = append(out, CoveragePoint{i + 1, s.View.Terms[r.Terms[0]].Label, min(share(sum, t.Words), 1)})
			next = max(next+1, next*6/5)
		}
	}
	return out
}
