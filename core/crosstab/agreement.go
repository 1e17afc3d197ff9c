package crosstab

import "math"

// Agreement is how far coding agrees with a sample that somebody coded by hand, for one category.
type Agreement struct {
	Both    int `json:"both" doc:"answers that both give it"`
	Only    int `json:"only" doc:"answers that only the coding gives it"`
	Missed  int `json:"missed" doc:"answers that only the hand gives it"`
	Neither int `json:"neither"`

	Precision     float64 `json:"precision" doc:"both of what the coding gives it, 0 to 1; 0 where it gives it to none"`
	PrecisionLow  float64 `json:"precisionLow" doc:"95 % interval (Wilson)"`
	PrecisionHigh float64 `json:"precisionHigh"`
	Recall        float64 `json:"recall" doc:"both of what the hand gives it, 0 to 1; 0 where it gives it to none"`
	RecallLow     float64 `json:"recallLow" doc:"95 % interval (Wilson)"`
	RecallHigh    float64 `json:"recallHigh"`
	F1            float64 `json:"f1" doc:"harmonic mean of the two, 0 to 1"`
	Kappa         float64 `json:"kappa" doc:"Cohen's kappa: 1 agrees wholly, 0 as by chance; 1 where neither tells any answers apart"`
	KappaLow      float64 `json:"kappaLow" doc:"95 % interval by its large-sample standard error"`
	KappaHigh     float64 `json:"kappaHigh"`
}

// Weighed is a part of a 2 × 2 table: how many answers, and what they weigh.
type Weighed struct {
	N     int
	W, W2 float64 // sums of the weights and of their squares
}

// Add counts a further answer.
func (c *Weighed) Add(weight float64) { c.N, c.W, c.W2 = c.N+1, c.W+weight, c.W2+weight*weight }

// Plus is two cells together.
func (c Weighed) Plus(d Weighed) Weighed { return Weighed{c.N + d.N, c.W + d.W, c.W2 + d.W2} }

// Unweighted is so many answers that weigh 1 each.
func Unweighted(n int) Weighed { return Weighed{n, float64(n), float64(n)} }

// base is the effective number of answers: (Σw)² / Σw².
func (c Weighed) base() float64 {
	if c.W2 == 0 {
		return 0
	}
	return c.W * c.W / c.W2
}

// NewAgreement works it out from a 2 × 2 table. Where answers have weights (a sample that was drawn more from some groups than
// from others), shares are weighted and intervals go by the effective number of answers; the counts stay plain.
func NewAgreement(both, only, missed, neither Weighed) Agreement {
	a := Agreement{Both: both.N, Only: only.N, Missed: missed.N, Neither: neither.N}
	share := func(part, of Weighed) (p, low, high float64) {
		if of.W == 0 {
			return 0, 0, 1
		}
		p = part.W / of.W
		low, high = Wilson(p, of.base())
		return p, low, high
	}
	a.Precision, a.PrecisionLow, a.PrecisionHigh = share(both, both.Plus(only))
	a.Recall, a.RecallLow, a.RecallHigh = share(both, both.Plus(missed))
	if w := 2*both.W + only.W + missed.W; w > 0 {
		a.F1 = 2 * both.W / w
	}
	a.kappa([2][2]Weighed{{both, only}, {missed, neither}})
	return a
}

// kappa is J. Cohen's (1960), with the standard error of J. L. Fleiss, J. Cohen and B. S. Everitt (1969).
func (a *Agreement) kappa(table [2][2]Weighed) {
	all := table[0][0].Plus(table[0][1]).Plus(table[1][0]).Plus(table[1][1])
	if all.W == 0 {
		return
	}
	var cell [2][2]float64
	for i := range 2 {
		for j := range 2 {
			cell[i][j] = table[i][j].W / all.W
		}
	}
	n := all.base()
	row := [2]float64{cell[0][0] + cell[0][1], cell[1][0] + cell[1][1]}
	column := [2]float64{cell[0][0] + cell[1][0], cell[0][1] + cell[1][1]}
	seen, chance := cell[0][0]+cell[1][1], row[0]*column[0]+row[1]*column[1]
	if chance > 1-1e-12 {
		a.Kappa, a.KappaLow, a.KappaHigh = 1, 1, 1
		return
	}
	a.Kappa = (seen - chance) / (1 - chance)
	sum := 0.0
	for i := range 2 {
		sum += cell[i][i] * math.Pow(1-(row[i]+column[i])*(1-a.Kappa), 2)
		off := row[1-i] + column[i] // of the cell beside the diagonal, crosswise
		sum += math.Pow(1-a.Kappa, 2) * cell[i][1-i] * math.Pow(off, 2)
	}
	variance := (sum - math.Pow(a.Kappa-chance*(1-a.Kappa), 2)) / (math.Pow(1-chance, 2) * n)
	half := z975 * math.Sqrt(max(variance, 0))
	a.KappaLow, a.KappaHigh = max(a.Kappa-half, -1), min(a.Kappa+half, 1)
}

// Missing stands for a coder who did not code a unit.
const Missing = -1

// Alpha is K. Krippendorff's reliability for nominal data: 1 agrees wholly, 0 as by chance. Each unit has a value per coder,
// from 0, or Missing; units that fewer than two coded say nothing. It is 1 where nothing tells units apart; ok is false where
// no unit was coded twice.
func Alpha(units [][]int) (alpha float64, ok bool) {
	together := map[[2]int]float64{} // the coincidence matrix
	of := map[int]float64{}
	n := 0.0
	for _, unit := range units {
		counts, coders := map[int]float64{}, 0.0
		for _, v := range unit {
			if v != Missing {
				counts[v]++
				coders++
			}
		}
		if coders < 2 {
			continue
		}
		for a, x := range counts {
			for b, y := range counts {
				pairs := x * y
				if a == b {
					pairs = x * (x - 1)
				}
				together[[2]int{a, b}] += pairs / (coders - 1)
			}
			of[a] += x
			n += x
		}
	}
	if n == 0 {
		return 0, false
	}
	seen, expected := 0.0, 0.0
	for a, x := range of {
		for b, y := range of {
			if a != b {
				seen += together[[2]int{a, b}]
				expected += x * y
			}
		}
	}
	if expected == 0 {
		return 1, true
	}
	return 1 - (n-1)*seen/expected, true
}
