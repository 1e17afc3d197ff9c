package scheme

import (
	"slices"
	"strings"

	"aftermath/core/lexicon"
	"aftermath/core/rule"
)

// PutOnList puts entries on a term list, which is made if it is not there.
type PutOnList struct {
	List    string   `json:"list" doc:"its name"`
	Entries []string `json:"entries,omitempty" doc:"none to make an empty list"`
}

// TakeOffList takes entries off a term list, or does away with it.
type TakeOffList struct {
	List    string   `json:"list"`
	Entries []string `json:"entries,omitempty" doc:"left out, the whole list goes"`
}

// RenameList gives a term list another name. Rules that name it follow.
type RenameList struct {
	List string `json:"list"`
	Name string `json:"name"`
}

// AddLexiconRows adds what a table says to the stop words, merges or term lists; what is there already stays as it is.
type AddLexiconRows struct {
	Part lexicon.Part `json:"part" enum:"stop-words,merges,lists"`
	Rows [][]string   `json:"rows" doc:"as a table of that part is written, with or without its header"`
}

// Kind tells it apart.
func (PutOnList) Kind() string { return "list" }

// Kind tells it apart.
func (TakeOffList) Kind() string { return "unlist" }

// Kind tells it apart.
func (RenameList) Kind() string { return "rename list" }

// Kind tells it apart.
func (AddLexiconRows) Kind() string { return "lexicon" }

func listCalled(in []lexicon.List, name string) int {
	return slices.IndexFunc(in, func(l lexicon.List) bool { return l.Name == name })
}

// listName is the name of a list as it was typed, with or without "@".
func listName(typed string) string {
	return strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(typed), "@"))
}

func (e PutOnList) change(s *Scheme, _ Situation) (string, error) {
	l, name := &s.Lexicon, listName(e.List)
	if name == "" {
		return "", refuse("the term list needs a name")
	}
	i := listCalled(l.Lists, name)
	if i < 0 {
		i = len(l.Lists)
		l.Lists = append(l.Lists, lexicon.List{Name: name, Entries: []string{}})
	}
	for _, t := range e.Entries {
		if t = strings.TrimSpace(t); t != "" && !slices.Contains(l.Lists[i].Entries, t) {
			l.Lists[i].Entries = append(l.Lists[i].Entries, t)
		}
	}
	if len(e.Entries) == 0 {
		return "Made the term list @" + name, nil
	}
	return "Put " + words(e.Entries) + " on @" + name, nil
}

func (e TakeOffList) change(s *Scheme, _ Situation) (string, error) {
	l, name := &s.Lexicon, listName(e.List)
	i := listCalled(l.Lists, name)
	if i < 0 {
		return "", refuse("there is no term list @%s", name)
	}
	if len(e.Entries) == 0 {
		l.Lists = slices.Delete(l.Lists, i, i+1)
		return "Removed the term list @" + name, nil
	}
	l.Lists[i].Entries = slices.DeleteFunc(l.Lists[i].Entries, func(x string) bool { return slices.Contains(e.Entries, x) })
	return "Took " + words(e.Entries) + " off @" + name, nil
}

func (e RenameList) change(s *Scheme, _ Situation) (string, error) {
	old, to := listName(e.List), listName(e.Name)
	i := listCalled(s.Lexicon.Lists, old)
	switch {
	case to == "":
		return "", refuse("the new name is empty")
	case i < 0:
		return "", refuse("there is no term list @%s", old)
	}
	s.Lexicon.Lists[i].Name = to
	s.rewrite(func(k rule.Kind, names []string) ([]string, bool) {
		return []string{to}, k == rule.List && names[0] == old
	})
	return "Renamed @" + old + " to @" + to, nil
}

func (e AddLexiconRows) change(s *Scheme, _ Situation) (string, error) {
	l, added, err := s.Lexicon.WithTable(e.Part, e.Rows)
	if err != nil {
		return "", refuse("%w", err)
	}
	if added == 0 {
		return "", refuse("the file holds nothing that is not there already")
	}
	s.Lexicon = l
	return "Brought in " + map[lexicon.Part]string{lexicon.StopWordsPart: "stop words", lexicon.MergesPart: "merges", lexicon.ListsPart: "term lists"}[e.Part], nil
}
