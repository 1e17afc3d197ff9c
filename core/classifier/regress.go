package classifier

import (
	"math"
	"math/rand/v2"
)

// entry is a feature of a row with its value.
type entry struct {
	feature int32
	value   float32
}

// examples are rows of features, one after the other: row i has of[starts[i]:starts[i+1]]. Every row has the length 1, or none.
type examples struct {
	of     []entry
	starts []int32
}

func (x *examples) len() int { return max(0, len(x.starts)-1) }

func (x *examples) row(i int32) []entry { return x.of[x.starts[i]:x.starts[i+1]] }

func (x *examples) add(row []entry) {
	if len(x.starts) == 0 {
		x.starts = append(x.starts, 0)
	}
	x.of = append(x.of, row...)
	x.starts = append(x.starts, int32(len(x.of)))
}

// regression says how likely a row is to have a label: by the chance 1/(1+e^-score).
type regression struct {
	weights []float32 // by feature
	bias    float64
}

func (r regression) score(row []entry) float64 {
	sum := r.bias
	for _, x := range row {
		sum += float64(r.weights[x.feature]) * float64(x.value)
	}
	return sum
}

// Of the objective ½(|w|² + b²) + strength · Σ ln(1 + e^(-y·score)), over rows with y = 1 for those with the label and -1 for
// others, and of the search for its lowest point.
const (
	strength  = 4
	passes    = 30   // over the rows, at most
	tolerance = 0.02 // no variable moved by more than this part of its room: found
)

// regress finds the regression that tells the given rows with a label from those without: by coordinate descent in the dual
// (H.-F. Yu, F.-L. Huang and C.-J. Lin, 2011). The objective has one lowest point, whatever the order of the rows.
func regress(x *examples, features int, rows []int32, has []bool, passes int, tolerance float64) regression {
	w := make([]float64, features+1) // the last is the bias
	dual := make([]float64, len(rows))
	for i, row := range rows {
		dual[i] = 1e-8
		move(w, x.row(row), sign(has[row])*dual[i])
	}
	order, random := everyRow(len(rows)), rand.New(rand.NewPCG(1, 2)) // shuffled the same way every time
	for range passes {
		random.Shuffle(len(order), func(i, j int) { order[i], order[j] = order[j], order[i] })
		most := 0.0
		for _, i := range order {
			row := x.row(rows[i])
			y := sign(has[rows[i]])
			score := w[features]
			for _, x := range row {
				score += w[x.feature] * float64(x.value)
			}
			next := lowest(dual[i], y*score, squared(row))
			d := next - dual[i]
			most = max(most, math.Abs(d))
			dual[i] = next
			move(w, row, y*d)
		}
		if most < tolerance*strength {
			break
		}
	}
	out := regression{make([]float32, features), w[features]}
	for f := range out.weights {
		out.weights[f] = float32(w[f])
	}
	return out
}

func sign(has bool) float64 {
	if has {
		return 1
	}
	return -1
}

// squared is the squared length of a row with its bias.
func squared(row []entry) float64 {
	if len(row) == 0 {
		return 1
	}
	return 2
}

func move(w []float64, row []entry, by float64) {
	for _, x := range row {
		w[x.feature] += by * float64(x.value)
	}
	w[len(w)-1] += by
}

// lowest is the best value of one variable of the dual, from 0 to strength, while the others stay: Newton steps on the smaller of
// the variable and what is left of its room, which keeps them off the bounds.
func lowest(from, score, squared float64) float64 {
	turned := from > strength/2
	if turned {
		from, score = strength-from, -score
	}
	z := from
	for range 20 {
		slope := squared*(z-from) + score + math.Log(z/(strength-z))
		if math.Abs(slope) < 1e-6 {
			break
		}
		switch next := z - slope/(squared+strength/(z*(strength-z))); {
		case next <= 0:
			z *= 0.1
		case next >= strength:
			z = (z + strength) / 2
		default:
			z = next
		}
	}
	if turned {
		return strength - z
	}
	return z
}
