package terms

import (
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/parallel"
)

// CountRows gives the figures of two or three terms in a row (n) within one sentence. Each word counts as its own term:
// variants of several words are not joined here. A row that begins or ends in a stop word is not listed, nor is one that
// was hidden by itself unless hidden is asked for; those that stand in one answer only are counted in Table.Rare.
func (c *Counter) CountRows(ctx context.Context, focus, coded *roaring.Bitmap, n, workers int, hidden bool) (Table, error) {
	v := c.View
	termOf := v.TermOfWords()
	stop := make([]bool, len(v.Terms))
	for t := range stop {
		stop[t] = v.Terms[t].Stop
	}
	set, isCoded := newDense(focus), newDense(coded)
	workers = max(1, min(workers, len(set)/16))
	parts := make([]Table, workers)
	tasks := make([]func(), workers)
	// Every worker reads all answers and counts the rows whose first term is its own: so nothing has to be joined.
	for mine := range workers {
		tasks[mine] = func() {
			t, found := &parts[mine], newRowCounts()
			for a := range set.walk(ctx, 0) {
				words, sentences := v.Index.Answer(int(a)), v.Index.Sentences(int(a))
				if mine == 0 {
					t.Words += len(words)
				}
				uncoded := isCoded.without(a)
				for i := 0; i+n <= len(words); i++ {
					first, end := termOf[words[i]], termOf[words[i+n-1]]
					if stop[first] || stop[end] || int(first)%workers != mine || sentences[i] != sentences[i+n-1] {
						continue
					}
					key := [3]int32{first, termOf[words[i+1]], None}
					if n == 3 {
						key[2] = end
					}
					found.add(key, a, uncoded)
				}
			}
			for _, r := range found.slots {
				switch {
				case r.times == 0 || v.RowHidden(r.key) != hidden:
				case r.answers == 1:
					t.Rare++
				default:
					t.Rows = append(t.Rows, Row{Terms: r.key, Answers: int(r.answers), Times: int(r.times), Uncoded: int(r.uncoded)})
				}
			}
		}
	}
	parallel.Run(tasks...)
	if err := ctx.Err(); err != nil {
		return Table{}, err
	}
	out := Table{Base: int(focus.GetCardinality())}
	for _, t := range parts {
		out.Rows, out.Rare, out.Words = append(out.Rows, t.Rows...), out.Rare+t.Rare, out.Words+t.Words
	}
	slices.SortFunc(out.Rows, func(a, b Row) int { return slices.Compare(a.Terms[:], b.Terms[:]) })
	return out, nil
}

// rowCounts counts rows of terms in one flat table: there may be millions, and a map would look in several places for each.
type rowCounts struct {
	slots []rowCount // a power of two of them; free where times is 0
	used  int
}

type rowCount struct {
	key [3]int32
	tally
}

func newRowCounts() *rowCounts { return &rowCounts{slots: make([]rowCount, 1<<12)} }

func (r *rowCounts) add(key [3]int32, answer uint32, uncoded int32) {
	x := r.slot(key)
	if x.times == 0 {
		if r.used++; r.used*4 > len(r.slots)*3 {
			r.grow()
			x = r.slot(key)
		}
		x.key = key
	}
	x.times++
	if x.last != answer+1 {
		x.last = answer + 1
		x.answers++
		x.uncoded += uncoded
	}
}

// slot is where a key is, or where it goes.
func (r *rowCounts) slot(key [3]int32) *rowCount {
	mask := len(r.slots) - 1
	h := uint64(
		uint32(key[0]),
	)*0x9e3779b97f4a7c15 ^ uint64(
		uint32(key[1]),
	)*0xc2b2ae3d27d4eb4f ^ uint64(
		uint32(key[2]),
	)*0x165667b19e3779f9
	for i := int(h>>32) & mask; ; i = (i + 1) & mask {
		if x := &r.slots[i]; x.times == 0 || x.key == key {
			return x
		}
	}
}

func (r *rowCounts) grow() {
	old := r.slots
	r.slots = make([]rowCount, 4*len(old))
	for _, x := range old {
		if x.times > 0 {
			*r.slot(x.key) = x
		}
	}
}

// sampled is how many answers are looked at for the way a row is mostly written.
const sampled = 300

// RowLabel is a row of terms as it is mostly written in the first 300 answers with it (ties by alphabet).
func (c *Counter) RowLabel(terms [3]int32) string {
	v := c.View
	sequence := v.RowSequence(terms)
	if len(sequence) == 1 {
		return v.Terms[terms[0]].Label
	}
	forms := map[string]int{}
	seen := 0
	for it := v.Index.With(c.rarest(terms)).Iterator(); it.HasNext() && seen < sampled; {
		a := int(it.Next())
		words, sentences := v.Index.Answer(a), v.Index.Sentences(a)
		found := false
		for i := range words {
			if sequence.At(words, sentences, i) {
				forms[v.Index.Spelled(words[i:i+len(sequence)])]++
				found = true
			}
		}
		if found {
			seen++
		}
	}
	best := ""
	for form, n := range forms {
		if best == "" || n > forms[best] || n == forms[best] && form < best {
			best = form
		}
	}
	return best
}

// rarest are the words of the term of a row that stands in the fewest answers.
func (c *Counter) rarest(terms [3]int32) []uint32 {
	var best []uint32
	least := -1
	for _, t := range terms {
		if t < 0 {
			continue
		}
		n := 0
		for _, w := range c.View.Terms[t].Words {
			n += len(c.View.Index.Postings(w))
		}
		if least < 0 || n < least {
			best, least = c.View.Terms[t].Words, n
		}
	}
	return best
}
