package frame

import "github.com/RoaringBitmap/roaring/v2"

// counted is how many categories answers have, as far as it matters.
type counted struct {
	families map[*Result]*family         // by the net above; nil: the top
	mixing   map[*Result]*roaring.Bitmap // what a category has, or any inside it; those that stand alone aside
	others   tally                       // of all that may push an alone category out, before that
}

// family is what the categories of one net have.
type family struct{ all, mixing tally }

// tally is the answers that at least one, and at least two, of some sets hold.
type tally struct{ once, twice *roaring.Bitmap }

func newTally() tally { return tally{roaring.New(), roaring.New()} }

func (t *tally) add(set *roaring.Bitmap) {
	t.twice.Or(roaring.And(t.once, set))
	t.once.Or(set)
}

func (c *Coding) count() counted {
	n := counted{map[*Result]*family{nil: {newTally(), newTally()}}, map[*Result]*roaring.Bitmap{}, newTally()}
	for i := len(c.Results) - 1; i >= 0; i-- { // what is inside a net comes before it
		r := c.Results[i]
		mixing := roaring.New()
		if !r.Alone {
			mixing = r.Carries()
			n.others.add(r.Own)
		}
		if f := n.families[r]; f != nil {
			mixing = roaring.Or(mixing, f.mixing.once)
		}
		n.mixing[r] = mixing
		if n.families[r.net] == nil {
			n.families[r.net] = &family{newTally(), newTally()}
		}
		n.families[r.net].all.add(r.Answers)
		n.families[r.net].mixing.add(mixing)
	}
	return n
}

// Carries is the set of answers that a category has by itself, in the end: of a net, those that its own rules catch. The caller
// must not change it.
func (r *Result) Carries() *roaring.Bitmap {
	if len(r.Children) == 0 {
		return r.Answers
	}
	return roaring.And(r.Own, r.Answers)
}

// Net is the category that it stands in; nil at the top.
func (r *Result) Net() *Result { return r.net }

// Related says whether one of two categories stands in the other, or they are the same.
func (r *Result) Related(other *Result) bool { return r == other || above(r, other) || above(other, r) }

// Only is the set of answers that a category has, and none that is not related to it.
func (c *Coding) Only(r *Result) *roaring.Bitmap {
	n := c.counted()
	out := r.Answers.Clone()
	for at := r; at != nil; at = at.net {
		siblings := n.families[at.net].all
		out.AndNot(siblings.twice)
		out.AndNot(roaring.AndNot(siblings.once, at.Answers))
	}
	return out
}

// elsewhere is the part of a set of answers that a category has which is not related to a given one (nil: that any has).
// Those that stand alone are left aside.
func (c *Coding) elsewhere(set *roaring.Bitmap, r *Result) *roaring.Bitmap {
	n := c.counted()
	if r == nil {
		return roaring.And(set, n.families[nil].mixing.once)
	}
	out := roaring.New()
	for at := r; at != nil; at = at.net {
		siblings := n.families[at.net].mixing
		out.Or(roaring.And(set, siblings.twice))
		one := roaring.And(set, siblings.once)
		one.AndNot(n.mixing[at])
		out.Or(one)
	}
	return out
}

// In says whether a category is another one, or stands in it.
func (r *Result) In(other *Result) bool { return r == other || above(other, r) }
