package rule

import (
	"fmt"
	"slices"

	"github.com/bits-and-blooms/bitset"

	"aftermath/core/lexicon"
)

// hit is one place where a placed part stands in an answer.
type hit struct {
	start, end int32   // its span: first and last word
	words      []int32 // ascending
}

// maxHits bounds the work on one very long answer: further hits of one part there are not looked for.
const maxHits = 20_000

// reader compares rules with one answer after the other. It keeps its room, so that most answers cost no memory.
type reader struct {
	m         *Matcher
	answer    int
	words     []uint32
	sentences []uint8
	room      []int32       // the words of hits, one after the other
	hitsOf    map[*op][]hit // room for the hits of each part
	x, y      []stretch     // room for the stretches of two sides
}

// stretch is words in a row: the first and the last.
type stretch struct{ start, end int32 }

func (m *Matcher) reader() *reader { return &reader{m: m, hitsOf: map[*op][]hit{}} }

// open turns to an answer. Hits of the one before are no longer there.
func (r *reader) open(answer int) {
	ix := r.m.index()
	r.answer, r.words, r.sentences, r.room = answer, ix.Answer(answer), ix.Sentences(answer), r.room[:0]
}

// matches says whether the answer matches.
func (r *reader) matches(o *op) bool {
	if o.placed {
		if o.kind == Near && o.kids[0].stretched && o.kids[1].stretched {
			return r.near(o)
		}
		return len(r.hits(o)) > 0
	}
	switch o.kind {
	case Condition:
		return o.answers.Contains(uint32(r.answer))
	case Category:
		return r.m.Category(o.category).Contains(uint32(r.answer))
	case Any:
		return true
	case Regex:
		return o.regex.MatchString(r.m.Scope.Text(r.answer))
	case Alternatives:
		return slices.ContainsFunc(o.kids, r.matches)
	case With:
		return r.matches(o.kids[0]) && r.matches(o.kids[1])
	case Without:
		return r.matches(o.kids[0]) && !r.matches(o.kids[1])
	case Of:
		n := 0
		for _, k := range o.kids {
			if r.matches(k) {
				n++
			}
		}
		return n >= o.number
	}
	panic(fmt.Sprintf("rule: a part of kind %d is not compared", o.kind))
}

// near is matches for a joint with a reach between parts whose hits are stretches of words, which most are: no hit is made.
func (r *reader) near(o *op) bool {
	r.x, r.y = r.stretches(o.kids[0], r.x[:0]), r.stretches(o.kids[1], r.y[:0])
	for _, x := range r.x {
		if slices.ContainsFunc(r.y, func(y stretch) bool {
			if x.start <= y.end && y.start <= x.end { // they share words: no pair, but one may be part of the other
				return o.reach.Without && y.start <= x.start && x.end <= y.end && y.end-y.start > x.end-x.start
			}
			return r.within(o.reach, hit{start: x.start, end: x.end}, hit{start: y.start, end: y.end})
		}) != o.reach.Without {
			return true
		}
	}
	return false
}

// stretches adds the hits of a part that are stretches of words.
func (r *reader) stretches(o *op, out []stretch) []stretch {
	add := func(start, length int) { out = append(out, stretch{int32(start), int32(start + length - 1)}) }
	switch {
	case o.single != nil:
		for i, w := range r.words {
			if o.has(w) {
				add(i, 1)
			}
		}
	case o.kind == Word || o.kind == List:
		o.phrases.Each(r.words, r.sentences, add)
	case o.sequence != nil:
		for i := range r.words {
			if o.sequence.At(r.words, r.sentences, i) {
				add(i, len(o.sequence))
			}
		}
	default:
		for _, k := range o.kids {
			out = r.stretches(k, out)
		}
	}
	return out
}

// hits lists where a placed part stands. The list is good until the next answer is opened.
func (r *reader) hits(o *op) []hit {
	out := r.hitsOf[o][:0]
	switch {
	case o.single != nil, o.kind == Word, o.kind == List, o.sequence != nil:
		r.x = r.stretches(o, r.x[:0])
		for _, s := range r.x {
			out = append(out, r.hit(s))
		}
	case o.kind == Row:
		row := r.hits(o.kids[0])
		for _, k := range o.kids[1:] {
			row = r.pairs(nil, row, r.hits(k), func(x, y hit) bool {
				return y.start == x.end+1 && r.sentences[x.end] == r.sentences[y.start]
			})
		}
		return row
	case o.kind == Alternatives:
		for _, k := range o.kids {
			out = append(out, r.hits(k)...)
		}
	case o.kind == Near:
		x, y := r.hits(o.kids[0]), r.hits(o.kids[1])
		if !o.reach.Without {
			out = r.pairs(out, x, y, func(x, y hit) bool { return r.within(o.reach, x, y) })
			break
		}
		for _, h := range x {
			if !slices.ContainsFunc(y, func(g hit) bool { return !sharesWord(h, g) && r.within(o.reach, h, g) || partOf(h, g) }) {
				out = append(out, h)
			}
		}
	}
	r.hitsOf[o] = out
	return out
}

// hit makes a hit of words in a row.
func (r *reader) hit(s stretch) hit {
	from := len(r.room)
	for w := s.start; w <= s.end; w++ {
		r.room = append(r.room, w)
	}
	return hit{s.start, s.end, r.room[from:len(r.room):len(r.room)]}
}

// pairs adds the joined hits of two sides that share no word and belong together.
func (r *reader) pairs(out, xs, ys []hit, together func(x, y hit) bool) []hit {
	for _, x := range xs {
		for _, y := range ys {
			if len(out) == maxHits {
				return out
			}
			if !sharesWord(x, y) && together(x, y) {
				from := len(r.room)
				r.room = append(append(r.room, x.words...), y.words...)
				words := r.room[from:len(r.room):len(r.room)]
				slices.Sort(words)
				out = append(out, hit{min(x.start, y.start), max(x.end, y.end), words})
			}
		}
	}
	return out
}

func sharesWord(x, y hit) bool {
	if x.end < y.start || y.end < x.start {
		return false
	}
	return slices.ContainsFunc(x.words, func(w int32) bool { return slices.Contains(y.words, w) })
}

// partOf says whether all words of x, and not as the whole, are words of y.
func partOf(x, y hit) bool {
	return len(x.words) < len(y.words) && !slices.ContainsFunc(x.words, func(w int32) bool { return !slices.Contains(y.words, w) })
}

// within says whether y stands within reach of x.
func (r *reader) within(reach Reach, x, y hit) bool {
	switch reach.Direction {
	case '>':
		if y.start <= x.end {
			return false
		}
	case '<':
		if y.end >= x.start {
			return false
		}
	}
	if reach.Sentences {
		s := r.sentences
		apart := max(int(s[y.start])-int(s[x.end]), int(s[x.start])-int(s[y.end]), 0)
		return apart < reach.Distance
	}
	return max(y.start-x.end, x.start-y.end, 0) <= int32(reach.Distance)
}

// onlyStretches says whether all hits of a part are words in a row.
func (o *op) onlyStretches() bool {
	return o.single != nil || o.kind == Word || o.kind == List || o.sequence != nil ||
		o.kind == Alternatives && !slices.ContainsFunc(o.kids, func(k *op) bool { return !k.stretched })
}

// few is how many words a set may have to be searched word by word; a larger one gets a table.
const few = 8

// singleWords readies a placed part all of whose hits are one word long.
func (o *op) singleWords(vocabulary int) {
	var words []uint32
	switch {
	case (o.kind == Word || o.kind == List) && o.phrases.Single():
		words = append(words, o.phrases.Words()...)
	case o.kind == Alternatives && o.placed && !slices.ContainsFunc(o.kids, func(k *op) bool { return k.single == nil }):
		for _, k := range o.kids {
			words = append(words, k.single...)
		}
	default:
		return
	}
	slices.Sort(words)
	o.single = append(lexicon.WordSet{}, slices.Compact(words)...)
	if len(o.single) > few {
		o.table = bitset.New(uint(vocabulary))
		for _, w := range o.single {
			o.table.Set(uint(w))
		}
	}
}

// has says whether a part of single words finds the word.
func (o *op) has(word uint32) bool {
	if o.table != nil {
		return o.table.Test(uint(word))
	}
	return slices.Contains(o.single, word)
}
