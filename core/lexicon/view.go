package lexicon

import (
	"cmp"
	"slices"
	"strings"

	"aftermath/core/corpus"
	"aftermath/core/text"
)

// View is a lexicon applied to the words of an index. It does not change once made.
type View struct {
	Lexicon Lexicon
	Index   *corpus.Index
	Terms   []Term
	Clashes []Clash

	pipeline *text.Pipeline
	stems    *Stems
	parted   map[string]bool
	termOf   []int32 // the term of each word
	merges   []merge
	literal  map[string]int // typed single-word variants, to their merge
	stem     map[string]int // their stems
	patterns []pattern
	phrases  map[string]int    // typed variants of several words, joined by blanks
	longest  int               // words in the longest variant
	stopRows map[[3]int32]bool // rows of terms that are hidden by themselves
}

// Term is what counts as one: the inflections of a word, or a merge.
type Term struct {
	Label string
	Words []uint32 // single words, the most frequent first
	Merge int      // place in Lexicon.Merges, -1 for none
	Stop  bool     // hidden from lists, clouds and suggestions

	phrases Phrases
}

// Clash is a variant that two merges ask for; the first has it.
type Clash struct {
	Variant string `json:"variant"`
	Has     string `json:"has"`
	Wanted  string `json:"wanted"`
}

type merge struct {
	sequences []Sequence // variants of several words
	words     []uint32   // single words that belong to it
}

type pattern struct {
	glob  string
	merge int
}

// NewView applies a lexicon. The pipeline is that of the index: variants pass through the same cleaning.
func NewView(stems *Stems, p *text.Pipeline, l Lexicon) *View {
	v := &View{Lexicon: l, Index: stems.index, pipeline: p, stems: stems, parted: map[string]bool{},
		termOf: make([]int32, stems.index.Vocabulary()), merges: make([]merge, len(l.Merges)),
		literal: map[string]int{}, stem: map[string]int{}, phrases: map[string]int{}}
	for _, w := range l.Parted {
		for _, s := range p.Surfaces(w) {
			v.parted[s] = true
		}
	}
	v.addMerges()
	v.addTerms()
	v.hideStopWords()
	return v
}

func (v *View) addMerges() {
	for i, m := range v.Lexicon.Merges {
		for _, variant := range append([]string{m.Term}, m.Variants...) {
			words := v.Typed(variant)
			switch {
			case len(words) == 0:
			case len(words) > 1:
				key := strings.Join(words, " ")
				if v.claim(v.phrases, key, i, variant) {
					v.longest = max(v.longest, len(words))
				}
			case Wild(words[0]):
				v.patterns = append(v.patterns, pattern{words[0], i})
			default:
				if v.claim(v.literal, words[0], i, variant) && v.Lexicon.Inflections && !v.parted[words[0]] {
					if _, taken := v.stem[v.stems.stem(words[0])]; !taken {
						v.stem[v.stems.stem(words[0])] = i
					}
				}
			}
		}
	}
	for key, i := range v.phrases {
		var s Sequence
		for _, w := range strings.Fields(key) {
			s = append(s, v.Inflected(w))
		}
		v.merges[i].sequences = append(v.merges[i].sequences, s)
	}
}

func (v *View) claim(of map[string]int, key string, merge int, variant string) bool {
	if has, taken := of[key]; taken && has != merge {
		v.Clashes = append(v.Clashes, Clash{variant, v.Lexicon.Merges[has].Term, v.Lexicon.Merges[merge].Term})
		return false
	}
	of[key] = merge
	return true
}

// mergeOf is the merge that a single word belongs to: the one that names it, else the one that reaches it by
// inflection, else by pattern. A parted word is only where it is named. -1 for none.
func (v *View) mergeOf(surface, stem string) int {
	if i, ok := v.literal[surface]; ok {
		return i
	}
	if v.Lexicon.Inflections && !v.parted[surface] {
		if i, ok := v.stem[stem]; ok {
			return i
		}
	}
	for _, p := range v.patterns {
		if !v.parted[surface] && globMatch(p.glob, surface) {
			return p.merge
		}
	}
	return -1
}

func (v *View) addTerms() {
	byMerge := make([]int32, len(v.merges))
	for i := range byMerge {
		byMerge[i] = -1
	}
	byStem := map[string]int32{}
	for w := range uint32(v.Index.Vocabulary()) {
		surface := v.Index.Surface(w)
		if m := v.mergeOf(surface, v.stems.of[w]); m >= 0 {
			v.merges[m].words = append(v.merges[m].words, w)
			continue
		}
		key := surface
		if v.Lexicon.Inflections && !v.parted[surface] {
			key = "\x00" + v.stems.of[w] // apart from the parted words
		}
		t, known := byStem[key]
		if !known {
			t = int32(len(v.Terms))
			byStem[key] = t
			v.Terms = append(v.Terms, Term{Merge: -1})
		}
		v.termOf[w] = t
		v.Terms[t].Words = append(v.Terms[t].Words, w)
	}
	for i, m := range v.merges {
		for _, w := range m.words {
			v.termOf[w] = int32(len(v.Terms))
		}
		v.Terms = append(v.Terms, Term{Merge: i, Words: m.words, Label: v.Lexicon.Merges[i].Term,
			phrases: NewPhrases(append(slices.Clone(m.sequences), Sequence{m.words})...)})
	}
	for i := range v.Terms {
		t := &v.Terms[i]
		t.Words = slices.Clone(t.Words)
		slices.SortStableFunc(t.Words, func(a, b uint32) int { return v.Index.Count(b) - v.Index.Count(a) }) // ties stay in the order of the alphabet
		if t.Merge < 0 {
			t.Label = v.Index.Spelling(t.Words[0])
			t.phrases = NewPhrases(Sequence{newWordSet(slices.Clone(t.Words)...)})
		}
	}
}

// WithStopWords is the view with other stop words: all else is shared, since they change no count and no rule.
func (v *View) WithStopWords(sw StopWords) *View {
	out := *v
	out.Lexicon.StopWords = sw
	out.Terms = slices.Clone(v.Terms)
	out.hideStopWords()
	return &out
}

// SameTerms says whether two views differ in stop words at most.
func (v *View) SameTerms(other *View) bool {
	return v.Index == other.Index && len(v.termOf) > 0 && &v.termOf[0] == &other.termOf[0]
}

func (v *View) hideStopWords() {
	stop, keep := map[string]bool{}, map[string]bool{}
	for _, w := range baseStopWords[v.Lexicon.StopWords.Base] {
		stop[w], stop[text.Fold(w)] = true, true // as the words stand with and without the step that folds accents
	}
	v.stopRows = map[[3]int32]bool{}
	mark := func(in map[string]bool, typed []string, rows bool) {
		for _, t := range typed {
			words := v.Typed(t)
			in[strings.Join(words, " ")] = true
			if key, ok := v.rowKey(words); ok {
				v.stopRows[key] = rows
			}
		}
	}
	mark(stop, v.Lexicon.StopWords.Add, true)
	mark(keep, v.Lexicon.StopWords.Keep, false)
	for i := range v.Terms {
		t := &v.Terms[i]
		names := []string{strings.Join(v.Typed(t.Label), " ")}
		for _, w := range t.Words {
			names = append(names, v.Index.Surface(w))
		}
		t.Stop = slices.ContainsFunc(names, func(w string) bool { return stop[w] }) &&
			!slices.ContainsFunc(names, func(w string) bool { return keep[w] })
	}
}

// rowKey are the terms of two or three words in a row.
func (v *View) rowKey(words []string) (key [3]int32, ok bool) {
	if len(words) != 2 && len(words) != 3 {
		return key, false
	}
	key[2] = -1
	for i, w := range words {
		t, ok := v.term(w)
		if !ok {
			return key, false
		}
		key[i] = int32(t)
	}
	return key, true
}

// RowHidden says whether a row of two or three terms (the third -1 for none) was hidden by itself.
func (v *View) RowHidden(terms [3]int32) bool { return v.stopRows[terms] }

// FindRow gives the terms that two or three typed words in a row stand for, each by itself, and what they are found by;
// the third term is -1 for none.
func (v *View) FindRow(typed string) (terms [3]int32, found Sequence, ok bool) {
	terms, ok = v.rowKey(v.Typed(typed))
	if ok {
		found = v.RowSequence(terms)
	}
	return terms, found, ok
}

// RowSequence is what a row of terms is found by: the single words of each.
func (v *View) RowSequence(terms [3]int32) Sequence {
	var s Sequence
	for _, t := range terms {
		if t >= 0 {
			s = append(s, newWordSet(slices.Clone(v.Terms[t].Words)...))
		}
	}
	return s
}

// Phrases are what a term is found by.
func (v *View) Phrases(term int) Phrases { return v.Terms[term].phrases }

// Member is a surface, or a variant of several words, that counts towards a term.
type Member struct {
	Text  string
	Times int // occurrences in the whole question; those of all members add up to the term's
}

// Members lists what a term is made of and occurs, the most frequent first (ties by alphabet).
func (v *View) Members(term int) []Member {
	times := map[string]int{}
	if ps := v.Terms[term].phrases; ps.Single() {
		for _, w := range v.Terms[term].Words {
			times[v.Index.Spelling(w)] = v.Index.Count(w)
		}
	} else {
		for it := ps.Answers(v.Index).Iterator(); it.HasNext(); {
			a := int(it.Next())
			words := v.Index.Answer(a)
			ps.Each(words, v.Index.Sentences(a), func(start, length int) {
				var spelled []string
				for _, w := range words[start : start+length] {
					spelled = append(spelled, v.Index.Spelling(w))
				}
				times[strings.Join(spelled, " ")]++
			})
		}
	}
	var out []Member
	for text, n := range times {
		out = append(out, Member{text, n})
	}
	slices.SortFunc(out, func(a, b Member) int { return cmp.Or(b.Times-a.Times, strings.Compare(a.Text, b.Text)) })
	return out
}

// Find gives the term that a typed text stands for: a merge, or the inflections of one word.
func (v *View) Find(typed string) (term int, ok bool) {
	words := v.Typed(typed)
	if len(words) > 1 {
		if m, ok := v.phrases[strings.Join(words, " ")]; ok {
			return v.mergeTerm(m), true
		}
		return 0, false
	}
	if len(words) == 0 || Wild(words[0]) {
		return 0, false
	}
	return v.term(words[0])
}

// MergeTerm is the term of a merge, by its place in the lexicon.
func (v *View) MergeTerm(merge int) int { return v.mergeTerm(merge) }

func (v *View) mergeTerm(m int) int { return len(v.Terms) - len(v.merges) + m }

// TermOf is the term, by its place in Terms, that a word of the index counts towards by itself.
func (v *View) TermOf(word uint32) int { return int(v.termOf[word]) }

// TermOfWords is TermOf for all words of the index. The caller must not change it.
func (v *View) TermOfWords() []int32 { return v.termOf }

func (v *View) term(surface string) (int, bool) {
	stem := v.stems.stem(surface)
	if m := v.mergeOf(surface, stem); m >= 0 {
		return v.mergeTerm(m), true
	}
	if w, ok := v.Index.Word(surface); ok {
		return int(v.termOf[w]), true
	}
	if v.Lexicon.Inflections && !v.parted[surface] {
		for _, w := range v.stems.words[stem] {
			t := int(v.termOf[w])
			if v.Terms[t].Merge < 0 && !v.parted[v.Index.Surface(w)] {
				return t, true
			}
		}
	}
	return 0, false
}
