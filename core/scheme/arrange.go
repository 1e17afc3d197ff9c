package scheme

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"aftermath/core/frame"
	"aftermath/core/rule"
	"aftermath/core/survey"
)

// SplitCategory moves rules of a category to a new one beside it. Its “unless” rules hold for both.
type SplitCategory struct {
	Category string   `json:"category"`
	Name     string   `json:"name" doc:"of the new category"`
	Rules    []string `json:"rules" minItems:"1" doc:"those that go"`
}

// MergeCategories takes one category into another. What the one or the other had, the other has then: “unless” rules that differ
// are written into the rules they belong to, and decisions by hand go along. Of fields, the other keeps the values it has.
type MergeCategories struct {
	Category string `json:"category" doc:"the one that goes"`
	Into     string `json:"into" doc:"the one that stays"`
	// Further categories that go the same way.
	Also []string `json:"also,omitempty" doc:"further ones that go"`
}

// Kind tells it apart.
func (SplitCategory) Kind() string { return "split category" }

// Kind tells it apart.
func (MergeCategories) Kind() string { return "merge categories" }

func (e SplitCategory) change(s *Scheme, _ Situation) (string, error) {
	c, err := category(s.Frame, e.Category)
	if err != nil {
		return "", err
	}
	name := strings.TrimSpace(e.Name)
	if name == "" || len(e.Rules) == 0 {
		return "", refuse("say which rules go, and what the new category is called")
	}
	for _, r := range e.Rules {
		i := slices.Index(c.Rules, r)
		if i < 0 {
			return "", refuse("the rule %q is no longer in %s", r, c.PathName())
		}
		c.Rules = slices.Delete(c.Rules, i, i+1)
	}
	in, i := siblings(&s.Frame, c.ID)
	summary := fmt.Sprintf("Split %s off %s", name, c.PathName())
	*in = slices.Insert(
		*in, i+1,
		frame.Category{
			Name: name, Rules: slices.Clone(e.Rules), Unless: slices.Clone(c.Unless), Off: c.Off, Alone: c.Alone, Fields: maps.Clone(c.Fields),
		},
	)
	return summary, nil
}

func (e MergeCategories) change(s *Scheme, at Situation) (string, error) {
	to, ok := s.Frame.Find(e.Into)
	if !ok {
		return "", refuse("one of the categories is gone")
	}
	var from []frame.Place
	var names []string
	for _, id := range append([]string{e.Category}, e.Also...) {
		source, ok := s.Frame.Find(id)
		if !ok || slices.ContainsFunc(append(from, to), func(p frame.Place) bool { return p.ID == id }) {
			return "", refuse("one of the categories is gone, or named twice")
		}
		if (len(source.Children) > 0) != (len(to.Children) > 0) {
			return "", refuse("a net and a category without children can't become one: move what is inside the net first")
		}
		for _, other := range append(from, to) {
			if err := apart(source, other); err != nil {
				return "", err
			}
		}
		from, names = append(from, source), append(names, source.PathName())
	}
	summary := fmt.Sprintf("Merged %s into %s", words(names), to.PathName())
	s.Decisions = s.Decisions.With(s.mergedMarks(append([]string{e.Category}, e.Also...), to.ID, at))
	for _, id := range append([]string{e.Category}, e.Also...) {
		s.mergeInto(id, e.Into)
	}
	return summary, nil
}

// apart refuses two categories of which one stands in the other.
func apart(a, b frame.Place) error {
	for _, pair := range [][2]frame.Place{{a, b}, {b, a}} {
		if _, inside := (frame.Frame{*pair[0].Category}).Find(pair[1].ID); inside {
			return refuse("%q stands in %q: move it out first", pair[1].Name, pair[0].Name)
		}
	}
	return nil
}

// mergeInto gives the one category what the other is made of, and takes the other away.
func (s *Scheme) mergeInto(id, into string) {
	from, _ := s.Frame.Find(id)
	to, _ := s.Frame.Find(into)
	source, oldPath, newPath := *from.Category, slices.Clone(from.Path), slices.Clone(to.Path)
	mergeRules(&source, to.Category)
	to.Children = append(to.Children, source.Children...)
	for name, value := range source.Fields {
		if f, there := s.Fields.Find(name); there && to.Fields[name] == "" {
			_ = to.Set(f, value) // it was a value of the field already
		}
	}
	remove(&s.Frame, source.ID)
	s.moved(oldPath, newPath)
}

// mergeRules gives a category the rules and the note of another, which may change on the way.
func mergeRules(source, target *frame.Category) {
	if source.Off != target.Off { // what rests must not begin to catch
		rested, awake := source, target
		if target.Off {
			rested, awake = target, source
		}
		rested.Resting, rested.Rules, rested.Unless = append(
			slices.Clone(rested.Resting),
			rested.Rules...), nil, slices.Clone(awake.Unless)
		target.Off = false
	}
	if !slices.Equal(source.Unless, target.Unless) {
		source.Rules, target.Rules = without(source.Rules, source.Unless), without(target.Rules, target.Unless)
		target.Unless = nil
	}
	join := func(list *[]string, more []string) {
		for _, r := range more {
			if !slices.Contains(*list, r) {
				*list = append(*list, r)
			}
		}
	}
	join(&target.Rules, source.Rules)
	join(&target.Resting, source.Resting)
	if note := source.Note; note != "" && note != target.Note {
		target.Note = strings.TrimSpace(target.Note + "\n" + note)
	}
}

// without writes what takes away into the rules themselves.
func without(rules, unless []string) (out []string) {
	for _, src := range rules {
		n, problems := rule.Parse(src)
		for _, u := range unless {
			away, more := rule.Parse(u)
			if len(problems)+len(more) == 0 {
				n = rule.Except(n, away)
			}
		}
		if len(problems) == 0 && len(unless) > 0 {
			_, note := rule.Note(src)
			src = rule.WithNote(n.String(), note)
		}
		out = append(out, src)
	}
	return out
}

// mergedMarks are the decisions with which the merged category has what any of them had.
func (s *Scheme) mergedMarks(from []string, to string, at Situation) []Marks {
	var had, on, off survey.Respondents
	var out []Marks
	for _, id := range append(from, to) {
		if r, ok := at.Coding.Of(id); ok {
			had = had.Or(at.Rows.Respondents(r.Own))
		}
		on, off = on.Or(s.Decisions.On[id]), off.Or(s.Decisions.Off[id])
		parts := s.Decisions.of(id)
		for _, k := range sortedKinds(parts) {
			if k.to == On {
				out = append(out, Marks{to, On, k.from, parts[k].List()})
			}
		}
	}
	return append(
		out,
		Marks{to, ByRules, Origin{}, s.Decisions.Off[to].And(had).AndNot(on).List()},
		Marks{to, Off, Origin{}, off.AndNot(had).AndNot(on).AndNot(s.Decisions.Off[to]).List()},
	)
}
