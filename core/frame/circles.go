package frame

import (
	"slices"
	"strings"

	"gonum.org/v1/gonum/graph/simple"
	"gonum.org/v1/gonum/graph/topo"

	"aftermath/core/rule"
)

// breakCircles takes the rules out by which a category depends on itself, and names the circle.
func (c *Coding) breakCircles() {
	needs := map[string][]string{}
	for _, r := range c.Results {
		for _, res := range slices.Concat(r.Rules, r.Unless) {
			if res.program != nil {
				needs[r.ID] = append(needs[r.ID], res.program.Uses()...)
			}
		}
		for _, child := range r.Children {
			needs[r.ID] = append(needs[r.ID], child.ID)
		}
	}
	circle := c.circles(needs)
	for _, r := range c.Results {
		for _, rules := range [][]RuleResult{r.Rules, r.Unless} {
			for i := range rules {
				if rules[i].program == nil {
					continue
				}
				for _, use := range rules[i].program.Uses() {
					if circle[use] != circle[r.ID] {
						continue
					}
					way := c.way(use, r.ID, needs, map[string]bool{})
					names := append([]string{r.PathName()}, way...)
					rules[i].Problems = append([]rule.Problem{{End: len([]rune(rules[i].Source)),
						Message: "this goes round in a circle: " + strings.Join(names, " → ")}}, rules[i].Problems...)
					rules[i].program = nil
					c.circular = true
					break
				}
			}
		}
	}
}

// circles numbers the groups of categories that all depend on each other; most categories are a group of their own.
func (c *Coding) circles(needs map[string][]string) map[string]int {
	place, g := map[string]int64{}, simple.NewDirectedGraph()
	for i, r := range c.Results {
		place[r.ID] = int64(i)
		g.AddNode(simple.Node(i))
	}
	for from, all := range needs {
		for _, to := range all {
			if place[from] != place[to] {
				g.SetEdge(g.NewEdge(simple.Node(place[from]), simple.Node(place[to])))
			}
		}
	}
	out := map[string]int{}
	for i, group := range topo.TarjanSCC(g) {
		for _, n := range group {
			out[c.Results[n.ID()].ID] = i
		}
	}
	return out
}

// way names the categories on a way from one to another, nil if there is none.
func (c *Coding) way(from, to string, needs map[string][]string, seen map[string]bool) []string {
	name := c.byID[from].PathName()
	if from == to {
		return []string{name}
	}
	if seen[from] {
		return nil
	}
	seen[from] = true
	for _, next := range needs[from] {
		if rest := c.way(next, to, needs, seen); rest != nil {
			return append([]string{name}, rest...)
		}
	}
	return nil
}
