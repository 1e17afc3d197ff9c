package scheme

import (
	"fmt"
	"slices"
	"strings"

	"aftermath/core/frame"
	"aftermath/core/naming"
	"aftermath/core/oneof"
	"aftermath/core/rule"
	"aftermath/core/survey"
)

// AddCategory adds a category at the end of the frame or of a net.
type AddCategory struct {
	Parent string             `json:"parent,omitempty" doc:"key of the net; left out, the top of the frame"`
	Name   string             `json:"name"`
	Code   int                `json:"code,omitempty"`
	Short  string             `json:"short,omitempty"`
	Note   string             `json:"note,omitempty"`
	Rules  []string           `json:"rules,omitempty" doc:"alternatives"`
	Unless []string           `json:"unless,omitempty" doc:"rules that take away"`
	Alone  bool               `json:"alone,omitempty"`
	Fields map[string]*string `json:"fields,omitempty" doc:"values of fields, by their names"`
	// Answers that it is put on, and taken off, by hand in the same edit.
	On  []survey.Respondent `json:"on,omitempty" doc:"numbers of the respondents whose answers it is put on by hand"`
	Off []survey.Respondent `json:"off,omitempty" doc:"those whose answers it is taken off by hand"`
}

// ChangeCategory changes what a category is; its rules, children and place stay. A name that changes is changed in the rules that
// name the category, too. What is left out stays as it was; null clears it, and a code or key that is cleared is given anew.
type ChangeCategory struct {
	Category string                 `json:"category"`
	Name     oneof.Optional[string] `json:"name,omitzero"`
	Code     oneof.Optional[int]    `json:"code,omitzero"`
	Short    oneof.Optional[string] `json:"short,omitzero"`
	Note     oneof.Optional[string] `json:"note,omitzero"`
	Colour   oneof.Optional[int]    `json:"colour,omitzero"`
	Alone    oneof.Optional[bool]   `json:"alone,omitzero"`
	Off      oneof.Optional[bool]   `json:"off,omitzero" doc:"its rules rest"`
	Fields   map[string]*string     `json:"fields,omitempty" doc:"values of fields, by their names; null takes a value away"`
}

// MoveCategory moves a category, with all inside it, to another place.
type MoveCategory struct {
	Category string `json:"category"`
	Parent   string `json:"parent,omitempty" doc:"key of the net; left out, the top of the frame"`
	Before   string `json:"before,omitempty" doc:"key of the sibling it comes before; left out, the end"`
}

// RemoveCategory removes a category with all inside it and all decisions on them.
type RemoveCategory struct {
	Category string `json:"category"`
}

// DuplicateCategory sets a copy beside a category. Decisions by hand stay with the original.
type DuplicateCategory struct {
	Category string `json:"category"`
}

// Kind tells it apart.
func (AddCategory) Kind() string { return "add category" }

// Kind tells it apart.
func (ChangeCategory) Kind() string { return "change category" }

// Kind tells it apart.
func (MoveCategory) Kind() string { return "move category" }

// Kind tells it apart.
func (RemoveCategory) Kind() string { return "remove category" }

// Kind tells it apart.
func (DuplicateCategory) Kind() string { return "duplicate category" }

func (e AddCategory) change(s *Scheme, at Situation) (string, error) {
	c := frame.Category{
		Name:   strings.TrimSpace(e.Name),
		Code:   e.Code,
		Short:  e.Short,
		Note:   e.Note,
		Rules:  e.Rules,
		Unless: e.Unless,
		Alone:  e.Alone,
	}
	if err := s.setFields(&c, e.Fields); err != nil {
		return "", err
	}
	summary := "Added the category " + c.Name
	if len(e.On)+len(e.Off) > 0 { // decisions need its key
		s.LastKey++
		c.ID = frame.Key(s.LastKey)
		for to, of := range map[Mark][]survey.Respondent{On: e.On, Off: e.Off} {
			if len(of) > 0 {
				if _, err := s.mark(Marks{Category: c.ID, To: to, Respondents: of}, at); err != nil {
					return "", err
				}
			}
		}
		summary += fmt.Sprintf(", with %s by hand", answers(len(e.On)+len(e.Off)))
	}
	if e.Parent == "" {
		s.Frame = append(s.Frame, c)
		return summary, nil
	}
	parent, ok := s.Frame.Find(e.Parent)
	if !ok {
		return "", refuse("the net it should stand in is gone")
	}
	if err := s.becomesNet(parent, at); err != nil {
		return "", err
	}
	parent.Children = append(parent.Children, c)
	return summary, nil
}

// becomesNet refuses to put something into a category that has decisions of its own.
func (s *Scheme) becomesNet(parent frame.Place, at Situation) error {
	if n := s.hands(parent.ID, at.Rows); n > 0 && len(parent.Children) == 0 {
		return refuse("%s has %s by hand, and a net has none of its own; move them first", parent.PathName(), answers(n))
	}
	return nil
}

func (e ChangeCategory) change(s *Scheme, _ Situation) (string, error) {
	c, err := category(s.Frame, e.Category)
	if err != nil {
		return "", err
	}
	old, name := slices.Clone(c.Path), strings.TrimSpace(e.Name.Or(c.Name))
	renamed := name != c.Name
	summary := "Changed the category " + c.PathName()
	c.Name, c.Note, c.Colour, c.Alone, c.Off = name, e.Note.Or(c.Note), e.Colour.Or(c.Colour), e.Alone.Or(c.Alone), e.Off.Or(c.Off)
	c.Code, c.Short = e.Code.Or(c.Code), e.Short.Or(c.Short)
	if err := s.setFields(c.Category, e.Fields); err != nil {
		return "", err
	}
	if renamed {
		summary = "Renamed " + naming.Path(old) + " to " + name
		s.moved(old, append(slices.Clone(old[:len(old)-1]), name))
	}
	return summary, nil
}

func (e MoveCategory) change(s *Scheme, at Situation) (string, error) {
	c, err := category(s.Frame, e.Category)
	if err != nil {
		return "", err
	}
	moved, old := *c.Category, slices.Clone(c.Path)
	if _, inside := (frame.Frame{moved}).Find(e.Parent); e.Parent != "" && inside {
		return "", refuse("a category can't stand in itself")
	}
	remove(&s.Frame, e.Category)
	to, path := &s.Frame, []string{}
	if e.Parent != "" {
		parent, ok := s.Frame.Find(e.Parent)
		if !ok {
			return "", refuse("the net it should stand in is gone")
		}
		if err := s.becomesNet(parent, at); err != nil {
			return "", err
		}
		to, path = (*frame.Frame)(&parent.Children), parent.Path
	}
	i := len(*to)
	if e.Before != "" {
		if i = slices.IndexFunc(*to, func(c frame.Category) bool { return c.ID == e.Before }); i < 0 {
			return "", refuse("the category it should come before is no longer there")
		}
	}
	*to = slices.Insert(*to, i, moved)
	s.moved(old, append(slices.Clone(path), moved.Name))
	return "Moved the category " + naming.Path(old), nil
}

func (e RemoveCategory) change(s *Scheme, _ Situation) (string, error) {
	c, err := category(s.Frame, e.Category)
	if err != nil {
		return "", err
	}
	summary := "Removed the category " + c.PathName()
	remove(&s.Frame, e.Category)
	return summary, nil
}

func (e DuplicateCategory) change(s *Scheme, _ Situation) (string, error) {
	c, err := category(s.Frame, e.Category)
	if err != nil {
		return "", err
	}
	summary := "Copied " + c.PathName()
	in, i := siblings(&s.Frame, c.ID)
	twin := frame.Frame{*c.Category}.Clone()[0]
	asNew(&twin)
	twin.Name = freeName(*in, c.Name+" copy")
	*in = slices.Insert(*in, i+1, twin)
	return summary + " as " + twin.Name, nil
}

// remove takes a category out of a frame.
func remove(f *frame.Frame, id string) {
	*f = slices.DeleteFunc(*f, func(c frame.Category) bool { return c.ID == id })
	for i := range *f {
		remove((*frame.Frame)(&(*f)[i].Children), id)
	}
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
	taken := map[string]bool{}
	for _, c := range in {
		taken[strings.ToLower(c.Name)] = true
	}
	return numbered(name, func(try string) bool { return taken[strings.ToLower(try)] })
}

// asNew takes the keys, codes and short codes off a category and all inside it, so that they get their own.
func asNew(c *frame.Category) {
	c.ID, c.Code, c.Short, c.Checks = "", 0, "", nil
	for i := range c.Children {
		asNew(&c.Children[i])
	}
}

// moved makes every rule that names a category by its old path, or one below it, name its new one.
func (s *Scheme) moved(old, to []string) {
	s.rewrite(func(k rule.Kind, names []string) ([]string, bool) {
		if k != rule.Category || len(names) < len(old) || !slices.EqualFunc(names[:len(old)], old, strings.EqualFold) {
			return nil, false
		}
		return append(slices.Clone(to), names[len(old):]...), true
	})
}

// rewrite gives other names to what the rules of the frame name.
func (s *Scheme) rewrite(other func(k rule.Kind, names []string) ([]string, bool)) {
	for p := range s.Frame.All() {
		for _, list := range [][]string{p.Rules, p.Unless, p.Resting} {
			for i, src := range list {
				list[i] = rule.Names(src, other)
			}
		}
		for i := range p.Checks {
			p.Checks[i].Rule = rule.Names(p.Checks[i].Rule, other)
		}
	}
}
