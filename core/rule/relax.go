package rule

import "fmt"

// Relaxed is a rule that asks for one thing less than another.
type Relaxed struct {
	Rule       *Node
	Start, End int    // the runes of the rule that it lets go of
	Lacks      string // what answers lack that the relaxed rule finds and the rule does not, in words
}

// mostRelaxed bounds how many ways of letting go are listed.
const mostRelaxed = 12

// Relax lists the ways in which a rule can ask for one thing less: a reach becomes "anywhere in the answer", a row "in any
// order", one side of a joint is left out, what takes away no longer does, "3 of" becomes "2 of". Answers that only such
// a rule finds are near misses.
func (n *Node) Relax() []Relaxed { return n.relax(false, mostRelaxed) }

// relax works on a node and gives no more than so many ways; placed says that it stands in a row or beside a reach, where only placed
// parts may.
func (n *Node) relax(placed bool, most int) (out []Relaxed) {
	if most <= 0 {
		return nil
	}
	defer func() { out = out[:min(len(out), most)] }()
	add := func(to *Node, of *Node, lacks string) {
		out = append(out, Relaxed{to, of.Start, of.End, lacks})
	}
	// with puts relaxed forms of a kid in the kid's place.
	with := func(kid int, placed bool) {
		for _, r := range n.Kids[kid].relax(placed, max(0, most-len(out))) {
			whole := *n
			whole.Kids = append([]*Node{}, n.Kids...)
			whole.Kids[kid] = r.Rule
			out = append(out, Relaxed{&whole, r.Start, r.End, r.Lacks})
		}
	}
	switch n.Kind {
	case With:
		add(n.Kids[0], n.Kids[1], "no "+n.Kids[1].brief())
		add(n.Kids[1], n.Kids[0], "no "+n.Kids[0].brief())
		with(0, false)
		with(1, false)
	case Without:
		add(n.Kids[0], n.Kids[1], "taken away by "+n.Kids[1].brief())
		with(0, false)
	case Near:
		a, b := n.Kids[0], n.Kids[1]
		if n.Reach.Without {
			add(a, b, "taken away by "+b.brief()+" within reach")
			with(0, true)
			return out
		}
		if !placed {
			add(joint(With, a, b), n, a.brief()+" and "+b.brief()+", but not within "+n.Reach.String()[1:])
		}
		add(a, b, "no "+b.brief()+" at all")
		add(b, a, "no "+a.brief()+" at all")
		with(0, true)
		with(1, true)
		if !placed { // what is too far apart lacks less than what is not there
			for i := range out[1:3] {
				rest := joint(Without, out[1+i].Rule, n.Kids[1-i])
				out[1+i].Rule = rest
			}
		}
	case Row:
		if !placed {
			all := n.Kids[0]
			for _, k := range n.Kids[1:] {
				all = joint(With, all, k)
			}
			add(all, n, "all of "+n.brief()+", but not in a row")
		}
	case Of:
		if n.Number > 1 {
			less := *n
			less.Number--
			add(&less, n, fmt.Sprintf("only %d of them", less.Number))
		}
	case Alternatives:
		for i := range n.Kids {
			with(i, placed)
		}
	}
	return out
}

// brief is the rule as a message shows it: its beginning, if it is long.
func (n *Node) brief() string {
	const most = 120
	if r := []rune(n.String()); len(r) > most {
		return string(r[:most]) + " …"
	}
	return n.String()
}

// Lacking gives the part that a relaxed form of the rule leaves out, and how the rule reads with an alternative beside
// that part; nil where the relaxed form leaves no part out.
func (n *Node) Lacking(way Relaxed) (part *Node, beside func(alternative *Node) *Node) {
	for i, k := range n.Kids {
		wanted := n.Kind == With || n.Kind == Near && !n.Reach.Without || n.Kind == Without && i == 0
		if !wanted || way.Start < k.Start || way.End > k.End {
			continue
		}
		put := func(kid *Node) *Node {
			whole := *n
			whole.Kids = append([]*Node{}, n.Kids...)
			whole.Kids[i] = kid
			return &whole
		}
		if way.Start == k.Start && way.End == k.End && n.Kind != Without {
			return k, func(alternative *Node) *Node {
				kids := []*Node{k, alternative}
				if k.Kind == Alternatives {
					kids = append(append([]*Node{}, k.Kids...), alternative)
				}
				return put(&Node{Kind: Alternatives, Kids: kids})
			}
		}
		if inner, deeper := k.Lacking(way); inner != nil {
			return inner, func(alternative *Node) *Node { return put(deeper(alternative)) }
		}
	}
	return nil, nil
}
