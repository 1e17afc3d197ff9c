package focus

import (
	"context"
	"fmt"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/scheme"
	"aftermath/internal/desk/state"
)

// Coded passes answers with a category.
type Coded struct{}

// Kind is coded.
func (Coded) Kind() string { return "coded" }

// Scope is the scheme.
func (Coded) Scope() Scope { return Scope{On: OnScheme} }

func (Coded) answers(_ context.Context, s *state.State) (*roaring.Bitmap, error) {
	return s.Coding.Coded, nil
}

func (Coded) mark(*Marker) {}

// Settled passes uncoded answers that need no category.
type Settled struct{}

// Kind is settled.
func (Settled) Kind() string { return "settled" }

// Scope is the scheme.
func (Settled) Scope() Scope { return Scope{On: OnScheme} }

func (Settled) answers(_ context.Context, s *state.State) (*roaring.Bitmap, error) {
	return s.Decisions.Settled, nil
}

func (Settled) mark(*Marker) {}

// Category passes answers with a category, or with one of several.
type Category struct {
	ID    string   `json:"id,omitempty" doc:"key of the category"`
	AnyOf []string `json:"values,omitempty" doc:"in place of id, keys of categories of which one is enough"`
}

// Kind is category.
func (Category) Kind() string { return "category" }

// Scope is the scheme.
func (c Category) Scope() Scope { return Scope{On: OnScheme, Categories: c.keys()} }

// keys are the keys that the test names.
func (c Category) keys() []string {
	if len(c.AnyOf) > 0 {
		return c.AnyOf
	}
	return given(c.ID)
}

// given is a key that may have been left out.
func given(key string) []string {
	if key == "" {
		return nil
	}
	return []string{key}
}

func (c Category) answers(_ context.Context, s *state.State) (*roaring.Bitmap, error) {
	if len(c.AnyOf) == 0 {
		r, ok := s.Coding.Of(c.ID)
		if !ok {
			return nil, gone("the category in the focus")
		}
		return r.Answers, nil
	}
	set := roaring.New()
	for _, id := range c.AnyOf {
		r, ok := s.Coding.Of(id)
		if !ok {
			return nil, gone("a category in the focus")
		}
		set.Or(r.Answers)
	}
	return set, nil
}

func (c Category) mark(m *Marker) {
	for _, id := range c.keys() {
		place, ok := m.state.Coding.Of(id)
		for _, r := range m.state.Coding.Results {
			if ok && r.In(place) && !r.Off {
				for _, rule := range r.Category.Rules {
					m.addRule(rule)
				}
			}
		}
	}
}

// CategoryRule passes answers that one rule of a category matches.
type CategoryRule struct {
	Category string `json:"id" doc:"key of the category"`
	Place    int    `json:"rule" minimum:"1" doc:"which of its rules, from 1"`
}

// Kind is rule.
func (CategoryRule) Kind() string { return "rule" }

// Scope is the scheme.
func (c CategoryRule) Scope() Scope { return Scope{On: OnScheme, Categories: given(c.Category)} }

func (c CategoryRule) answers(_ context.Context, s *state.State) (*roaring.Bitmap, error) {
	r, ok := s.Coding.Of(c.Category)
	switch {
	case !ok:
		return nil, gone("the category in the focus")
	case c.Place < 1 || c.Place > len(r.Rules):
		return nil, gone("the rule in the focus")
	}
	return r.Rules[c.Place-1].Answers, nil
}

func (c CategoryRule) mark(m *Marker) {
	if r, ok := m.state.Coding.Of(c.Category); ok && c.Place >= 1 && c.Place <= len(r.Rules) {
		m.addRule(r.Rules[c.Place-1].Source)
	}
}

// Decided passes answers with decisions by hand.
type Decided struct {
	Which    string `json:"text,omitempty" enum:"any,both,apart,suggested,noted,by" doc:"left out: a category put on; any: put on or taken off; both: as the rules say; apart: against them; suggested; noted: with a note; by: made by name"`
	By       string `json:"name,omitempty" doc:"by: who made them; left out: nobody named"`
	Category string `json:"id,omitempty" doc:"key of the category that they are on; left out: any"`
}

// Kind is decided.
func (Decided) Kind() string { return "decided" }

// Scope is the scheme.
func (d Decided) Scope() Scope { return Scope{On: OnScheme, Categories: given(d.Category)} }

func (d Decided) answers(_ context.Context, s *state.State) (*roaring.Bitmap, error) {
	set := roaring.New()
	for _, r := range s.Coding.Results {
		if d.Category != "" && d.Category != r.ID {
			continue
		}
		on, off := bits(s.Decisions.On[r.ID]), bits(s.Decisions.Off[r.ID])
		switch d.Which {
		case "":
			set.Or(on)
		case "any":
			set.Or(roaring.Or(on, off))
		case "both":
			set.Or(roaring.And(on, r.ByRules))
			set.Or(roaring.AndNot(off, r.ByRules))
		case "apart":
			set.Or(roaring.AndNot(on, r.ByRules))
			set.Or(roaring.And(off, r.ByRules))
		case "suggested":
			set.Or(bits(s.Decisions.Suggested[r.ID]))
		case "noted", "by":
			set.Or(s.Study.Rows.Of(s.Scheme.Decisions.Where(r.ID, func(o scheme.Origin) bool {
				return d.Which == "noted" && o.Note != "" || d.Which == "by" && o.By == d.By && !o.Suggested
			})))
		default:
			return nil, fmt.Errorf("%w: there are no decisions called %q", state.ErrRequest, d.Which)
		}
	}
	return set, nil
}

func (Decided) mark(*Marker) {}

func bits(set *roaring.Bitmap) *roaring.Bitmap {
	if set == nil {
		return roaring.New()
	}
	return set
}

// Changed passes answers that a category, or any, gained or lost between two states of the scheme.
type Changed struct {
	Category  string   `json:"id,omitempty" doc:"key of the category; left out: any"`
	Direction string   `json:"text" enum:"gained,lost"`
	States    []string `json:"values" minItems:"2" maxItems:"2" doc:"two states of the scheme, each the number of a revision, = and a name, or now"`
}

// Kind is changed.
func (Changed) Kind() string { return "changed" }

// Scope is the history.
func (c Changed) Scope() Scope { return Scope{On: OnHistory, Categories: given(c.Category)} }

func (c Changed) answers(ctx context.Context, s *state.State) (*roaring.Bitmap, error) {
	if len(c.States) != 2 || s.Links.Earlier == nil {
		return nil, gone("one of the two states in the focus")
	}
	var sets [2]*roaring.Bitmap
	for i, ref := range c.States {
		then, _, err := s.Links.Earlier(ctx, s, ref)
		if err != nil {
			return nil, err
		}
		sets[i] = then.Coding.Coded
		if c.Category != "" {
			sets[i] = roaring.New()
			if r, ok := then.Coding.Of(c.Category); ok {
				sets[i] = r.Answers
			}
		}
	}
	switch c.Direction {
	case "gained":
		return roaring.AndNot(sets[1], sets[0]), nil
	case "lost":
		return roaring.AndNot(sets[0], sets[1]), nil
	}
	return nil, fmt.Errorf("%w: answers are gained or lost, not %q", state.ErrRequest, c.Direction)
}

func (Changed) mark(*Marker) {}
