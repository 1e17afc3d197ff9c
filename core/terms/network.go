package terms

import (
	"cmp"
	"context"
	"math/rand/v2"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"
	"gonum.org/v1/gonum/graph/community"
	"gonum.org/v1/gonum/graph/simple"

	"aftermath/core/crosstab"
)

// Measure is what links between terms are ordered and chosen by.
type Measure string

// The measures of crosstab.CoOccurrence.
const (
	ByG2      Measure = "g2"
	ByLift    Measure = "lift"
	ByPMI     Measure = "pmi"
	ByJaccard Measure = "jaccard"
	ByBoth    Measure = "both"
)

// Of gives the measure of a co-occurrence.
func (m Measure) Of(c crosstab.CoOccurrence) float64 {
	switch m {
	case ByLift:
		return c.Lift
	case ByPMI:
		return c.PMI
	case ByJaccard:
		return c.Jaccard
	case ByBoth:
		return float64(c.Both)
	}
	return c.G2
}

// Link joins two terms that come together more often than chance would have them.
type Link struct {
	A, B int // places among the terms that were asked about, A before B
	crosstab.CoOccurrence
}

// Pairs counts, for each two of the chosen terms, the answers of a focus with both: pairs[a][b] for a < b, the answers
// with each in pairs[a][a].
func (c *Counter) Pairs(ctx context.Context, focus *roaring.Bitmap, chosen []int, workers int) ([][]int32, error) {
	place := make([]int32, len(c.View.Terms)) // of each term among the chosen, plus one
	for i, t := range chosen {
		place[t] = int32(i) + 1
	}
	var parts [][]int32
	n := len(chosen)
	err := c.bags(ctx, focus, workers, func() func(Bag) {
		counts := make([]int32, n*n)
		parts = append(parts, counts)
		var here []int32
		return func(b Bag) {
			here = here[:0]
			for _, t := range b.Terms {
				if p := place[t]; p > 0 {
					here = append(here, p-1)
				}
			}
			for i, x := range here {
				for _, y := range here[i:] {
					counts[int(min(x, y))*n+int(max(x, y))]++
				}
			}
		}
	})
	if err != nil {
		return nil, err
	}
	out := make([][]int32, n)
	for i := range out {
		out[i] = make([]int32, n)
		for _, p := range parts {
			for j := i; j < n; j++ {
				out[i][j] += p[i*n+j]
			}
		}
	}
	return out, nil
}

// NetworkQuery says which links are wanted.
type NetworkQuery struct {
	Measure Measure
	Least   float64 // links under this of the measure are left out
	Both    int     // and those with fewer answers with both
	Most    int     // and all but so many of the strongest
}

// Network gives the strongest links among chosen terms in a focus, and the number of those that met the thresholds but
// not the limit. Only terms that meet more often than by chance (lift over 1) are linked.
func (c *Counter) Network(
	ctx context.Context, focus *roaring.Bitmap, chosen []int, q NetworkQuery, workers int,
) (links []Link, more int, err error) {
	n := int(focus.GetCardinality())
	pairs, err := c.Pairs(ctx, focus, chosen, workers)
	if err != nil {
		return nil, 0, err
	}
	for a := range chosen {
		for b := a + 1; b < len(chosen); b++ {
			both := int(pairs[a][b])
			if both < max(q.Both, 1) {
				continue
			}
			l := Link{a, b, crosstab.NewCoOccurrence(both, int(pairs[a][a]), int(pairs[b][b]), n)}
			if l.Lift > 1 && q.Measure.Of(l.CoOccurrence) >= q.Least {
				links = append(links, l)
			}
		}
	}
	slices.SortFunc(links, func(x, y Link) int {
		return cmp.Or(cmp.Compare(q.Measure.Of(y.CoOccurrence), q.Measure.Of(x.CoOccurrence)), y.Both-x.Both, x.A-y.A, x.B-y.B)
	})
	if len(links) > q.Most {
		links, more = links[:q.Most], len(links)-q.Most
	}
	return links, more, nil
}

// Clusters parts linked terms into groups that come together: modularity is made as large as the Louvain method makes it
// (V. D. Blondel and others, 2008), on links weighted by the measure. The same links give the same clusters. Each cluster
// is ascending; the largest comes first.
func Clusters(links []Link, m Measure) [][]int {
	if len(links) == 0 {
		return nil
	}
	g := simple.NewWeightedUndirectedGraph(0, 0)
	for _, l := range links {
		g.SetWeightedEdge(g.NewWeightedEdge(simple.Node(l.A), simple.Node(l.B), max(m.Of(l.CoOccurrence), 1e-9)))
	}
	reduced := community.Modularize(g, 1, rand.NewPCG(1, 1))
	var out [][]int
	for _, nodes := range reduced.Communities() {
		var group []int
		for _, node := range nodes {
			group = append(group, int(node.ID()))
		}
		slices.Sort(group)
		out = append(out, group)
	}
	slices.SortFunc(out, func(a, b []int) int { return cmp.Or(len(b)-len(a), a[0]-b[0]) })
	return out
}

// AtLeastTwo is the set of answers of a focus with two of the terms or more.
func (c *Counter) AtLeastTwo(focus *roaring.Bitmap, chosen []int) *roaring.Bitmap {
	once, twice := roaring.New(), roaring.New()
	for _, t := range chosen {
		with := roaring.And(c.View.Phrases(t).Answers(c.View.Index), focus)
		twice.Or(roaring.And(once, with))
		once.Or(with)
	}
	return twice
}
