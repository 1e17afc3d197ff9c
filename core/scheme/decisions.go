package scheme

import (
	"cmp"
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

// Origin says where a decision comes from. Any part may be empty.
type Origin struct {
	By        string `json:"by,omitempty" maxLength:"100" doc:"who made it"`
	Day       string `json:"day,omitempty" doc:"when, as 2006-01-02"`
	Suggested bool   `json:"suggested,omitempty" doc:"it was put on since it was likely, and nobody has looked at the answer"`
	Note      string `json:"note,omitempty" maxLength:"1000" doc:"why"`
}

// Decisions are what was put on or taken off answers by hand. They are kept by respondent, so that they stay with whoever gave
// the answer, whatever rows come and go. They do not change once made; a category without decisions has no entry.
type Decisions struct {
	On, Off map[string]survey.Respondents            // by category key
	Settled survey.Respondents                       // looked at, needs no category
	From    map[Origin]map[string]survey.Respondents // those of which the origin is known, by category key; settled ones by ""
}

// Marks are the decisions on several answers that say the same. Category is empty for settled: On, else ByRules.
type Marks struct {
	Category string `json:"category,omitempty"`
	To       Mark   `json:"to"`
	Origin
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

// Origin is where a decision on an answer comes from.
func (d Decisions) Origin(p survey.Respondent, category string) Origin {
	for o, sets := range d.From {
		if sets[category].Has(p) {
			return o
		}
	}
	return Origin{}
}

// Where are those with a decision on a category whose origin is as asked for.
func (d Decisions) Where(category string, as func(Origin) bool) (out survey.Respondents) {
	for o, sets := range d.From {
		if as(o) {
			out = out.Or(sets[category])
		}
	}
	return out
}

// Suggested are those of whom a category was put on since it was likely, and who were not looked at since.
func (d Decisions) Suggested(category string) survey.Respondents {
	return d.Where(category, func(o Origin) bool { return o.Suggested })
}

// With gives the decisions with some changed; what they do not speak of is shared.
func (d Decisions) With(marks []Marks) Decisions {
	if len(marks) == 0 {
		return d
	}
	out := Decisions{maps.Clone(d.On), maps.Clone(d.Off), d.Settled, maps.Clone(d.From)}
	for _, sets := range []*map[string]survey.Respondents{&out.On, &out.Off} {
		if *sets == nil {
			*sets = map[string]survey.Respondents{}
		}
	}
	for _, m := range marks {
		these := survey.RespondentsOf(m.Respondents...)
		out.from(m, these)
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

// from keeps where marks come from, and forgets where those came from that they replace. What other decisions share is copied.
func (d *Decisions) from(m Marks, these survey.Respondents) {
	put := func(o Origin, set survey.Respondents) {
		sets := maps.Clone(d.From[o])
		if sets == nil {
			sets = map[string]survey.Respondents{}
		}
		if sets[m.Category] = set; set.Len() == 0 {
			delete(sets, m.Category)
		}
		if d.From[o] = sets; len(sets) == 0 {
			delete(d.From, o)
		}
	}
	for o, sets := range d.From {
		if was := sets[m.Category]; was.And(these).Len() > 0 {
			put(o, was.AndNot(these))
		}
	}
	if m.To != ByRules && m.Origin != (Origin{}) {
		if d.From == nil {
			d.From = map[Origin]map[string]survey.Respondents{}
		}
		put(m.Origin, d.From[m.Origin][m.Category].Or(these))
	}
}

// To gives the marks that lead from these decisions to others.
func (d Decisions) To(then Decisions) (out []Marks) {
	for _, category := range d.categories(then) {
		if d.same(then, category) {
			continue
		}
		now, later := d.of(category), then.of(category)
		var had, has survey.Respondents
		for _, set := range now {
			had = had.Or(set)
		}
		for _, kind := range sortedKinds(later) {
			set := later[kind]
			has = has.Or(set)
			if more := set.AndNot(now[kind]); more.Len() > 0 {
				out = append(out, Marks{category, kind.to, kind.from, more.List()})
			}
		}
		if gone := had.AndNot(has); gone.Len() > 0 {
			out = append(out, Marks{category, ByRules, Origin{}, gone.List()})
		}
	}
	return out
}

// same says whether others hold the same decisions on a category: quickly, where nothing was changed.
func (d Decisions) same(other Decisions, category string) bool {
	if !d.On[category].Same(other.On[category]) || !d.Off[category].Same(other.Off[category]) ||
		category == "" && !d.Settled.Same(other.Settled) {
		return false
	}
	for _, pair := range [][2]Decisions{{d, other}, {other, d}} {
		for o, sets := range pair[0].From {
			if !sets[category].Same(pair[1].From[o][category]) {
				return false
			}
		}
	}
	return true
}

// kind is decisions on one category that say the same and come from the same.
type kind struct {
	to   Mark
	from Origin
}

// of parts the decisions on a category by what they say and where they come from.
func (d Decisions) of(category string) map[kind]survey.Respondents {
	out := map[kind]survey.Respondents{}
	sets := map[Mark]survey.Respondents{On: d.On[category], Off: d.Off[category]}
	if category == "" {
		sets[On] = d.Settled
	}
	for to, set := range sets {
		for o, known := range d.From {
			if part := known[category].And(set); part.Len() > 0 {
				out[kind{to, o}] = part
				set = set.AndNot(part)
			}
		}
		if set.Len() > 0 {
			out[kind{to, Origin{}}] = set
		}
	}
	return out
}

func sortedKinds(of map[kind]survey.Respondents) []kind {
	return slices.SortedFunc(maps.Keys(of), func(a, b kind) int {
		return cmp.Or(
			cmp.Compare(b.to, a.to), cmp.Compare(a.from.Day, b.from.Day), cmp.Compare(a.from.By, b.from.By),
			cmp.Compare(a.from.Note, b.from.Note), flagged(a.from.Suggested)-flagged(b.from.Suggested),
		)
	})
}

func flagged(b bool) int {
	if b {
		return 1
	}
	return 0
}

// categories are the keys that these decisions or others speak of, in order; an empty one first for settled.
func (d Decisions) categories(others ...Decisions) []string {
	keys := map[string]bool{}
	for _, d := range append(others, d) {
		for _, sets := range []map[string]survey.Respondents{d.On, d.Off} {
			for key := range sets {
				keys[key] = true
			}
		}
		if d.Settled.Len() > 0 {
			keys[""] = true
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
		if category != "" && !known[category] {
			lost = append(lost, Marks{category, ByRules, Origin{}, d.On[category].Or(d.Off[category]).List()})
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
	out := frame.Decisions{On: of(d.On), Off: of(d.Off), Settled: rows.Of(d.Settled), Suggested: map[string]*roaring.Bitmap{}}
	for o, sets := range d.From {
		if !o.Suggested {
			continue
		}
		for category, set := range sets {
			if out.Suggested[category] == nil {
				out.Suggested[category] = roaring.New()
			}
			out.Suggested[category].Or(rows.Of(set))
		}
	}
	return out
}
