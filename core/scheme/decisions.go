package scheme

import (
	"maps"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/survey"
)

// Mark is what was decided by hand about a category and an answer.
type Mark string

// The marks. Settled answers are marked with On and no category.
const (
	On      Mark = "on"
	Off     Mark = "off"
	ByRules Mark = "rules" // nothing was decided: the rules say
)

// Decisions are what was put on or taken off answers by hand. They are kept by respondent, so that they stay with whoever gave
// the answer, whatever rows come and go. They do not change once made; a category without decisions has no entry.
type Decisions struct {
	On, Off map[string]survey.Respondents // by category key
	Settled survey.Respondents            // looked at, needs no category
}

// Marks are the decisions on several answers that say the same. Category is empty for settled: On, else ByRules.
type Marks struct {
	Category    string              `json:"category,omitempty"`
	To          Mark                `json:"to"`
	Respondents []survey.Respondent `json:"respondents"`
}

// Mark is what was decided about an answer and a category; for none, whether it is settled.
func (d Decisions) Mark(p survey.Respondent, category string) Mark {
	switch {
	case category == "" && d.Settled.Has(p), d.On[category].Has(p):
		return On
	case d.Off[category].Has(p):
		return Off
	}
	return ByRules
}

// With gives the decisions with some changed; what they do not speak of is shared.
func (d Decisions) With(marks []Marks) Decisions {
	if len(marks) == 0 {
		return d
	}
	out := Decisions{maps.Clone(d.On), maps.Clone(d.Off), d.Settled}
	if out.On == nil {
		out.On = map[string]survey.Respondents{}
	}
	if out.Off == nil {
		out.Off = map[string]survey.Respondents{}
	}
	for _, m := range marks {
		these := survey.RespondentsOf(m.Respondents...)
		if m.Category == "" {
			out.Settled = out.Settled.AndNot(these)
			if m.To == On {
				out.Settled = out.Settled.Or(these)
			}
			continue
		}
		for mark, sets := range map[Mark]map[string]survey.Respondents{On: out.On, Off: out.Off} {
			now := sets[m.Category].AndNot(these)
			if m.To == mark {
				now = now.Or(these)
			}
			if sets[m.Category] = now; now.Len() == 0 {
				delete(sets, m.Category)
			}
		}
	}
	return out
}

// To gives the marks that lead from these decisions to others.
func (d Decisions) To(then Decisions) (out []Marks) {
	add := func(category string, to Mark, set survey.Respondents) {
		if set.Len() > 0 {
			out = append(out, Marks{category, to, set.List()})
		}
	}
	if !d.Settled.Same(then.Settled) {
		add("", On, then.Settled.AndNot(d.Settled))
		add("", ByRules, d.Settled.AndNot(then.Settled))
	}
	for _, category := range d.categories(then) {
		on, off, newOn, newOff := d.On[category], d.Off[category], then.On[category], then.Off[category]
		if on.Same(newOn) && off.Same(newOff) {
			continue
		}
		add(category, On, newOn.AndNot(on))
		add(category, Off, newOff.AndNot(off))
		add(category, ByRules, on.Or(off).AndNot(newOn.Or(newOff)))
	}
	return out
}

// categories are the keys that these decisions or others speak of, in order.
func (d Decisions) categories(others ...Decisions) []string {
	keys := map[string]bool{}
	for _, d := range append(others, d) {
		for _, sets := range []map[string]survey.Respondents{d.On, d.Off} {
			for key := range sets {
				keys[key] = true
			}
		}
	}
	return slices.Sorted(maps.Keys(keys))
}

// Decided are the respondents on whose answers anything was decided.
func (d Decisions) Decided() survey.Respondents {
	out := d.Settled
	for _, sets := range []map[string]survey.Respondents{d.On, d.Off} {
		for _, set := range sets {
			out = out.Or(set)
		}
	}
	return out
}

// All gives all decisions as marks that lead to them from none.
func (d Decisions) All() []Marks { return Decisions{}.To(d) }

// only gives the decisions on the categories of a frame: those on others went with them.
func (d Decisions) only(f frame.Frame) Decisions {
	known := map[string]bool{}
	for p := range f.All() {
		known[p.ID] = true
	}
	var lost []Marks
	for _, category := range d.categories() {
		if !known[category] {
			lost = append(lost, Marks{category, ByRules, d.On[category].Or(d.Off[category]).List()})
		}
	}
	return d.With(lost)
}

// In gives the decisions by row, for coding: those on respondents who are not there are left aside.
func (d Decisions) In(rows survey.Rows) frame.Decisions {
	of := func(sets map[string]survey.Respondents) map[string]*roaring.Bitmap {
		out := map[string]*roaring.Bitmap{}
		for category, set := range sets {
			out[category] = rows.Of(set)
		}
		return out
	}
	return frame.Decisions{On: of(d.On), Off: of(d.Off), Settled: rows.Of(d.Settled)}
}
