package desk

import (
	"fmt"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/playbook"
	"aftermath/core/rule"
)

// changeRule puts a rule in the place of another of its category, adds one, or takes one away. Rules go by their text: an
// edit made in another window in the meantime moves none of them under one's hand.
func changeRule(c frame.Place, e Edit) (string, error) {
	list, what := &c.Rules, "rule"
	if e.Unless {
		list, what = &c.Unless, "“unless” rule"
	}
	text, was := strings.TrimSpace(e.Rule), strings.TrimSpace(e.Was)
	at := slices.Index(*list, was)
	switch {
	case was != "" && at < 0:
		return "", fmt.Errorf("%w: the rule %q is no longer in %s, it was changed or removed in another window. What you wrote is still here: keep it as a further rule, or drop it", ErrRequest, was, c.PathName())
	case text == "" && was == "":
		return "", fmt.Errorf("%w: the rule is empty", ErrRequest)
	case text != "" && text != was && slices.Contains(*list, text):
		return "", fmt.Errorf("%w: %s has the rule %q already", ErrRequest, c.PathName(), text)
	case text == "":
		*list = slices.Delete(*list, at, at+1)
		return fmt.Sprintf("Removed the %s %s from %s", what, was, c.PathName()), nil
	case was == "":
		*list = append(*list, text)
		return fmt.Sprintf("Added the %s %s to %s", what, text, c.PathName()), nil
	}
	(*list)[at] = text
	return fmt.Sprintf("Changed the %s %s of %s to %s", what, was, c.PathName(), text), nil
}

// rest lets a rule rest, or takes it up again.
func rest(c frame.Place, e Edit) (string, error) {
	from, to, summary := &c.Rules, &c.Resting, "Let the rule %s of %s rest"
	if e.To == "off" {
		from, to, summary = &c.Resting, &c.Rules, "Took up the rule %s of %s again"
	}
	at := slices.Index(*from, e.Was)
	if at < 0 {
		return "", fmt.Errorf("%w: the rule %q is no longer there", ErrRequest, e.Was)
	}
	*from = slices.Delete(*from, at, at+1)
	if !slices.Contains(*to, e.Was) {
		*to = append(*to, e.Was)
	}
	return fmt.Sprintf(summary, e.Was, c.PathName()), nil
}

// siblings gives the list that a category stands in, and its place there.
func siblings(f *frame.Frame, id string) (*frame.Frame, int) {
	if i := slices.IndexFunc(*f, func(c frame.Category) bool { return c.ID == id }); i >= 0 {
		return f, i
	}
	for i := range *f {
		if in, at := siblings((*frame.Frame)(&(*f)[i].Children), id); in != nil {
			return in, at
		}
	}
	return nil, 0
}

// freeName is a name that no category in a list has.
func freeName(in frame.Frame, name string) string {
	for i, try := 2, name; ; i, try = i+1, fmt.Sprintf("%s %d", name, i) {
		if !slices.ContainsFunc(in, func(c frame.Category) bool { return strings.EqualFold(c.Name, try) }) {
			return try
		}
	}
}

// asNew takes the keys, codes and short codes off a category and all inside it, so that they get their own.
func asNew(c *frame.Category) {
	c.ID, c.Code, c.Short = "", 0, ""
	for i := range c.Children {
		asNew(&c.Children[i])
	}
}

// duplicate sets a copy beside a category. Decisions by hand stay with the original.
func duplicate(p *playbook.Playbook, s *State, c frame.Place) string {
	in, at := siblings(&p.Frame, c.ID)
	twin := frame.Frame{*c.Category}.Clone()[0]
	asNew(&twin)
	twin.Name = freeName(*in, c.Name+" copy")
	*in = slices.Insert(*in, at+1, twin)
	p.Frame.Complete(s.Playbook.Frame)
	return "Copied " + c.PathName() + " as " + twin.Name
}

// split moves rules of a category to a new one beside it. Its "unless" rules hold for both.
func split(p *playbook.Playbook, s *State, c frame.Place, e Edit) (string, error) {
	name := strings.TrimSpace(e.Name)
	if name == "" || len(e.Rules) == 0 {
		return "", fmt.Errorf("%w: say which rules go, and what the new category is called", ErrRequest)
	}
	for _, r := range e.Rules {
		at := slices.Index(c.Rules, r)
		if at < 0 {
			return "", fmt.Errorf("%w: the rule %q is no longer in %s", ErrRequest, r, c.PathName())
		}
		c.Rules = slices.Delete(c.Rules, at, at+1)
	}
	in, at := siblings(&p.Frame, c.ID)
	if slices.ContainsFunc(*in, func(o frame.Category) bool { return strings.EqualFold(o.Name, name) }) {
		return "", fmt.Errorf("%w: there is a category %q already", ErrRequest, name)
	}
	summary := fmt.Sprintf("Split %s off %s", name, c.PathName())
	*in = slices.Insert(*in, at+1, frame.Category{Name: name, Rules: slices.Clone(e.Rules), Unless: slices.Clone(c.Unless), Off: c.Off, Alone: c.Alone})
	p.Frame.Complete(s.Playbook.Frame)
	return summary, nil
}

// mergeCategories takes one category into another. What the one or the other had, the other has then: "unless" rules that
// differ are written into the rules they belong to, and decisions by hand go along.
func mergeCategories(p *playbook.Playbook, s *State, e Edit) (marks []HandMark, summary string, err error) {
	refuse := func(format string, args ...any) ([]HandMark, string, error) {
		return nil, "", fmt.Errorf("%w: "+format, append([]any{ErrRequest}, args...)...)
	}
	from, ok := p.Frame.Find(e.ID)
	to, ok2 := p.Frame.Find(e.Into)
	if !ok || !ok2 || e.ID == e.Into {
		return refuse("one of the two categories is gone")
	}
	if (len(from.Children) > 0) != (len(to.Children) > 0) {
		return refuse("a net and a category without children can't become one: move what is inside the net first")
	}
	for _, pair := range [][2]frame.Place{{from, to}, {to, from}} {
		if _, inside := (frame.Frame{*pair[0].Category}).Find(pair[1].ID); inside {
			return refuse("%q stands in %q: move it out first", pair[1].Name, pair[0].Name)
		}
	}
	a, _ := s.Coding.Of(from.ID)
	b, _ := s.Coding.Of(to.ID)
	source, target := *from.Category, to.Category
	summary = fmt.Sprintf("Merged %s into %s", from.PathName(), to.PathName())
	oldPath, newPath := slices.Clone(from.Path), slices.Clone(to.Path)
	if source.Off != target.Off { // what rests must not begin to catch
		rested, awake := &source, target
		if target.Off {
			rested, awake = target, &source
		}
		rested.Resting, rested.Rules, rested.Unless = append(slices.Clone(rested.Resting), rested.Rules...), nil, slices.Clone(awake.Unless)
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
	target.Children = append(target.Children, source.Children...)
	remove(&p.Frame, source.ID)
	rewrite(p, oldPath, newPath)
	return mergedMarks(s, a, b), summary, nil
}

// without writes what takes away into the rules themselves.
func without(rules, unless []string) (out []string) {
	for _, src := range rules {
		n, problems := rule.Parse(src)
		for _, u := range unless {
			away, more := rule.Parse(u)
			if len(problems)+len(more) == 0 {
				n = &rule.Node{Kind: rule.Without, Kids: []*rule.Node{n, away}}
			}
		}
		if len(problems) == 0 && len(unless) > 0 {
			src = n.String()
		}
		out = append(out, src)
	}
	return out
}

// mergedMarks are the decisions with which the merged category has what either of the two had.
func mergedMarks(s *State, from, to *frame.Result) (marks []HandMark) {
	d := s.Decisions
	each := func(set *roaring.Bitmap, visit func(answer uint32)) {
		if set != nil {
			for it := set.Iterator(); it.HasNext(); {
				visit(it.Next())
			}
		}
	}
	put := func(answer uint32, mark string) {
		if s.mark(answer, to.ID) != mark {
			marks = append(marks, HandMark{answer, to.ID, mark})
		}
	}
	each(d.On[from.ID], func(a uint32) { put(a, "on") })
	each(d.Off[from.ID], func(a uint32) {
		if !to.Own.Contains(a) {
			put(a, "off")
		}
	})
	each(d.Off[to.ID], func(a uint32) {
		if from.Own.Contains(a) && s.mark(a, from.ID) != "on" {
			put(a, "rules")
		}
	})
	return marks
}
