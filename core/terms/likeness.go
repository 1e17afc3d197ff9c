package terms

import (
	"cmp"
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"
)

// Likeness is a term with how much what stands around it is like what stands around certain places.
type Likeness struct {
	Term  int
	Score float64 // cosine, 0 to 1
}

// mostRead is how many answers are read for likeness: of more, every so manieth.
const mostRead = 100_000

// LikeAround finds the terms among the chosen around which the same words stand as around places: what stands one or two
// words before and after, by positive pointwise mutual information, compared by cosine (J. A. Bullinaria and J. P. Levy,
// 2007). The places themselves are not counted for the terms. The likest come first; those under a cosine of 0.3 are left
// out. It costs one walk through the answers, or through 100,000 of them.
func (c *Counter) LikeAround(ctx context.Context, focus *roaring.Bitmap, places []Place, chosen []int) ([]Likeness, error) {
	v := c.View
	ix := v.Index
	place := make([]int32, len(v.Terms)) // of each term among the chosen, plus one
	for i, t := range chosen {
		place[t] = int32(i) + 1
	}
	width := 2 * len(v.Terms) // before and after count apart
	counts := make([]map[int]float64, len(chosen)+1)
	for i := range counts {
		counts[i] = map[int]float64{}
	}
	beside := func(to map[int]float64, words []uint32, start, end int) {
		for d := 1; d <= contextWindow; d++ {
			if i := start - d; i >= 0 {
				to[v.TermOf(words[i])] += 1 / float64(d)
			}
			if i := end + d; i < len(words) {
				to[len(v.Terms)+v.TermOf(words[i])] += 1 / float64(d)
			}
		}
	}
	taken := map[uint32][]Place{}
	for _, p := range places {
		taken[p.Answer] = append(taken[p.Answer], p)
		beside(counts[0], ix.Answer(int(p.Answer)), int(p.Start), int(p.Start+p.Length)-1)
	}
	every := int(focus.GetCardinality())/mostRead + 1
	n := 0
	for it := focus.Iterator(); it.HasNext(); n++ {
		a := it.Next()
		if n%1024 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		if n%every != 0 {
			continue
		}
		words := ix.Answer(int(a))
		for i, w := range words {
			p := place[v.TermOf(w)]
			if p > 0 && !slices.ContainsFunc(taken[a], func(x Place) bool { return int(x.Start) <= i && i < int(x.Start+x.Length) }) {
				beside(counts[p], words, i, i)
			}
		}
	}
	columns, total := make([]float64, width), 0.0
	for _, row := range counts {
		for i, n := range row {
			columns[i] += n
			total += n
		}
	}
	laid := make([]float64, width)
	vector := func(row map[int]float64) []entry {
		clear(laid)
		for i, n := range row {
			laid[i] = n
		}
		return informative(laid, columns, total)
	}
	own := make([]float64, width)
	for _, e := range vector(counts[0]) {
		own[e.at] = e.weight
	}
	var out []Likeness
	for i, t := range chosen {
		theirs := vector(counts[i+1])
		score := cosine(own, theirs)
		if score >= 0.3 && len(telling(own, theirs, score)) >= 3 {
			out = append(out, Likeness{t, score})
		}
	}
	slices.SortFunc(out, func(a, b Likeness) int { return cmp.Or(cmp.Compare(b.Score, a.Score), a.Term-b.Term) })
	return out, nil
}
