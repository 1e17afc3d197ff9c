package terms

import (
	"cmp"
	"context"
	"math"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/words"
)

// Bounds of the search for words that are used alike.
const (
	maxCandidates        = 800  // most frequent terms that are compared
	contextWindow        = 2    // words before and after an occurrence that count as its context
	maxContexts          = 1500 // most frequent terms that count as context
	minCosine            = 0.6  // cosine of two contexts from which they are proposed, where the table of meanings knows nothing of them
	minCosineSameMeaning = 0.12 // cosine, where the table says that both mean the same
	minCloseness         = 0.15 // closeness in the table, 0 to 1, from which it counts,
	minCosineAlone       = 0.35 // or else the cosine that does without it
	minCombined          = 0.32 // cosine and closeness together
	maxKinSteps          = 6    // steps up the table within which two things are of one kind, as dog and cat
	minSharedContexts    = 8    // terms that stand around both
	maxShareOfOneContext = 0.5  // share of the cosine that one context may make up
	minOccurrences       = 8    // of the rarer term
	maxPairsPerTerm      = 4    // proposals with one term
)

// alike looks for terms around which the same words stand: what stands one or two words before and after each, by
// positive pointwise mutual information, compared by cosine (J. A. Bullinaria and J. P. Levy, 2007).
func (s Suggester) alike(ctx context.Context) []Suggestion {
	v := s.View
	ix := v.Index
	byTimes := make([]int, 0, len(v.Terms))
	times := make([]int, len(v.Terms))
	for t := range v.Terms {
		times[t] = s.times(t)
		byTimes = append(byTimes, t)
	}
	slices.SortFunc(byTimes, func(a, b int) int {
		return cmp.Or(times[b]-times[a], strings.Compare(v.Terms[a].Label, v.Terms[b].Label))
	})
	place, context := make([]int32, len(v.Terms)), make([]int32, len(v.Terms)) // plus one; 0 for none
	var chosen, contexts []int
	for _, t := range byTimes {
		if len(contexts) < maxContexts && times[t] > 1 {
			contexts = append(contexts, t)
			context[t] = int32(len(contexts))
		}
		// Merges have names of their own already; stop words are not shown.
		if len(chosen) < maxCandidates && times[t] >= minOccurrences && !v.Terms[t].Stop && s.worthy(v.Terms[t].Label) {
			chosen = append(chosen, t)
			place[t] = int32(len(chosen))
		}
	}
	// Before and after count apart: "the queue" is not "queue the".
	width := 2 * len(contexts)
	counts := make([]float64, len(chosen)*width)
	for it, n := ix.Answered().Iterator(), 0; it.HasNext(); n++ {
		if n%16384 == 0 {
			if ctx.Err() != nil {
				return nil
			}
			s.Progress(0.75 + 0.2*float64(n)/float64(ix.Len()))
		}
		words := ix.Answer(int(it.Next()))
		for i, w := range words {
			p := int(place[v.TermOf(w)]) - 1
			if p < 0 {
				continue
			}
			for d := -contextWindow; d <= contextWindow; d++ {
				if j := i + d; d != 0 && j >= 0 && j < len(words) {
					if c := int(context[v.TermOf(words[j])]) - 1; c >= 0 {
						if d > 0 {
							c += len(contexts)
						}
						counts[p*width+c] += 1 / float64(max(d, -d))
					}
				}
			}
		}
	}
	vectors := make([][]entry, len(chosen))
	columns := make([]float64, width)
	total := 0.0
	for i, n := range counts {
		columns[i%width] += n
		total += n
	}
	for p := range vectors {
		vectors[p] = informative(counts[p*width:(p+1)*width], columns, total)
	}
	table := words.Of(s.Language)
	together, err := s.Pairs(ctx, ix.Answered(), chosen, s.Workers)
	if err != nil {
		return nil
	}
	answered := float64(ix.Answered().GetCardinality())
	var out []Suggestion
	own := make([]float64, width) // the vector of a, laid out
	for a := range chosen {
		if ctx.Err() != nil {
			return nil
		}
		clear(own)
		for _, e := range vectors[a] {
			own[e.at] = e.weight
		}
		for b := a + 1; b < len(chosen); b++ {
			score := cosine(own, vectors[b])
			if score < minCosineSameMeaning {
				continue
			}
			one, two := v.Terms[chosen[a]].Label, v.Terms[chosen[b]].Label
			close := table.Closeness(one, two)
			if close == 0 && score < minCosine || close+score < minCombined || close < minCloseness && score < minCosineAlone ||
				Differ(table, one, two) {
				continue
			}
			shared := telling(own, vectors[b], score)
			if len(shared) < minSharedContexts && close == 0 {
				continue
			}
			// Words that are often said together are parts of one phrase, not two words for one thing.
			if both, by := float64(together[a][b]), float64(together[a][a])*float64(together[b][b])/answered; both > 2*by+2 {
				continue
			}
			term, other := v.Terms[chosen[a]].Label, v.Terms[chosen[b]].Label
			if v.Lexicon.KeptApart(term, other) || v.Terms[chosen[a]].Merge >= 0 && v.Terms[chosen[b]].Merge >= 0 {
				continue
			}
			g := Suggestion{
				Kind:     Alike,
				Term:     term,
				Times:    times[chosen[a]],
				Score:    score,
				Close:    close,
				Variants: []Variant{{Text: other, Times: times[chosen[b]]}},
			}
			g.Answers = roaring.And(v.Phrases(chosen[b]).Answers(ix), ix.Answered())
			for _, c := range shared[:min(len(shared), 4)] {
				name := v.Terms[contexts[c%len(contexts)]].Label
				if c < len(contexts) {
					name += " …"
				} else {
					name = "… " + name
				}
				g.Shared = append(g.Shared, name)
			}
			out = append(out, g)
		}
	}
	// The likest pairs only, and no term in more than a few.
	slices.SortFunc(out, func(a, b Suggestion) int {
		return cmp.Or(cmp.Compare(b.likely(), a.likely()), strings.Compare(a.Term, b.Term))
	})
	used := map[string]int{}
	return slices.DeleteFunc(out, func(g Suggestion) bool {
		used[g.Term]++
		used[g.Variants[0].Text]++
		return used[g.Term] > maxPairsPerTerm || used[g.Variants[0].Text] > maxPairsPerTerm
	})
}

// Differ says whether two words are opposites, or different things of one kind: neither stands for the other. Where there is no
// table, nobody knows.
func Differ(table *words.Table, a, b string) bool { return table.Opposite(a, b) || things(table, a, b) }

// things says whether two words are different things of one kind.
func things(table *words.Table, a, b string) bool {
	noun := func(word string) bool {
		classes := table.Of(word)
		return len(classes) > 0 && classes[0] == words.Noun
	}
	return noun(a) && noun(b) && table.Kin(a, b, maxKinSteps)
}

// likely puts pairs in order: how near they are in meaning counts as much as what stands around them.
func (g Suggestion) likely() float64 {
	return g.Score + g.Close
}

// worthy says whether a label can be merged with another: it is a word of letters.
func (s Suggester) worthy(label string) bool { return len(label) > 2 && letters(label) }

// entry is a context with its weight.
type entry struct {
	at     int32
	weight float64
}

// informative gives the contexts that stand beside a term more often than by chance, scaled to length 1.
func informative(counts, columns []float64, total float64) []entry {
	own := 0.0
	for _, n := range counts {
		own += n
	}
	var out []entry
	length := 0.0
	for c, n := range counts {
		if n == 0 {
			continue
		}
		if pmi := math.Log(n * total / (own * columns[c])); pmi > 0 {
			w := pmi * math.Sqrt(n) // what was seen once is weak evidence
			out = append(out, entry{int32(c), w})
			length += w * w
		}
	}
	length = math.Sqrt(length)
	for i := range out {
		out[i].weight /= length
	}
	return out
}

// cosine of two vectors of length 1, the one laid out.
func cosine(a []float64, b []entry) (sum float64) {
	for _, e := range b {
		sum += a[e.at] * e.weight
	}
	return sum
}

// telling are the places that make two vectors alike, that which says most first; none if one of them says most of it.
func telling(a []float64, b []entry, sum float64) []int {
	said := func(e entry) float64 { return a[e.at] * e.weight }
	both := slices.DeleteFunc(slices.Clone(b), func(e entry) bool { return a[e.at] == 0 })
	slices.SortFunc(both, func(x, y entry) int { return cmp.Or(cmp.Compare(said(y), said(x)), cmp.Compare(x.at, y.at)) })
	if len(both) == 0 || said(both[0]) > maxShareOfOneContext*sum {
		return nil
	}
	out := make([]int, len(both))
	for i, e := range both {
		out[i] = int(e.at)
	}
	return out
}
