package rule

import (
	"slices"

	"github.com/RoaringBitmap/roaring/v2"
)

// hit is one place where a placed part stands in an answer.
type hit struct {
	start, end int32   // its span: first and last word
	words      []int32 // ascending
}

// maxHits bounds the work on one very long answer: further hits of one part there are not looked for.
const maxHits = 20_000

// answer is what a rule is compared with.
type answer struct {
	number    int
	words     []uint32
	sentences []uint8
}

// Matcher runs programs of one scope. Category gives the answers that a category has.
type Matcher struct {
	Scope    *Scope
	Category func(key string) *roaring.Bitmap
}

func (m *Matcher) answer(i int) answer {
	return answer{i, m.Scope.View.Index.Answer(i), m.Scope.View.Index.Sentences(i)}
}

// Answers is the set of answered answers that the rule matches.
func (m *Matcher) Answers(p *Program) *roaring.Bitmap {
	return m.within(p.root, m.Scope.View.Index.Answered())
}

// within gives the answers of a set that match. It never changes the set it is given.
func (m *Matcher) within(o *op, set *roaring.Bitmap) *roaring.Bitmap {
	ix := m.Scope.View.Index
	switch o.kind {
	case Word, List:
		out := o.phrases.Answers(ix)
		out.And(set)
		return out
	case Condition:
		return roaring.And(o.answers, set)
	case Category:
		return roaring.And(m.Category(o.category), set)
	case Any:
		return set.Clone()
	case Regex:
		return filter(set, func(a answer) bool { return m.matches(o, a) }, m)
	case Alternatives:
		out := roaring.New()
		for _, k := range o.kids {
			out.Or(m.within(k, set))
		}
		return out
	case With:
		a, b := o.kids[0], o.kids[1]
		if a.costly() {
			a, b = b, a
		}
		return m.within(b, m.within(a, set))
	case Without:
		out := m.within(o.kids[0], set)
		out.AndNot(m.within(o.kids[1], out))
		return out
	case Of:
		return m.countOf(o, set)
	case Row:
		candidates := set.Clone()
		for _, k := range o.kids {
			candidates.And(m.within(k, candidates))
		}
		for _, words := range o.sequence {
			candidates.And(ix.With(words))
		}
		return filter(candidates, func(a answer) bool { return len(m.hits(o, a)) > 0 }, m)
	case Near:
		first := m.within(o.kids[0], set)
		both := m.within(o.kids[1], first)
		found := filter(both, func(a answer) bool { return len(m.hits(o, a)) > 0 }, m)
		if o.reach.Without {
			first.AndNot(both)
			found.Or(first)
		}
		return found
	}
	return roaring.New()
}

// costly says whether a part reads the text of answers: it goes last, on as few as possible.
func (o *op) costly() bool { return o.kind == Regex || slices.ContainsFunc(o.kids, (*op).costly) }

func filter(set *roaring.Bitmap, keep func(answer) bool, m *Matcher) *roaring.Bitmap {
	out := roaring.New()
	for it := set.Iterator(); it.HasNext(); {
		if i := it.Next(); keep(m.answer(int(i))) {
			out.Add(i)
		}
	}
	return out
}

func (m *Matcher) countOf(o *op, set *roaring.Bitmap) *roaring.Bitmap {
	seen := map[uint32]int{}
	out := roaring.New()
	for _, k := range o.kids {
		for it := m.within(k, set).Iterator(); it.HasNext(); {
			i := it.Next()
			if seen[i]++; seen[i] == o.number {
				out.Add(i)
			}
		}
	}
	return out
}

// matches says whether one answer matches.
func (m *Matcher) matches(o *op, a answer) bool {
	if o.placed {
		return len(m.hits(o, a)) > 0
	}
	switch o.kind {
	case Condition:
		return o.answers.Contains(uint32(a.number))
	case Category:
		return m.Category(o.category).Contains(uint32(a.number))
	case Any:
		return true
	case Regex:
		return o.regex.MatchString(m.Scope.Text(a.number))
	case Alternatives:
		return slices.ContainsFunc(o.kids, func(k *op) bool { return m.matches(k, a) })
	case With:
		return m.matches(o.kids[0], a) && m.matches(o.kids[1], a)
	case Without:
		return m.matches(o.kids[0], a) && !m.matches(o.kids[1], a)
	case Of:
		n := 0
		for _, k := range o.kids {
			if m.matches(k, a) {
				n++
			}
		}
		return n >= o.number
	}
	return false
}

// hits lists where a placed part stands.
func (m *Matcher) hits(o *op, a answer) []hit {
	var out []hit
	switch {
	case o.kind == Word || o.kind == List:
		o.phrases.Each(a.words, a.sentences, func(start, length int) { out = append(out, stretch(start, length)) })
	case o.sequence != nil:
		for i := range a.words {
			if o.sequence.At(a.words, a.sentences, i) {
				out = append(out, stretch(i, len(o.sequence)))
			}
		}
	case o.kind == Row:
		out = m.hits(o.kids[0], a)
		for _, k := range o.kids[1:] {
			out = pairs(out, m.hits(k, a), func(x, y hit) bool {
				return y.start == x.end+1 && a.sentences[x.end] == a.sentences[y.start]
			})
		}
	case o.kind == Alternatives:
		for _, k := range o.kids {
			out = append(out, m.hits(k, a)...)
		}
	case o.kind == Near:
		x, y := m.hits(o.kids[0], a), m.hits(o.kids[1], a)
		if !o.reach.Without {
			return pairs(x, y, func(x, y hit) bool { return o.reach.near(x, y, a) })
		}
		for _, h := range x {
			if !slices.ContainsFunc(y, func(g hit) bool { return !sharesWord(h, g) && o.reach.near(h, g, a) || partOf(h, g) }) {
				out = append(out, h)
			}
		}
	}
	return out
}

func stretch(start, length int) hit {
	h := hit{start: int32(start), end: int32(start + length - 1)}
	for i := range length {
		h.words = append(h.words, int32(start+i))
	}
	return h
}

// pairs joins the hits of two sides that share no word and belong together.
func pairs(xs, ys []hit, together func(x, y hit) bool) []hit {
	var out []hit
	for _, x := range xs {
		for _, y := range ys {
			if len(out) == maxHits {
				return out
			}
			if !sharesWord(x, y) && together(x, y) {
				words := append(slices.Clone(x.words), y.words...)
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

// near says whether y stands within reach of x.
func (r Reach) near(x, y hit, a answer) bool {
	switch r.Direction {
	case '>':
		if y.start <= x.end {
			return false
		}
	case '<':
		if y.end >= x.start {
			return false
		}
	}
	if r.Sentences {
		apart := max(int(a.sentences[y.start])-int(a.sentences[x.end]), int(a.sentences[x.start])-int(a.sentences[y.end]), 0)
		return apart < r.Distance
	}
	return max(y.start-x.end, x.start-y.end, 0) <= int32(r.Distance)
}

// Places visits where a program stands in the answers of a set: the span of each hit, from its first word to its last.
// Of a rule that speaks of the whole answer it gives each stretch of words that decided.
func (m *Matcher) Places(p *Program, set *roaring.Bitmap, visit func(answer uint32, start, length int)) {
	for it := roaring.And(m.Answers(p), set).Iterator(); it.HasNext(); {
		i := it.Next()
		var spans [][2]int
		if p.root.placed {
			for _, h := range m.hits(p.root, m.answer(int(i))) {
				spans = append(spans, [2]int{int(h.start), int(h.end)})
			}
		} else if e, ok := m.Explain(p, int(i)); ok {
			for _, w := range e.Words {
				if n := len(spans); n > 0 && spans[n-1][1] == w-1 {
					spans[n-1][1] = w
				} else {
					spans = append(spans, [2]int{w, w})
				}
			}
		}
		slices.SortFunc(spans, func(a, b [2]int) int { return slices.Compare(a[:], b[:]) })
		for _, s := range slices.Compact(spans) {
			visit(i, s[0], s[1]-s[0]+1)
		}
	}
}

// Evidence is what decided that an answer matches: words by number, and stretches of its original text (from re"").
type Evidence struct {
	Words     []int
	Stretches [][2]int
}

// Explain says whether an answer matches, and by what. It does not ask whether the answer is answered.
func (m *Matcher) Explain(p *Program, i int) (Evidence, bool) {
	a := m.answer(i)
	if !m.matches(p.root, a) {
		return Evidence{}, false
	}
	words := map[int]bool{}
	var e Evidence
	m.evidence(p.root, a, words, &e)
	for w := range words {
		e.Words = append(e.Words, w)
	}
	slices.Sort(e.Words)
	return e, true
}

func (m *Matcher) evidence(o *op, a answer, words map[int]bool, e *Evidence) {
	switch {
	case o.placed:
		for _, h := range m.hits(o, a) {
			for _, w := range h.words {
				words[int(w)] = true
			}
		}
	case o.kind == Regex:
		for _, s := range o.regex.FindAllStringIndex(m.Scope.Text(a.number), -1) {
			e.Stretches = append(e.Stretches, [2]int{s[0], s[1]})
		}
	case o.kind == Without:
		m.evidence(o.kids[0], a, words, e)
	default:
		for _, k := range o.kids {
			if m.matches(k, a) {
				m.evidence(k, a, words, e)
			}
		}
	}
}
