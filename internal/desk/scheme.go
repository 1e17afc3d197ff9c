package desk

import (
	"fmt"
	"slices"
	"strings"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/rule"
	"aftermath/core/text"
)

// apply changes the playbook and says in a few words what was done.
func apply(p *playbook.Playbook, s *State, e Edit) (summary string, err error) {
	refuse := func(format string, args ...any) (string, error) {
		return "", fmt.Errorf("%w: "+format, append([]any{ErrRequest}, args...)...)
	}
	switch e.Kind {
	case "hide", "show":
		return stopWords(p, s, e)
	case "merge", "split":
		return merge(p, e)
	case "cleaning":
		p.Cleaning = e.Steps
		if p.Cleaning == nil {
			p.Cleaning = []text.Step{}
		}
		return "Changed the cleaning steps", nil
	case "no answers":
		p.NoAnswers = e.Phrases
		return "Changed the phrases of refusal", nil
	case "playbook":
		if e.Playbook == nil {
			return refuse("no playbook was given")
		}
		earlier, variables, derived := p.Frame, p.Variables, p.Derived
		*p = e.Playbook.Clone()
		for place := range p.Frame.All() {
			place.ID = ""
		}
		p.Frame.Complete(earlier)
		p.Variables, p.Derived = variables, derived
		return "Loaded a playbook", nil
	case "copy":
		return copyParts(p, e)
	case "mask":
		p.Mask = e.To == "on"
		return map[bool]string{true: "Masked mail addresses and phone numbers", false: "Showed mail addresses and phone numbers again"}[p.Mask], nil
	case "add category":
		if e.Category == nil {
			return refuse("no category was given")
		}
		c := *e.Category
		c.ID = ""
		if e.Parent == "" {
			p.Frame = append(p.Frame, c)
		} else if parent, ok := p.Frame.Find(e.Parent); ok {
			if on := s.Decisions.On[e.Parent]; len(parent.Children) == 0 && on != nil && !on.IsEmpty() {
				return refuse("%q has %d answers by hand, and a net has none of its own; move them first", parent.Name, on.GetCardinality())
			}
			parent.Children = append(parent.Children, c)
		} else {
			return refuse("the net it should stand in is gone")
		}
		p.Frame.Complete(s.Playbook.Frame)
		return "Added the category " + c.Name, nil
	}
	c, ok := p.Frame.Find(e.ID)
	if !ok {
		return refuse("the category is gone")
	}
	switch e.Kind {
	case "change category":
		if e.Category == nil {
			return refuse("no category was given")
		}
		return changeCategory(p, c, *e.Category), nil
	case "remove category":
		remove(&p.Frame, e.ID)
		return "Removed the category " + c.PathName(), nil
	case "move category":
		return moveCategory(p, c, e)
	}
	return refuse("there is no edit %q", e.Kind)
}

// copyParts takes cleaning, lexicon or frame of another question. Categories that this one has under the same path keep
// their decisions by hand.
func copyParts(p *playbook.Playbook, e Edit) (string, error) {
	if e.Playbook == nil || len(e.Parts) == 0 {
		return "", fmt.Errorf("%w: say what is to be copied", ErrRequest)
	}
	from := e.Playbook.Clone()
	for _, part := range e.Parts {
		switch part {
		case "cleaning":
			p.Cleaning, p.NoAnswers = from.Cleaning, from.NoAnswers
		case "lexicon":
			p.Lexicon = from.Lexicon
		case "frame":
			earlier := p.Frame
			p.Frame = from.Frame
			for place := range p.Frame.All() {
				place.ID = ""
			}
			p.Frame.Complete(earlier)
		}
	}
	return "Copied " + strings.Join(e.Parts, ", ") + " from another question", nil
}

func changeCategory(p *playbook.Playbook, c frame.Place, to frame.Category) string {
	old := slices.Clone(c.Path)
	summary := "Changed the category " + c.PathName()
	to.ID, to.Children = c.ID, c.Children
	if to.Code == 0 {
		to.Code = c.Code
	}
	if to.Short == "" {
		to.Short = c.Short
	}
	renamed := to.Name != c.Name
	*c.Category = to
	if renamed {
		summary = "Renamed " + strings.Join(old, " / ") + " to " + to.Name
		rewrite(p, old, append(slices.Clone(old[:len(old)-1]), to.Name))
	}
	return summary
}

// rewrite makes every rule that names a category, or one below it, name its new path.
func rewrite(p *playbook.Playbook, old, to []string) {
	rename := func(src string) string {
		return rule.Names(src, func(k rule.Kind, names []string) ([]string, bool) {
			if k != rule.Category || len(names) < len(old) || !slices.EqualFunc(names[:len(old)], old, strings.EqualFold) {
				return nil, false
			}
			return append(slices.Clone(to), names[len(old):]...), true
		})
	}
	for place := range p.Frame.All() {
		for i := range place.Rules {
			place.Rules[i] = rename(place.Rules[i])
		}
		for i := range place.Unless {
			place.Unless[i] = rename(place.Unless[i])
		}
	}
}

func moveCategory(p *playbook.Playbook, c frame.Place, e Edit) (string, error) {
	moved, old := *c.Category, slices.Clone(c.Path)
	if _, inside := (frame.Frame{moved}).Find(e.Parent); inside {
		return "", fmt.Errorf("%w: a category can't stand in itself", ErrRequest)
	}
	remove(&p.Frame, e.ID)
	to, path := &p.Frame, []string{}
	if e.Parent != "" {
		parent, ok := p.Frame.Find(e.Parent)
		if !ok {
			return "", fmt.Errorf("%w: the net it should stand in is gone", ErrRequest)
		}
		to, path = (*frame.Frame)(&parent.Children), parent.Path
	}
	at := slices.IndexFunc(*to, func(c frame.Category) bool { return c.ID == e.Before })
	if at < 0 {
		at = len(*to)
	}
	*to = slices.Insert(*to, at, moved)
	rewrite(p, old, append(slices.Clone(path), moved.Name))
	return "Moved the category " + moved.Name, nil
}

func remove(f *frame.Frame, id string) {
	*f = slices.DeleteFunc(*f, func(c frame.Category) bool { return c.ID == id })
	for i := range *f {
		remove((*frame.Frame)(&(*f)[i].Children), id)
	}
}

func stopWords(p *playbook.Playbook, s *State, e Edit) (string, error) {
	sw := &p.Lexicon.StopWords
	to, from := &sw.Add, &sw.Keep
	if e.Kind == "show" {
		to, from = from, to
	}
	for _, label := range e.Terms {
		if len(s.View.Typed(label)) == 0 {
			return "", fmt.Errorf("%w: %q is no term", ErrRequest, label)
		}
		// A word of the term that the other list names would win against this, or be left behind.
		names := []string{label}
		if t, ok := s.View.Find(label); ok {
			for _, w := range s.View.Terms[t].Words {
				names = append(names, s.View.Index.Surface(w), s.View.Index.Spelling(w))
			}
		}
		*from = slices.DeleteFunc(*from, func(w string) bool { return slices.Contains(names, w) })
		if !slices.Contains(*to, label) {
			*to = append(*to, label)
		}
	}
	verb := map[string]string{"hide": "Hid ", "show": "Brought back "}[e.Kind]
	return verb + strings.Join(e.Terms, ", "), nil
}

func merge(p *playbook.Playbook, e Edit) (string, error) {
	label := strings.TrimSpace(e.Label)
	l := &p.Lexicon
	at := slices.IndexFunc(l.Merges, func(m lexicon.Merge) bool { return strings.EqualFold(m.Term, label) })
	if e.Kind == "split" {
		if at < 0 {
			return "", fmt.Errorf("%w: there is no merge %q", ErrRequest, label)
		}
		m := &l.Merges[at]
		m.Variants = slices.DeleteFunc(m.Variants, func(v string) bool { return slices.Contains(e.Terms, v) })
		if len(e.Terms) == 0 || len(m.Variants) == 0 {
			l.Merges = slices.Delete(l.Merges, at, at+1)
			return "Parted the merge " + label, nil
		}
		return "Took " + strings.Join(e.Terms, ", ") + " out of " + label, nil
	}
	if label == "" {
		return "", fmt.Errorf("%w: the merge needs a label", ErrRequest)
	}
	if at < 0 {
		at = len(l.Merges)
		l.Merges = append(l.Merges, lexicon.Merge{Term: label})
	}
	for _, term := range e.Terms {
		if strings.EqualFold(term, label) {
			continue
		}
		// A merge that is merged brings its variants along.
		if other := slices.IndexFunc(l.Merges, func(m lexicon.Merge) bool { return strings.EqualFold(m.Term, term) }); other >= 0 {
			l.Merges[at].Variants = append(l.Merges[at].Variants, l.Merges[other].Variants...)
			l.Merges = slices.Delete(l.Merges, other, other+1)
			if other < at {
				at--
			}
		}
		if !slices.Contains(l.Merges[at].Variants, term) {
			l.Merges[at].Variants = append(l.Merges[at].Variants, term)
		}
	}
	return "Merged " + strings.Join(e.Terms, ", ") + " as " + label, nil
}
