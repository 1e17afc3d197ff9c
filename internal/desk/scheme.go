package desk

import (
	"cmp"
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
		return merge(p, s, e)
	case "part", "join":
		return part(p, s, e)
	case "list", "unlist":
		return listTerms(p, e)
	case "rename":
		return renameTerms(p, e)
	case "apart", "suggest again":
		return apart(p, e)
	case "inflections":
		p.Lexicon.Inflections = e.To == "on"
		return map[bool]string{true: "Joined the inflections of words", false: "Counted every form of a word apart"}[p.Lexicon.Inflections], nil
	case "base":
		p.Lexicon.StopWords.Base = e.Label
		return "Took the base stop words of " + cmp.Or(lexicon.LanguageNames[e.Label], "no language"), nil
	case "language":
		return language(p, e.Label)
	case "lexicon":
		if e.Lexicon == nil {
			return refuse("no lexicon was given")
		}
		p.Lexicon = e.Lexicon.Clone()
		return "Brought in parts of a lexicon", nil
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
		loaded := e.Playbook.Clone()
		by := loaded.Frame
		loaded.Frame, loaded.Variables, loaded.Derived = p.Frame, p.Variables, p.Derived
		*p = loaded
		replaceFrame(p, by)
		return "Loaded a playbook", nil
	case "copy":
		return copyParts(p, e)
	case "frame":
		if e.Frame == nil {
			return refuse("no code frame was given")
		}
		return bringFrame(p, s, *e.Frame, e.To == "on"), nil
	case "refuse draft":
		if !slices.Contains(p.RefusedDrafts, e.Rule) {
			p.RefusedDrafts = append(p.RefusedDrafts, e.Rule)
		}
		return "Refused the draft " + e.Rule, nil
	case "draft again":
		p.RefusedDrafts = nil
		return "Let refused drafts be proposed again", nil
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
	case "rule":
		return changeRule(c, e)
	case "rest":
		return rest(c, e)
	case "duplicate category":
		return duplicate(p, s, c), nil
	case "split category":
		return split(p, s, c, e)
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
			replaceFrame(p, from.Frame)
		}
	}
	return "Copied " + strings.Join(e.Parts, ", ") + " from another question", nil
}

// replaceFrame puts another code frame in the place of the one there is. Categories under the same path keep their key.
func replaceFrame(p *playbook.Playbook, by frame.Frame) {
	earlier := p.Frame
	p.Frame = by
	for place := range p.Frame.All() {
		place.ID = ""
	}
	p.Frame.Complete(earlier)
}

// bringFrame brings a code frame in: in the place of the one there is, or after it; a top category whose name is taken gets
// a further number then.
func bringFrame(p *playbook.Playbook, s *State, brought frame.Frame, after bool) string {
	brought = brought.Clone()
	summary := fmt.Sprintf("Brought in a code frame of %d categories", brought.Len())
	if !after {
		replaceFrame(p, brought)
		return summary
	}
	for _, c := range brought {
		old := c.Name
		asNew(&c)
		c.Name = freeName(p.Frame, c.Name)
		if c.Name != old { // its own rules speak of itself
			moved := playbook.Playbook{Frame: frame.Frame{c}}
			rewrite(&moved, []string{old}, []string{c.Name})
			c = moved.Frame[0]
		}
		p.Frame = append(p.Frame, c)
	}
	p.Frame.Complete(s.Playbook.Frame)
	return summary + ", after the ones there were"
}

func changeCategory(p *playbook.Playbook, c frame.Place, to frame.Category) string {
	old := slices.Clone(c.Path)
	summary := "Changed the category " + c.PathName()
	to.ID, to.Children = c.ID, c.Children
	to.Rules, to.Unless, to.Resting = c.Rules, c.Unless, c.Resting // rules go by edits of their own
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
	rewriteNames(p, func(k rule.Kind, names []string) ([]string, bool) {
		if k != rule.Category || len(names) < len(old) || !slices.EqualFunc(names[:len(old)], old, strings.EqualFold) {
			return nil, false
		}
		return append(slices.Clone(to), names[len(old):]...), true
	})
}

// rewriteNames gives other names to what the rules of a frame name.
func rewriteNames(p *playbook.Playbook, other func(k rule.Kind, names []string) ([]string, bool)) {
	rename := func(src string) string { return rule.Names(src, other) }
	for place := range p.Frame.All() {
		for i := range place.Rules {
			place.Rules[i] = rename(place.Rules[i])
		}
		for i := range place.Unless {
			place.Unless[i] = rename(place.Unless[i])
		}
		for i := range place.Resting {
			place.Resting[i] = rename(place.Resting[i])
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
