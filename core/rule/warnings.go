package rule

import (
	"fmt"
	"math/bits"
	"slices"
	"strings"
)

// mostNearest is for how many words that occur nowhere the nearest is looked for: each costs a walk through all words.
const mostNearest = 20

// warnUnseen warns of a word that occurs nowhere, with the nearest that does.
func (c *compiler) warnUnseen(n Node, w string) {
	v := c.scope.View
	if _, ok := v.Index.Word(w); ok {
		return
	}
	if n.Kind() == Word {
		if _, ok := v.Find(w); ok {
			return
		}
	}
	p := c.problem(n, "%q occurs in no answer", w)
	p.Warning = true
	if c.unseen++; c.unseen > mostNearest {
		c.problems = append(c.problems, p)
		return
	}
	best, most := 3, 0
	var nearest string
	own := letterSet(w)
	for i := range uint32(v.Index.Vocabulary()) {
		s := v.Index.Surface(i)
		// Two changes take away at most two letters and bring at most two.
		if abs(len(s)-len(w)) > 2 || len(w) < 4 || bits.OnesCount32(letterSet(s)^own) > 4 {
			continue
		}
		if d := distance(s, w); d < best || d == best && v.Index.Count(i) > most {
			best, most, nearest = d, v.Index.Count(i), s
		}
	}
	if nearest != "" {
		p.Message += fmt.Sprintf("; %q does, %d times", nearest, most)
		if typed, ok := n.(*WordNode); ok && typed.Text == w {
			p.Mend = &Mend{p.Start, p.End, nearest}
		}
	}
	c.problems = append(c.problems, p)
}

// warnCovered warns of an alternative all of whose words another one finds as well.
func (c *compiler) warnCovered(n *AlternativesNode, o *op) {
	with := map[uint32][]int{} // alternatives of single words, by word
	for i, k := range o.kids {
		for _, w := range k.single {
			with[w] = append(with[w], i)
		}
	}
	for i, k := range o.kids {
		if len(k.single) == 0 {
			continue
		}
		for _, j := range with[k.single[0]] { // what covers it holds its first word
			other := o.kids[j]
			if i == j || len(k.single) == len(other.single) && j > i ||
				slices.ContainsFunc(k.single, func(w uint32) bool { return !other.has(w) }) {
				continue
			}
			p := c.problem(n.Of[i], "adds nothing: %s finds it already", n.Of[j])
			p.Warning = true
			if len(o.kids) <= mendable { // the mend writes the others anew
				rest := AnyOf(slices.Delete(slices.Clone(n.Of), i, i+1)...)
				p.Mend = &Mend{n.start, n.end, printed(rest, levelAlternatives)}
			}
			c.problems = append(c.problems, p)
			break
		}
	}
}

// mendable is how many alternatives a rule may have for a mend to be written that leaves one out.
const mendable = 100

// warnClash warns of a word that two merges ask for.
func (c *compiler) warnClash(n Node, words []string) {
	for _, clash := range c.scope.View.Clashes {
		for _, w := range words {
			if strings.EqualFold(clash.Variant, w) {
				p := c.problem(n, "%q counts as %q, though the merge %q asks for it too", w, clash.Has, clash.Wanted)
				p.Warning = true
				c.problems = append(c.problems, p)
			}
		}
	}
}

// letterSet has a bit for each letter that occurs in a word.
func letterSet(word string) (set uint32) {
	for _, c := range word {
		set |= 1 << (c & 31)
	}
	return set
}

// nearest is the known name least far from the given one, empty if none is near.
func nearest(name string, known []string) string {
	best, found := max(3, len(name)/2), ""
	for _, k := range known {
		if d := distance(k, name); d < best {
			best, found = d, k
		}
	}
	return found
}

// distance is the number of letters to put in, take out or change, or neighbours to swap, to make one word of the other (the
// restricted distance of F. J. Damerau, 1964).
func distance(a, b string) int {
	x, y := []rune(strings.ToLower(a)), []rune(strings.ToLower(b))
	before, last, row := make([]int, len(y)+1), make([]int, len(y)+1), make([]int, len(y)+1)
	for j := range row {
		row[j] = j
	}
	for i := range x {
		before, last, row = last, row, before
		row[0] = i + 1
		for j := range y {
			row[j+1] = min(last[j]+boolInt(x[i] != y[j]), last[j+1]+1, row[j]+1)
			if i > 0 && j > 0 && x[i] == y[j-1] && x[i-1] == y[j] {
				row[j+1] = min(row[j+1], before[j-1]+1)
			}
		}
	}
	return row[len(y)]
}
