package frame

import (
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"
)

// Change is what a category gains and loses.
type Change struct {
	*Result      // as it is now; nil for a further category
	Gained, Lost *roaring.Bitmap
}

// Slot is a place for a rule.
type Slot struct {
	Category string // its key; empty for a further category at the end of the frame, which has this rule alone
	Unless   bool
	At       int // which rule of the category it stands in for, from 1; 0 for a further one
}

// Outcome is what is so if a rule that is being written stands in its slot: the truth of what keeping it would give.
type Outcome struct {
	Rule RuleResult // as it stands then: a circle that it closes is among its problems
	// Changes are what the category of the slot gains and loses (first, and always), and all others that gain or lose answers,
	// but for the nets that it stands in.
	Changes []Change

	coding *Coding                     // that the categories are of
	own    *Result                     // the category of the slot in it, nil for a further one
	alone  map[*Result]*roaring.Bitmap // what those that stand alone have then, where that differs from the coding
}

// Outcome works out what is so if a rule stands in a slot. Where no other rule names what would change, nor the rule a category,
// it is worked out from what is known, in time that does not grow with the frame; else the frame is coded anew.
func (c *Coding) Outcome(ctx context.Context, slot Slot, src string) (Outcome, error) {
	tried, err := c.Try(ctx, src)
	if err != nil {
		return Outcome{}, err
	}
	if direct, ok := c.trial(slot, tried); ok {
		return direct, nil
	}
	return c.anew(ctx, slot, tried)
}

// Shared is the part of a set of answers that categories have then which are not related to the one of the slot.
func (o Outcome) Shared(set *roaring.Bitmap) *roaring.Bitmap {
	out := o.coding.elsewhere(set, o.own)
	for _, r := range o.coding.Results {
		if r.Alone && !o.related(r) {
			out.Or(roaring.And(set, o.Carries(r)))
		}
	}
	return out
}

// With visits the categories that have answers of a set by themselves then, and are not related to the one of the slot.
func (o Outcome) With(set *roaring.Bitmap, visit func(r *Result, answers int)) {
	for _, r := range o.coding.Results {
		if !o.related(r) {
			if n := int(set.AndCardinality(o.Carries(r))); n > 0 {
				visit(r, n)
			}
		}
	}
}

func (o Outcome) related(r *Result) bool { return o.own != nil && r.Related(o.own) }

// Carries is Result.Carries as it is then. The caller must not change it.
func (o Outcome) Carries(r *Result) *roaring.Bitmap {
	if then, ok := o.alone[r]; ok {
		return then
	}
	return r.Carries()
}

// further is the key of the category that a rule without one makes, while it is tried.
const further = "\x00further"

// anew codes the frame with the rule in its slot.
func (c *Coding) anew(ctx context.Context, slot Slot, tried RuleResult) (Outcome, error) {
	f, id := c.frame.Clone(), slot.Category
	if _, ok := c.byID[id]; !ok {
		id = further
		f = append(f, Category{ID: id, Name: further})
		slot = Slot{Category: id}
	}
	place, _ := f.Find(id)
	list := &place.Rules
	if slot.Unless {
		list = &place.Unless
	}
	at := slot.At - 1
	if at < 0 || at >= len(*list) {
		at = len(*list)
		*list = append(*list, "")
	}
	(*list)[at] = tried.Source
	then, err := Code(ctx, f, c.single, c.decisions, *c.scope, c.knowing(tried))
	if err != nil {
		return Outcome{}, err
	}
	own := then.byID[id]
	rules := own.Rules
	if slot.Unless {
		rules = own.Unless
	}
	out := Outcome{Rule: rules[at], coding: then, own: own}
	for _, r := range then.Results {
		now := c.byID[r.ID]
		change := Change{now, r.Answers, roaring.New()}
		if now != nil {
			change.Gained, change.Lost = roaring.AndNot(r.Answers, now.Answers), roaring.AndNot(now.Answers, r.Answers)
		}
		switch {
		case r == own:
			out.Changes = slices.Insert(out.Changes, 0, change)
		case !above(r, own) && !(change.Gained.IsEmpty() && change.Lost.IsEmpty()):
			out.Changes = append(out.Changes, change)
		}
	}
	return out, nil
}

// trial works an outcome out beside the coding; ok is false where the frame must be coded anew.
func (c *Coding) trial(slot Slot, tried RuleResult) (out Outcome, ok bool) {
	r, d := c.byID[slot.Category], c.decisions
	if c.single || c.circular || tried.program != nil && len(tried.program.Uses()) > 0 || r != nil && c.named(r) {
		return out, false
	}
	for _, a := range c.Results {
		if a.Alone && (len(a.Path) > 1 || len(a.Children) > 0) {
			return out, false // its nets make room for it: not worth working out beside the rule
		}
	}
	n := c.counted().others
	out = Outcome{Rule: tried, coding: c, own: r, alone: map[*Result]*roaring.Bitmap{}}
	own, others := tried.Answers, n.once // others push alone categories out, with the rule in its slot
	if r == nil {
		out.Changes = []Change{{nil, own, roaring.New()}}
	} else {
		own = r.ownWith(slot, tried, d)
		after := own.Clone()
		if r.Alone {
			after.AndNot(roaring.AndNot(n.once, on(d, r)))
		}
		for _, child := range r.Children {
			after.Or(c.byID[child.ID].Answers)
		}
		out.Changes = []Change{{r, roaring.AndNot(after, r.Answers), roaring.AndNot(r.Answers, after)}}
		if r.Alone {
			return out, true
		}
		others = roaring.AndNot(n.once, r.Own)
		others.Or(n.twice)
	}
	others = roaring.Or(others, own)
	for _, a := range c.Results {
		if !a.Alone {
			continue
		}
		stays := roaring.AndNot(a.before, roaring.AndNot(others, on(d, a)))
		out.alone[a] = stays
		change := Change{a, roaring.AndNot(stays, a.Answers), roaring.AndNot(a.Answers, stays)}
		if !change.Gained.IsEmpty() || !change.Lost.IsEmpty() {
			out.Changes = append(out.Changes, change)
		}
	}
	return out, true
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
