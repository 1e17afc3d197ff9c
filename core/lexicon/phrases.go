package lexicon

import (
	"context"
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

// Phrases are alternatives of one or more words in a row, the longest first. They do not change once made.
type Phrases struct {
	sequences []Sequence
	rows      []Row // alternatives that would be too many sequences written out
}

// Row is parts right after each other in one sentence, each of them phrases.
type Row []Phrases

// NewPhrases sorts the sequences, and joins those of one word into one set.
func NewPhrases(sequences ...Sequence) Phrases {
	var single []uint32
	var out Phrases
	for _, s := range sequences {
		if len(s) == 1 {
			single = append(single, s[0]...)
		} else if len(s) > 1 {
			out.sequences = append(out.sequences, s)
		}
	}
	slices.SortStableFunc(out.sequences, func(a, b Sequence) int { return len(b) - len(a) })
	if len(single) > 0 {
		out.sequences = append(out.sequences, Sequence{newWordSet(single...)})
	}
	return out
}

// AnyOf joins alternatives.
func AnyOf(all ...Phrases) Phrases {
	var sequences []Sequence
	var rows []Row
	for _, ps := range all {
		sequences, rows = append(sequences, ps.sequences...), append(rows, ps.rows...)
	}
	out := NewPhrases(sequences...)
	out.rows = rows
	return out
}

// writtenOut is how many sequences a row is written out as at most: they are found quicker than parts.
const writtenOut = 64

// InRow are parts right after each other.
func InRow(parts ...Phrases) Phrases {
	if len(parts) == 1 {
		return parts[0]
	}
	n := 1
	for _, part := range parts {
		if n *= len(part.sequences); len(part.rows) > 0 || n > writtenOut {
			return Phrases{rows: []Row{parts}}
		}
	}
	sequences := []Sequence{nil}
	for _, part := range parts {
		var longer []Sequence
		for _, s := range sequences {
			for _, next := range part.sequences {
				longer = append(longer, append(slices.Clone(s), next...))
			}
		}
		sequences = longer
	}
	return NewPhrases(sequences...)
}

// Empty says whether nothing is found.
func (ps Phrases) Empty() bool { return len(ps.sequences) == 0 && len(ps.rows) == 0 }

// Single says whether no alternative has more than one word.
func (ps Phrases) Single() bool {
	return len(ps.rows) == 0 && (len(ps.sequences) == 0 || len(ps.sequences[0]) == 1)
}

// Words are the single words among the alternatives.
func (ps Phrases) Words() WordSet {
	if n := len(ps.sequences) - 1; n >= 0 && len(ps.sequences[n]) == 1 {
		return ps.sequences[n][0]
	}
	return nil
}

// Sequences are the alternatives that are written out.
func (ps Phrases) Sequences() []Sequence { return ps.sequences }

// Rows are the alternatives that are not.
func (ps Phrases) Rows() []Row { return ps.rows }

// Equal says whether two are of the same words.
func (ps Phrases) Equal(other Phrases) bool {
	return slices.EqualFunc(ps.sequences, other.sequences, Sequence.Equal) && slices.EqualFunc(ps.rows, other.rows, func(a, b Row) bool {
		return slices.EqualFunc(a, b, Phrases.Equal)
	})
}

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
func (ps Phrases) at(words []uint32, sentences []uint8, i int) (longest int) {
	for _, s := range ps.sequences {
		if s.At(words, sentences, i) {
			longest = len(s)
			break
		}
	}
	for _, row := range ps.rows {
		for _, end := range row.ends(words, sentences, i) {
			longest = max(longest, end-i)
		}
	}
	return longest
}

// ends are all places after a phrase that begins at words[i], ascending.
func (ps Phrases) ends(words []uint32, sentences []uint8, i int) (out []int) {
	for _, s := range ps.sequences {
		if s.At(words, sentences, i) {
			out = append(out, i+len(s))
		}
	}
	for _, row := range ps.rows {
		out = append(out, row.ends(words, sentences, i)...)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// ends are all places after the row where it begins at words[i]: those after the first part, from these on those after
// the second, …
func (r Row) ends(words []uint32, sentences []uint8, i int) []int {
	at := []int{i}
	for _, part := range r {
		var next []int
		for _, from := range at {
			if from < len(words) && sentences[from] == sentences[i] {
				next = append(next, part.ends(words, sentences, from)...)
			}
		}
		slices.Sort(next)
		if at = slices.Compact(next); len(at) == 0 {
			return nil
		}
	}
	return at
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
		return ix.With(ps.Words())
	}
	found, _ := ps.Within(context.Background(), ix, nil) // it looks at the answers that hold all words of a phrase only
	return corpus.Sparse(found)
}

// Within is the set of answers in which a phrase stands, of those in a set; nil stands for all.
func (ps Phrases) Within(ctx context.Context, ix *corpus.Index, set *bitset.BitSet) (*bitset.BitSet, error) {
	out := ix.NewSet()
	for _, s := range ps.sequences {
		if len(s) == 1 {
			ix.Mark(s[0], out)
			continue
		}
		found := s.candidates(ix, set)
		found.InPlaceDifference(out)
		if err := s.keep(ctx, ix, found); err != nil {
			return nil, err
		}
		out.InPlaceUnion(found)
	}
	for _, row := range ps.rows {
		found, err := row.within(ctx, ix, set)
		if err != nil {
			return nil, err
		}
		out.InPlaceUnion(found)
	}
	if set != nil {
		out.InPlaceIntersection(set)
	}
	return out, nil
}

// within is the set of answers in which the row stands: those that hold each of its parts are looked at.
func (r Row) within(ctx context.Context, ix *corpus.Index, set *bitset.BitSet) (*bitset.BitSet, error) {
	for _, part := range r {
		var err error
		if set, err = part.Within(ctx, ix, set); err != nil {
			return nil, err
		}
	}
	return set, corpus.Filter(ctx, set, func() func(int) bool {
		return func(a int) bool {
			words, sentences := ix.Answer(a), ix.Sentences(a)
			for i := range words {
				if len(r.ends(words, sentences, i)) > 0 {
					return true
				}
			}
			return false
		}
	})
}

// Within is the set of answers in which the sequence stands, of those in a set; nil stands for all.
func (s Sequence) Within(ctx context.Context, ix *corpus.Index, set *bitset.BitSet) (*bitset.BitSet, error) {
	found := s.candidates(ix, set)
	return found, s.keep(ctx, ix, found)
}

// keep takes out the answers in which the sequence does not stand.
func (s Sequence) keep(ctx context.Context, ix *corpus.Index, set *bitset.BitSet) error {
	return corpus.Filter(ctx, set, func() func(int) bool {
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
