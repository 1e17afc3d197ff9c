package termview

import (
	"cmp"
	"context"
	"slices"

	"aftermath/core/crosstab"
	"aftermath/core/terms"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// Network is which terms come together.
type Network struct {
	Base     int           `json:"base" doc:"answers of the focus"`
	Looked   int           `json:"looked" doc:"the most frequent terms, among which links were looked for"`
	Nodes    []NetworkNode `json:"nodes" doc:"those with a link, the most frequent first"`
	Links    []NetworkLink `json:"links" doc:"the strongest first"`
	More     int           `json:"more" doc:"links over the thresholds that are not drawn"`
	Clusters []Cluster     `json:"clusters" doc:"terms that come together, the largest first"`
}

// NetworkNode is a term of the network.
type NetworkNode struct {
	Label   string `json:"label"`
	Answers int    `json:"answers"`
	Cluster int    `json:"cluster" doc:"place of its cluster"`
}

// NetworkLink joins two nodes by their places.
type NetworkLink struct {
	From int `json:"from"`
	To   int `json:"to"`
	crosstab.CoOccurrence
}

// Cluster is terms that come together.
type Cluster struct {
	Terms   []string `json:"terms" doc:"the most frequent first"`
	Answers int      `json:"answers" doc:"of the focus with two of them or more"`
	Uncoded int      `json:"uncoded" doc:"of these, how many no category has"`
}

// NetworkQuery says which links are wanted.
type NetworkQuery struct {
	Class   string // of this word class only
	Terms   int    // how many of the most frequent terms are looked at
	Measure terms.Measure
	Least   float64
	Both    int
	Links   int
}

// NetworkOf finds which terms of a focus come together.
func NetworkOf(ctx context.Context, s *state.State, f focus.Focus, want NetworkQuery) (Network, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return Network{}, err
	}
	counted, err := Count(ctx, s, f, 1, false)
	if err != nil {
		return Network{}, err
	}
	rows := slices.DeleteFunc(slices.Clone(counted.Rows), func(r terms.Row) bool { return s.View.Terms[r.Terms[0]].Stop })
	rows = classed(s, rows, want.Class)
	slices.SortFunc(rows, func(a, b terms.Row) int { return cmp.Or(b.Answers-a.Answers, int(a.Terms[0])-int(b.Terms[0])) })
	rows = rows[:min(want.Terms, len(rows))]
	chosen := make([]int, len(rows))
	for i, r := range rows {
		chosen[i] = int(r.Terms[0])
	}
	out := Network{Base: counted.Base, Looked: len(rows), Nodes: []NetworkNode{}, Links: []NetworkLink{}, Clusters: []Cluster{}}
	links, more, err := s.Counter.Network(
		ctx, set, chosen, terms.NetworkQuery{Measure: want.Measure, Least: want.Least, Both: want.Both, Most: want.Links},
		state.Workers(),
	)
	if err != nil {
		return out, err
	}
	out.More = more
	clusters := terms.Clusters(links, want.Measure)
	of := map[int]int{}
	for c, members := range clusters {
		x := Cluster{}
		var found []int
		for _, m := range members {
			of[m] = c
			x.Terms = append(x.Terms, s.View.Terms[chosen[m]].Label)
			found = append(found, chosen[m])
		}
		two := s.Counter.AtLeastTwo(set, found)
		x.Answers, x.Uncoded = int(two.GetCardinality()), view.CountWithout(two, s.Coding.Coded)
		out.Clusters = append(out.Clusters, x)
	}
	place := map[int]int{}
	for i, r := range rows {
		if c, linked := of[i]; linked {
			place[i] = len(out.Nodes)
			out.Nodes = append(out.Nodes, NetworkNode{s.View.Terms[chosen[i]].Label, r.Answers, c})
		}
	}
	for _, l := range links {
		out.Links = append(out.Links, NetworkLink{place[l.A], place[l.B], l.CoOccurrence})
	}
	return out, nil
}
