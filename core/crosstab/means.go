package crosstab

import (
	"math"
	"slices"

	"github.com/RoaringBitmap/roaring/v2"
	"gonum.org/v1/gonum/stat/distuv"
)

// Sample is numbers summed up, each with a weight.
type Sample struct {
	Answers  int     `json:"answers" doc:"those with a number, unweighted"`
	Weighted float64 `json:"weighted" doc:"sum of weights"`
	N        float64 `json:"effective" doc:"effective base; without weights the number of answers"`
	Mean     float64 `json:"mean"`
	Variance float64 `json:"variance" doc:"of the sample, on the effective base less one; 0 where that is not over 1"`

	squares float64 // sum of squared weights
	spread  float64 // sum of weighted squared differences from the mean
}

// NewSample sums up the numbers of a set; NaN is missing, a nil weights counts each as 1.
func NewSample(set *roaring.Bitmap, numbers, weights []float64) Sample {
	if weights == nil {
		return plainSample(set, numbers)
	}
	s := Sample{}
	total := 0.0
	blocks(set, func(answers []uint32) {
		for _, i := range answers {
			if x, w := numbers[i], weights[i]; x == x && w > 0 {
				s.Answers++
				s.Weighted += w
				s.squares += w * w
				total += w * x
			}
		}
	})
	if s.Weighted > 0 {
		s.Mean = total / s.Weighted
	}
	blocks(set, func(answers []uint32) { // in a second pass, without loss of digits
		for _, i := range answers {
			if x, w := numbers[i], weights[i]; x == x && w > 0 {
				s.spread += w * (x - s.Mean) * (x - s.Mean)
			}
		}
	})
	return s.finished()
}

// plainSample is a sample without weights.
func plainSample(set *roaring.Bitmap, numbers []float64) Sample {
	n, total, spread := 0, 0.0, 0.0
	blocks(set, func(answers []uint32) {
		for _, i := range answers {
			if x := numbers[i]; x == x {
				n++
				total += x
			}
		}
	})
	mean := total / float64(max(n, 1))
	blocks(set, func(answers []uint32) {
		for _, i := range answers {
			if x := numbers[i] - mean; x == x {
				spread += x * x
			}
		}
	})
	return Sample{Answers: n, Weighted: float64(n), Mean: mean, squares: float64(n), spread: spread}.finished()
}

// NewCountSample is NewSample of whole numbers from 0 on, none of them missing, of which there are few: how many categories an
// answer has. It takes one pass.
func NewCountSample(set *roaring.Bitmap, counts, weights []float64) Sample {
	var by []Base // by number
	blocks(set, func(answers []uint32) {
		for _, i := range answers {
			n, w := int(counts[i]), 1.0
			if weights != nil {
				if w = weights[i]; w <= 0 {
					continue
				}
			}
			for n >= len(by) {
				by = append(by, Base{})
			}
			b := &by[n]
			b.Answers++
			b.Weighted += w
			b.squares += w * w
		}
	})
	var s Sample
	for n, b := range by {
		s.Answers += b.Answers
		s.Weighted += b.Weighted
		s.squares += b.squares
		s.Mean += float64(n) * b.Weighted
	}
	if s.Weighted > 0 {
		s.Mean /= s.Weighted
	}
	for n, b := range by {
		s.spread += b.Weighted * (float64(n) - s.Mean) * (float64(n) - s.Mean)
	}
	return s.finished()
}

func (s Sample) finished() Sample {
	s.N, s.Variance = 0, 0
	if s.squares > 0 {
		s.N = s.Weighted * s.Weighted / s.squares
	}
	if s.N > 1 {
		s.Variance = s.spread / s.Weighted * s.N / (s.N - 1)
	}
	return s
}

// Less is what is left of a sample when a part of it is taken away.
func (s Sample) Less(part Sample) Sample {
	out := Sample{Answers: s.Answers - part.Answers}
	if out.Answers <= 0 { // else what is left is the last digits of a difference
		return Sample{}
	}
	out.Weighted, out.squares = s.Weighted-part.Weighted, s.squares-part.squares
	out.Mean = (s.Mean*s.Weighted - part.Mean*part.Weighted) / out.Weighted
	apart := part.Mean - out.Mean
	out.spread = max(0, s.spread-part.spread-apart*apart*part.Weighted*out.Weighted/s.Weighted)
	return out.finished()
}

// Interval is the 95 % interval of the mean, by Student's t on the effective base less one. ok is false on a base of less than 2.
func (s Sample) Interval() (low, high float64, ok bool) {
	if s.N < 2 {
		return 0, 0, false
	}
	half := quantile(s.N-1) * math.Sqrt(s.Variance/s.N)
	return s.Mean - half, s.Mean + half, true
}

// quantile is the 97.5 % quantile of Student's t.
func quantile(df float64) float64 { return distuv.StudentsT{Sigma: 1, Nu: df}.Quantile(0.975) }

// twoSided is the two-sided p of a t.
func twoSided(t, df float64) float64 {
	if math.IsInf(t, 0) {
		return 0
	}
	return min(1, 2*distuv.StudentsT{Sigma: 1, Nu: df}.Survival(math.Abs(t)))
}

// MeanDifference is the mean of one sample less that of another.
type MeanDifference struct {
	Difference float64 `json:"difference"`
	Low        float64 `json:"low" doc:"lower end of its 95 % interval (Welch)"`
	High       float64 `json:"high"`
	T          float64 `json:"t"`
	DF         float64 `json:"df" doc:"degrees of freedom, after Welch and Satterthwaite"`
	P          float64 `json:"p" doc:"two-sided, 0 to 1"`
	D          float64 `json:"d" doc:"Cohen's d: the difference in pooled standard deviations"`
}

// CompareMeans holds two samples against each other (B. L. Welch, 1947; J. Cohen, 1988). ok is false where a base is under
// SmallBase or no number differs: then there is no test.
func CompareMeans(a, b Sample) (m MeanDifference, ok bool) {
	m = MeanDifference{Difference: a.Mean - b.Mean, P: 1}
	x, y := a.Variance/a.N, b.Variance/b.N
	if a.N < SmallBase || b.N < SmallBase || !(x+y > 0) {
		return m, false
	}
	error := math.Sqrt(x + y)
	m.T = m.Difference / error
	m.DF = (x + y) * (x + y) / (x*x/(a.N-1) + y*y/(b.N-1))
	m.P = twoSided(m.T, m.DF)
	half := quantile(m.DF) * error
	m.Low, m.High = m.Difference-half, m.Difference+half
	m.D = m.Difference / math.Sqrt(((a.N-1)*a.Variance+(b.N-1)*b.Variance)/(a.N+b.N-2))
	return m, true
}

// Correlation says how two rows of numbers go together.
type Correlation struct {
	Pearson  float64 `json:"pearson" doc:"-1 to 1; with a 0 and 1 the point-biserial correlation"`
	Low      float64 `json:"low" doc:"lower end of its 95 % interval (Fisher's z)"`
	High     float64 `json:"high"`
	P        float64 `json:"p" doc:"two-sided, of Student's t, 0 to 1"`
	Spearman float64 `json:"spearman" doc:"of the ranks, ties at their mean"`
}

// Correlate measures numbers that stand in pairs. ok is false where there are under 4 pairs or one side never differs.
func Correlate(x, y []float64) (c Correlation, ok bool) {
	n := float64(len(x))
	r, ok := pearson(x, y)
	if !ok || n < 4 {
		return Correlation{P: 1}, false
	}
	c = newCorrelation(r, n)
	c.Spearman, _ = pearson(Ranks(x), Ranks(y))
	return c, true
}

func newCorrelation(r, n float64) (c Correlation) {
	c.Pearson = r
	z, half := math.Atanh(r), z975/math.Sqrt(n-3)
	c.Low, c.High = math.Tanh(z-half), math.Tanh(z+half)
	c.P = twoSided(r*math.Sqrt((n-2)/(1-r*r)), n-2)
	return c
}

// CorrelateWith is what Correlate gives for numbers and for a 1 where an answer is in a part of all and a 0 where it is not; the
// samples are not weighted. Ranks are the samples of the numbers' ranks. ok is as of Correlate.
func CorrelateWith(part, all, partRanks, allRanks Sample) (c Correlation, ok bool) {
	n, k := float64(all.Answers), float64(part.Answers)
	if n < 4 || k == 0 || k == n || all.spread == 0 {
		return Correlation{P: 1}, false
	}
	r := func(part, all Sample) float64 {
		return max(-1, min(1, (part.Mean-all.Mean)*math.Sqrt(k/(n-k)*n/all.spread)))
	}
	c = newCorrelation(r(part, all), n)
	c.Spearman = r(partRanks, allRanks)
	return c, true
}

func pearson(x, y []float64) (r float64, ok bool) {
	n := float64(len(x))
	meanX, meanY := 0.0, 0.0
	for i := range x {
		meanX += x[i]
		meanY += y[i]
	}
	meanX, meanY = meanX/n, meanY/n
	xx, yy, xy := 0.0, 0.0, 0.0
	for i := range x {
		a, b := x[i]-meanX, y[i]-meanY
		xx, yy, xy = xx+a*a, yy+b*b, xy+a*b
	}
	if xx == 0 || yy == 0 {
		return 0, false
	}
	return max(-1, min(1, xy/math.Sqrt(xx*yy))), true
}

// Ranks are the places of numbers in their order, from 1; equal ones share the mean of theirs.
func Ranks(x []float64) []float64 {
	order := make([]int, len(x))
	for i := range order {
		order[i] = i
	}
	slices.SortFunc(order, func(a, b int) int {
		switch {
		case x[a] < x[b]:
			return -1
		case x[a] > x[b]:
			return 1
		}
		return 0
	})
	out := make([]float64, len(x))
	for from := 0; from < len(order); {
		to := from + 1
		for to < len(order) && x[order[to]] == x[order[from]] {
			to++
		}
		for _, i := range order[from:to] {
			out[i] = float64(from+to+1) / 2
		}
		from = to
	}
	return out
}

// Net is the net score of a scale from 0 to 10: the share of 9 and 10 less the share of 0 to 6.
type Net struct {
	High  float64 `json:"high" doc:"share of 9 and 10, 0 to 1"`
	Low   float64 `json:"low" doc:"share of 0 to 6"`
	Score float64 `json:"score" doc:"their difference, -1 to 1"`
	Error float64 `json:"error" doc:"standard error of the score, on the effective base"`
}

// Bands are the weights of the numbers of a set that lie in each band: under the first edge, from each edge to the next, and from
// the last on. Edges ascend; NaN is missing, a nil weights counts each as 1.
func Bands(set *roaring.Bitmap, numbers, weights, edges []float64) []float64 {
	out := make([]float64, len(edges)+1)
	blocks(set, func(answers []uint32) {
		for _, i := range answers {
			x, w := numbers[i], 1.0
			if x != x {
				continue
			}
			if weights != nil {
				w = weights[i]
			}
			band := 0
			for band < len(edges) && x >= edges[band] {
				band++
			}
			out[band] += w
		}
	})
	return out
}

// NetEdges are where the bands of a net score begin, of whole numbers from 0 to 10: 0 to 6, 7 and 8, 9 and 10.
func NetEdges() []float64 { return []float64{7, 9} }

// NewNet is the net score of a sample, by the weights of its NetEdges bands. Nobody has a net score of 0.
func NewNet(s Sample, bands []float64) Net {
	if s.Weighted == 0 {
		return Net{}
	}
	n := Net{High: bands[2] / s.Weighted, Low: bands[0] / s.Weighted}
	n.Score = n.High - n.Low
	n.Error = math.Sqrt((n.High + n.Low - n.Score*n.Score) / s.N)
	return n
}
