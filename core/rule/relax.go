package rule

import "fmt"

// Relaxed is a rule that asks for one thing less than another.
type Relaxed struct {
	Rule       Node
	Start, End int    // the runes of the rule that it lets go of
	Lacks      string // what answers lack that the relaxed rule finds and the rule does not, in words
	Way        Way
}

// Way is how a rule asks for less: the first are nearer to the rule than the later ones.
type Way int

// The ways: a wider reach, the parts anywhere in the answer, something that must not be there and is, a part that is not there.
const (
	Wider Way = iota
	Anywhere
	Spoilt
	Missing
)

// mostRelaxed bounds how many ways of letting go are listed.
const mostRelaxed = 12

// Relax lists the ways in which a rule can ask for one thing less: a reach becomes "anywhere in the answer", a row "in any
// order", one side of a joint is left out, what takes away no longer does, "3 of" becomes "2 of". Answers that only such
// a rule finds are near misses.
func Relax(n Node) []Relaxed { return n.relax(false, mostRelaxed) }

// ways collects relaxed forms of a node, up to a number of them; further ones are not worked out.
type ways struct {
	most int
	all  []Relaxed
}

func (w *ways) add(way Way, to, of Node, lacks string) {
	if len(w.all) < w.most {
		start, end := of.Span()
		w.all = append(w.all, Relaxed{to, start, end, lacks, way})
	}
}

// inside adds the relaxed forms of a kid, each in the kid's place. Placed says that it stands in a row or beside a reach, where
// only placed parts may.
func (w *ways) inside(n Node, i int, placed bool) {
	if left := w.most - len(w.all); left > 0 {
		for _, r := range n.Kids()[i].relax(placed, left) {
			w.all = append(w.all, Relaxed{withKid(n, i, r.Rule), r.Start, r.End, r.Lacks, r.Way})
		}
	}
}

func (n *WithNode) relax(_ bool, most int) []Relaxed {
	w := ways{most: most}
	w.add(Missing, n.A, n.B, "no "+brief(n.B))
	w.add(Missing, n.B, n.A, "no "+brief(n.A))
	w.inside(n, 0, false)
	w.inside(n, 1, false)
	return w.all
}

func (n *WithoutNode) relax(_ bool, most int) []Relaxed {
	w := ways{most: most}
	w.add(Spoilt, n.A, n.B, "taken away by "+brief(n.B))
	w.inside(n, 0, false)
	return w.all
}

func (n *NearNode) relax(placed bool, most int) []Relaxed {
	w := ways{most: most}
	if n.Reach.Without {
		w.add(Spoilt, n.A, n.B, "taken away by "+brief(n.B)+" within reach")
		w.inside(n, 0, true)
		return w.all
	}
	if wider, ok := n.Reach.wider(); ok {
		w.add(Wider, &NearNode{n.span, wider, n.A, n.B}, n,
			brief(n.A)+" and "+brief(n.B)+" within "+wider.String()[1:]+", but not within "+n.Reach.String()[1:])
	}
	withoutB, withoutA := n.A, n.B
	if !placed { // what is too far apart lacks less than what is not there
		w.add(Anywhere, Both(n.A, n.B), n, brief(n.A)+" and "+brief(n.B)+", but not within "+n.Reach.String()[1:])
		withoutB, withoutA = Except(n.A, n.B), Except(n.B, n.A)
	}
	w.add(Missing, withoutB, n.B, "no "+brief(n.B)+" at all")
	w.add(Missing, withoutA, n.A, "no "+brief(n.A)+" at all")
	w.inside(n, 0, true)
	w.inside(n, 1, true)
	return w.all
}

// wider is a reach twice as far, in either order: of one sentence, the next one too.
func (r Reach) wider() (Reach, bool) {
	limit := MaxWords
	if r.Sentences {
		limit = MaxSentences
	}
	to := r
	to.Distance, to.Direction = min(2*r.Distance, limit), 0
	return to, to != r
}

func (n *RowNode) relax(placed bool, most int) []Relaxed {
	if placed {
		return nil
	}
	w := ways{most: most}
	all := n.Parts[0]
	for _, k := range n.Parts[1:] {
		all = Both(all, k)
	}
	w.add(Anywhere, all, n, "all of "+brief(n)+", but not in a row")
	return w.all
}

func (n *OfNode) relax(_ bool, most int) []Relaxed {
	w := ways{most: most}
	if less := n.Number - 1; less > 0 {
		w.add(Missing, &OfNode{n.span, less, n.Among}, n, fmt.Sprintf("only %d of them", less))
	}
	return w.all
}

func (n *AlternativesNode) relax(placed bool, most int) []Relaxed {
	w := ways{most: most}
	for i := range n.Of {
		w.inside(n, i, placed)
	}
	return w.all
}

// brief is a node as a message shows it: its beginning, if it is long.
func brief(n Node) string {
	const most = 120
	if r := []rune(n.String()); len(r) > most {
		return string(r[:most]) + " …"
	}
	return n.String()
}

// wanted says of which kids of a node a relaxed form may let go.
func wanted(n Node) (kids []Node) {
	switch n := n.(type) {
	case *WithNode:
		return n.Kids()
	case *NearNode:
		if !n.Reach.Without {
			return n.Kids()
		}
	case *WithoutNode:
		return n.Kids()[:1]
	}
	return nil
}

// Lacking gives the part that a relaxed form of the rule leaves out, and how the rule reads with an alternative beside
// that part; nil where the relaxed form leaves no part out.
func Lacking(n Node, way Relaxed) (part Node, beside func(alternative Node) Node) {
	for i, k := range wanted(n) {
		start, end := k.Span()
		if way.Start < start || way.End > end {
			continue
		}
		if way.Start == start && way.End == end && n.Kind() != Without {
			return k, func(alternative Node) Node { return withKid(n, i, AnyOf(k, alternative)) }
		}
		if inner, deeper := Lacking(k, way); inner != nil {
			return inner, func(alternative Node) Node { return withKid(n, i, deeper(alternative)) }
		}
	}
	return nil, nil
}
