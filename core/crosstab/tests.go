package crosstab

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/stat/distuv"
)

// LeastExpected is the expected count under which a test of counts does not hold.
const LeastExpected = 5

// Portion is a share (0 to 1) of a base that is not negative: the effective one, where answers are weighted.
type Portion struct{ Share, Base float64 }

// portionOf is k of n.
func portionOf(k, n int) Portion { return Portion{float64(k) / float64(n), float64(n)} }

// Standing compares a share in one part of a sample with the share in another.
type Standing struct {
	Z float64 `json:"z" doc:"pooled z; over 0 where the first share is the higher"`
	P float64 `json:"p" doc:"two-sided, 0 to 1"`
}

// CompareShares tests k1 of n1 against k2 of n2; see Compare.
func CompareShares(k1, n1, k2, n2 int) (s Standing, ok bool) {
	return Compare(portionOf(k1, n1), portionOf(k2, n2))
}

// Compare tests the shares of two parts of a sample that have no answer in common (two-sided pooled z). ok is false where
// a base is under SmallBase or an expected count under LeastExpected: then there is no test.
func Compare(a, b Portion) (s Standing, ok bool) {
	pooled := (a.Share*a.Base + b.Share*b.Base) / (a.Base + b.Base)
	least := min(a.Base, b.Base)
	if least < SmallBase || !(least*min(pooled, 1-pooled) >= LeastExpected) {
		return Standing{P: 1}, false
	}
	s.Z = (a.Share - b.Share) / math.Sqrt(pooled*(1-pooled)*(1/a.Base+1/b.Base))
	s.P = math.Erfc(math.Abs(s.Z) / math.Sqrt2)
	return s, true
}

// Paired tests two shares of the same respondents by those that are in one only (Q. McNemar, 1947, without correction).
// Z is over 0 where more are in the first. ok is false where there are under 2 × LeastExpected of them.
func Paired(onlyFirst, onlySecond int) (s Standing, ok bool) {
	b, c := float64(onlyFirst), float64(onlySecond)
	if b+c < 2*LeastExpected {
		return Standing{P: 1}, false
	}
	s.Z = (b - c) / math.Sqrt(b+c)
	s.P = math.Erfc(math.Abs(s.Z) / math.Sqrt2)
	return s, true
}

// RowTest says whether a share is the same in all columns.
type RowTest struct {
	Kind      string  `json:"kind" enum:"chi-square,fisher,none" doc:"none: no column to compare, or all or nobody has it"`
	ChiSquare float64 `json:"chiSquare" doc:"Pearson's, without continuity correction"`
	DF        int     `json:"df" doc:"degrees of freedom: columns less one"`
	P         float64 `json:"p" doc:"0 to 1; of Fisher's exact test two-sided"`
	V         float64 `json:"v" doc:"Cramér's V, 0 to 1: how strongly the row depends on the columns"`
	Weak      bool    `json:"weak,omitempty" doc:"an expected count is under 1, or more than a fifth of them are under 5: read p with care"`
}

// TestRow tests whether parts of a sample that have no answer in common hold equal shares: by Pearson's chi-square, or, if whole
// is set, which is for unweighted counts, by Fisher's exact test where there are two and an expected count is under
// LeastExpected. Parts without answers are left out.
func TestRow(parts []Portion, whole bool) RowTest {
	t := RowTest{Kind: "none", P: 1}
	parts = slices.DeleteFunc(slices.Clone(parts), func(p Portion) bool { return p.Base <= 0 })
	k, n := totals(parts)
	if len(parts) < 2 || min(k, n-k) <= n*1e-12 { // sums of weights differ in their last digits
		return t
	}
	few, none := 0, false
	for _, p := range parts {
		more := p.Share*p.Base - p.Base*k/n
		for _, expected := range []float64{p.Base * k / n, p.Base * (n - k) / n} {
			t.ChiSquare += more * more / expected
			none = none || expected < 1
			if expected < LeastExpected {
				few++
			}
		}
	}
	t.Kind, t.DF = "chi-square", len(parts)-1
	t.V = math.Sqrt(t.ChiSquare / n)
	t.P = distuv.ChiSquared{K: float64(t.DF)}.Survival(t.ChiSquare)
	if whole && len(parts) == 2 && few > 0 {
		count := func(p Portion) (k, n int) { return int(math.Round(p.Share * p.Base)), int(math.Round(p.Base)) }
		k1, n1 := count(parts[0])
		k2, n2 := count(parts[1])
		t.Kind, t.P = "fisher", Fisher(k1, n1, k2, n2)
		return t
	}
	t.Weak = none || few*5 > len(parts)*2
	return t
}

func totals(parts []Portion) (k, n float64) {
	for _, p := range parts {
		k += p.Share * p.Base
		n += p.Base
	}
	return k, n
}

// Fisher is the two-sided p of Fisher's exact test of k1 of n1 against k2 of n2: the chance of all tables with these
// margins that are not likelier than this one (R. A. Fisher, 1935).
func Fisher(k1, n1, k2, n2 int) float64 {
	k, n := k1+k2, n1+n2
	whole := choose(n, k)
	chance := func(i int) float64 { return math.Exp(choose(n1, i) + choose(n2, k-i) - whole) }
	most := chance(k1) * (1 + 1e-7) // equal chances differ in their last digits
	p := 0.0
	for i := max(0, k-n2); i <= min(k, n1); i++ {
		if c := chance(i); c <= most {
			p += c
		}
	}
	return min(p, 1)
}

// Trend tests whether shares rise or fall along columns in an order (W. G. Cochran, 1954; P. Armitage, 1955), with
// scores 1, 2, 3 …. Z is over 0 where they rise. ok is false where there are under three columns with answers, or an expected
// count is under LeastExpected in all.
func Trend(parts []Portion) (s Standing, ok bool) {
	k, n := totals(parts)
	filled := 0
	scores, squares, t := 0.0, 0.0, 0.0
	for i, p := range parts {
		x := float64(i + 1)
		scores += p.Base * x
		squares += p.Base * x * x
		t += x * p.Base * (p.Share - k/n)
		if p.Base > 0 {
			filled++
		}
	}
	if filled < 3 || !(min(k, n-k) >= LeastExpected) {
		return Standing{P: 1}, false
	}
	s.Z = t / math.Sqrt(k/n*(1-k/n)*(squares-scores*scores/n))
	s.P = math.Erfc(math.Abs(s.Z) / math.Sqrt2)
	return s, true
}

// Layer is a part of a sample in which two groups are compared.
type Layer struct{ First, Second Portion }

// Across tests whether two groups differ in the layers of a sample, taken together (N. Mantel and W. Haenszel, 1959,
// without correction): a difference that comes only of how the groups are spread over the layers does not count. Z is over 0
// where the first group has the higher shares. ok is false where too little is to be expected in all layers together.
func Across(layers []Layer) (s Standing, ok bool) {
	more, variance, expected := 0.0, 0.0, 0.0
	for _, l := range layers {
		n := l.First.Base + l.Second.Base
		k, _ := totals([]Portion{l.First, l.Second})
		if l.First.Base <= 0 || l.Second.Base <= 0 || n <= 1 {
			continue
		}
		more += l.First.Share*l.First.Base - l.First.Base*k/n
		variance += l.First.Base * l.Second.Base * k * (n - k) / (n * n * (n - 1))
		expected += min(l.First.Base, l.Second.Base) * min(k, n-k) / n
	}
	if variance <= 0 || expected < LeastExpected {
		return Standing{P: 1}, false
	}
	s.Z = more / math.Sqrt(variance)
	s.P = math.Erfc(math.Abs(s.Z) / math.Sqrt2)
	return s, true
}

// Difference is the 95 % interval of the first share less the second, of parts that have no answer in common (R. G. Newcombe,
// 1998, method 10: of the two Wilson intervals). Bases are over 0.
func Difference(a, b Portion) (low, high float64) {
	aLow, aHigh := Wilson(a.Share, a.Base)
	bLow, bHigh := Wilson(b.Share, b.Base)
	d := a.Share - b.Share
	return d - math.Hypot(a.Share-aLow, bHigh-b.Share), d + math.Hypot(aHigh-a.Share, b.Share-bLow)
}

// Correction is how the p values of tests that are made together are adjusted.
type Correction string

// The corrections.
const (
	NoCorrection      Correction = "none"
	Bonferroni        Correction = "bonferroni"
	Holm              Correction = "holm"
	BenjaminiHochberg Correction = "benjamini-hochberg"
)

// Corrections lists all corrections.
var Corrections = []Correction{BenjaminiHochberg, Holm, Bonferroni, NoCorrection}

// Adjust gives the adjusted p values, in the order of the given ones.
func (c Correction) Adjust(p []float64) []float64 {
	switch c {
	case Bonferroni:
		out := make([]float64, len(p))
		for i := range p {
			out[i] = min(p[i]*float64(len(p)), 1)
		}
		return out
	case Holm:
		return stepDown(p)
	case BenjaminiHochberg:
		return FalseDiscovery(p)
	}
	return slices.Clone(p)
}

// stepDown holds the chance of any false finding (S. Holm, 1979).
func stepDown(p []float64) []float64 {
	out := make([]float64, len(p))
	most := 0.0
	order := falling(p)
	slices.Reverse(order)
	for rank, i := range order {
		most = max(most, min(p[i]*float64(len(p)-rank), 1))
		out[i] = most
	}
	return out
}

// falling is the order of p values from the greatest down.
func falling(p []float64) []int {
	order := make([]int, len(p))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		switch {
		case p[a] > p[b]:
			return -1
		case p[a] < p[b]:
			return 1
		}
		return 0
	})
	return order
}

// FalseDiscovery adjusts p values so that those under q hold a share of at most q of false findings (Y. Benjamini and
// Y. Hochberg, 1995). The order is kept.
func FalseDiscovery(p []float64) []float64 {
	out := make([]float64, len(p))
	least := 1.0
	for rank, i := range falling(p) {
		least = min(least, p[i]*float64(len(p))/float64(len(p)-rank))
		out[i] = least
	}
	return out
}
