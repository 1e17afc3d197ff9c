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
}

// Branches builds the tree of what follows places (after) or leads to them, the largest branches first (ties by
// alphabet). The root stands for the places themselves. Places are in the order of the answers.
func Branches(ix *corpus.Index, places []Place, after bool, shape Shape) Branch {
	root := Branch{Times: len(places), Answers: countAnswers(places)}
	root.grow(ix, places, after, shape, 1)
	return root
}

func countAnswers(places []Place) (n int) {
	for i, p := range places {
		if i == 0 || places[i-1].Answer != p.Answer {
			n++
		}
	}
	return n
}

// grow adds the branches that stand so many words away.
func (b *Branch) grow(ix *corpus.Index, places []Place, after bool, shape Shape, away int32) {
	b.Branches = []Branch{}
	if int(away) > shape.Depth {
		return
	}
	next := map[uint32][]Place{}
	for _, p := range places {
		words, sentences := ix.Answer(int(p.Answer)), ix.Sentences(int(p.Answer))
		at, edge := p.Start+p.Length-1+away, p.Start+p.Length-1
		if !after {
			at, edge = p.Start-away, p.Start
		}
		if at < 0 || int(at) >= len(words) || sentences[at] != sentences[edge] {
			b.Ends++
			continue
		}
		next[words[at]] = append(next[words[at]], p)
	}
	type fork struct {
		word    uint32
		answers int
	}
	forks := make([]fork, 0, len(next))
	for w, ps := range next {
		forks = append(forks, fork{w, countAnswers(ps)})
	}
	slices.SortFunc(forks, func(x, y fork) int { return cmp.Or(y.answers-x.answers, cmp.Compare(x.word, y.word)) })
	for i, f := range forks {
		if i >= shape.Breadth || f.answers < shape.Least {
			b.More++
			b.MoreTime += len(next[f.word])
			continue
		}
		kid := Branch{Word: ix.Spelling(f.word), Answers: f.answers, Times: len(next[f.word])}
		kid.grow(ix, next[f.word], after, Shape{shape.Depth, max(2, shape.Breadth*2/3), shape.Least}, away+1)
		b.Branches = append(b.Branches, kid)
	}
}
