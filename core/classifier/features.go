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
	rare  []float64 // how rare each is: ln((1+N)/(1+n)) + 1 where n of N answers say it
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
	all := float64(set.GetCardinality())
	rarity := func(x Feature) float64 {
		n := float64(leastSaid - 1)
		switch {
		case x.Second >= 0:
			n = float64(rows[x])
		case x.First >= 0:
			n = float64(terms[x.First])
		}
		return math.Log((1+all)/(1+n)) + 1
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
		f.rare = append(f.rare, rarity(x))
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
	out = featuresIn(v, v.Index.Answer(int(answer)), v.Index.Sentences(int(answer)), out)
	slices.SortFunc(out, compareFeatures)
	return slices.Compact(out)
}

// NoWord stands for a word that no answer holds.
const NoWord = math.MaxUint32

// featuresIn are the terms and rows of two in a text, as they come.
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
	return out
}

// of are the features of an answer, but for those with a term that is hidden. Each counts as much as it is rare; together they
// have the length 1. What comes several times counts once.
func (f *features) of(said []Feature, hidden func(term int32) bool, out []entry) []entry {
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
			out = append(out, entry{at, float32(f.rare[at])})
		}
	}
	slices.SortFunc(out, func(a, b entry) int { return cmp.Compare(a.feature, b.feature) })
	out = slices.Compact(out)
	sum := 0.0
	for _, x := range out {
		sum += float64(x.value) * float64(x.value)
	}
	for i := range out {
		out[i].value /= float32(math.Sqrt(sum))
	}
	return out
}
