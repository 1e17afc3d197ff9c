// Package terms works out what is said: figures of terms and of rows of terms in a focus, where they stand, what leads to
// and follows from them, what comes together, and which ones may be one.
package terms

import (
	"cmp"
	"math"
	"slices"
	"sync"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/lexicon"
)

// None stands where a row has fewer than three terms.
const None = -1

// Row is a term, or two or three terms in a row, with its figures in a focus.
type Row struct {
	Terms    [3]int32 // places in View.Terms; None where there is no second or third
	Answers  int
	Times    int     // occurrences
	Uncoded  int     // answers with it that are not coded
	Distinct float64 // single terms: mean distinctiveness in the answers with it, 0 to 1; 0 for stop words
}

// Table is the figures of all terms that occur in a focus, in the order of View.Terms.
type Table struct {
	Rows  []Row
	Base  int // answers in the focus
	Words int // words in the focus
	Rare  int // rows of several terms that stand in one answer only: they are not listed
}

// Counter counts the terms of one view. It keeps what does not depend on the focus, and may be used by several
// goroutines.
type Counter struct {
	View *lexicon.View

	many []bool // by term: it has variants of several words
	kept *kept
}

// kept is what does not depend on stop words.
type kept struct {
	once sync.Once
	idf  []float64 // by term: ln((1+N)/(1+df)) + 1 over the whole question
}

// NewCounter makes a counter. Earlier may be nil; if its view differs in stop words at most, its work is taken over.
func NewCounter(v *lexicon.View, earlier *Counter) *Counter {
	if earlier != nil && earlier.View.SameTerms(v) {
		return &Counter{View: v, many: earlier.many, kept: earlier.kept}
	}
	c := &Counter{View: v, many: make([]bool, len(v.Terms)), kept: &kept{}}
	for t := range v.Terms {
		c.many[t] = !v.Phrases(t).Single()
	}
	return c
}

// weights are the inverse document frequencies: ln((1+N)/(1+df)) + 1, N the answered of the question and df those with
// the term.
func (c *Counter) weights(workers int) []float64 {
	k := c.kept
	k.once.Do(func() {
		answered := c.View.Index.Answered()
		tallies, _ := c.tally(answered, roaring.New(), nil, workers)
		n := float64(answered.GetCardinality())
		k.idf = make([]float64, len(c.View.Terms))
		for t := range k.idf {
			k.idf[t] = math.Log((1+n)/(1+float64(tallies[t].answers))) + 1
		}
	})
	return k.idf
}

// tally is what is counted of a term.
type tally struct {
	answers, times, uncoded int32
	weight                  float64
}

// standing is a term with variants of several words, in an answer.
type standing struct {
	answer uint32
	term   int32
	times  int32
}

// standings lists where terms with variants of several words stand in the focus, by answer.
func (c *Counter) standings(focus *roaring.Bitmap) []standing {
	v := c.View
	var out []standing
	for t := range v.Terms {
		if !c.many[t] {
			continue
		}
		ps := v.Phrases(t)
		for it := roaring.And(ps.Answers(v.Index), focus).Iterator(); it.HasNext(); {
			s := standing{answer: it.Next(), term: int32(t)}
			ps.Each(v.Index.Answer(int(s.answer)), v.Index.Sentences(int(s.answer)), func(int, int) { s.times++ })
			out = append(out, s)
		}
	}
	slices.SortStableFunc(out, func(a, b standing) int { return cmp.Compare(a.answer, b.answer) })
	return out
}

// Bag is an answer's terms with how often each occurs in it, in the order in which they first do.
type Bag struct {
	Answer uint32
	Terms  []int32
	Times  []int32
	Words  int
}

// bags visits the answers of a focus with their terms. Several goroutines share the work, each with its own visitor;
// what a visitor is given holds until it returns.
func (c *Counter) bags(focus *roaring.Bitmap, workers int, visitor func() func(Bag)) {
	v := c.View
	answers, places := focus.ToArray(), c.standings(focus)
	workers = max(1, min(workers, len(answers)/1000))
	var all sync.WaitGroup
	for w := range workers {
		part := answers[w*len(answers)/workers : (w+1)*len(answers)/workers]
		visit := visitor()
		all.Go(func() {
			if len(part) == 0 {
				return
			}
			mine, _ := slices.BinarySearchFunc(places, part[0], func(s standing, a uint32) int { return cmp.Compare(s.answer, a) })
			last := make([]uint32, len(v.Terms)) // the last answer seen with the term, plus one
			at := make([]int32, len(v.Terms))    // and its place in the bag
			var b Bag
			for _, a := range part {
				words := v.Index.Answer(int(a))
				b.Answer, b.Terms, b.Times, b.Words = a, b.Terms[:0], b.Times[:0], len(words)
				for _, w := range words {
					t := int32(v.TermOf(w))
					if c.many[t] {
						continue
					}
					if last[t] != a+1 {
						last[t], at[t] = a+1, int32(len(b.Terms))
						b.Terms, b.Times = append(b.Terms, t), append(b.Times, 0)
					}
					b.Times[at[t]]++
				}
				for ; mine < len(places) && places[mine].answer == a; mine++ {
					b.Terms, b.Times = append(b.Terms, places[mine].term), append(b.Times, places[mine].times)
				}
				visit(b)
			}
		})
	}
	all.Wait()
}

// Bags visits the answers of a focus in order, each with its terms. What is given holds until visit returns.
func (c *Counter) Bags(focus *roaring.Bitmap, visit func(Bag)) {
	c.bags(focus, 1, func() func(Bag) { return visit })
}

// tally counts all terms in a focus. With idf it also sums their distinctiveness.
func (c *Counter) tally(focus, coded *roaring.Bitmap, idf []float64, workers int) (sums []tally, words int) {
	v := c.View
	isCoded := coded.ToDense()
	var parts [][]tally
	var counts []*int
	c.bags(focus, workers, func() func(Bag) {
		mine, n := make([]tally, len(v.Terms)), new(int)
		parts, counts = append(parts, mine), append(counts, n)
		return func(b Bag) {
			*n += b.Words
			i := int(b.Answer >> 6)
			uncoded := int32(1)
			if i < len(isCoded) && isCoded[i]>>(b.Answer&63)&1 == 1 {
				uncoded = 0
			}
			norm := 0.0
			for i, t := range b.Terms {
				x := &mine[t]
				x.answers++
				x.times += b.Times[i]
				x.uncoded += uncoded
				if idf != nil && !v.Terms[t].Stop {
					w := float64(b.Times[i]) * idf[t]
					norm += w * w
				}
			}
			if norm == 0 {
				return
			}
			norm = 1 / math.Sqrt(norm)
			for i, t := range b.Terms {
				if !v.Terms[t].Stop {
					mine[t].weight += float64(b.Times[i]) * idf[t] * norm
				}
			}
		}
	})
	sums = make([]tally, len(v.Terms))
	for p, part := range parts {
		words += *counts[p]
		for t, x := range part {
			s := &sums[t]
			s.answers, s.times, s.uncoded, s.weight = s.answers+x.answers, s.times+x.times, s.uncoded+x.uncoded, s.weight+x.weight
		}
	}
	return sums, words
}

// Count gives the figures of every term that occurs in the focus. Distinctiveness of a term in an answer is its
// occurrences × (ln((1+N)/(1+df)) + 1) over the whole question, the terms of each answer (stop words aside) scaled to
// length 1.
func (c *Counter) Count(focus, coded *roaring.Bitmap, workers int) Table {
	sums, words := c.tally(focus, coded, c.weights(workers), workers)
	t := Table{Base: int(focus.GetCardinality()), Words: words}
	for i, s := range sums {
		if s.times > 0 {
			t.Rows = append(t.Rows, Row{Terms: [3]int32{int32(i), None, None}, Answers: int(s.answers), Times: int(s.times), Uncoded: int(s.uncoded), Distinct: s.weight / float64(s.answers)})
		}
	}
	return t
}

// AnswersPer gives the number of answers in the focus with each term, by place in View.Terms.
func (c *Counter) AnswersPer(focus *roaring.Bitmap, workers int) []int32 {
	sums, _ := c.tally(focus, roaring.New(), nil, workers)
	out := make([]int32, len(sums))
	for i, s := range sums {
		out[i] = s.answers
	}
	return out
}
