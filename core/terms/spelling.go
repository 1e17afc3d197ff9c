package terms

import (
	"slices"
	"strings"
)

// neighbourhood finds words that are a few changes apart: two words within n changes have a form in common when up to n
// letters are left out of each.
type neighbourhood struct {
	words map[string][]uint32 // by what is left
}

// newNeighbourhood takes words with how many changes are allowed in each.
func newNeighbourhood(all func(yield func(word uint32, surface string, changes int))) neighbourhood {
	n := neighbourhood{map[string][]uint32{}}
	all(func(w uint32, surface string, changes int) {
		for _, form := range shortened(surface, changes) {
			n.words[form] = append(n.words[form], w)
		}
	})
	return n
}

// of lists words that may be within so many changes; some are further off.
func (n neighbourhood) of(surface string, changes int) []uint32 {
	var out []uint32
	for _, form := range shortened(surface, changes) {
		out = append(out, n.words[form]...)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// shortened are the forms of a word with up to n letters left out, itself among them.
func shortened(word string, n int) []string {
	forms := []string{word}
	last := forms
	for range n {
		var next []string
		for _, w := range last {
			for i, c := range w {
				next = append(next, w[:i]+w[i+len(string(c)):])
			}
		}
		forms = append(forms, next...)
		last = next
	}
	slices.Sort(forms)
	return slices.Compact(forms)
}

// rows of a keyboard, each shifted by half a key against the one above it.
var rows = []string{"qwertyuiop", "asdfghjkl", "zxcvbnm"}

// beside says whether two keys touch.
func beside(a, b rune) bool {
	find := func(c rune) (row, column int) {
		for r, keys := range rows {
			if i := strings.IndexRune(keys, c); i >= 0 {
				return r, i
			}
		}
		return -9, -9
	}
	ra, ca := find(a)
	rb, cb := find(b)
	if ra > rb {
		ra, ca, rb, cb = rb, cb, ra, ca
	}
	switch {
	case ra < 0:
		return false
	case ra == rb:
		return ca-cb == 1 || cb-ca == 1
	}
	return rb-ra == 1 && (cb == ca || cb == ca-1)
}

// What a change costs. One that hands in a hurry make counts 1; the first letter is seldom wrong.
const (
	doubled  = 0.7 // people stretch words
	likely   = 1.0
	unlikely = 1.6
	atFirst  = 0.8 // on top
	notOne   = 3.6 // above this, it is another word

	heardWrong = 6 // from this many letters on, a vowel for another is likely: short words differ by their vowels
)

// compare says what was done to the letters of a frequent word to make the rare one, and what that costs: 0 if it can't be
// had for little. Changes are a letter left out, put in or struck for another, and two letters swapped (the restricted
// distance of F. J. Damerau, 1964).
func compare(rare, frequent string) (edits []string, cost float64) {
	x, y := []rune(frequent), []rune(rare)
	type step struct {
		cost float64
		from [2]int
		did  string
	}
	grid := make([][]step, len(x)+1)
	for i := range grid {
		grid[i] = make([]step, len(y)+1)
	}
	for i := range len(x) + 1 {
		for j := range len(y) + 1 {
			if i == 0 && j == 0 {
				continue
			}
			best := step{cost: 1e9}
			take := func(c float64, fi, fj int, did string) {
				if did != "" && (fi == 0 && fj == 0) {
					c += atFirst
				}
				if total := grid[fi][fj].cost + c; total < best.cost {
					best = step{total, [2]int{fi, fj}, did}
				}
			}
			if i > 0 && j > 0 {
				switch {
				case x[i-1] == y[j-1]:
					take(0, i-1, j-1, "")
				case beside(x[i-1], y[j-1]):
					take(likely, i-1, j-1, string(y[j-1])+" for "+string(x[i-1]))
				case vowel(x[i-1]) && vowel(y[j-1]) && len(x) >= heardWrong:
					take(likely, i-1, j-1, string(y[j-1])+" for "+string(x[i-1]))
				default:
					take(unlikely, i-1, j-1, string(y[j-1])+" for "+string(x[i-1]))
				}
			}
			if i > 0 {
				take(likely, i-1, j, string(x[i-1])+" left out")
			}
			if j > 0 {
				c := unlikely
				if j > 1 && y[j-1] == y[j-2] || j < len(y) && y[j-1] == y[j] {
					c = doubled
				}
				take(c, i, j-1, string(y[j-1])+" put in")
			}
			if i > 1 && j > 1 && x[i-1] == y[j-2] && x[i-2] == y[j-1] && x[i-1] != x[i-2] {
				take(likely, i-2, j-2, string(y[j-2])+string(y[j-1])+" for "+string(x[i-2])+string(x[i-1]))
			}
			grid[i][j] = best
		}
	}
	for i, j := len(x), len(y); i > 0 || j > 0; {
		s := grid[i][j]
		if s.did != "" {
			edits = append(edits, s.did)
		}
		i, j = s.from[0], s.from[1]
	}
	slices.Reverse(edits)
	if cost = grid[len(x)][len(y)].cost; cost > notOne || len(edits) > changes(frequent) {
		return nil, 0
	}
	return edits, cost
}

func vowel(c rune) bool { return slices.Contains([]rune("aeiouy"), c) }
