package lexicon

import (
	"slices"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/bits-and-blooms/bitset"

	"aftermath/core/corpus"
)

// WordSet is a set of word numbers, ascending.
type WordSet []uint32

// Has says whether the set holds the word.
func (s WordSet) Has(word uint32) bool {
	if len(s) <= 8 {
		return slices.Contains(s, word)
	}
	_, ok := slices.BinarySearch(s, word)
	return ok
}

func newWordSet(words ...uint32) WordSet {
	slices.Sort(words)
	return slices.Compact(words)
}

// Sequence is words in a row, each one of a set.
type Sequence []WordSet

// Equal says whether two sequences are of the same words.
func (s Sequence) Equal(other Sequence) bool {
	return slices.EqualFunc(s, other, slices.Equal[WordSet])
}

// Phrases are alternatives of one or more words in a row, the longest first.
type Phrases []Sequence

// NewPhrases sorts the sequences, and joins those of one word into one set.
func NewPhrases(sequences ...Sequence) Phrases {
	var single []uint32
	var out Phrases
	for _, s := range sequences {
		if len(s) == 1 {
			single = append(single, s[0]...)
		} else if len(s) > 1 {
			out = append(out, s)
		}
	}
	slices.SortStableFunc(out, func(a, b Sequence) int { return len(b) - len(a) })
	if len(single) > 0 {
		out = append(out, Sequence{newWordSet(single...)})
	}
	return out
}

// Single says whether no alternative has more than one word.
func (ps Phrases) Single() bool { return len(ps) == 0 || len(ps[0]) == 1 }

// Each gives the places of the phrases in an answer: at each the longest match, from the left, not overlapping, in one
// sentence.
func (ps Phrases) Each(words []uint32, sentences []uint8, visit func(start, length int)) {
	for i := 0; i < len(words); {
		n := ps.at(words, sentences, i)
		if n > 0 {
			visit(i, n)
		}
		i += max(n, 1)
	}
}

// at is the length of the longest phrase that begins at words[i], 0 for none.
func (ps Phrases) at(words []uint32, sentences []uint8, i int) int {
	for _, s := range ps {
		if s.At(words, sentences, i) {
			return len(s)
		}
	}
	return 0
}

// At says whether the sequence stands at words[i].
func (s Sequence) At(words []uint32, sentences []uint8, i int) bool {
	if i+len(s) > len(words) || sentences[i] != sentences[i+len(s)-1] {
		return false
	}
	for j, set := range s {
		if !set.Has(words[i+j]) {
			return false
		}
	}
	return true
}

// Answers is the set of answers in which a phrase stands.
func (ps Phrases) Answers(ix *corpus.Index) *roaring.Bitmap {
	if ps.Single() {
		if len(ps) == 0 {
			return roaring.New()
		}
		return ix.With(ps[0][0])
	}
	return corpus.Sparse(ps.Within(ix, nil))
}

// Within is the set of answers in which a phrase stands, of those in a set; nil stands for all.
func (ps Phrases) Within(ix *corpus.Index, set *bitset.BitSet) *bitset.BitSet {
	out := ix.NewSet()
	for _, s := range ps {
		if len(s) == 1 {
			ix.Mark(s[0], out)
			continue
		}
		found := s.candidates(ix, set)
		found.InPlaceDifference(out)
		s.keep(ix, found)
		out.InPlaceUnion(found)
	}
	if set != nil {
		out.InPlaceIntersection(set)
	}
	return out
}

// Within is the set of answers in which the sequence stands, of those in a set; nil stands for all.
func (s Sequence) Within(ix *corpus.Index, set *bitset.BitSet) *bitset.BitSet {
	found := s.candidates(ix, set)
	s.keep(ix, found)
	return found
}

// keep takes out the answers in which the sequence does not stand.
func (s Sequence) keep(ix *corpus.Index, set *bitset.BitSet) {
	corpus.Filter(set, func() func(int) bool {
		return func(a int) bool {
			words, sentences := ix.Answer(a), ix.Sentences(a)
			for i := range words {
				if s.At(words, sentences, i) {
					return true
				}
			}
			return false
		}
	})
}

// candidates hold all the words of the sequence, in whatever order.
func (s Sequence) candidates(ix *corpus.Index, set *bitset.BitSet) *bitset.BitSet {
	out := ix.NewSet()
	ix.Mark(s[0], out)
	if set != nil {
		out.InPlaceIntersection(set)
	}
	for _, words := range s[1:] {
		with := ix.NewSet()
		ix.Mark(words, with)
		out.InPlaceIntersection(with)
	}
	return out
}
