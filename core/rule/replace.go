package rule

import "slices"

// Replace puts a part in the place of another wherever that stands in a rule, in a row too: of "free wifi" it finds "wifi". The
// note behind the rule stays. It gives the rule as it was where the part is not in it, or where either can't be read.
func Replace(src, find, with string) (out string, times int) {
	tree, problems := Parse(src)
	what, more := Parse(find)
	to, yet := Parse(with)
	if len(problems)+len(more)+len(yet) > 0 {
		return src, 0
	}
	r := replacing{what: what.String(), to: to}
	if row, ok := what.(*RowNode); ok {
		for _, k := range row.Parts {
			r.row = append(r.row, k.String())
		}
	} else {
		r.row = []string{r.what}
	}
	done := r.in(tree)
	if r.times == 0 {
		return src, 0
	}
	_, note := Note(src)
	return WithNote(done.String(), note), r.times
}

type replacing struct {
	what  string   // in its usual form
	row   []string // its parts, if it is a row; else itself
	to    Node
	times int
}

// in is a node with what is in it replaced; parts that are made of others are looked at before these.
func (r *replacing) in(n Node) Node {
	if n.String() == r.what {
		r.times++
		return r.to
	}
	if row, ok := n.(*RowNode); ok {
		return r.inRow(row)
	}
	kids := n.Kids()
	if len(kids) == 0 {
		return n
	}
	done := make([]Node, len(kids))
	for i, k := range kids {
		done[i] = r.in(k)
	}
	if a, ok := n.(*AlternativesNode); ok {
		return alternativesOnce(a, done)
	}
	return n.with(done)
}

func (r *replacing) inRow(n *RowNode) Node {
	var parts []Node
	for i := 0; i < len(n.Parts); {
		here := n.Parts[i:min(i+len(r.row), len(n.Parts))]
		if slices.EqualFunc(here, r.row, func(k Node, s string) bool { return k.String() == s }) {
			r.times++
			if row, ok := r.to.(*RowNode); ok {
				parts = append(parts, row.Parts...)
			} else {
				parts = append(parts, r.to)
			}
			i += len(r.row)
			continue
		}
		parts = append(parts, r.in(n.Parts[i]))
		i++
	}
	if len(parts) == 1 {
		return parts[0]
	}
	return n.with(parts)
}

// alternativesOnce are alternatives made of others, those that are alternatives themselves taken apart, and none of them twice.
func alternativesOnce(n *AlternativesNode, of []Node) Node {
	var all []Node
	seen := map[string]bool{}
	for i, k := range of {
		these := []Node{k}
		if a, ok := k.(*AlternativesNode); ok && k != n.Of[i] {
			these = a.Of
		}
		for _, k := range these {
			if !seen[k.String()] {
				seen[k.String()] = true
				all = append(all, k)
			}
		}
	}
	if len(all) == 1 {
		return all[0]
	}
	return n.with(all)
}
