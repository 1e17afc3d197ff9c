package crosstab

import (
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/parallel"
)

// making is a table being made.
type making struct {
	Query
	total Base
	parts []part
}

// part is a group with what all rows need of it.
type part struct {
	Group
	first int               // place of its first column in the table
	sets  []*roaring.Bitmap // its columns in the base
	bases []Base
	all   *roaring.Bitmap // in any of them
	base  Base
	pairs []pair
	place []uint16 // by answer: its column, plus one, where rows are counted in one pass; shared with other groups
}

// pair is two columns of a group that are held against each other.
type pair struct {
	a, b int
	both *roaring.Bitmap // persons that are in both, where there are enough to go by them; else nil
}

func (m making) part(g Group, first int) part {
	p := part{Group: g, first: first, all: roaring.New()}
	for _, column := range g.Columns {
		set := roaring.And(column, m.Base)
		p.sets, p.bases = append(p.sets, set), append(p.bases, NewBase(set, m.Weights))
		p.all.Or(set)
	}
	p.base = NewBase(p.all, m.Weights)
	if !g.Apart {
		return p
	}
	persons := make([]*roaring.Bitmap, len(p.sets))
	if g.Persons != nil {
		for i, set := range p.sets {
			persons[i] = Persons(g.Persons, set)
		}
	}
	for a := range p.sets {
		for b := a + 1; b < len(p.sets); b++ {
			next := pair{a: a, b: b}
			if g.Persons != nil {
				if both := roaring.And(persons[a], persons[b]); both.GetCardinality() >= SmallBase {
					next.both = both
				}
			}
			p.pairs = append(p.pairs, next)
		}
	}
	return p
}

// Persons are those that answers are of, by a list of whom each answer is of; answers of -1 are of nobody that is known.
func Persons(of []int32, answers *roaring.Bitmap) *roaring.Bitmap {
	out := roaring.New()
	blocks(answers, func(answers []uint32) {
		for _, i := range answers {
			if who := of[i]; who >= 0 {
				out.Add(uint32(who))
			}
		}
	})
	return out
}

// row counts and tests one row.
func (m making) row(row *roaring.Bitmap) ([]Cell, []GroupTest) {
	inBase := roaring.And(row, m.Base)
	in := make([]rowCounts, len(m.parts))
	var own *Base // of the whole row
	for i, p := range m.parts {
		in[i] = m.counts(inBase, p)
		if p.base.Answers == m.total.Answers {
			own = &in[i].row
		}
	}
	if own == nil {
		base := NewBase(inBase, m.Weights)
		own = &base
	}
	total := newCell(*own, m.total, Cell{}).asTotal()
	cells := []Cell{total}
	tests := make([]GroupTest, len(m.parts))
	for i, p := range m.parts {
		found := make([]*roaring.Bitmap, len(p.sets))
		counts, whole := in[i].columns, in[i].whole
		for c, set := range p.sets {
			count := counts[c]
			cell := newCell(count, p.bases[c], total)
			rest, base := whole.less(count), p.base.less(p.bases[c])
			cell.Rest = newRest(cell.portion(p.bases[c]), rest.share(base))
			if p.Persons != nil {
				found[c] = Persons(p.Persons, roaring.And(inBase, set))
			}
			cells = append(cells, cell)
		}
		tests[i] = m.test(p, cells[p.first:], found)
	}
	m.correct(cells)
	return cells, tests
}

// coverage is arrays of the columns that answers are in, each with the answers that have one there.
type coverage struct {
	arrays [][]uint16
	filled []*roaring.Bitmap
}

// place writes the columns of a group into an array that has none of its answers yet.
func (c *coverage) place(ctx context.Context, p part, answers, workers int) ([]uint16, error) {
	at := slices.IndexFunc(c.filled, func(filled *roaring.Bitmap) bool { return !filled.Intersects(p.all) })
	if at < 0 {
		at = len(c.arrays)
		c.arrays, c.filled = append(c.arrays, make([]uint16, answers)), append(c.filled, roaring.New())
	}
	to := c.arrays[at]
	c.filled[at].Or(p.all)
	return to, parallel.Each(ctx, max(workers, 1), len(p.sets), func() func(int) {
		return func(column int) { // no answer is in two
			blocks(p.sets[column], func(answers []uint32) {
				for _, i := range answers {
					to[i] = uint16(column + 1)
				}
			})
		}
	})
}

// manyOfBase says which rows are met with each column rather than counted answer by answer, where nothing is weighted: those with
// more than this part of the base, of which whole words of bits are met at once.
const manyOfBase = 12

// rowCounts are the answers of a row in each column of a group, and in any of them.
type rowCounts struct {
	columns []Base
	whole   Base // the columns together
	row     Base // the same, summed up in the order of the answers: to the last digit what it is beside other columns
}

func (m making) counts(row *roaring.Bitmap, p part) rowCounts {
	columns, whole, all := make([]Base, len(p.sets)), Base{}, Base{}
	if p.place == nil || m.Weights == nil && row.GetCardinality()*manyOfBase > uint64(m.total.Answers) {
		for c, set := range p.sets {
			columns[c] = m.count(row, set)
		}
		whole = m.count(row, p.all)
		return rowCounts{columns, whole, whole}
	}
	if p.base.Answers < m.total.Answers {
		row = roaring.And(row, p.all)
	}
	blocks(row, func(answers []uint32) {
		if m.Weights == nil {
			for _, i := range answers {
				columns[p.place[i]-1].Answers++
			}
			return
		}
		for _, i := range answers {
			w := m.Weights[i]
			b := &columns[p.place[i]-1]
			b.Answers++
			b.Weighted += w
			b.squares += w * w
			all.Weighted += w
			all.squares += w * w
		}
	})
	for c := range columns {
		if m.Weights == nil {
			n := float64(columns[c].Answers)
			columns[c].Weighted, columns[c].squares = n, n
		}
		columns[c] = columns[c].finished()
		whole.Answers += columns[c].Answers
		whole.Weighted += columns[c].Weighted
		whole.squares += columns[c].squares
	}
	if all.Answers = whole.Answers; m.Weights == nil {
		all = whole
	}
	return rowCounts{columns, whole.finished(), all.finished()}
}

// count sums the answers that are in both sets.
func (m making) count(a, b *roaring.Bitmap) Base {
	if m.Weights == nil {
		n := a.AndCardinality(b)
		return Base{int(n), float64(n), float64(n), float64(n)}
	}
	return NewBase(roaring.And(a, b), m.Weights)
}

func (c Cell) portion(base Base) Portion { return Portion{c.Share, base.Effective} }

func newCell(count, base Base, total Cell) Cell {
	c := Cell{Answers: count.Answers, Weighted: count.Weighted, Rest: Rest{P: 1, Adjusted: 1}}
	if base.Weighted > 0 {
		c.Share = count.Weighted / base.Weighted
		c.Low, c.High = Wilson(c.Share, base.Effective)
	}
	if total.Weighted > 0 {
		c.OfRow = count.Weighted / total.Weighted
		c.Index = 100 * (c.Share / total.Share)
	}
	return c
}

// asTotal is a cell as all others of its row are held against it.
func (c Cell) asTotal() Cell {
	if c.Weighted > 0 {
		c.OfRow, c.Index = 1, 100
	}
	return c
}

func newRest(column, rest Portion) Rest {
	r := Rest{P: 1, Adjusted: 1}
	if column.Base <= 0 || rest.Base <= 0 {
		return r
	}
	r.Difference = column.Share - rest.Share
	s, ok := Compare(column, rest)
	r.Z, r.P, r.Tested = s.Z, s.P, ok
	return r
}

// test holds the columns of a group against each other. Cells are those of the group and of what follows; found, where the
// group has persons, is those of its cells. What a cell is over is not corrected yet.
func (m making) test(p part, cells []Cell, found []*roaring.Bitmap) GroupTest {
	if !p.Apart {
		return untested
	}
	portions := make([]Portion, len(p.sets))
	for i := range portions {
		portions[i] = cells[i].portion(p.bases[i])
	}
	for _, pair := range p.pairs {
		a, b := &cells[pair.a], &cells[pair.b]
		s, ok := Compare(portions[pair.a], portions[pair.b])
		paired := 0
		if pair.both != nil {
			paired = int(pair.both.GetCardinality())
			s, ok = pairedBy(pair.both, found[pair.a], found[pair.b])
		}
		switch {
		case !ok:
			a.Untested++
			b.Untested++
		case s.Z >= 0:
			a.Over = append(a.Over, Over{p.first + pair.b, s.P, s.P, paired})
		default:
			b.Over = append(b.Over, Over{p.first + pair.a, s.P, s.P, paired})
		}
	}
	t := GroupTest{RowTest: TestRow(portions, m.Weights == nil), Trend: Standing{P: 1}}
	if p.Ordered {
		t.Trend, t.Trended = Trend(portions)
	}
	return t
}

func pairedBy(both, a, b *roaring.Bitmap) (Standing, bool) {
	first, second := roaring.And(both, a), roaring.And(both, b)
	return Paired(countLess(first, second), countLess(second, first))
}

// countLess is how many are in a and not in b.
func countLess(a, b *roaring.Bitmap) int { return int(a.GetCardinality() - a.AndCardinality(b)) }

// correct adjusts the tests of a row, those of each nest together, and leaves out what is not marked then.
func (m making) correct(cells []Cell) {
	for from := 0; from < len(m.parts); {
		to := from + 1
		for to < len(m.parts) && m.parts[to].Nest == m.parts[from].Nest {
			to++
		}
		last := m.parts[to-1]
		m.correctNest(cells[m.parts[from].first : last.first+len(last.sets)])
		from = to
	}
}

func (m making) correctNest(cells []Cell) {
	var pairs, rests []float64
	for _, c := range cells {
		for _, o := range c.Over {
			pairs = append(pairs, o.P)
		}
		if c.Rest.Tested {
			rests = append(rests, c.Rest.P)
		}
	}
	pairs, rests = m.Correction.Adjust(pairs), m.Correction.Adjust(rests)
	for i := range cells {
		c := &cells[i]
		var marked []Over
		for _, o := range c.Over {
			o.Adjusted, pairs = pairs[0], pairs[1:]
			if o.Adjusted < FairSure {
				marked = append(marked, o)
			}
		}
		c.Over = marked
		if c.Rest.Tested {
			c.Rest.Adjusted, rests = rests[0], rests[1:]
		}
	}
}
