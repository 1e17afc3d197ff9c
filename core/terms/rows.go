package terms

import (
	"slices"
	"strings"
	"sync"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/corpus"
)

// CountRows gives the figures of two or three terms in a row (n) within one sentence. Each word counts as its own term:
// variants of several words are not joined here. A row that begins or ends in a stop word is not listed, nor is one that
// was hidden by itself unless hidden is asked for; those that stand in one answer only are counted in Table.Rare.
func (c *Counter) CountRows(focus, coded *roaring.Bitmap, n, workers int, hidden bool) Table {
	v := c.View
	answers := focus.ToArray()
	isCoded := coded.ToDense()
	workers = max(1, min(workers, len(answers)/1000))
	parts := make([]Table, workers)
	var all sync.WaitGroup
	// Every worker reads all answers and counts the rows whose first term is its own: so nothing has to be joined.
	for mine := range workers {
		all.Go(func() {
			t := &parts[mine]
			at := map[[3]int32]int32{}
			var last []uint32 // the last answer seen with the row, plus one
			for _, a := range answers {
				words, sentences := v.Index.Answer(int(a)), v.Index.Sentences(int(a))
				if mine == 0 {
					t.Words += len(words)
				}
				uncoded := 1
				if i := int(a >> 6); i < len(isCoded) && isCoded[i]>>(a&63)&1 == 1 {
					uncoded = 0
				}
				for i := 0; i+n <= len(words); i++ {
					first, end := v.TermOf(words[i]), v.TermOf(words[i+n-1])
					if first%workers != mine || sentences[i] != sentences[i+n-1] || v.Terms[first].Stop || v.Terms[end].Stop {
						continue
					}
					key := [3]int32{int32(first), int32(v.TermOf(words[i+1])), None}
					if n == 3 {
						key[2] = int32(end)
					}
					row, known := at[key]
					if !known {
						row = int32(len(t.Rows))
						at[key] = row
						t.Rows, last = append(t.Rows, Row{Terms: key}), append(last, 0)
					}
					r := &t.Rows[row]
					r.Times++
					if last[row] != a+1 {
						last[row] = a + 1
						r.Answers++
						r.Uncoded += uncoded
					}
				}
			}
			t.Rows = slices.DeleteFunc(t.Rows, func(r Row) bool {
				if v.RowHidden(r.Terms) != hidden {
					return true
				}
				if r.Answers == 1 {
					t.Rare++
				}
				return r.Answers == 1
			})
		})
	}
	all.Wait()
	out := Table{Base: len(answers)}
	for _, t := range parts {
		out.Rows, out.Rare, out.Words = append(out.Rows, t.Rows...), out.Rare+t.Rare, out.Words+t.Words
	}
	slices.SortFunc(out.Rows, func(a, b Row) int { return slices.Compare(a.Terms[:], b.Terms[:]) })
	return out
}

// sampled is how many answers are looked at for the way a row is mostly written.
const sampled = 2000

// RowLabel is a row of terms as it is mostly written in the first 2,000 answers with it (ties by alphabet).
func (c *Counter) RowLabel(terms [3]int32) string {
	v := c.View
	sequence := v.RowSequence(terms)
	if len(sequence) == 1 {
		return v.Terms[terms[0]].Label
	}
	forms := map[string]int{}
	seen := 0
	for it := c.candidates(terms).Iterator(); it.HasNext() && seen < sampled; {
		a := int(it.Next())
		words, sentences := v.Index.Answer(a), v.Index.Sentences(a)
		found := false
		for i := range words {
			if sequence.At(words, sentences, i) {
				forms[spelled(v.Index, words[i:i+len(sequence)])]++
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

// candidates are the answers that hold all terms of a row.
func (c *Counter) candidates(terms [3]int32) *roaring.Bitmap {
	var out *roaring.Bitmap
	for _, t := range terms {
		if t < 0 {
			continue
		}
		set := c.View.Index.With(c.View.Terms[t].Words)
		if out == nil {
			out = set
		} else {
			out.And(set)
		}
	}
	return out
}

// spelled is words as respondents mostly spell them.
func spelled(ix *corpus.Index, words []uint32) string {
	var b strings.Builder
	for i, w := range words {
		if i > 0 {
			b.WriteByte(' ')
		}
		b.WriteString(ix.Spelling(w))
	}
	return b.String()
}
