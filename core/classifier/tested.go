package classifier

import (
	"cmp"
	"math"
	"slices"
)

// Tested is how well a model does on answers that it has not seen.
type Tested struct {
	AsLeft TestedRows `json:"asLeft" doc:"of answers without the terms that the rules look for: as those that are left"`
	AsIs   TestedRows `json:"asIs" doc:"of answers as they stand, with chances of their own"`
}

// TestedRows is how well categories are told, each by what was learned from other answers of other categories.
type TestedRows struct {
	Answers    int             `json:"answers"`
	MacroF1    float64         `json:"macroF1" doc:"mean F1 of the categories"`
	Off        float64         `json:"off" doc:"mean distance of a chance from the share that has the category, over ten bands of chances"`
	Bands      []Band          `json:"bands"`
	Categories []CategoryCheck `json:"categories"`
	Confusions []Confusion     `json:"confusions" doc:"the most frequent first; at most 40"`
}

// Band is the chances from a tenth to the next.
type Band struct {
	From   float64 `json:"from"`
	Number int     `json:"number" doc:"pairs of answer and category with such a chance"`
	Mean   float64 `json:"mean" doc:"of their chances"`
	Has    float64 `json:"has" doc:"share of them that has the category"`
}

// CategoryCheck is how a category is told with a chance of 0.5 or more.
type CategoryCheck struct {
	ID     string  `json:"id"`
	Both   int     `json:"both"`
	Only   int     `json:"only" doc:"told wrongly"`
	Missed int     `json:"missed"`
	F1     float64 `json:"f1"`
}

// Confusion is answers that were told to have one category and have another instead.
type Confusion struct {
	Told    string `json:"told"`
	Has     string `json:"has"`
	Answers int    `json:"answers"`
}

const (
	bands          = 10
	mostConfusions = 40
	likely         = 0.5
)

// tell tells the tested rows of one kind, and holds that against what they have.
func (les *lesson) tell(categories []Category, tested [][]scored, scales []scale, counted []bool) TestedRows {
	out := TestedRows{Bands: make([]Band, bands), Categories: []CategoryCheck{}, Confusions: []Confusion{}}
	for _, yes := range counted {
		if yes {
			out.Answers++
		}
	}
	confused := map[[2]int]int{}
	pairs := 0
	for i, c := range categories {
		f := CategoryCheck{ID: c.ID}
		for _, x := range tested[i] {
			if !counted[x.row] {
				continue
			}
			p := scales[i].chance(x.score)
			b := &out.Bands[min(int(p*bands), bands-1)]
			b.Number++
			b.Mean += p
			pairs++
			if x.has {
				b.Has++
			}
			switch {
			case x.has && p >= likely:
				f.Both++
			case x.has:
				f.Missed++
			case p >= likely:
				f.Only++
				for j, d := range categories {
					if d.Has.Contains(les.answer[x.row]) {
						confused[[2]int{i, j}]++
					}
				}
			}
		}
		if n := 2*f.Both + f.Only + f.Missed; n > 0 {
			f.F1 = 2 * float64(f.Both) / float64(n)
		}
		out.MacroF1 += f.F1 / float64(len(categories))
		out.Categories = append(out.Categories, f)
	}
	for i := range out.Bands {
		b := &out.Bands[i]
		b.From = float64(i) / bands
		if b.Number > 0 {
			out.Off += math.Abs(b.Mean-b.Has) / float64(pairs)
			b.Mean, b.Has = b.Mean/float64(b.Number), b.Has/float64(b.Number)
		}
	}
	for pair, n := range confused {
		out.Confusions = append(out.Confusions, Confusion{categories[pair[0]].ID, categories[pair[1]].ID, n})
	}
	slices.SortFunc(out.Confusions, func(a, b Confusion) int {
		return cmp.Or(b.Answers-a.Answers, cmp.Compare(a.Told, b.Told), cmp.Compare(a.Has, b.Has))
	})
	out.Confusions = out.Confusions[:min(len(out.Confusions), mostConfusions)]
	return out
}
