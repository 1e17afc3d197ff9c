// Package terms works out what is said: figures of terms and of rows of terms in a focus, where they stand, what leads to
// and follows from them, what comes together, and which ones may be one.
package terms

import (
	"cmp"
	"context"
	"math"
	"slices"
	"sync"
	"sync/atomic"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/lexicon"
)

// None stands where a row has fewer than three terms.
const None = -1

// Row is a term, or two or three terms in a row, with its figures in a focus.
type Row struct {
	Terms   [3]int32 // places in View.Terms; None where there is no second or third
	Answers int
	Times   int // occurrences
	Uncoded int // answers with it that are not coded
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

// kept is what does not depend on stop words. What is worked out once is worked out under the lock, so that who comes meanwhile
// waits.
type kept struct {
	weighing sync.Mutex
	idf      []float64 // by term: ln((1+N)/(1+df)) + 1 over the whole question

	looking sync.Mutex
	done    atomic.Bool
	places  []standing           // of all terms with variants of several words, by answer
	found   map[string]standings // by label, for the next counter
	earlier map[string]standings // what the counter before had
}

// standings is where a term with variants of several words stands.
type standings struct {
	phrases lexicon.Phrases
	in      []standing
	members []lexicon.Member
}

// NewCounter makes a counter. Earlier may be nil; if its view differs in stop words at most, its work is taken over.
func NewCounter(v *lexicon.View, earlier *Counter) *Counter {
	if earlier != nil && earlier.View.SameTerms(v) {
		return &Counter{View: v, many: earlier.many, kept: earlier.kept}
	}
	c := &Counter{View: v, many: make([]bool, len(v.Terms)), kept: &kept{found: map[string]standings{}}}
	if earlier != nil && earlier.View.Index == v.Index {
		if earlier.kept.done.Load() {
			c.kept.earlier = earlier.kept.found
		}
	}
	for t := range v.Terms {
		c.many[t] = !v.Phrases(t).Single()
	}
	return c
}

// weights are the inverse document frequencies: ln((1+N)/(1+df)) + 1, N the answered of the question and df those with
// the term.
func (c *Counter) weights(ctx context.Context, workers int) ([]float64, error) {
	k := c.kept
	k.weighing.Lock()
	defer k.weighing.Unlock()
	if k.idf != nil {
		return k.idf, nil
	}
	answered := c.View.Index.Answered()
	tallies, _, err := c.tally(ctx, answered, roaring.New(), workers)
	if err != nil {
		return nil, err
	}
	n := float64(answered.GetCardinality())
	k.idf = make([]float64, len(c.View.Terms))
	for t := range k.idf {
		k.idf[t] = math.Log((1+n)/(1+float64(tallies[t].answers))) + 1
	}
	return k.idf, nil
}

// tally is what is counted of a term.
type tally struct {
	last                    uint32 // the last answer counted, plus one
	answers, times, uncoded int32
}

// standing is a term with variants of several words, in an answer.
type standing struct {
	answer uint32
	term   int32
	times  int32
}

// standings lists where terms with variants of several words stand, by answer. They are looked for once; what the lexicon
// before had in common with this one is taken over.
func (c *Counter) standings(ctx context.Context) ([]standing, error) {
	v, k := c.View, c.kept
	if k.done.Load() {
		return k.places, nil
	}
	k.looking.Lock()
	defer k.looking.Unlock()
	if k.done.Load() {
		return k.places, nil
	}
	k.places, k.found = nil, map[string]standings{}
	for t := range v.Terms {
		if !c.many[t] {
			continue
		}
		ps := v.Phrases(t)
		known, ok := k.earlier[v.Terms[t].Label]
		if !ok || !known.phrases.Equal(ps) {
			var err error
			if known, err = c.standing(ctx, t); err != nil {
				return nil, err
			}
		}
		k.found[v.Terms[t].Label] = known
		for _, s := range known.in {
			s.term = int32(t)
			k.places = append(k.places, s)
		}
	}
	slices.SortStableFunc(k.places, func(a, b standing) int { return cmp.Compare(a.answer, b.answer) })
	k.earlier = nil
	k.done.Store(true)
	return k.places, nil
}

// standing looks for one term with variants of several words.
func (c *Counter) standing(ctx context.Context, t int) (standings, error) {
	v := c.View
	out := standings{phrases: v.Phrases(t)}
	times := map[string]int{}
	err := v.EachPlace(ctx, t, func(a uint32, words []uint32) {
		times[v.Index.Spelled(words)]++
		if n := len(out.in); n > 0 && out.in[n-1].answer == a {
			out.in[n-1].times++
			return
		}
		out.in = append(out.in, standing{answer: a, times: 1})
	})
	out.members = lexicon.MembersOf(times)
	return out, err
}

// Members lists what a term is made of, as View.Members does; those of terms with variants of several words are kept.
func (c *Counter) Members(ctx context.Context, term int) ([]lexicon.Member, error) {
	if !c.many[term] {
		return c.View.Members(ctx, term)
	}
	if _, err := c.standings(ctx); err != nil {
		return nil, err
	}
	return c.kept.found[c.View.Terms[term].Label].members, nil
}

// WordCounts counts the occurrences of every word of the index in a focus.
func (c *Counter) WordCounts(ctx context.Context, focus *roaring.Bitmap, workers int) ([]int32, error) {
	ix := c.View.Index
	var parts [][]int32
	newDense(focus).split(workers, func(_ int, part dense, from uint32) func() {
		mine := make([]int32, ix.Vocabulary())
		parts = append(parts, mine)
		return func() {
			for a := range part.walk(ctx, from) {
				for _, w := range ix.Answer(int(a)) {
					mine[w]++
				}
			}
		}
	})
	for _, part := range parts[1:] {
		for w, n := range part {
			parts[0][w] += n
		}
	}
	return parts[0], ctx.Err()
}

// MembersIn is Members within a focus, of which the counts of words are given: with the occurrences there, which add up to the
// term's; what does not occur there is left out.
func (c *Counter) MembersIn(ctx context.Context, focus *roaring.Bitmap, words []int32, term int) ([]lexicon.Member, error) {
	v := c.View
	times := map[string]int{}
	if !c.many[term] {
		for _, w := range v.Terms[term].Words {
			if words[w] > 0 {
				times[v.Index.Spelling(w)] += int(words[w])
			}
		}
		return lexicon.MembersOf(times), nil
	}
	ps := v.Phrases(term)
	for it, n := roaring.And(ps.Answers(v.Index), focus).Iterator(), 0; it.HasNext(); n++ {
		if n%1024 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		a := int(it.Next())
		said := v.Index.Answer(a)
		ps.Each(said, v.Index.Sentences(a), func(start, length int) { times[v.Index.Spelled(said[start:start+length])]++ })
	}
	return lexicon.MembersOf(times), nil
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
func (c *Counter) bags(ctx context.Context, focus *roaring.Bitmap, workers int, visitor func() func(Bag)) error {
	v := c.View
	places, err := c.standings(ctx)
	if err != nil {
		return err
	}
	set, termOf := newDense(focus), v.TermOfWords()
	set.split(workers, func(_ int, part dense, from uint32) func() {
		visit := visitor()
		return func() {
			mine, _ := slices.BinarySearchFunc(places, from, func(s standing, a uint32) int { return cmp.Compare(s.answer, a) })
			last := make([]uint32, len(v.Terms)) // the last answer seen with the term, plus one
			at := make([]int32, len(v.Terms))    // and its place in the bag
			var b Bag
			for a := range part.walk(ctx, from) {
				words := v.Index.Answer(int(a))
				b.Answer, b.Terms, b.Times, b.Words = a, b.Terms[:0], b.Times[:0], len(words)
				for _, w := range words {
					t := termOf[w]
					if c.many[t] {
						continue
					}
					if last[t] != a+1 {
						last[t], at[t] = a+1, int32(len(b.Terms))
						b.Terms, b.Times = append(b.Terms, t), append(b.Times, 0)
					}
					b.Times[at[t]]++
				}
				for ; mine < len(places) && places[mine].answer <= a; mine++ {
					if places[mine].answer == a {
						b.Terms, b.Times = append(b.Terms, places[mine].term), append(b.Times, places[mine].times)
					}
				}
				visit(b)
			}
		}
	})
	return ctx.Err()
}

// Bags visits the answers of a focus in order, each with its terms. What is given holds until visit returns.
func (c *Counter) Bags(ctx context.Context, focus *roaring.Bitmap, visit func(Bag)) error {
	return c.bags(ctx, focus, 1, func() func(Bag) { return visit })
}

// tally counts all terms in a focus.
func (c *Counter) tally(ctx context.Context, focus, coded *roaring.Bitmap, workers int) (sums []tally, words int, err error) {
	v := c.View
	places, err := c.standings(ctx)
	if err != nil {
		return nil, 0, err
	}
	ix, termOf := v.Index, v.TermOfWords()
	set, isCoded := newDense(focus), newDense(coded)
	var parts [][]tally
	var counts []int
	set.split(workers, func(w int, part dense, from uint32) func() {
		parts, counts = append(parts, make([]tally, len(v.Terms))), append(counts, 0)
		return func() {
			mine, n := parts[w], 0
			for a := range part.walk(ctx, from) {
				uncoded := isCoded.without(a)
				words := ix.Answer(int(a))
				n += len(words)
				for _, word := range words {
					x := &mine[termOf[word]]
					x.times++
					if x.last != a+1 {
						x.last = a + 1
						x.answers++
						x.uncoded += uncoded
					}
				}
			}
			counts[w] = n
		}
	})
	if err := ctx.Err(); err != nil {
		return nil, 0, err
	}
	sums = parts[0]
	for p, part := range parts {
		words += counts[p]
		for t, x := range part {
			if p > 0 && x.times > 0 {
				s := &sums[t]
				s.answers, s.times, s.uncoded = s.answers+x.answers, s.times+x.times, s.uncoded+x.uncoded
			}
		}
	}
	// Terms with variants of several words are counted by their places.
	for t, many := range c.many {
		if many {
			sums[t] = tally{}
		}
	}
	for _, x := range places {
		if set.without(x.answer) == 0 {
			s := &sums[x.term]
			s.answers, s.times, s.uncoded = s.answers+1, s.times+x.times, s.uncoded+isCoded.without(x.answer)
		}
	}
	return sums, words, nil
}

// Distinct gives the mean distinctiveness of each term in the answers of a focus that have it, by place in View.Terms; 0
// for stop words. Distinctiveness of a term in an answer is its occurrences × (ln((1+N)/(1+df)) + 1), N and df of the whole
// question; the terms of each answer, stop words aside, are scaled to length 1.
func (c *Counter) Distinct(ctx context.Context, focus *roaring.Bitmap, workers int) ([]float64, error) {
	type sum struct {
		weight  float64
		answers int
	}
	v := c.View
	idf, err := c.weights(ctx, workers)
	if err != nil {
		return nil, err
	}
	var parts [][]sum
	err = c.bags(ctx, focus, workers, func() func(Bag) {
		mine := make([]sum, len(v.Terms))
		parts = append(parts, mine)
		return func(b Bag) {
			norm := 0.0
			for i, t := range b.Terms {
				if !v.Terms[t].Stop {
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
					mine[t].answers++
				}
			}
		}
	})
	if err != nil {
		return nil, err
	}
	out := make([]float64, len(v.Terms))
	for t := range out {
		weight, answers := 0.0, 0
		for _, part := range parts {
			weight, answers = weight+part[t].weight, answers+part[t].answers
		}
		if answers > 0 {
			out[t] = weight / float64(answers)
		}
	}
	return out, nil
}

// Count gives the figures of every term that occurs in the focus.
func (c *Counter) Count(ctx context.Context, focus, coded *roaring.Bitmap, workers int) (Table, error) {
	sums, words, err := c.tally(ctx, focus, coded, workers)
	if err != nil {
		return Table{}, err
	}
	t := Table{Base: int(focus.GetCardinality()), Words: words}
	for i, s := range sums {
		if s.times > 0 {
			t.Rows = append(
				t.Rows, Row{Terms: [3]int32{int32(i), None, None}, Answers: int(s.answers), Times: int(s.times), Uncoded: int(s.uncoded)},
			)
		}
	}
	return t, nil
}

// AnswersPer gives the number of answers in the focus with each term, by place in View.Terms.
func (c *Counter) AnswersPer(ctx context.Context, focus *roaring.Bitmap, workers int) ([]int32, error) {
	sums, _, err := c.tally(ctx, focus, roaring.New(), workers)
	if err != nil {
		return nil, err
	}
	out := make([]int32, len(sums))
	for i, s := range sums {
		out[i] = s.answers
	}
	return out, nil
}
