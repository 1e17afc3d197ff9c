package scheme

import (
	"cmp"
	"slices"

	"aftermath/core/lexicon"
)

// Hide takes terms off lists, clouds and suggestions.
type Hide struct {
	Terms []string `json:"terms" minItems:"1" doc:"labels of terms"`
}

// Show brings hidden terms back.
type Show struct {
	Terms []string `json:"terms" minItems:"1" doc:"labels of terms"`
}

// SetBaseStopWords says of which language the base stop words are.
type SetBaseStopWords struct {
	Language string `json:"language" doc:"its code; empty for none"`
}

// Kind tells it apart.
func (Hide) Kind() string { return "hide" }

// Kind tells it apart.
func (Show) Kind() string { return "show" }

// Kind tells it apart.
func (SetBaseStopWords) Kind() string { return "base" }

func (e Hide) change(s *Scheme, at Situation) (string, error) {
	sw := &s.Lexicon.StopWords
	return "Hid " + words(e.Terms), moveWords(e.Terms, &sw.Keep, &sw.Add, at.View)
}

func (e Show) change(s *Scheme, at Situation) (string, error) {
	sw := &s.Lexicon.StopWords
	return "Brought back " + words(e.Terms), moveWords(e.Terms, &sw.Add, &sw.Keep, at.View)
}

// moveWords puts terms on one of the two lists and takes them off the other: a word of the term that the other list names would
// win against this, or be left behind.
func moveWords(terms []string, from, to *[]string, v *lexicon.View) error {
	if len(terms) == 0 {
		return refuse("say which terms")
	}
	for _, label := range terms {
		if len(v.Typed(label)) == 0 {
			return refuse("%q is no term", label)
		}
		names := []string{label}
		if t, ok := v.Find(label); ok {
			for _, w := range v.Terms[t].Words {
				names = append(names, v.Index.Surface(w), v.Index.Spelling(w))
			}
		}
		*from = slices.DeleteFunc(*from, func(w string) bool { return slices.Contains(names, w) })
		if !slices.Contains(*to, label) {
			*to = append(*to, label)
		}
	}
	return nil
}

func (e SetBaseStopWords) change(s *Scheme, _ Situation) (string, error) {
	s.Lexicon.StopWords.Base = e.Language
	return "Took the base stop words of " + cmp.Or(lexicon.LanguageNames[e.Language], "no language"), nil
}
