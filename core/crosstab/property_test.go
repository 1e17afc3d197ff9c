package crosstab

import (
	"fmt"
	"math"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// drawn is what a random table is made of, answer by answer.
type drawn struct {
	n       int
	weights []float64
	inBase  []bool
	rows    [][]bool
	groups  []drawnGroup
	fix     Correction
}

type drawnGroup struct {
	columns [][]bool
	nest    int
	apart   bool
	persons []int32
}

func drawTable(t *rapid.T) drawn {
	// Blocks of equal answers give bases that are large enough to be tested, and keep the draws few.
	blocks := rapid.IntRange(1, 40).Draw(t, "blocks")
	var size []int
	d := drawn{fix: rapid.SampledFrom(Corrections).Draw(t, "correction")}
	for range blocks {
		size = append(size, rapid.SampledFrom([]int{1, 2, 9, 30, 80}).Draw(t, "size"))
		d.n += size[len(size)-1]
	}
	spread := func(value func(block int) bool) (out []bool) {
		for b, n := range size {
			v := value(b)
			for range n {
				out = append(out, v)
			}
		}
		return out
	}
	coin := func(label string) []bool { return spread(func(int) bool { return rapid.Bool().Draw(t, label) }) }
	if rapid.Bool().Draw(t, "weighted") {
		for range d.n {
			d.weights = append(d.weights, 1)
		}
		at := 0
		for _, n := range size {
			w := rapid.SampledFrom([]float64{0, 0.1, 0.7, 1, 1.3, 4}).Draw(t, "weight")
			for i := range n {
				d.weights[at+i] = w
			}
			at += n
		}
	}
	d.inBase = spread(func(int) bool { return rapid.IntRange(0, 5).Draw(t, "base") > 0 })
	for range rapid.IntRange(1, 3).Draw(t, "rows") {
		if rapid.Bool().Draw(t, "sparse") {
			only := rapid.IntRange(0, blocks-1).Draw(t, "block")
			d.rows = append(d.rows, spread(func(b int) bool { return b == only }))
			continue
		}
		d.rows = append(d.rows, coin("row"))
	}
	for nest := range rapid.IntRange(0, 2).Draw(t, "nests") {
		for range rapid.IntRange(1, 2).Draw(t, "groups") {
			g := drawnGroup{nest: nest, apart: rapid.Bool().Draw(t, "apart")}
			columns := rapid.IntRange(1, 4).Draw(t, "columns")
			if g.apart {
				of := make([]int, blocks)
				for b := range of {
					of[b] = rapid.IntRange(-1, columns-1).Draw(t, "column") // -1: missing
				}
				for c := range columns {
					g.columns = append(g.columns, spread(func(b int) bool { return of[b] == c }))
				}
				if rapid.Bool().Draw(t, "persons") {
					g.persons = make([]int32, d.n)
					people := rapid.IntRange(1, d.n).Draw(t, "people")
					for i := range g.persons {
						g.persons[i] = int32(i % people)
					}
				}
			} else {
				for range columns {
					g.columns = append(g.columns, coin("column"))
				}
			}
			d.groups = append(d.groups, g)
		}
	}
	return d
}

func setOf(in []bool) *roaring.Bitmap {
	out := roaring.New()
	for i, yes := range in {
		if yes {
			out.Add(uint32(i))
		}
	}
	return out
}

func (d drawn) query() Query {
	q := Query{Base: setOf(d.inBase), Weights: d.weights, Correction: d.fix, Workers: 2}
	for _, r := range d.rows {
		q.Rows = append(q.Rows, setOf(r))
	}
	for _, g := range d.groups {
		group := Group{Nest: g.nest, Apart: g.apart, Persons: g.persons, Ordered: true}
		for _, c := range g.columns {
			group.Columns = append(group.Columns, setOf(c))
		}
		q.Groups = append(q.Groups, group)
	}
	return q
}

// sums counts the answers of the base that meet a condition.
func (d drawn) sums(in func(i int) bool) (n int, weighted, effective float64) {
	squares := 0.0
	for i := range d.n {
		if !d.inBase[i] || !in(i) {
			continue
		}
		w := 1.0
		if d.weights != nil {
			w = d.weights[i]
		}
		n, weighted, squares = n+1, weighted+w, squares+w*w
	}
	if squares > 0 {
		effective = weighted * weighted / squares
	}
	return n, weighted, effective
}

func (d drawn) portion(row []bool, in func(i int) bool) Portion {
	_, base, effective := d.sums(in)
	_, with, _ := d.sums(func(i int) bool { return in(i) && row[i] })
	if base == 0 {
		return Portion{}
	}
	return Portion{with / base, effective}
}

// test holds two columns against each other as the documents have it.
func (d drawn) test(row []bool, g drawnGroup, a, b int) (s Standing, ok bool) {
	in := func(c int) func(int) bool { return func(i int) bool { return g.columns[c][i] } }
	if g.persons != nil {
		has := map[int32]*[4]bool{} // in a, in b, has it in a, has it in b
		for i := range d.n {
			if !d.inBase[i] {
				continue
			}
			p := has[g.persons[i]]
			if p == nil {
				p = new([4]bool)
				has[g.persons[i]] = p
			}
			for k, c := range []int{a, b} {
				if g.columns[c][i] {
					p[k] = true
					p[2+k] = p[2+k] || row[i]
				}
			}
		}
		both, first, second := 0, 0, 0
		for _, p := range has {
			if p[0] && p[1] {
				both++
				if p[2] && !p[3] {
					first++
				}
				if p[3] && !p[2] {
					second++
				}
			}
		}
		if both >= 30 {
			return Paired(first, second)
		}
	}
	return Compare(d.portion(row, in(a)), d.portion(row, in(b)))
}

// A table is what counting answer by answer gives: counts, bases, shares, and which columns are held against which.
func TestTableAgainstCounting(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		d := drawTable(t)
		got, err := Make(t.Context(), d.query())
		require.NoError(t, err)
		for r, row := range d.rows {
			all := d.portion(row, func(int) bool { return true })
			at := 1
			pairs, rests := map[int][]float64{}, map[int][]float64{} // by nest
			var checks []func()
			for gi, g := range d.groups {
				first := at
				var parts []Portion
				untested := make([]int, len(g.columns))
				for _, column := range g.columns {
					in := func(i int) bool { return column[i] }
					n, weighted, effective := d.sums(in)
					require.Equal(t, n, got.Bases[at].Answers)
					require.InDelta(t, weighted, got.Bases[at].Weighted, 1e-9)
					require.InDelta(t, effective, got.Bases[at].Effective, 1e-6)
					hits, with, _ := d.sums(func(i int) bool { return in(i) && row[i] })
					cell := got.Cells[r][at]
					require.Equal(t, hits, cell.Answers)
					require.InDelta(t, with, cell.Weighted, 1e-9)
					share := d.portion(row, in)
					parts = append(parts, share)
					require.InDelta(t, share.Share, cell.Share, 1e-9)
					if all.Share > 0 {
						require.InDelta(t, 100*share.Share/all.Share, cell.Index, 1e-6)
						_, whole, _ := d.sums(func(i int) bool { return row[i] })
						require.InDelta(t, with/whole, cell.OfRow, 1e-9)
					}
					rest := d.portion(row, func(i int) bool { return !column[i] && inAny(g.columns, i) })
					s, ok := Compare(share, rest)
					if near(share, rest) { // on the edge of what is tested, the last digits decide
						t.Skip("on the edge")
					}
					require.Equal(t, ok && share.Base > 0 && rest.Base > 0, cell.Rest.Tested, "%+v %+v", share, rest)
					if cell.Rest.Tested {
						require.InDelta(t, s.Z, cell.Rest.Z, 1e-6)
						require.InDelta(t, share.Share-rest.Share, cell.Rest.Difference, 1e-9)
						rests[g.nest] = append(rests[g.nest], cell.Rest.P)
						k := len(rests[g.nest]) - 1
						checks = append(checks, func() { require.InDelta(t, d.fix.Adjust(rests[g.nest])[k], cell.Rest.Adjusted, 1e-9) })
					}
					at++
				}
				if !g.apart {
					require.Equal(t, "none", got.Tests[r][gi].Kind)
					continue
				}
				for a := range g.columns {
					for b := a + 1; b < len(g.columns); b++ {
						s, ok := d.test(row, g, a, b)
						if near(parts[a], parts[b]) {
							t.Skip("on the edge")
						}
						if !ok {
							untested[a]++
							untested[b]++
							continue
						}
						over, under := a, b
						if s.Z < 0 {
							over, under = b, a
						}
						pairs[g.nest] = append(pairs[g.nest], s.P)
						k := len(pairs[g.nest]) - 1
						checks = append(checks, func() {
							adjusted := d.fix.Adjust(pairs[g.nest])[k]
							found := 0
							for _, o := range got.Cells[r][first+over].Over {
								if o.Column == first+under {
									found++
									require.InDelta(t, s.P, o.P, 1e-9)
									require.InDelta(t, adjusted, o.Adjusted, 1e-9)
								}
							}
							if math.Abs(adjusted-FairSure) > 1e-9 && math.Abs(s.Z) > 1e-9 {
								require.Equal(t, adjusted < FairSure, found == 1, "%v over %v: %v", over, under, adjusted)
							}
						})
					}
				}
				for c := range g.columns {
					require.Equal(t, untested[c], got.Cells[r][first+c].Untested)
				}
				want := TestRow(parts, d.weights == nil)
				require.Equal(t, want.Kind, got.Tests[r][gi].Kind)
				require.InDelta(t, want.ChiSquare, got.Tests[r][gi].ChiSquare, 1e-6)
				trend, ok := Trend(parts)
				require.Equal(t, ok, got.Tests[r][gi].Trended)
				require.InDelta(t, trend.P, got.Tests[r][gi].Trend.P, 1e-6)
			}
			for _, check := range checks {
				check()
			}
		}
	})
}

func inAny(columns [][]bool, i int) bool {
	for _, c := range columns {
		if c[i] {
			return true
		}
	}
	return false
}

// near says whether two portions are on the edge of what is tested.
func near(a, b Portion) bool {
	pooled := (a.Share*a.Base + b.Share*b.Base) / (a.Base + b.Base)
	expected := min(a.Base, b.Base) * min(pooled, 1-pooled)
	return math.Abs(expected-LeastExpected) < 1e-6 || math.Abs(min(a.Base, b.Base)-SmallBase) < 1e-6
}

// The order of rows never matters, and weights never make a sample more precise.
func TestRowsStandForThemselves(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		q := drawTable(t).query()
		got, err := Make(t.Context(), q)
		require.NoError(t, err)
		for r, row := range q.Rows {
			alone := q
			alone.Rows, alone.Workers = []*roaring.Bitmap{row}, 1
			one, err := Make(t.Context(), alone)
			require.NoError(t, err)
			require.Equal(t, one.Cells[0], got.Cells[r])
			require.Equal(t, one.Tests[0], got.Tests[r])
			for c, cell := range got.Cells[r] {
				require.LessOrEqual(t, got.Bases[c].Effective, float64(got.Bases[c].Answers)+1e-9)
				require.True(t, 0 <= cell.Low && cell.Low <= cell.Share+1e-9 && cell.Share <= cell.High+1e-9 && cell.High <= 1, "%+v", cell)
			}
		}
	})
}

func TestLetters(t *testing.T) {
	var names []string
	for _, n := range []int{0, 25, 26, 51, 52, 701, 702} {
		names = append(names, Letters(n))
	}
	require.Equal(t, "[A Z AA AZ BA ZZ AAA]", fmt.Sprint(names))
}
