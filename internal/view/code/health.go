package code

import (
	"aftermath/internal/view/termview"

	"cmp"
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/crosstab"
	"aftermath/core/frame"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// Health is what in a code frame wants a look.
type Health struct {
	Base     int               `json:"base" doc:"answers of the focus"`
	Coded    int               `json:"coded"`
	Leaves   []CategoryCount   `json:"leaves" doc:"categories without children, in the order of the frame"`
	Matrix   [][]int           `json:"matrix" doc:"answers that two of them have both; one with itself: all it has"`
	Overlaps []Overlap         `json:"overlaps" doc:"pairs that have half of the smaller one or more in common, the closest first"`
	Rules    []RuleHealth      `json:"rules" doc:"those that can't be read, then those that match nothing or add nothing"`
	Resting  int               `json:"resting" doc:"rules that rest; what their category would have is not counted"`
	Small    []CategoryCount   `json:"small" doc:"categories with fewer answers than asked for"`
	Least    int               `json:"least"`
	Unused   []UnusedTerm      `json:"unused" doc:"terms that no rule looks for, those with the most uncoded answers first"`
	Segments []SegmentCoverage `json:"segments" doc:"coverage by the values of each variable"`
	Tested   int               `json:"tested" doc:"values that were tested against the rest"`
}

// Overlap is two categories with many answers in common.
type Overlap struct {
	A     CategoryCount `json:"a"`
	B     CategoryCount `json:"b"`
	Both  int           `json:"both"`
	Share float64       `json:"share" doc:"of the smaller one, 0 to 1"`
	crosstab.CoOccurrence
}

// RuleHealth is a rule that does nothing.
type RuleHealth struct {
	Category CategoryCount `json:"category"`
	Rule     string        `json:"rule"`
	Unless   bool          `json:"unless,omitempty"`
	Bad      bool          `json:"bad,omitempty" doc:"it can't be read"`
	Message  string        `json:"message"`
}

// UnusedTerm is a term that no rule looks for.
type UnusedTerm struct {
	Label   string `json:"label"`
	Answers int    `json:"answers"`
	Uncoded int    `json:"uncoded"`
}

// SegmentCoverage is how much of a segment is coded.
type SegmentCoverage struct {
	Variable string  `json:"variable"`
	Value    string  `json:"value"`
	Base     int     `json:"base"`
	Coded    int     `json:"coded"`
	Share    float64 `json:"share" doc:"0 to 1"`
	Rest     float64 `json:"rest" doc:"among those with another value"`
	Differs  int     `json:"differs" doc:"1 above the rest, -1 below it, 0 not surely: two-sided z test at 5 %, adjusted (Benjamini-Hochberg)"`
}

const (
	closeOverlap = 0.5
	mostUnused   = 40
	mostMatrix   = 80 // categories in the matrix
)

// HealthOf looks the code frame over in a focus. Least is the size under which a category is small.
func HealthOf(ctx context.Context, s *state.State, f focus.Focus, least int) (Health, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Health{}, err
	}
	out := Health{
		Base:     int(set.GetCardinality()),
		Coded:    int(set.AndCardinality(s.Coding.Coded)),
		Least:    least,
		Leaves:   []CategoryCount{},
		Matrix:   [][]int{},
		Overlaps: []Overlap{},
		Rules:    []RuleHealth{},
		Small:    []CategoryCount{},
		Unused:   []UnusedTerm{},
		Segments: []SegmentCoverage{},
	}
	var leaves []*roaring.Bitmap
	for _, r := range s.Coding.Results {
		here := roaring.And(set, r.Answers)
		n := categoryCount(r, int(here.GetCardinality()))
		if n.Answers < least {
			out.Small = append(out.Small, n)
		}
		out.Resting += len(r.Resting)
		if r.Off {
			out.Resting += len(r.Category.Rules)
		}
		if len(r.Children) == 0 {
			out.Leaves = append(out.Leaves, n)
			leaves = append(leaves, here)
		}
		out.Rules = append(out.Rules, idleRules(r, n)...)
	}
	slices.SortStableFunc(out.Rules, func(a, b RuleHealth) int {
		switch {
		case a.Bad == b.Bad:
			return 0
		case a.Bad:
			return -1
		}
		return 1
	})
	slices.SortStableFunc(out.Small, func(a, b CategoryCount) int { return a.Answers - b.Answers })
	out.overlap(leaves)
	if err := unused(ctx, s, f, &out); err != nil {
		return out, err
	}
	out.cover(s, set)
	return out, nil
}

func idleRules(r *frame.Result, n CategoryCount) (out []RuleHealth) {
	idle := r.Idle()
	for i, x := range r.Rules {
		if !x.Readable() {
			out = append(out, RuleHealth{n, x.Source, false, true, x.Problems[0].Message})
		} else if idle[i] != "" {
			out = append(out, RuleHealth{n, x.Source, false, false, idle[i]})
		}
	}
	for _, x := range r.Unless {
		switch {
		case !x.Readable():
			out = append(out, RuleHealth{n, x.Source, true, true, x.Problems[0].Message})
		case x.Answers.IsEmpty():
			out = append(out, RuleHealth{n, x.Source, true, false, "matches no answer"})
		case !takesAway(r, x):
			out = append(out, RuleHealth{n, x.Source, true, false, "takes nothing away: no rule of the category finds what it matches"})
		}
	}
	return out
}

func takesAway(r *frame.Result, unless frame.RuleResult) bool {
	return slices.ContainsFunc(r.Rules, func(x frame.RuleResult) bool { return x.Answers.Intersects(unless.Answers) })
}

// overlap fills in the matrix and the pairs that are close.
func (h *Health) overlap(leaves []*roaring.Bitmap) {
	for i, a := range leaves[:min(len(leaves), mostMatrix)] {
		row := make([]int, min(len(leaves), mostMatrix))
		for j, b := range leaves[:len(row)] {
			switch {
			case j < i:
				row[j] = h.Matrix[j][i]
			case j == i:
				row[j] = h.Leaves[i].Answers
			default:
				row[j] = int(a.AndCardinality(b))
			}
			if both, smaller := row[j], min(h.Leaves[i].Answers, h.Leaves[j].Answers); j < i && both > 0 &&
				view.Share(both, smaller) >= closeOverlap {
				h.Overlaps = append(h.Overlaps, Overlap{h.Leaves[j], h.Leaves[i], both, view.Share(both, smaller),
					crosstab.NewCoOccurrence(both, h.Leaves[j].Answers, h.Leaves[i].Answers, h.Base)})
			}
		}
		h.Matrix = append(h.Matrix, row)
	}
	slices.SortStableFunc(h.Overlaps, func(a, b Overlap) int { return cmp.Compare(b.Jaccard, a.Jaccard) })
}

// unused lists the terms that no rule looks for.
func unused(ctx context.Context, s *state.State, f focus.Focus, out *Health) error {
	counted, err := termview.Count(ctx, s, f, 1, false)
	if err != nil {
		return err
	}
	used := termview.Ruled(s)
	for _, r := range counted.Rows {
		if t := r.Terms[0]; !used[t] && !s.View.Terms[t].Stop {
			out.Unused = append(out.Unused, UnusedTerm{s.View.Terms[t].Label, r.Answers, r.Uncoded})
		}
	}
	slices.SortFunc(out.Unused, func(a, b UnusedTerm) int {
		return cmp.Or(b.Uncoded-a.Uncoded, b.Answers-a.Answers, cmp.Compare(a.Label, b.Label))
	})
	out.Unused = out.Unused[:min(len(out.Unused), mostUnused)]
	return nil
}

// cover fills in how much of each segment is coded.
func (h *Health) cover(s *state.State, set *roaring.Bitmap) {
	coded := roaring.And(set, s.Coding.Coded)
	var p []float64
	var tested []int
	for _, v := range s.Study.Variables {
		if !v.Role.Charted() || len(v.Values) > view.MaxColumns {
			continue
		}
		filled := roaring.And(set, v.Filled())
		n, k := int(filled.GetCardinality()), int(coded.AndCardinality(filled))
		for _, value := range v.Values {
			with := v.With(value)
			n1, k1 := int(filled.AndCardinality(with)), int(coded.AndCardinality(with))
			x := SegmentCoverage{
				Variable: v.Name,
				Value:    value,
				Base:     n1,
				Coded:    k1,
				Share:    view.Share(k1, n1),
				Rest:     view.Share(k-k1, n-n1),
			}
			if test, ok := crosstab.CompareShares(k1, n1, k-k1, n-n1); ok {
				p, tested = append(p, test.P), append(tested, len(h.Segments))
			}
			h.Segments = append(h.Segments, x)
		}
	}
	h.Tested = len(p)
	for i, adjusted := range crosstab.FalseDiscovery(p) {
		x := &h.Segments[tested[i]]
		if adjusted <= 0.05 && x.Share > x.Rest {
			x.Differs = 1
		} else if adjusted <= 0.05 {
			x.Differs = -1
		}
	}
}
