package lexicon

import (
	"cmp"
	"context"
	"maps"
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
	parted   map[string]int // words that stand apart, to the place of their entry, plus one
	apart    [][]string     // the words of each entry
	termOf   []int32        // the term of each word
	sets     []WordSet      // the single words of each term
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

	phrases Phrases // of a merge
}

// Clash is a variant that two merges ask for; the first has it.
type Clash struct {
	Variant string `json:"variant"`
	Has     string `json:"has"`
	Wanted  string `json:"wanted"`
}

type merge struct {
	sequences []Sequence // variants of several words
}

type pattern struct {
	glob  string
	merge int
}

// NewView applies a lexicon. The pipeline is that of the index: variants pass through the same cleaning.
func NewView(stems *Stems, p *text.Pipeline, l Lexicon) *View {
	v := &View{Lexicon: l, Index: stems.index, pipeline: p, stems: stems, parted: map[string]int{},
		termOf: make([]int32, stems.index.Vocabulary()), merges: make([]merge, len(l.Merges)),
		literal: map[string]int{}, stem: map[string]int{}, phrases: map[string]int{}}
	for i, entry := range l.Parted {
		var surfaces []string
		for _, w := range PartedWords(entry) {
			surfaces = append(surfaces, p.Surfaces(w)...)
		}
		v.apart = append(v.apart, surfaces)
		for _, s := range surfaces {
			v.parted[s] = i + 1
		}
	}
	v.addMerges()
	v.addTerms()
	v.hideStopWords()
	return v
}

// isApart says whether a word stands apart from the others of its stem.
func (v *View) isApart(surface string) bool {
	return v.parted[surface] > 0 || v.Lexicon.ComparativesApart && v.stems.table.Comparative(text.Fold(surface))
}

// together are the words that stand apart from the others of their stem with this one, itself among them.
func (v *View) together(surface string) []string {
	if i := v.parted[surface]; i > 0 {
		return slices.DeleteFunc(slices.Clone(v.apart[i-1]), func(s string) bool { return v.parted[s] != i })
	}
	return []string{surface}
}

func (v *View) addMerges() {
	sequences := map[string]Sequence{} // of variants of several words
	for i, m := range v.Lexicon.Merges {
		for _, variant := range append([]string{m.Term}, m.Variants...) {
			words := v.Typed(variant)
			switch {
			case len(words) == 0:
			case len(words) > 1:
				key := strings.Join(words, " ")
				if v.claim(v.phrases, key, i, variant) {
					v.longest = max(v.longest, len(words))
					sequences[key] = v.asTyped(words, ThisForm(variant))
				}
			case Wild(words[0]):
				v.patterns = append(v.patterns, pattern{words[0], i})
			case ThisForm(variant):
				v.claim(v.literal, words[0], i, variant)
			default:
				if v.claim(v.literal, words[0], i, variant) && v.Lexicon.Inflections && !v.isApart(words[0]) {
					if _, taken := v.stem[v.stems.stem(words[0])]; !taken {
						v.stem[v.stems.stem(words[0])] = i
					}
				}
				for _, w := range v.together(words[0]) {
					if _, taken := v.literal[w]; !taken {
						v.literal[w] = i
					}
				}
			}
		}
	}
	for _, key := range slices.Sorted(maps.Keys(v.phrases)) { // always in one order, so that like merges are alike
		i := v.phrases[key]
		v.merges[i].sequences = append(v.merges[i].sequences, sequences[key])
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

// mergeOf is claimed for one word, which may stand in no answer; -1 for none.
func (v *View) mergeOf(surface, stem string) int {
	if i, ok := v.literal[surface]; ok {
		return i
	}
	if v.Lexicon.Inflections && !v.isApart(surface) {
		if i, ok := v.stem[stem]; ok {
			return i
		}
	}
	for _, p := range v.patterns {
		if !v.isApart(surface) && GlobMatch(p.glob, surface) {
			return p.merge
		}
	}
	return -1
}

// claimed gives the merge of each word that has one, plus one: the merge that names it, else the one that reaches it by
// inflection, else the one that reaches it by a pattern.
func (v *View) claimed() []int32 {
	of := make([]int32, v.Index.Vocabulary())
	take := func(w uint32, merge int, named bool) {
		if of[w] == 0 && (named || !v.isApart(v.Index.Surface(w))) {
			of[w] = int32(merge) + 1
		}
	}
	for surface, merge := range v.literal {
		if w, ok := v.Index.Word(surface); ok {
			take(w, merge, true)
		}
	}
	if v.Lexicon.Inflections {
		for stem, merge := range v.stem {
			if n, ok := v.stems.numbers[stem]; ok {
				for _, w := range v.stems.words[n] {
					take(w, merge, false)
				}
			}
		}
	}
	for _, p := range v.patterns {
		for _, w := range v.Exact(p.glob) {
			take(w, p.merge, false)
		}
	}
	return of
}

// addTerms gives every word its term: those of merges stand last, in the order of the lexicon.
func (v *View) addTerms() {
	claimed := v.claimed()
	ofStem := make([]int32, len(v.stems.words)) // term, plus one
	ofEntry := make([]int32, len(v.apart)+1)    // of words that stand apart together
	sizes := make([]int32, 0, len(v.stems.words)+len(v.merges))
	for w := range v.termOf {
		if claimed[w] > 0 {
			continue
		}
		surface, t := v.Index.Surface(uint32(w)), int32(len(sizes))+1
		of := &t // of the term that it joins
		switch {
		case !v.Lexicon.Inflections:
		case v.parted[surface] > 0:
			of = &ofEntry[v.parted[surface]]
		case !v.isApart(surface):
			of = &ofStem[v.stems.of[w]]
		}
		if of != &t && *of > 0 {
			t = *of
		} else {
			sizes = append(sizes, 0)
		}
		*of = t
		v.termOf[w] = t - 1
		sizes[t-1]++
	}
	first := len(sizes)
	sizes = append(sizes, make([]int32, len(v.merges))...)
	for w, m := range claimed {
		if m > 0 {
			v.termOf[w] = int32(first) + m - 1
			sizes[v.termOf[w]]++
		}
	}
	// The words of all terms lie one after the other: once ascending, once by frequency.
	v.Terms, v.sets = make([]Term, len(sizes)), make([]WordSet, len(sizes))
	ascending, frequent, at := make([]uint32, len(v.termOf)), make([]uint32, len(v.termOf)), int32(0)
	for t, n := range sizes {
		v.sets[t], v.Terms[t] = ascending[at:at:at+n], Term{Merge: -1, Words: frequent[at : at+n : at+n]}
		at += n
	}
	for w, t := range v.termOf {
		v.sets[t] = append(v.sets[t], uint32(w))
	}
	for i := range v.Terms {
		t := &v.Terms[i]
		copy(t.Words, v.sets[i])
		if len(t.Words) > 1 {
			// ties stay in the order of the alphabet
			slices.SortStableFunc(
				t.Words, func(a, b uint32) int { return v.Index.Count(b) - v.Index.Count(a) },
			)
		}
		if i < first {
			t.Label = v.Index.Spelling(t.Words[0])
		} else {
			t.Merge = i - first
			t.Label = v.Lexicon.Merges[t.Merge].Term
			t.phrases = NewPhrases(append(slices.Clone(v.merges[t.Merge].sequences), Sequence{v.sets[i]})...)
		}
	}
}

// With is the view under another lexicon of the same index. What counts as one term is worked out anew only if that
// changed: other stop words and term lists cost next to nothing.
func (v *View) With(l Lexicon) *View {
	if l.Inflections != v.Lexicon.Inflections || l.ComparativesApart != v.Lexicon.ComparativesApart ||
		!slices.Equal(l.Parted, v.Lexicon.Parted) ||
		!slices.EqualFunc(
			l.Merges, v.Lexicon.Merges, func(a, b Merge) bool { return a.Term == b.Term && slices.Equal(a.Variants, b.Variants) },
		) {
		return NewView(v.stems, v.pipeline, l)
	}
	out := *v
	out.Lexicon = l
	out.Terms = slices.Clone(v.Terms)
	out.hideStopWords()
	return &out
}

// SameTerms says whether two views have the same terms, stop words aside.
func (v *View) SameTerms(other *View) bool {
	return v.Index == other.Index && len(v.termOf) > 0 && &v.termOf[0] == &other.termOf[0]
}

// Phrases are what a term is found by.
func (v *View) Phrases(term int) Phrases {
	if v.Terms[term].Merge >= 0 {
		return v.Terms[term].phrases
	}
	return NewPhrases(Sequence{v.sets[term]})
}

// Member is a surface, or a variant of several words, that counts towards a term.
type Member struct {
	Text  string
	Times int // occurrences in the whole question; those of all members add up to the term's
}

// Members lists what a term is made of and occurs, the most frequent first (ties by alphabet).
func (v *View) Members(ctx context.Context, term int) ([]Member, error) {
	var out []Member
	if ps := v.Phrases(term); ps.Single() {
		for _, w := range v.Terms[term].Words { // already in that order
			out = append(out, Member{v.Index.Spelling(w), v.Index.Count(w)})
		}
		return out, nil
	}
	times := map[string]int{}
	err := v.EachPlace(ctx, term, func(_ uint32, words []uint32) { times[v.Index.Spelled(words)]++ })
	return MembersOf(times), err
}

// MembersOf lists members by their occurrences, in the order of Members.
func MembersOf(times map[string]int) []Member {
	out := make([]Member, 0, len(times))
	for text, n := range times {
		out = append(out, Member{text, n})
	}
	slices.SortFunc(out, func(a, b Member) int { return cmp.Or(b.Times-a.Times, strings.Compare(a.Text, b.Text)) })
	return out
}

// EachPlace visits the places of a term in all answers, in order. It gives up with an error when ctx ends.
func (v *View) EachPlace(ctx context.Context, term int, visit func(answer uint32, words []uint32)) error {
	ps := v.Phrases(term)
	found, err := ps.Within(ctx, v.Index, nil)
	if err != nil {
		return err
	}
	for it, n := corpus.Sparse(found).Iterator(), 0; it.HasNext(); n++ {
		if n%1024 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		a := it.Next()
		words := v.Index.Answer(int(a))
		ps.Each(words, v.Index.Sentences(int(a)), func(start, length int) { visit(a, words[start:start+length]) })
	}
	return nil
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
	for _, other := range v.together(surface) {
		if w, ok := v.Index.Word(other); ok && v.Lexicon.Inflections {
			return int(v.termOf[w]), true
		}
	}
	if v.Lexicon.Inflections && !v.isApart(surface) {
		for _, w := range v.stems.with(surface) {
			t := int(v.termOf[w])
			if v.Terms[t].Merge < 0 && !v.isApart(v.Index.Surface(w)) {
				return t, true
			}
		}
	}
	return 0, false
}
