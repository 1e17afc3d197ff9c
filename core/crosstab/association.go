package crosstab

import "math"

// Keyness says how strongly a term is of one text against another (P. Rayson and R. Garside, 2000).
type Keyness struct {
	G2    float64 `json:"g2" doc:"log-likelihood ratio, 0 and up; over 3.84 is rarer than 1 in 20 by chance, over 10.83 than 1 in 1,000"`
	Ratio float64 `json:"ratio" doc:"log2 of the ratio of the two shares of words; 1 is twice the share; 0.5 stands for a count of 0"`
}

// NewKeyness compares how often a term stands in two texts of so many words. A text without words has no keyness.
func NewKeyness(count1, words1, count2, words2 int) Keyness {
	if words1 == 0 || words2 == 0 || count1+count2 == 0 {
		return Keyness{}
	}
	a, b, n1, n2 := float64(count1), float64(count2), float64(words1), float64(words2)
	expected := (a + b) / (n1 + n2)
	share := func(count, words float64) float64 {
		if count == 0 {
			count = 0.5
		}
		return count / words
	}
	return Keyness{
		G2:    max(2*(information(a, n1*expected)+information(b, n2*expected)), 0),
		Ratio: math.Log2(share(a, n1) / share(b, n2)),
	}
}

// information is observed × ln(observed / expected), 0 for nothing observed.
func information(observed, expected float64) float64 {
	if observed == 0 || expected == 0 {
		return 0
	}
	return observed * math.Log(observed/expected)
}

// CoOccurrence says how two terms or categories stand together in answers.
type CoOccurrence struct {
	Both    int     `json:"both" doc:"answers with both"`
	G2      float64 `json:"g2" doc:"log-likelihood ratio of the 2 × 2 table"`
	PMI     float64 `json:"pmi" doc:"pointwise mutual information, log2 of lift; 0 where they never meet"`
	Jaccard float64 `json:"jaccard" doc:"answers with both / answers with either, 0 to 1"`
	Lift    float64 `json:"lift" doc:"answers with both / those to be expected if neither drew the other"`
}

// NewCoOccurrence measures two sets of answers among n that meet in both.
func NewCoOccurrence(both, first, second, n int) CoOccurrence {
	c := CoOccurrence{Both: both}
	if first == 0 || second == 0 || n == 0 {
		return c
	}
	total, f, s := float64(n), float64(first), float64(second)
	observed := [4]float64{float64(both), f - float64(both), s - float64(both), total - f - s + float64(both)}
	expected := [4]float64{f * s / total, f * (total - s) / total, (total - f) * s / total, (total - f) * (total - s) / total}
	for i := range observed {
		c.G2 += 2 * information(observed[i], expected[i])
	}
	c.G2 = max(c.G2, 0)
	c.Lift = observed[0] / expected[0]
	if both > 0 {
		c.PMI = math.Log2(c.Lift)
	}
	c.Jaccard = observed[0] / (f + s - observed[0])
	return c
}

// Apart says how surely two groups of answers differ in how many of them hold something.
type Apart struct {
	G2OfAnswers float64 `json:"g2OfAnswers" doc:"log-likelihood ratio of the 2 × 2 table of answers, 0 and up"`
	P           float64 `json:"p" doc:"of that, from chi-square with one degree of freedom, 0 to 1"`
}

// NewApart holds k1 of n1 answers against k2 of n2. Groups without answers are not apart.
func NewApart(k1, n1, k2, n2 int) Apart {
	g2 := NewCoOccurrence(k1, k1+k2, n1, n1+n2).G2
	return Apart{g2, math.Erfc(math.Sqrt(max(g2, 0) / 2))}
}

// MoreThanBefore is the one-sided p of Fisher's exact test that k1 of n1 is a higher share than k2 of n2: how likely at
// least k1 of the k1+k2 would fall among n1 of n1+n2 by chance (R. A. Fisher, 1935).
func MoreThanBefore(k1, n1, k2, n2 int) float64 {
	k, n := k1+k2, n1+n2
	whole := choose(n, k)
	p := 0.0
	for i := k1; i <= min(k, n1); i++ {
		term := math.Exp(choose(n1, i) + choose(n2, k-i) - whole)
		p += term
		if term < p*1e-17 { // the rest falls ever faster
			break
		}
	}
	return min(p, 1)
}

// choose is the natural logarithm of the number of ways to take k of n.
func choose(n, k int) float64 {
	if k < 0 || k > n {
		return math.Inf(-1)
	}
	lg := func(x int) float64 { v, _ := math.Lgamma(float64(x) + 1); return v }
	return lg(n) - lg(k) - lg(n-k)
}

// Richness is how many distinct words are to be expected in a sample of n of the words, drawn without putting back
// (S. H. Hurlbert, 1971). It lets texts of different lengths be compared. Counts are of each distinct word; 0 where
// there are fewer than n words.
func Richness(counts []int, n int) float64 {
	total := 0
	for _, c := range counts {
		total += c
	}
	if total < n || n <= 0 {
		return 0
	}
	whole := choose(total, n)
	expected := 0.0
	for _, c := range counts {
		if c > 0 {
			expected += 1 - math.Exp(choose(total-c, n)-whole)
		}
	}
	return expected
}
