package terms

import (
	"cmp"
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/corpus"
	"aftermath/core/lexicon"
)

// Place is where something stands: Length words of an answer from word Start on.
type Place struct {
	Answer        uint32
	Start, Length int32
}

// Places lists where phrases stand in the answers of a focus, in order.
func Places(ctx context.Context, ix *corpus.Index, ps lexicon.Phrases, focus *roaring.Bitmap) ([]Place, error) {
	var out []Place
	for it, n := roaring.And(ps.Answers(ix), focus).Iterator(), 0; it.HasNext(); n++ {
		if n%1024 == 0 && ctx.Err() != nil {
			return nil, ctx.Err()
		}
		a := it.Next()
		ps.Each(ix.Answer(int(a)), ix.Sentences(int(a)), func(start, length int) {
			out = append(out, Place{a, int32(start), int32(length)})
		})
	}
	return out, nil
}

// Order says by what lines of context are sorted.
type Order string

// The orders: as the answers stand in the file, by the words after, or by the words before, the nearest first.
const (
	AsGiven  Order = "given"
	ByAfter  Order = "after"
	ByBefore Order = "before"
)

// compared is how many words on a side are compared.
const compared = 5

// Sort puts places in an order. Words are compared by the alphabet; where the answer ends comes first; ties stay in the
// order of the file.
func Sort(ix *corpus.Index, places []Place, by Order) {
	if by != ByAfter && by != ByBefore {
		return
	}
	// What stands beside each place, as word numbers (which follow the alphabet) plus one, so that nothing is 0.
	type beside struct {
		words [compared]uint32
		place Place
	}
	keyed := make([]beside, len(places))
	for i, p := range places {
		keyed[i].place = p
		words := ix.Answer(int(p.Answer))
		for j := range int32(compared) {
			at := p.Start + p.Length + j
			if by == ByBefore {
				at = p.Start - 1 - j
			}
			if at < 0 || int(at) >= len(words) {
				break
			}
			keyed[i].words[j] = words[at] + 1
		}
	}
	slices.SortFunc(keyed, func(a, b beside) int {
		return cmp.Or(
			slices.Compare(a.words[:], b.words[:]), cmp.Compare(a.place.Answer, b.place.Answer),
			cmp.Compare(a.place.Start, b.place.Start),
		)
	})
	for i := range keyed {
		places[i] = keyed[i].place
	}
}

// Branch is a word that follows what stands before it (or leads to what stands after it), in one sentence.
type Branch struct {
	Word     string   `json:"word" doc:"as respondents mostly spell it"`
	Answers  int      `json:"answers"`
	Times    int      `json:"times" doc:"occurrences"`
	Ends     int      `json:"ends" doc:"occurrences with which the sentence ends, or begins"`
	Branches []Branch `json:"branches" doc:"the largest"`
	More     int      `json:"more" doc:"different words that are not drawn"`
	MoreTime int      `json:"moreTimes" doc:"and their occurrences"`
}

// Shape bounds a tree of branches.
type Shape struct {
	Depth   int // words away from the middle
	Breadth int // branches of the first fork; the next ones have about two thirds of the one before
	Least   int // answers that a branch must have
	// Skip says which words are passed over, as if they were not there; nil for none.
	Skip func(word uint32) bool
}

// Branches builds the tree of what follows places (after) or leads to them, the largest branches first (ties by
// alphabet). The root stands for the places themselves. Places are in the order of the answers.
func Branches(ix *corpus.Index, places []Place, after bool, shape Shape) Branch {
	root := Branch{Times: len(places), Answers: countAnswers(places)}
	root.grow(ix, ends(places, after), after, shape, 1)
	return root
}

// Along says whether these words, as they are spelled, follow a place (after) or lead to it, one after the other, those that
// are skipped passed over.
func Along(ix *corpus.Index, p Place, after bool, skip func(word uint32) bool, words []string) bool {
	r := ends([]Place{p}, after)[0]
	for _, w := range words {
		next, ok := r.step(ix, after, skip)
		if !ok || ix.Spelling(ix.Answer(int(p.Answer))[next.at]) != w {
			return false
		}
		r = next
	}
	return true
}

func countAnswers(places []Place) (n int) {
	for i, p := range places {
		if i == 0 || places[i-1].Answer != p.Answer {
			n++
		}
	}
	return n
}

// reached is the last word on the way from a place.
type reached struct {
	Place
	at int32
}

func ends(places []Place, after bool) []reached {
	out := make([]reached, len(places))
	for i, p := range places {
		out[i] = reached{p, p.Start}
		if after {
			out[i].at = p.Start + p.Length - 1
		}
	}
	return out
}

// step goes one word on within the sentence; ok is false at its end.
func (r reached) step(ix *corpus.Index, after bool, skip func(word uint32) bool) (next reached, ok bool) {
	words, sentences := ix.Answer(int(r.Answer)), ix.Sentences(int(r.Answer))
	by := int32(-1)
	if after {
		by = 1
	}
	for at := r.at + by; at >= 0 && int(at) < len(words) && sentences[at] == sentences[r.at]; at += by {
		if skip == nil || !skip(words[at]) {
			return reached{r.Place, at}, true
		}
	}
	return reached{}, false
}

// grow adds the branches that stand so many words away.
func (b *Branch) grow(ix *corpus.Index, from []reached, after bool, shape Shape, away int) {
	b.Branches = []Branch{}
	if away > shape.Depth {
		return
	}
	next := map[uint32][]reached{}
	for _, r := range from {
		to, ok := r.step(ix, after, shape.Skip)
		if !ok {
			b.Ends++
			continue
		}
		word := ix.Answer(int(to.Answer))[to.at]
		next[word] = append(next[word], to)
	}
	type fork struct {
		word    uint32
		answers int
	}
	forks := make([]fork, 0, len(next))
	for w, there := range next {
		forks = append(forks, fork{w, answersReached(there)})
	}
	slices.SortFunc(forks, func(x, y fork) int { return cmp.Or(y.answers-x.answers, cmp.Compare(x.word, y.word)) })
	deeper := shape
	deeper.Breadth = max(2, shape.Breadth*2/3)
	for i, f := range forks {
		if i >= shape.Breadth || f.answers < shape.Least {
			b.More++
			b.MoreTime += len(next[f.word])
			continue
		}
		kid := Branch{Word: ix.Spelling(f.word), Answers: f.answers, Times: len(next[f.word])}
		kid.grow(ix, next[f.word], after, deeper, away+1)
		b.Branches = append(b.Branches, kid)
	}
}

func answersReached(list []reached) (n int) {
	for i, r := range list {
		if i == 0 || list[i-1].Answer != r.Answer {
			n++
		}
	}
	return n
}
