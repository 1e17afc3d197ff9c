package frame

import (
	"slices"

	"github.com/RoaringBitmap/roaring/v2"
)

// Change is what a category gains and loses.
type Change struct {
	*Result
	Gained, Lost *roaring.Bitmap
}

// Slot is a place for a rule in a category.
type Slot struct {
	Category string
	Unless   bool
	At       int // which rule it stands in for, from 1; 0 for a further one
}

// Trial gives what a rule would change if it stood in a slot: the category itself (first, and always), and those that stand
// alone and would make room or come back; nets follow their categories and are left out. It is worked out from what is known,
// in time that does not grow with the frame. Where other rules name what would change, or the rule names a category itself, ok
// is false: the frame must be coded anew then.
func (c *Coding) Trial(slot Slot, tried RuleResult, d Decisions) (changes []Change, ok bool) {
	r, found := c.byID[slot.Category]
	if !found || tried.program == nil || len(tried.program.Uses()) > 0 || c.named(r) {
		return nil, false
	}
	for _, a := range c.Results {
		if a.Alone && (len(a.Path) > 1 || len(a.Children) > 0) {
			return nil, false // its nets make no room for it: not worth working out beside the rule
		}
	}
	own := r.ownWith(slot, tried, d)
	after := own.Clone()
	if r.Alone {
		others := c.counted().others.once
		after.AndNot(roaring.AndNot(others, on(d, r)))
	}
	for _, child := range r.Children {
		after.Or(c.byID[child.ID].Answers)
	}
	changes = []Change{{r, roaring.AndNot(after, r.Answers), roaring.AndNot(r.Answers, after)}}
	if r.Alone {
		return changes, true
	}
	n := c.counted().others
	others := roaring.AndNot(n.once, r.Own) // what others push alone categories out of, with the rule in its slot
	others.Or(n.twice)
	others.Or(own)
	for _, a := range c.Results {
		if !a.Alone {
			continue
		}
		stays := roaring.AndNot(a.before, roaring.AndNot(others, on(d, a)))
		change := Change{a, roaring.AndNot(stays, a.Answers), roaring.AndNot(a.Answers, stays)}
		if !change.Gained.IsEmpty() || !change.Lost.IsEmpty() {
			changes = append(changes, change)
		}
	}
	return changes, true
}

func on(d Decisions, r *Result) *roaring.Bitmap {
	if set := d.On[r.ID]; set != nil {
		return set
	}
	return roaring.New()
}

// named says whether a rule of the frame names the category or a net that it stands in.
func (c *Coding) named(r *Result) bool {
	for _, o := range c.Results {
		for _, x := range slices.Concat(o.Rules, o.Unless) {
			if x.program == nil {
				continue
			}
			for _, use := range x.program.Uses() {
				if use == r.ID || above(c.byID[use], r) {
					return true
				}
			}
		}
	}
	return false
}

// Idle says of each rule of the category, in words, why it does nothing; empty for one that does something or can't be
// read.
func (r *Result) Idle() []string {
	out := make([]string, len(r.Rules))
	if r.Off {
		return out
	}
	all := tally{roaring.New(), roaring.New()}
	for _, x := range r.Rules {
		all.add(x.Answers)
	}
	single := roaring.AndNot(all.once, all.twice)
	for i, x := range r.Rules {
		switch {
		case x.program == nil:
		case x.Answers.IsEmpty():
			out[i] = "matches no answer"
		case !single.Intersects(x.Answers):
			out[i] = "adds nothing: the other rules of the category find all it finds"
		}
	}
	return out
}

// ownWith is what the category's rules and decisions give it with a rule in a slot.
func (r *Result) ownWith(slot Slot, tried RuleResult, d Decisions) *roaring.Bitmap {
	union := func(rules []RuleResult, here bool) *roaring.Bitmap {
		all := roaring.New()
		for i, x := range rules {
			if !here || i != slot.At-1 {
				all.Or(x.Answers)
			}
		}
		if here {
			all.Or(tried.Answers)
		}
		return all
	}
	own := roaring.New()
	if !r.Off {
		own = roaring.AndNot(union(r.Rules, !slot.Unless), union(r.Unless, slot.Unless))
	}
	if len(r.Children) == 0 {
		own.Or(on(d, r))
		if off := d.Off[r.ID]; off != nil {
			own.AndNot(off)
		}
	}
	return own
}

// Changes compares this coding with a later one: the category that is named first, whether it changes or not, then the
// others that gain or lose answers; nets follow their categories and are left out.
func (c *Coding) Changes(later *Coding, first string) []Change {
	var out []Change
	for _, r := range later.Results {
		was, ok := c.byID[r.ID]
		if !ok || r.ID != first && len(r.Children) > 0 {
			continue
		}
		change := Change{was, roaring.AndNot(r.Answers, was.Answers), roaring.AndNot(was.Answers, r.Answers)}
		if r.ID == first {
			out = append([]Change{change}, out...)
		} else if !change.Gained.IsEmpty() || !change.Lost.IsEmpty() {
			out = append(out, change)
		}
	}
	return out
}
