// Package corpus is the word index of one question: which words stand where in which answer. It knows surfaces only;
// what they mean together (terms, rules, categories) is a view on it.
package corpus

import (
	"context"
	"slices"
	"strings"
	"sync/atomic"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/parallel"
	"aftermath/core/text"
)

// Index holds the words of n answers, numbered from 0. It does not change once built.
type Index struct {
	words     []string // surfaces by number, ascending
	spellings []string // the most frequent accented form of each
	counts    []int    // occurrences of each

	tokens     []uint32 // word numbers of all answers, one after the other
	starts     []uint32 // answer i has tokens[starts[i]:starts[i+1]]
	sentenceAt []uint8  // sentence of each token within its answer; the last number stands for all after it

	postings      []uint32 // for each word the answers that hold it, ascending
	postingStarts []uint32

	statuses []*roaring.Bitmap // by text.Status
	touched  []*roaring.Bitmap // by cleaning step
}

// chunk is how many answers one worker reads at a time. It is part of no result.
const chunk = 4096

// shard is what one chunk of answers was read as, by its own numbering of words.
type shard struct {
	words     map[string]uint32
	surfaces  []string
	spellings map[string]map[string]int
	tokens    []uint32
	sentences []uint8
	lengths   []uint32
	statuses  []text.Status
	touched   []uint64
}

// Build reads all answers with the pipeline, on as many goroutines as workers, and reports how many are done from
// time to time. It stops early when ctx ends.
func Build(
	ctx context.Context, p *text.Pipeline, no text.NoAnswers, answers []string, workers int, progress func(done int),
) (*Index, error) {
	shards := make([]*shard, (len(answers)+chunk-1)/chunk)
	var done atomic.Int64
	err := parallel.Each(ctx, workers, len(shards), func() func(int) {
		return func(i int) {
			part := answers[i*chunk : min((i+1)*chunk, len(answers))]
			if shards[i] = read(ctx, p, no, part); progress != nil {
				progress(int(done.Add(int64(len(part)))))
			}
		}
	})
	if err != nil {
		return nil, err
	}
	return join(shards, len(answers), len(p.Steps()), workers), nil
}

// read reads answers; of some, if ctx ends.
func read(ctx context.Context, p *text.Pipeline, no text.NoAnswers, answers []string) *shard {
	s := &shard{words: map[string]uint32{}, spellings: map[string]map[string]int{}}
	var c text.Cleaned
	for i, a := range answers {
		if i%64 == 0 && ctx.Err() != nil {
			return s
		}
		p.CleanInto(&c, a)
		for _, w := range c.Words {
			id, known := s.words[w.Surface]
			if !known {
				surface := string([]byte(w.Surface)) // the index must not keep the answer alive
				id = uint32(len(s.surfaces))
				s.words[surface], s.surfaces = id, append(s.surfaces, surface)
			}
			if w.Spelling != w.Surface {
				if s.spellings[s.surfaces[id]] == nil {
					s.spellings[s.surfaces[id]] = map[string]int{}
				}
				s.spellings[s.surfaces[id]][w.Spelling]++
			}
			s.tokens = append(s.tokens, id)
			s.sentences = append(s.sentences, uint8(min(w.Sentence, 255)))
		}
		s.lengths = append(s.lengths, uint32(len(c.Words)))
		s.statuses = append(s.statuses, no.Status(a, c.Words))
		s.touched = append(s.touched, c.Touched)
	}
	return s
}

// join numbers the words of all shards anew, in the order of the alphabet, and makes the postings.
func join(shards []*shard, n, steps, workers int) *Index {
	ix := &Index{starts: make([]uint32, 1, n+1)}
	seen := map[string]uint32{}
	spellings := map[string]map[string]int{}
	total := 0
	for _, s := range shards {
		total += len(s.tokens)
		for _, w := range s.surfaces {
			if _, known := seen[w]; !known {
				seen[w] = 0
				ix.words = append(ix.words, w)
			}
		}
		for w, forms := range s.spellings {
			if spellings[w] == nil {
				spellings[w] = map[string]int{}
			}
			for form, count := range forms {
				spellings[w][form] += count
			}
		}
	}
	slices.Sort(ix.words)
	for i, w := range ix.words {
		seen[w] = uint32(i)
	}
	ix.tokens, ix.sentenceAt = make([]uint32, total), make([]uint8, total)
	ix.counts = make([]int, len(ix.words))
	for range text.StatusNames {
		ix.statuses = append(ix.statuses, roaring.New())
	}
	for range steps {
		ix.touched = append(ix.touched, roaring.New())
	}
	counts, froms := make([][]int, len(shards)), make([]int, len(shards))
	answer, token := uint32(0), 0
	for i, s := range shards {
		froms[i] = token
		token += len(s.tokens)
		for i, length := range s.lengths {
			ix.starts = append(ix.starts, ix.starts[len(ix.starts)-1]+length)
			ix.statuses[s.statuses[i]].Add(answer)
			for step := range steps {
				if s.touched[i]>>step&1 == 1 {
					ix.touched[step].Add(answer)
				}
			}
			answer++
		}
	}
	_ = parallel.Each(context.Background(), workers, len(shards), func() func(int) {
		return func(i int) {
			counts[i] = shards[i].number(seen, ix.tokens[froms[i]:])
			copy(ix.sentenceAt[froms[i]:], shards[i].sentences)
		}
	})
	for i, s := range shards {
		for w, n := range counts[i] {
			ix.counts[seen[s.surfaces[w]]] += n
		}
	}
	ix.spellings = make([]string, len(ix.words))
	for i, w := range ix.words {
		ix.spellings[i] = mostFrequent(w, spellings[w], ix.counts[i])
	}
	ix.post()
	return ix
}

// number writes the shard's words by the numbers of the whole index, and counts how often each of its own occurs.
func (s *shard) number(numbers map[string]uint32, to []uint32) (counts []int) {
	counts = make([]int, len(s.surfaces))
	whole := make([]uint32, len(s.surfaces))
	for i, w := range s.surfaces {
		whole[i] = numbers[w]
	}
	for i, t := range s.tokens {
		to[i] = whole[t]
		counts[t]++
	}
	return counts
}

// mostFrequent picks the form that stands most often (ties by alphabet); plain stands where no other form was given.
func mostFrequent(plain string, forms map[string]int, total int) string {
	best, most := plain, total
	for _, n := range forms {
		most -= n
	}
	for form, n := range forms {
		if n > most || n == most && form < best {
			best, most = form, n
		}
	}
	return best
}

// post lists for each word the answers that hold it.
func (ix *Index) post() {
	last := make([]uint32, len(ix.words)) // the last answer seen with the word, plus one
	ix.postingStarts = make([]uint32, len(ix.words)+1)
	for a := range ix.Len() {
		for _, w := range ix.Answer(a) {
			if last[w] != uint32(a)+1 {
				last[w] = uint32(a) + 1
				ix.postingStarts[w+1]++
			}
		}
	}
	for i := range ix.words {
		ix.postingStarts[i+1] += ix.postingStarts[i]
		last[i] = 0
	}
	next := slices.Clone(ix.postingStarts)
	ix.postings = make([]uint32, ix.postingStarts[len(ix.words)])
	for a := range ix.Len() {
		for _, w := range ix.Answer(a) {
			if last[w] != uint32(a)+1 {
				last[w] = uint32(a) + 1
				ix.postings[next[w]] = uint32(a)
				next[w]++
			}
		}
	}
}

// Len is the number of answers.
func (ix *Index) Len() int { return len(ix.starts) - 1 }

// Vocabulary is the number of distinct words.
func (ix *Index) Vocabulary() int { return len(ix.words) }

// Surface is the word with that number.
func (ix *Index) Surface(word uint32) string { return ix.words[word] }

// Spelling is the word with the accents that respondents mostly gave it.
func (ix *Index) Spelling(word uint32) string { return ix.spellings[word] }

// Spelled is words in a row, each as respondents mostly gave it.
func (ix *Index) Spelled(words []uint32) string {
	if len(words) == 1 {
		return ix.spellings[words[0]]
	}
	var b strings.Builder
	for i, w := range words {
		if i > 0 {
			b.WriteByte(' ')
		}
		b.WriteString(ix.spellings[w])
	}
	return b.String()
}

// Count is how often the word occurs in all answers.
func (ix *Index) Count(word uint32) int { return ix.counts[word] }

// Word finds the number of a surface.
func (ix *Index) Word(surface string) (uint32, bool) {
	i, ok := slices.BinarySearch(ix.words, surface)
	return uint32(i), ok
}

// Answer gives the word numbers of an answer in order. The caller must not change them.
func (ix *Index) Answer(i int) []uint32 { return ix.tokens[ix.starts[i]:ix.starts[i+1]] }

// Sentences gives the sentence of each word of an answer, from 0. From the 256th sentence on, all count as one.
func (ix *Index) Sentences(i int) []uint8 { return ix.sentenceAt[ix.starts[i]:ix.starts[i+1]] }

// Postings lists the answers that hold the word, ascending. The caller must not change the list.
func (ix *Index) Postings(word uint32) []uint32 {
	return ix.postings[ix.postingStarts[word]:ix.postingStarts[word+1]]
}

// With is the set of answers that hold any of the words.
func (ix *Index) With(words []uint32) *roaring.Bitmap {
	if len(words) == 1 && len(ix.Postings(words[0])) < ix.Len()/64 {
		return roaring.BitmapOf(ix.Postings(words[0])...)
	}
	set := ix.NewSet()
	ix.Mark(words, set)
	return Sparse(set)
}

// Status is the set of answers with that status. The caller must not change it.
func (ix *Index) Status(s text.Status) *roaring.Bitmap { return ix.statuses[s] }

// Answered is the set that rules and shares speak of. The caller must not change it.
func (ix *Index) Answered() *roaring.Bitmap { return ix.statuses[text.Answered] }

// Touched is the set of answers that the cleaning step at that place changed. The caller must not change it.
func (ix *Index) Touched(step int) *roaring.Bitmap { return ix.touched[step] }

// Shorter is the set of answers with at least one and fewer than n words.
func (ix *Index) Shorter(n int) *roaring.Bitmap {
	set := roaring.New()
	for i := range ix.Len() {
		if words := len(ix.Answer(i)); words > 0 && words < n {
			set.Add(uint32(i))
		}
	}
	return set
}

// Alike groups the answers that have the same words in the same order, case, spacing and punctuation aside, the largest
// group first; answers that no other is like are in none.
func (ix *Index) Alike() [][]uint32 {
	first := map[uint64][]uint32{} // the first answers with words of that hash
	groups := map[uint32][]uint32{}
	for i := range ix.Len() {
		words := ix.Answer(i)
		if len(words) == 0 {
			continue
		}
		hash := uint64(14695981039346656037) // FNV-1a over the words' numbers
		for _, w := range words {
			hash = (hash ^ uint64(w)) * 1099511628211
		}
		known := false
		for _, f := range first[hash] {
			if known = slices.Equal(ix.Answer(int(f)), words); known {
				groups[f] = append(groups[f], uint32(i))
				break
			}
		}
		if !known {
			first[hash] = append(first[hash], uint32(i))
		}
	}
	return largestFirst(groups)
}
