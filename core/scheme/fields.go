package scheme

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"aftermath/core/frame"
)

// AddField gives the categories of the frame a field, behind those there are.
type AddField struct {
	Field frame.Field `json:"field"`
}

// ChangeField changes what a field is called, what its values are, or its choices. A value that it could no longer hold is not taken
// away: the edit is refused.
type ChangeField struct {
	Field string      `json:"field" doc:"its name"`
	To    frame.Field `json:"to" doc:"what it is then"`
	// Choices that go on under another name, by the name before.
	Renamed map[string]string `json:"renamed,omitempty" doc:"choices that are called otherwise, by what they were called: values go along"`
}

// RemoveField takes a field away, with the values that categories have of it.
type RemoveField struct {
	Field string `json:"field" doc:"its name"`
}

// Kind tells it apart.
func (AddField) Kind() string { return "add field" }

// Kind tells it apart.
func (ChangeField) Kind() string { return "change field" }

// Kind tells it apart.
func (RemoveField) Kind() string { return "remove field" }

func (e AddField) change(s *Scheme, _ Situation) (string, error) {
	f := e.Field
	f.Name = strings.TrimSpace(f.Name)
	s.Fields = append(s.Fields, f)
	return "Added the field " + f.Name, nil
}

func (e ChangeField) change(s *Scheme, _ Situation) (string, error) {
	i, err := fieldAt(s.Fields, e.Field)
	if err != nil {
		return "", err
	}
	was, to := s.Fields[i], e.To
	to.Name = strings.TrimSpace(to.Name)
	var kept []string // categories with a value that the field can't hold
	var reason error
	for p := range s.Frame.All() {
		value, has := p.Fields[was.Name]
		if !has {
			continue
		}
		if renamed, is := e.Renamed[value]; is {
			value = renamed
		}
		_ = p.Set(was, "")
		if err := p.Set(to, value); err != nil {
			kept, reason = append(kept, p.PathName()), err
		}
	}
	if len(kept) > 0 {
		return "", refuse("%s; it is so of %s: change these first", reason, words(kept))
	}
	s.Fields[i] = to
	if was.Name != to.Name {
		return "Renamed the field " + was.Name + " to " + to.Name, nil
	}
	return "Changed the field " + to.Name, nil
}

func (e RemoveField) change(s *Scheme, _ Situation) (string, error) {
	i, err := fieldAt(s.Fields, e.Field)
	if err != nil {
		return "", err
	}
	f, n := s.Fields[i], 0
	for p := range s.Frame.All() {
		if p.Fields[f.Name] != "" {
			n++
		}
		_ = p.Set(f, "") // taking away has no errors
	}
	if s.Fields = slices.Delete(s.Fields, i, i+1); len(s.Fields) == 0 {
		s.Fields = nil
	}
	return fmt.Sprintf("Removed the field %s, which %s had", f.Name, counted(n, "category", "categories")), nil
}

func fieldAt(fields frame.Fields, name string) (int, error) {
	i := slices.IndexFunc(fields, func(f frame.Field) bool { return f.Name == name })
	if i < 0 {
		return 0, refuse("the field %q is gone", name)
	}
	return i, nil
}

// setFields gives a category values of fields; nil takes one away.
func (s *Scheme) setFields(c *frame.Category, values map[string]*string) error {
	for _, name := range slices.Sorted(maps.Keys(values)) {
		i, err := fieldAt(s.Fields, name)
		if err != nil {
			return err
		}
		typed := ""
		if values[name] != nil {
			typed = *values[name]
		}
		if err := c.Set(s.Fields[i], typed); err != nil {
			return refuse("%s", err)
		}
	}
	return nil
}

// takeFields gives categories that are brought in the values that they come with, in the fields that there are; fields that are not
// there come along.
func (s *Scheme) takeFields(brought frame.Frame, with frame.Fields) error {
	for _, f := range with {
		if _, there := s.Fields.Find(f.Name); !there {
			s.Fields = append(s.Fields, f)
		}
	}
	for p := range brought.All() {
		values := p.Fields
		p.Fields = nil
		for _, name := range slices.Sorted(maps.Keys(values)) {
			f, there := s.Fields.Find(name)
			if !there {
				return refuse("%s has a value of the field %q, which is not there", p.PathName(), name)
			}
			if err := p.Set(f, values[name]); err != nil {
				return refuse("%s, which %s brings", err, p.PathName())
			}
		}
	}
	return nil
}
