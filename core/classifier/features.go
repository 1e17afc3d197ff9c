package classifier

import (
	"cmp"
	"context"
	"math"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/lexicon"
)

// leastSaid is how many answers say a feature, at least.
const leastSaid = 2

// Feature is a term, or two terms in a row: Second is -1 for one alone.
type Feature struct{ First, Second int32 }

// features are what answers are told apart by: their terms, and rows of two. The first stands for any term that fewer say: what
// says nothing else is not to be taken for what says little.
type features struct {
	view  *lexicon.View
	terms []int32 // the place of each term's feature; that of unknown ones for others
	rows  map[Feature]int32
	all   []Feature
}

const unknown = 0

// featuresOf are those that at least two answers of a set say.
func featuresOf(ctx context.Context, v *lexicon.View, set *roaring.Bitmap) (*features, error) {
	f := &features{view: v, terms: make([]int32, len(v.Terms)), rows: map[Feature]int32{}}
	terms, rows := make([]int32, len(v.Terms)), map[Feature]int32{}
	var said []Feature
	for it, n := set.Iterator(), 0; it.HasNext(); n++ {
		if n%1024 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		said = saidIn(v, it.Next(), said)
		for _, x := range said {
			if x.Second < 0 {
				terms[x.First]++
			} else {
				rows[x]++
			}
		}
	}
	for t, n := range terms {
		if n >= leastSaid {
			f.all = append(f.all, Feature{int32(t), -1})
		}
	}
	for x, n := range rows {
		if n >= leastSaid {
			f.all = append(f.all, x)
		}
	}
	slices.SortFunc(f.all, compareFeatures)
	f.all = slices.Insert(f.all, unknown, Feature{-1, -1})
	for i, x := range f.all {
		switch {
		case i == unknown:
		case x.Second < 0:
			f.terms[x.First] = int32(i)
		default:
			f.rows[x] = int32(i)
		}
	}
	return f, nil
}

func compareFeatures(a, b Feature) int {
	return cmp.Or(cmp.Compare(a.First, b.First), cmp.Compare(a.Second, b.Second))
}

// saidIn are the terms and rows of two in an answer, each once.
func saidIn(v *lexicon.View, answer uint32, out []Feature) []Feature {
	return featuresIn(v, v.Index.Answer(int(answer)), v.Index.Sentences(int(answer)), out)
}

// NoWord stands for a word that no answer holds.
const NoWord = math.MaxUint32

// featuresIn are the terms and rows of two in a text, each once.
func featuresIn(v *lexicon.View, words []uint32, sentences []uint8, out []Feature) []Feature {
	out = out[:0]
	termOf := v.TermOfWords()
	for i, w := range words {
		if w == NoWord {
			out = append(out, Feature{-1 - int32(i), -1})
			continue
		}
		out = append(out, Feature{termOf[w], -1})
		if i > 0 && words[i-1] != NoWord && sentences[i] == sentences[i-1] {
			out = append(out, Feature{termOf[words[i-1]], termOf[w]})
		}
	}
	slices.SortFunc(out, compareFeatures)
	return slices.Compact(out)
}

// of are the places of the features of an answer, but for those with a term that is hidden.
func (f *features) of(said []Feature, hidden func(term int32) bool, out []int32) []int32 {
	out = out[:0]
	for _, x := range said {
		if hidden != nil && (hidden(x.First) || x.Second >= 0 && hidden(x.Second)) {
			continue
		}
		at, ok := int32(unknown), true
		switch {
		case x.Second >= 0:
			at, ok = f.rows[x]
		case x.First >= 0:
			at = f.terms[x.First]
		}
		if ok {
			out = append(out, at)
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}
