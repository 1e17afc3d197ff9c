package corpus

import (
	"cmp"
	"context"
	"maps"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"
)

// Block is a row of words that stands, word for word, in several answers, and can't be made longer by a word, before or after it,
// without losing one of these.
type Block struct {
	Words   []uint32
	Answers []uint32 // ascending
}

// place is where a row of words begins.
type place struct{ answer, at uint32 }

// blockBits is how large the table is that tells most rows of words apart which stand once only: 2^27 bits.
const blockBits = 27

// Blocks finds the rows of at least so many words (2 or more) that stand in at least so many answers (2 or more): the one with
// the most words times answers first. Each row of just that many words that so many answers have is in one of them that all of
// these have.
func (ix *Index) Blocks(ctx context.Context, length, answers int) ([]Block, error) {
	places, err := ix.repeated(ctx, length, answers)
	if err != nil {
		return nil, err
	}
	var out []Block
	covered := map[uint64]bool{}
	for _, seed := range slices.SortedFunc(maps.Keys(places), func(a, b uint64) int {
		x, y := places[a][0], places[b][0]
		return cmp.Or(cmp.Compare(x.answer, y.answer), cmp.Compare(x.at, y.at))
	}) {
		if covered[seed] {
			continue
		}
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
		b := ix.widen(places[seed], length)
		for i := 0; i+length <= len(b.Words); i++ { // those within that no further answer has are done, too
			if inner := rowHash(b.Words[i : i+length]); len(answersOf(places[inner])) == len(b.Answers) {
				covered[inner] = true
			}
		}
		out = append(out, b)
	}
	slices.SortStableFunc(out, func(a, b Block) int { return len(b.Words)*len(b.Answers) - len(a.Words)*len(a.Answers) })
	return out, nil
}

// repeated are the rows of just so many words that stand in at least so many answers, by their hashes, with all places. A first
// pass leaves aside nearly all that stand once, so that memory is needed for what repeats only.
func (ix *Index) repeated(ctx context.Context, length, answers int) (map[uint64][]place, error) {
	once, twice := make([]uint64, 1<<(blockBits-6)), make([]uint64, 1<<(blockBits-6))
	each := func(do func(hash uint64, p place)) error {
		for i := range uint32(ix.Len()) {
			if i%nearAtOnce == 0 && ctx.Err() != nil {
				return ctx.Err()
			}
			words := ix.Answer(int(i))
			for at := 0; at+length <= len(words); at++ {
				do(rowHash(words[at:at+length]), place{i, uint32(at)})
			}
		}
		return nil
	}
	err := each(func(hash uint64, _ place) {
		bit := hash >> (64 - blockBits)
		if once[bit/64]&(1<<(bit%64)) != 0 {
			twice[bit/64] |= 1 << (bit % 64)
		}
		once[bit/64] |= 1 << (bit % 64)
	})
	if err != nil {
		return nil, err
	}
	places := map[uint64][]place{}
	err = each(func(hash uint64, p place) {
		if bit := hash >> (64 - blockBits); twice[bit/64]&(1<<(bit%64)) != 0 {
			places[hash] = append(places[hash], p)
		}
	})
	maps.DeleteFunc(places, func(_ uint64, at []place) bool { return len(at) < answers || len(answersOf(at)) < answers })
	return places, err
}

// rowHash is the hash of words in a row.
func rowHash(words []uint32) (hash uint64) {
	for _, w := range words {
		hash = mixed(hash ^ uint64(w) + 0x9e3779b97f4a7c15)
	}
	return hash
}

// answersOf are the answers of places, which ascend.
func answersOf(places []place) (out []uint32) {
	for _, p := range places {
		if n := len(out); n == 0 || out[n-1] != p.answer {
			out = append(out, p.answer)
		}
	}
	return out
}

// widen makes a row longer as long as all its answers go along.
func (ix *Index) widen(places []place, length int) Block {
	answers := answersOf(places)
	for {
		before := ix.common(places, len(answers), func(p place) int { return int(p.at) - 1 })
		if before == nil {
			break
		}
		places = before
		for i := range places {
			places[i].at--
		}
		length++
	}
	for {
		after := ix.common(places, len(answers), func(p place) int { return int(p.at) + length })
		if after == nil {
			break
		}
		places = after
		length++
	}
	first := places[0]
	return Block{ix.Answer(int(first.answer))[first.at:][:length], answers}
}

// common are the places at which the same word stands beside the row, if each of so many answers has one; nil if there is none
// such.
func (ix *Index) common(places []place, answers int, beside func(place) int) []place {
	tried := map[uint32]bool{}
	for _, p := range places {
		if p.answer != places[0].answer {
			return nil // every word that is in all answers is in the first
		}
		word, ok := ix.wordAt(p.answer, beside(p))
		if !ok || tried[word] {
			continue
		}
		tried[word] = true
		var out []place
		for _, q := range places {
			if w, ok := ix.wordAt(q.answer, beside(q)); ok && w == word {
				out = append(out, q)
			}
		}
		if len(answersOf(out)) == answers {
			return out
		}
	}
	return nil
}

func (ix *Index) wordAt(answer uint32, at int) (uint32, bool) {
	words := ix.Answer(int(answer))
	if at < 0 || at >= len(words) {
		return 0, false
	}
	return words[at], true
}

// Holding are the answers in which these words stand in a row.
func (ix *Index) Holding(row []uint32) *roaring.Bitmap {
	out := roaring.New()
	if len(row) == 0 {
		return out
	}
	rarest := slices.MinFunc(row, func(a, b uint32) int { return len(ix.Postings(a)) - len(ix.Postings(b)) })
	for _, answer := range ix.Postings(rarest) {
		if len(RowIn(ix.Answer(int(answer)), row)) > 0 {
			out.Add(answer)
		}
	}
	return out
}

// RowIn gives where a row of words begins in others.
func RowIn(words, row []uint32) (at []int) {
	for i := 0; i+len(row) <= len(words); i++ {
		if slices.Equal(words[i:i+len(row)], row) {
			at = append(at, i)
		}
	}
	return at
}
