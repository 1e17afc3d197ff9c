package lexicon

import (
	"strings"
	"sync"
	"unicode"

	snowball "github.com/blevesearch/snowballstem"
	"github.com/blevesearch/snowballstem/dutch"
	"github.com/blevesearch/snowballstem/english"
	"github.com/blevesearch/snowballstem/french"
	"github.com/blevesearch/snowballstem/german"
	"github.com/blevesearch/snowballstem/italian"
	"github.com/blevesearch/snowballstem/portuguese"
	"github.com/blevesearch/snowballstem/spanish"

	"aftermath/core/corpus"
	"aftermath/core/text"
	"aftermath/core/words"
)

// stemmers are the Snowball stemmers by language.
var stemmers = map[string]func(*snowball.Env) bool{"en": english.Stem, "de": german.Stem, "fr": french.Stem,
	"es": spanish.Stem, "it": italian.Stem, "nl": dutch.Stem, "pt": portuguese.Stem}

// Stems holds the stem of every word of an index: what all inflections of a word have in common. It is made once per index; every
// lexicon view shares it.
type Stems struct {
	language string
	table    *words.Table // what is known of the words of the language; nil where nothing is
	index    *corpus.Index
	of       []int32          // the number of its stem, by word
	numbers  map[string]int32 // of stems
	words    [][]uint32       // by the number of the stem
	values   func() map[string]Phrases
}

// NewStems stems the vocabulary of an index.
func NewStems(language string, ix *corpus.Index) *Stems {
	s := &Stems{
		language: language, table: words.Of(language), index: ix, of: make([]int32, ix.Vocabulary()), numbers: map[string]int32{},
	}
	for w := range s.of {
		stem := s.stem(ix.Spelling(uint32(w)))
		n, known := s.numbers[stem]
		if !known {
			n = int32(len(s.words))
			s.numbers[stem] = n
			s.words = append(s.words, nil)
		}
		s.of[w] = n
		s.words[n] = append(s.words[n], uint32(w))
	}
	s.values = sync.OnceValue(s.findValues)
	return s
}

// with lists the words that have the stem of a word, which may stand in no answer.
func (s *Stems) with(word string) []uint32 {
	if n, ok := s.numbers[s.stem(word)]; ok {
		return s.words[n]
	}
	return nil
}

// stem brings a word to its stem, accents folded after: the word that it is an inflection of, where the language's table knows
// it, else what Snowball's stemmer leaves. A stem is a key, never shown.
func (s *Stems) stem(word string) string {
	stemmer := stemmers[s.language]
	if stemmer == nil {
		return text.Fold(word)
	}
	for _, c := range word {
		if !unicode.IsLetter(c) && c != '\'' && !unicode.Is(unicode.M, c) {
			return word
		}
	}
	if base, ok := irregular[s.language][word]; ok {
		word = base
	}
	if plain := text.Fold(word); s.table.Knows(plain) {
		return s.table.Lemma(plain)
	}
	if alone[s.language][word] {
		return text.Fold(word)
	}
	word = inflectedEnding(s.language, word)
	env := snowball.NewEnv(word)
	stemmer(env)
	stem := text.Fold(env.Current())
	if s.table != nil {
		return unknown + stem
	}
	return stem
}

// unknown marks the stems of words that the table doesn't have: they are not those of any that it has.
const unknown = "~"

// alone are words whose stem is that of others, which they are no inflections of.
var alone = map[string]map[string]bool{
	"de": {"nichts": true},
}

// inflectedEnding takes off what makes a French adjective in -eux feminine, so that the stemmer, which takes -eux and -euse off
// whole, doesn't bring it to the noun that it is made of.
func inflectedEnding(language, word string) string {
	if language != "fr" {
		return word
	}
	for _, e := range []string{"euses", "euse", "eux"} {
		if root, ok := strings.CutSuffix(word, e); ok && len(root) >= 3 {
			return root + "eux\u0308" // no letter that an ending of the stemmer has
		}
	}
	return word
}
