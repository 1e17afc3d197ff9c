// Package lexicon turns surfaces into terms: it joins inflections, merges synonyms, hides stop words and keeps term
// lists. All of it is a view on the word index, so that a change costs milliseconds and re-reads no text.
package lexicon

import (
	"errors"
	"fmt"
	"slices"
	"strings"
)

// Lexicon is what the analyst has decided about words, as the playbook writes it.
type Lexicon struct {
	Inflections       bool      `json:"inflections" doc:"words of one stem count as one term"`
	ComparativesApart bool      `json:"comparativesApart,omitempty" doc:"cheaper and cheapest, better and best are terms of their own, whatever inflections say"`
	StopWords         StopWords `json:"stopWords"`
	Merges            []Merge   `json:"merges,omitempty"`
	Lists             []List    `json:"lists,omitempty"`
	Parted            []string  `json:"parted,omitempty" doc:"words that stand apart from the others of their stem; several in one, separated by commas, stand together"`
	Apart             []Merge   `json:"apart,omitempty" doc:"terms that are not to be suggested as one"`
}

// KeptApart says whether two terms are not to be suggested as one.
func (l Lexicon) KeptApart(a, b string) bool {
	has := func(a, b string) bool {
		return slices.ContainsFunc(
			l.Apart, func(m Merge) bool { return strings.EqualFold(m.Term, a) && slices.Contains(m.Variants, b) },
		)
	}
	return has(a, b) || has(b, a)
}

// PartedWords are the words of an entry of Parted: they stand apart together.
func PartedWords(entry string) []string {
	var out []string
	for w := range strings.SplitSeq(entry, ",") {
		if w = strings.TrimSpace(w); w != "" {
			out = append(out, w)
		}
	}
	return out
}

// StopWords hide terms from lists, never from rules. Keep wins over both others.
type StopWords struct {
	Base string   `json:"base" doc:"language of the base list; empty for none"`
	Add  []string `json:"add,omitempty"`
	Keep []string `json:"keep,omitempty"`
}

// Merge counts several terms as one, under one label. A variant has one or more words and may end in "*"; one that begins with
// "=" stands for its own form only.
type Merge struct {
	Term     string   `json:"term"`
	Variants []string `json:"variants"`
}

// List is a named collection of terms, used in rules as @name.
type List struct {
	Name    string   `json:"name"`
	Entries []string `json:"entries"`
}

// Default is the lexicon of a new study.
func Default(language string) Lexicon {
	l := Lexicon{Inflections: true}
	if baseStopWords[language] != nil {
		l.StopWords.Base = language
	}
	return l
}

// ErrLexicon is behind every error about a lexicon.
var ErrLexicon = errors.New("lexicon")

// Check says what is wrong with a lexicon: an unknown base list, an empty or double name.
func (l Lexicon) Check() error {
	if b := l.StopWords.Base; b != "" && baseStopWords[b] == nil {
		return fmt.Errorf("%w: there is no base stop list %q; there is one for: %s", ErrLexicon, b, strings.Join(Languages(), ", "))
	}
	seen := map[string]bool{}
	for i, m := range l.Merges {
		key := strings.ToLower(strings.TrimSpace(m.Term))
		if key == "" {
			return fmt.Errorf("%w: merge %d has no term", ErrLexicon, i+1)
		}
		if seen[key] {
			return fmt.Errorf("%w: two merges are called %q", ErrLexicon, m.Term)
		}
		seen[key] = true
	}
	seen = map[string]bool{}
	for i, list := range l.Lists {
		if strings.TrimSpace(list.Name) == "" {
			return fmt.Errorf("%w: term list %d has no name", ErrLexicon, i+1)
		}
		if list.Name == Negators {
			return fmt.Errorf("%w: the term list @%s is built in; give yours another name", ErrLexicon, Negators)
		}
		if seen[list.Name] {
			return fmt.Errorf("%w: two term lists are called %q", ErrLexicon, list.Name)
		}
		seen[list.Name] = true
	}
	return nil
}

// LanguageNames are the names of the languages there are stemmers, stop words and negators for, by code.
var LanguageNames = map[string]string{
	"en": "English",
	"de": "German",
	"fr": "French",
	"es": "Spanish",
	"it": "Italian",
	"nl": "Dutch",
	"pt": "Portuguese",
}

// BaseStopWords are the base stop words of a language, by the alphabet.
func BaseStopWords(language string) []string {
	out := append([]string{}, baseStopWords[language]...)
	slices.Sort(out)
	return slices.Compact(out)
}

// Languages lists the languages with a base stop list, by code.
func Languages() []string {
	var out []string
	for l := range baseStopWords {
		out = append(out, l)
	}
	slices.Sort(out)
	return out
}
