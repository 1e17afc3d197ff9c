package scheme

import (
	"cmp"
	"slices"
	"strings"

	"aftermath/core/lexicon"
	"aftermath/core/text"
)

// PartWords makes words count apart from the others that inflections join them with.
type PartWords struct {
	Words    []string `json:"words" minItems:"1"`
	Together bool     `json:"together,omitempty" doc:"they count as one term; else each by itself"`
	From     string   `json:"from,omitempty" doc:"the term they are taken out of, for what is said about it"`
}

// JoinWords lets words that were parted count with their inflections again.
type JoinWords struct {
	Words []string `json:"words" minItems:"1"`
}

// JoinInflections says whether the inflections of a word count as one term.
type JoinInflections struct {
	On bool `json:"on"`
}

// SetLanguage sets the language of the answers. The base stop words and the phrases of refusal go along where they were those of
// the language before.
type SetLanguage struct {
	Language string `json:"language" doc:"its code; und for one that is not known"`
}

// UnknownLanguage is the language of answers that are in none we know: nothing is stemmed or hidden there.
const UnknownLanguage = "und"

// Kind tells it apart.
func (PartWords) Kind() string { return "part" }

// Kind tells it apart.
func (JoinWords) Kind() string { return "join" }

// JoinComparatives says whether comparatives and superlatives count with what they are of, as other inflections do.
type JoinComparatives struct {
	On bool `json:"on"`
}

// Kind tells it apart.
func (JoinComparatives) Kind() string { return "comparatives" }

// Kind tells it apart.
func (JoinInflections) Kind() string { return "inflections" }

// Kind tells it apart.
func (SetLanguage) Kind() string { return "language" }

func (e PartWords) change(s *Scheme, at Situation) (string, error) {
	if len(e.Words) == 0 {
		return "", refuse("say which words")
	}
	for _, w := range e.Words {
		if len(at.View.Typed(w)) != 1 || strings.Contains(w, ",") {
			return "", refuse("%q is not one word", w)
		}
	}
	if e.Together {
		joinParted(&s.Lexicon, e.Words)
		s.Lexicon.Parted = append(s.Lexicon.Parted, strings.Join(e.Words, ", "))
	} else {
		for _, w := range e.Words {
			partWord(&s.Lexicon, w)
		}
	}
	return "Parted " + words(e.Words) + " from " + cmp.Or(e.From, "the others of the stem"), nil
}

// partWord makes a word stand apart, if it does not yet.
func partWord(l *lexicon.Lexicon, word string) {
	if !slices.ContainsFunc(l.Parted, func(entry string) bool { return slices.Contains(lexicon.PartedWords(entry), word) }) {
		l.Parted = append(l.Parted, word)
	}
}

// joinParted has words stand apart no longer; what they stood apart with goes on to.
func joinParted(l *lexicon.Lexicon, gone []string) {
	var out []string
	for _, entry := range l.Parted {
		left := slices.DeleteFunc(lexicon.PartedWords(entry), func(w string) bool { return slices.Contains(gone, w) })
		if len(left) > 0 {
			out = append(out, strings.Join(left, ", "))
		}
	}
	l.Parted = out
}

func (e JoinWords) change(s *Scheme, _ Situation) (string, error) {
	if len(e.Words) == 0 {
		return "", refuse("say which words")
	}
	var all []string
	for _, w := range e.Words {
		all = append(all, lexicon.PartedWords(w)...)
	}
	joinParted(&s.Lexicon, all)
	return "Joined " + words(e.Words) + " with the others of the stem again", nil
}

func (e JoinInflections) change(s *Scheme, _ Situation) (string, error) {
	s.Lexicon.Inflections = e.On
	if e.On {
		return "Joined the inflections of words", nil
	}
	return "Counted every form of a word apart", nil
}

func (e SetLanguage) change(s *Scheme, _ Situation) (string, error) {
	if e.Language != UnknownLanguage && lexicon.LanguageNames[e.Language] == "" {
		return "", refuse("the language %q is not known; there are: %s", e.Language, strings.Join(lexicon.Languages(), ", "))
	}
	if base := &s.Lexicon.StopWords.Base; *base == lexicon.Default(s.Language).StopWords.Base {
		*base = lexicon.Default(e.Language).StopWords.Base
	}
	if slices.Equal(s.NoAnswers, text.DefaultNoAnswers(s.Language)) {
		s.NoAnswers = text.DefaultNoAnswers(e.Language)
	}
	s.Language = e.Language
	return "Set the language to " + cmp.Or(lexicon.LanguageNames[e.Language], "none that is known"), nil
}

func (e JoinComparatives) change(s *Scheme, _ Situation) (string, error) {
	s.Lexicon.ComparativesApart = !e.On
	if e.On {
		return "Joined comparatives", nil
	}
	return "Counted comparatives as terms of their own", nil
}
