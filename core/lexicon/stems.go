package lexicon

import (
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
)

// stemmers are the Snowball stemmers by language.
var stemmers = map[string]func(*snowball.Env) bool{"en": english.Stem, "de": german.Stem, "fr": french.Stem,
	"es": spanish.Stem, "it": italian.Stem, "nl": dutch.Stem, "pt": portuguese.Stem}

// Stems holds the stem of every word of an index. It is made once per index; every lexicon view shares it.
type Stems struct {
	language string
	index    *corpus.Index
	of       []int32          // the number of its stem, by word
	numbers  map[string]int32 // of stems
	words    [][]uint32       // by the number of the stem
}

// NewStems stems the vocabulary of an index.
func NewStems(language string, ix *corpus.Index) *Stems {
	s := &Stems{language: language, index: ix, of: make([]int32, ix.Vocabulary()), numbers: map[string]int32{}}
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
	return s
}

// with lists the words that have the stem of a word, which may stand in no answer.
func (s *Stems) with(word string) []uint32 {
	if n, ok := s.numbers[s.stem(word)]; ok {
		return s.words[n]
	}
	return nil
}

// stem brings a word to its stem, accents folded after. A stem is a key, never shown.
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
	env := snowball.NewEnv(word)
	stemmer(env)
	return text.Fold(env.Current())
}
