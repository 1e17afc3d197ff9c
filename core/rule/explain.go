package rule

import (
	"context"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"
)

// Places visits where a program stands in the answers of a set: the span of each hit, from its first word to its last.
// Of a rule that speaks of the whole answer it gives each stretch of words that decided.
// It gives up with an error when ctx ends, or with none when visit says that it has enough.
func (m *Matcher) Places(
	ctx context.Context, p *Program, set *roaring.Bitmap, visit func(answer uint32, start, length int) (more bool),
) error {
	found, err := m.Answers(ctx, p)
	if err != nil {
		return err
	}
	found.And(set)
	r := m.reader()
	for it, n := found.Iterator(), 0; it.HasNext(); n++ {
		if n%256 == 0 && ctx.Err() != nil {
			return ctx.Err()
		}
		i := it.Next()
		r.open(int(i))
		var spans [][2]int
		if p.root.placed {
			for _, h := range r.hits(p.root) {
				spans = append(spans, [2]int{int(h.start), int(h.end)})
			}
		} else if e, ok := r.explain(p.root); ok {
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
			if !visit(i, s[0], s[1]-s[0]+1) {
				return nil
			}
		}
	}
	return nil
}

// Evidence is what decided that an answer matches: words by number, and stretches of its original text (from re"").
type Evidence struct {
	Words     []int
	Stretches [][2]int
}

// Explain says whether an answer matches, and by what. It does not ask whether the answer is answered.
func (m *Matcher) Explain(p *Program, i int) (Evidence, bool) {
	r := m.reader()
	r.open(i)
	return r.explain(p.root)
}

func (r *reader) explain(o *op) (Evidence, bool) {
	if !r.matches(o) {
		return Evidence{}, false
	}
	words := map[int]bool{}
	var e Evidence
	r.evidence(o, words, &e)
	for w := range words {
		e.Words = append(e.Words, w)
	}
	slices.Sort(e.Words)
	return e, true
}

func (r *reader) evidence(o *op, words map[int]bool, e *Evidence) {
	switch {
	case o.placed:
		for _, h := range r.hits(o) {
			for _, w := range h.words {
				words[int(w)] = true
			}
		}
	case o.kind == Regex:
		for _, s := range o.regex.FindAllStringIndex(r.m.Scope.Text(r.answer), -1) {
			e.Stretches = append(e.Stretches, [2]int{s[0], s[1]})
		}
	case o.kind == Without:
		r.evidence(o.kids[0], words, e)
	default:
		for _, k := range o.kids {
			if r.matches(k) {
				r.evidence(k, words, e)
			}
		}
	}
}

// Step is one part or joint of a rule, held against one answer.
type Step struct {
	Start, End int  // its runes in the rule; both 0 for an entry of a term list
	Depth      int  // how deep it stands in the rule, from 0
	Kind       Kind // what it is
	Reach      Reach
	Entry      string // of a term list, in "2 of @list"
	Found      bool   // the answer holds it
	Spoils     bool   // it must not be there, and is
	Evidence
}

// Trace holds every part and joint of a rule against one answer: each stands before the parts that it is made of.
func (m *Matcher) Trace(p *Program, i int) []Step {
	r := m.reader()
	r.open(i)
	var out []Step
	r.trace(p.root, 0, false, &out)
	return out
}

func (r *reader) trace(o *op, depth int, unwanted bool, out *[]Step) {
	e, found := r.explain(o)
	*out = append(*out, Step{Start: o.start, End: o.end, Depth: depth, Kind: o.kind, Reach: o.reach, Entry: o.entry,
		Found: found, Spoils: unwanted && found, Evidence: e})
	for i, k := range o.kids {
		if k.end > 0 || k.entry != "" { // the words of a row are one part
			r.trace(k, depth+1, i > 0 && (o.kind == Without || o.kind == Near && o.reach.Without), out)
		}
	}
}
