// Package words knows the words of a language: which there are, how they are inflected, what classes they are of, how often
// people say them, and which mean the same, the opposite, or another thing of the same kind.
package words

import (
	"bufio"
	"bytes"
	"compress/gzip"
	_ "embed"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"
)

// Class is a word class.
type Class uint8

// The word classes that are told apart.
const (
	Noun Class = iota
	Verb
	Adjective
	Adverb
)

// Classes are all word classes, in order.
var Classes = []Class{Noun, Verb, Adjective, Adverb}

// String names the class.
func (c Class) String() string { return [...]string{"noun", "verb", "adjective", "adverb"}[c] }

// found is how often WordNet's texts have a word in each class; -1 where it is not of that class.
type found [4]int

// entry is a word of the table.
type entry struct {
	found found
	name  bool // of a person or place
	said  int
	sets  []int32 // synonym sets
}

// Table is what is known of the words of a language. It does not change. A nil table knows nothing.
type Table struct {
	entries   map[string]entry
	irregular [3]map[string][]string // bases by form, by class
	over      [][]int32              // by synonym set: those above it
	like      [][]int32              // by synonym set: of adjectives, those like it
	opposites map[int32][]int32      // by synonym set
	said      int                    // of all words
}

//go:embed english.txt.gz
var english []byte

var tables = map[string]func() *Table{"en": sync.OnceValue(func() *Table {
	t, err := read(english)
	if err != nil {
		panic(fmt.Sprintf("the built-in table of English words can't be read: %v", err)) // a test reads it
	}
	return t
})}

// Of is the table of a language by its code; nil where there is none. The first time it is read, which takes about 0.2 s.
func Of(language string) *Table {
	if t, ok := tables[language]; ok {
		return t()
	}
	return nil
}

// read reads a table as scripts/words/english.mjs writes it.
func read(packed []byte) (*Table, error) {
	from, err := gzip.NewReader(bytes.NewReader(packed))
	if err != nil {
		return nil, err
	}
	t := &Table{entries: make(map[string]entry, 1<<17), opposites: map[int32][]int32{}}
	for i := range t.irregular {
		t.irregular[i] = map[string][]string{}
	}
	lines := bufio.NewScanner(from)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		if err := t.line(lines.Text()); err != nil {
			return nil, err
		}
	}
	return t, lines.Err()
}

func (t *Table) line(line string) error {
	parts := strings.Split(line, "\t")
	switch {
	case line[0] == '=' && len(parts) == 3:
		over, err := numbers(parts[1])
		if err != nil {
			return err
		}
		like, err := numbers(parts[2])
		t.over, t.like = append(t.over, over), append(t.like, like)
		return err
	case line[0] == '~' && len(parts) == 2:
		pair, err := numbers(parts[0][1:] + " " + parts[1])
		if err == nil {
			t.opposites[pair[0]] = append(t.opposites[pair[0]], pair[1])
			t.opposites[pair[1]] = append(t.opposites[pair[1]], pair[0])
		}
		return err
	case line[0] == '!' && len(parts) == 3:
		class := strings.Index("nva", line[1:2])
		t.irregular[class][parts[1]] = append(t.irregular[class][parts[1]], parts[2])
		return nil
	case len(parts) == 4:
		said, err := strconv.Atoi(parts[2])
		if err != nil {
			return err
		}
		sets, err := numbers(parts[3])
		e := entry{found: found{-1, -1, -1, -1}, said: said, sets: sets}
		for rest := parts[1]; rest != ""; {
			class, after := rest[0], rest[1:]
			digits := strings.TrimLeft(after, "0123456789")
			n, _ := strconv.Atoi(after[:len(after)-len(digits)])
			if class == 'p' {
				e.name = true
			} else {
				e.found[strings.IndexByte("nvar", class)] = n
			}
			rest = digits
		}
		t.entries[parts[0]] = e
		t.said += said
		return err
	}
	return fmt.Errorf("line %q", line)
}

func numbers(s string) (out []int32, err error) {
	for _, x := range strings.Fields(s) {
		n, err := strconv.ParseInt(x, 36, 32)
		if err != nil {
			return nil, err
		}
		out = append(out, int32(n))
	}
	return out, nil
}

// get gives a word of the table; ok is false where it is none.
func (t *Table) get(word string) (entry, bool) {
	if t == nil {
		return entry{}, false
	}
	e, ok := t.entries[word]
	return e, ok
}

// Knows says whether this is a word of the language, or the name of somebody or some place: itself, or an inflection of one.
func (t *Table) Knows(word string) bool {
	if _, ok := t.get(word); ok {
		return true
	}
	return t != nil && t.Lemma(word) != word
}

// Said is how often a word is said among a million words of everyday speech, all its inflections apart: 0 for none.
func (t *Table) Said(word string) float64 {
	e, ok := t.get(word)
	if !ok {
		return 0
	}
	return 1e6 * float64(e.said) / float64(t.said)
}

// Of says which classes a word is of, its inflections' included, those it is most often of first. Classes that are seldom meant
// are left out: under a tenth of the most frequent.
func (t *Table) Of(word string) []Class {
	if t == nil {
		return nil
	}
	e, ok := t.get(t.Lemma(word))
	if !ok {
		return nil
	}
	most := slices.Max(e.found[:])
	var out []Class
	for _, c := range Classes {
		if e.found[c] >= 0 && 10*(e.found[c]+1) > most {
			out = append(out, c)
		}
	}
	slices.SortStableFunc(out, func(a, b Class) int { return e.found[b] - e.found[a] })
	return out
}

// sets are the synonym sets of a word, as it stands and as an inflection.
func (t *Table) sets(word string) []int32 {
	e, _ := t.get(word)
	lemma := t.Lemma(word)
	if lemma == word {
		return e.sets
	}
	of, _ := t.get(lemma)
	if slices.Max(e.found[:]) <= 0 { // crackers are more than one cracker, not mad
		return of.sets
	}
	return append(slices.Clone(e.sets), of.sets...)
}

// Same says whether two words mean the same in one of their more frequent senses.
func (t *Table) Same(a, b string) bool { return t.Closeness(a, b) > 0 }

// Closeness is how near two words are in meaning, 0 to 1: 1 where the most frequent sense of both is one synonym set, less where
// it is rarer senses that share one, or, of adjectives, sets that are like each other; 0 where nothing is shared.
func (t *Table) Closeness(a, b string) (most float64) {
	if t == nil {
		return 0
	}
	place := map[int32]float64{}
	for i, s := range t.sets(a) {
		place[s] = max(place[s], 1/float64(1+i))
		for _, l := range t.like[s] {
			place[l] = max(place[l], likeness/float64(1+i))
		}
	}
	for i, s := range t.sets(b) {
		most = max(most, place[s]/float64(1+i))
	}
	return most
}

// likeness is what synonym sets are worth that are like each other, beside one that both words are in.
const likeness = 0.7

// Opposite says whether two words are opposites, or one is the opposite of a word that is like the other.
func (t *Table) Opposite(a, b string) bool {
	return t != nil && (t.against(a, b) || t.against(b, a))
}

func (t *Table) against(a, b string) bool {
	is := map[int32]bool{}
	for _, s := range t.sets(a) {
		is[s] = true
		for _, l := range t.like[s] {
			is[l] = true
		}
	}
	return slices.ContainsFunc(t.sets(b), func(s int32) bool {
		return slices.ContainsFunc(t.opposites[s], func(o int32) bool { return is[o] })
	})
}

// Kin says whether two words are different things of one kind, as dog and cat or years and months are: something that stands up
// to so many steps above a sense of each stands above both, and they don't mean the same.
func (t *Table) Kin(a, b string, steps int) bool {
	if t == nil || t.Same(a, b) {
		return false
	}
	above := func(word string) map[int32]bool {
		out, last := map[int32]bool{}, t.sets(word)
		for range steps {
			var next []int32
			for _, s := range last {
				for _, o := range t.over[s] {
					if !out[o] {
						out[o] = true
						next = append(next, o)
					}
				}
			}
			last = next
		}
		return out
	}
	one := above(a)
	for o := range above(b) {
		if one[o] {
			return true
		}
	}
	return false
}

// KindOf says whether a word, in its most frequent sense, is a kind of what another names: a ferry is a boat.
func (t *Table) KindOf(word, of string) bool {
	if t == nil {
		return false
	}
	a, b := t.sets(word), t.sets(of)
	return len(a) > 0 && len(b) > 0 && slices.Contains(t.over[a[0]], b[0])
}

// Near lists the words of the table that one changed letter, one more, one less, or two swapped make of a text, in no order.
func (t *Table) Near(text string) (out []string) {
	if t == nil {
		return nil
	}
	const letters = "abcdefghijklmnopqrstuvwxyz"
	add := func(word string) {
		if _, ok := t.entries[word]; ok && word != text {
			out = append(out, word)
		}
	}
	for i := 0; i <= len(text); i++ {
		for _, c := range letters {
			add(text[:i] + string(c) + text[i:])
			if i < len(text) {
				add(text[:i] + string(c) + text[i+1:])
			}
		}
		if i < len(text) {
			add(text[:i] + text[i+1:])
		}
		if i+1 < len(text) {
			add(text[:i] + text[i+1:i+2] + text[i:i+1] + text[i+2:])
		}
	}
	return out
}

// leastPart is how many letters each of the words has, at least, that a compound is made of.
const leastPart = 3

// Composed says whether a text is two words of the table in one, or one with a common prefix before it.
func (t *Table) Composed(text string) bool {
	if t == nil {
		return false
	}
	for _, prefix := range []string{"non", "pre", "re", "un", "over", "super", "anti", "semi", "mini"} {
		rest, ok := strings.CutPrefix(text, prefix)
		if ok && len(rest) > leastPart && t.Knows(rest) && t.Said(t.Lemma(rest)) >= commonPart {
			return true
		}
	}
	for i := leastPart; i+leastPart <= len(text); i++ {
		if a, b := text[:i], text[i:]; t.Said(a) >= commonPart && t.Said(b) >= commonPart {
			return true
		}
	}
	return false
}

// commonPart is how often, per million words, the parts of a compound are said.
const commonPart = 5

// Counts says whether a word is a number.
func (t *Table) Counts(word string) bool {
	return t != nil && slices.Contains(numerals, word)
}

var numerals = strings.Fields("one two three four five six seven eight nine ten eleven twelve hundred thousand")
