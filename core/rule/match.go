package rule

import (
	"context"
	"fmt"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/bits-and-blooms/bitset"

	"aftermath/core/corpus"
)

// Matcher runs programs of one scope. Category gives the answers that a category has.
type Matcher struct {
	Scope    *Scope
	Category func(key string) *roaring.Bitmap
}

// Answers is the set of answered answers that the rule matches. It gives up with an error when ctx ends.
func (m *Matcher) Answers(ctx context.Context, p *Program) (*roaring.Bitmap, error) {
	return m.Within(ctx, p, m.index().Answered())
}

// Within is the part of a set of answered answers that the rule matches. It gives up with an error when ctx ends.
func (m *Matcher) Within(ctx context.Context, p *Program, set *roaring.Bitmap) (*roaring.Bitmap, error) {
	r := run{m, ctx}
	found := r.within(p.root, m.index().Dense(set))
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	return corpus.Sparse(found), nil
}

// run is one run of a matcher. Once its context has ended, the sets it gives are not whole, and nobody may use them.
type run struct {
	*Matcher
	ctx context.Context
}

func (m *Matcher) index() *corpus.Index { return m.Scope.View.Index }

// within gives the answers of a set that match: sets are joined first, and words are looked at only in the answers that
// hold all of them. It never changes the set it is given.
func (m run) within(o *op, set *bitset.BitSet) *bitset.BitSet {
	ix := m.index()
	if m.ctx.Err() != nil {
		return ix.NewSet()
	}
	switch o.kind {
	case Word, List:
		return whole(o.phrases.Within(m.ctx, ix, set))
	case Condition:
		return ix.Dense(o.answers).Intersection(set)
	case Category:
		return ix.Dense(m.Category(o.category)).Intersection(set)
	case Any:
		return set.Clone()
	case Regex:
		return m.filter(o, set.Clone())
	case Alternatives:
		if o.single != nil {
			out := ix.NewSet()
			ix.Mark(o.single, out)
			out.InPlaceIntersection(set)
			return out
		}
		out := ix.NewSet()
		for _, k := range o.kids {
			out.InPlaceUnion(m.within(k, set))
		}
		return out
	case With:
		a, b := o.kids[0], o.kids[1]
		if a.costly() {
			a, b = b, a
		}
		return m.within(b, m.within(a, set))
	case Without:
		out := m.within(o.kids[0], set)
		out.InPlaceDifference(m.within(o.kids[1], out))
		return out
	case Of:
		return m.atLeast(o, set)
	case Row:
		if o.sequence != nil {
			return whole(o.sequence.Within(m.ctx, ix, set))
		}
		candidates := set
		for _, k := range o.kids {
			candidates = m.within(k, candidates)
		}
		return m.filter(o, candidates)
	case Near:
		first := m.within(o.kids[0], set)
		both := m.within(o.kids[1], first)
		if !o.reach.Without {
			return m.filter(o, both)
		}
		first.InPlaceDifference(both)
		first.InPlaceUnion(m.filter(o, both))
		return first
	}
	panic(fmt.Sprintf("rule: a part of kind %d is not matched", o.kind))
}

// whole gives a set, or an empty one where finding it was given up.
func whole(set *bitset.BitSet, err error) *bitset.BitSet {
	if err != nil {
		return &bitset.BitSet{}
	}
	return set
}

// costly says whether a part reads the text of answers: it goes last, on as few as possible.
func (o *op) costly() bool {
	if o.kind == Regex {
		return true
	}
	for _, k := range o.kids {
		if k.costly() {
			return true
		}
	}
	return false
}

// filter takes out of a set the answers that do not match.
func (m run) filter(o *op, set *bitset.BitSet) *bitset.BitSet {
	_ = corpus.Filter(m.ctx, set, func() func(int) bool { // if it fails, the context has ended
		r := m.reader()
		return func(answer int) bool {
			r.open(answer)
			return r.matches(o)
		}
	})
	return set
}

// atLeast gives the answers that so many of the kids match: level k holds those that k of the kids so far match.
func (m run) atLeast(o *op, set *bitset.BitSet) *bitset.BitSet {
	levels := []*bitset.BitSet{set}
	for range o.number {
		levels = append(levels, m.index().NewSet())
	}
	for _, k := range o.kids {
		found := m.within(k, set)
		for i := o.number; i > 0; i-- {
			levels[i].InPlaceUnion(levels[i-1].Intersection(found))
		}
	}
	return levels[o.number]
}
