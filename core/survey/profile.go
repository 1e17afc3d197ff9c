package survey

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
)

// Profile is what there is to know of a column.
type Profile struct {
	Spec
	Filled   int          `json:"filled" doc:"cells that are not blank and not declared missing"`
	Declared int          `json:"declared" doc:"cells declared missing"`
	Distinct int          `json:"distinct" doc:"different values; of several answers, of their parts"`
	Top      []ValueCount `json:"top" doc:"the most frequent values; numbers and waves in their order"`
	Bins     []Bin        `json:"bins" doc:"numbers and dates with many values: how many fall where"`
	Words    *WordFigures `json:"words,omitempty" doc:"open-ended: lengths in words"`
	Figures  *Figures     `json:"figures,omitempty" doc:"numbers and weights: what they are like"`
	Samples  []string     `json:"samples" doc:"three values, from the beginning, the middle and the end"`
	Points   []Point      `json:"points" doc:"what one should look at"`
}

// ValueCount is a value and how many respondents have it.
type ValueCount struct {
	Value string `json:"value"`
	Count int    `json:"count"`
}

// Bin is a stretch of numbers or dates.
type Bin struct {
	From  string `json:"from"`
	To    string `json:"to"`
	Count int    `json:"count"`
}

// WordFigures are the lengths of texts in words.
type WordFigures struct {
	Shortest int     `json:"shortest"`
	Longest  int     `json:"longest"`
	Mean     float64 `json:"mean"`
}

// Figures are what numbers are like, unweighted.
type Figures struct {
	Mean   float64 `json:"mean"`
	Median float64 `json:"median" doc:"of an even number: the mean of the two in the middle"`
	Spread float64 `json:"spread" doc:"standard deviation, with n - 1; 0 of one number"`
	Least  float64 `json:"least"`
	Most   float64 `json:"most"`
	Sum    float64 `json:"sum"`
}

// figuresOf works out the figures of numbers, each given with how often it stands there.
func figuresOf(numbers map[float64]int) *Figures {
	var f Figures
	n := 0
	sorted := slices.Sorted(maps.Keys(numbers))
	for _, x := range sorted {
		f.Sum += x * float64(numbers[x])
		n += numbers[x]
	}
	if n == 0 {
		return nil
	}
	f.Mean, f.Least, f.Most = f.Sum/float64(n), sorted[0], sorted[len(sorted)-1]
	at := func(place int) float64 {
		for _, x := range sorted {
			if place -= numbers[x]; place < 0 {
				return x
			}
		}
		return math.NaN() // never
	}
	f.Median = (at((n-1)/2) + at(n/2)) / 2
	if n > 1 {
		for x, times := range numbers {
			f.Spread += float64(times) * (x - f.Mean) * (x - f.Mean)
		}
		f.Spread = math.Sqrt(f.Spread / float64(n-1))
	}
	return &f
}

// Point is something about a column that one should look at.
type Point struct {
	Text   string   `json:"text"`
	Count  int      `json:"count" doc:"cells that it is about"`
	Values []string `json:"values" doc:"the first of the values that it is about"`
	Mend   *Spec    `json:"mend,omitempty" doc:"what the column could be read as instead"`
}

// How much a profile lists.
const (
	maxTop    = 12
	maxValues = 8
	bins      = 20
)

// NewProfile looks at all cells of a column. It goes through them a few times; keep what it gives. An error is that of the
// context.
func NewProfile(ctx context.Context, spec Spec, cells []string) (Profile, error) {
	p := Profile{Spec: spec, Top: []ValueCount{}, Bins: []Bin{}, Samples: samples(cells), Points: []Point{}}
	read := spec.reader()
	distinct, err := distinctCells(ctx, cells) // each is read once, however often it stands there
	if err != nil {
		return Profile{}, err
	}
	counts := map[string]int{}
	numbers := map[float64]int{}
	odd := map[string]int{}
	lengths, texts := WordFigures{Shortest: math.MaxInt}, 0
	if spec.Role == OpenEnded || spec.Role == Identifier || spec.Role == LeftOut {
		counts = distinct
	}
	seen := 0
	for cell, times := range distinct {
		if seen++; seen%4096 == 0 && ctx.Err() != nil {
			return Profile{}, ctx.Err()
		}
		value, n, err := read(cell)
		switch {
		case err != nil:
			odd[cell] = times
			counts[cell] += times
			p.Filled += times
			continue
		case value == "":
			p.Declared += times
			continue
		}
		p.Filled += times
		if n == n {
			numbers[n] += times
		}
		switch spec.Role {
		case Several:
			parts := spec.parts(value)
			slices.Sort(parts)
			for _, part := range slices.Compact(parts) {
				counts[part] += times
			}
		case OpenEnded:
			w := words(value)
			lengths.Shortest, lengths.Longest = min(lengths.Shortest, w), max(lengths.Longest, w)
			lengths.Mean += float64(w * times)
			texts += times
		case Identifier, LeftOut:
		default:
			counts[value] += times
		}
	}
	p.Distinct = len(counts)
	if texts > 0 {
		lengths.Mean /= float64(texts)
		p.Words = &lengths
	}
	if spec.Role.Numeric() && (len(counts) > maxTop || spec.Role == Date) {
		p.Bins = histogram(numbers, spec.Role == Date)
	}
	if spec.Role == Number || spec.Role == Weight {
		p.Figures = figuresOf(numbers)
	}
	if spec.Role != Identifier && spec.Role != OpenEnded || p.Distinct <= maxTop {
		p.Top = top(spec, counts)
	}
	p.points(len(cells), distinct, counts, odd)
	return p, nil
}

func top(spec Spec, counts map[string]int) []ValueCount {
	out := make([]ValueCount, 0, len(counts))
	for value, n := range counts {
		out = append(out, ValueCount{value, n})
	}
	place := func(v string) int {
		if i := slices.Index(spec.Order, v); i >= 0 {
			return i
		}
		return len(spec.Order)
	}
	byCount := func(a, b ValueCount) int { return cmp.Or(b.Count-a.Count, CompareValues(a.Value, b.Value)) }
	inOrder := func(a, b ValueCount) int {
		return cmp.Or(place(a.Value)-place(b.Value), CompareValues(a.Value, b.Value))
	}
	slices.SortFunc(out, byCount)
	out = out[:min(maxTop, len(out))]
	scale := !slices.ContainsFunc(out, func(v ValueCount) bool { _, ok := leading(v.Value); return !ok }) // 0 to 10
	if spec.Role == Number || spec.Role == Wave || len(spec.Order) > 0 || scale {
		slices.SortFunc(out, inOrder)
	}
	return out
}

// TopValues lists the most frequent values, at most 12.
func TopValues(counts map[string]int) []ValueCount { return top(Spec{}, counts) }

func samples(cells []string) []string {
	out := []string{}
	for _, from := range []int{0, len(cells) / 3, 2 * len(cells) / 3} {
		for i := from; i < min(from+200, len(cells)); i++ {
			if cell := strings.TrimSpace(cells[i]); cell != "" && !slices.Contains(out, cell) {
				out = append(out, cell)
				break
			}
		}
	}
	return out
}

// histogram parts the range of the numbers, each given with how often it stands there, into stretches of one length.
func histogram(numbers map[float64]int, dates bool) []Bin {
	if len(numbers) == 0 {
		return []Bin{}
	}
	low, high := math.Inf(1), math.Inf(-1)
	for x := range numbers {
		low, high = min(low, x), max(high, x)
	}
	n := bins
	width := (high - low) / float64(n)
	if dates {
		width = max(1, math.Ceil((high-low+1)/float64(n)))
		n = int((high-low)/width) + 1
	} else if width == 0 {
		n, width = 1, 1
	}
	name := func(x float64) string {
		if dates {
			return DateOf(x).Format("2006-01-02")
		}
		return fmt.Sprintf("%.4g", x)
	}
	out := make([]Bin, n)
	for i := range out {
		from, to := low+float64(i)*width, low+float64(i+1)*width
		if dates {
			to = min(to-1, high)
		}
		out[i] = Bin{From: name(from), To: name(to)}
	}
	for x, times := range numbers {
		out[min(n-1, int((x-low)/width))].Count += times
	}
	return out
}

func plural(n int, one, many string) string {
	if n == 1 {
		return "one " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// missingWords are values that often stand for none.
var missingWords = []string{
	"refused", "missing", "null", "n/a", "na", "none given", "no answer", "not answered", "prefer not to say", "#n/a", "nan",
	"unknown", "99", "999", "9999", "-1", "-99", "-9",
}

// points looks for what is odd about a column, the gravest first.
func (p *Profile) points(respondents int, distinct, counts, odd map[string]int) {
	add := func(values map[string]int, mend *Spec, format string, args ...any) {
		point := Point{Text: fmt.Sprintf(format, args...), Values: []string{}, Mend: mend}
		for _, v := range top(Spec{}, values) {
			if len(point.Values) < maxValues {
				point.Values = append(point.Values, v.Value)
			}
		}
		for _, n := range values {
			point.Count += n
		}
		p.Points = append(p.Points, point)
	}
	changed := func(change func(s *Spec)) *Spec {
		s := p.Spec
		s.Missing = slices.Clone(s.Missing) // mends add to it, each for itself
		change(&s)
		return &s
	}
	blank := respondents - p.Filled - p.Declared
	switch {
	case p.Filled == 0 && p.Role != LeftOut:
		add(nil, nil, "every cell is blank")
		return
	case p.Filled == 0:
		return
	case p.Distinct == 1 && p.Filled > 1 && p.Role != LeftOut:
		add(counts, nil, "every filled cell says the same")
	}
	var c column
	if p.Role.Numeric() || p.Role == Segment || p.Role == Wave {
		c = look(distinct)
	}
	numbers := c.numbers()
	switch p.Role {
	case Identifier:
		twice := map[string]int{}
		for v, n := range counts {
			if n > 1 {
				twice[v] = n
			}
		}
		if len(twice) > 0 {
			add(
				twice, nil, "%s more than once, so the column does not name one respondent each",
				plural(len(twice), "value stands", "values stand"),
			)
		}
		if blank > 0 {
			add(nil, nil, "%s none", plural(blank, "respondent has", "respondents have"))
		}
	case Number, Weight, Date:
		if len(odd) > 0 {
			mend := changed(func(s *Spec) {
				for _, v := range top(Spec{}, odd) {
					s.Missing = append(s.Missing, v.Value)
				}
			})
			what := "numbers"
			if p.Role == Date {
				what = "dates"
			}
			unit := numbers.unit()
			comma, open, _ := numbers.decimal(habits{})
			if unit != "" && p.Unit == "" && p.Role != Date {
				mend = changed(func(s *Spec) { s.Unit = unit })
			} else if comma != p.Comma && !open && p.Role != Date {
				mend = changed(func(s *Spec) { s.Comma = comma })
			} else if p.Role == Date && p.Days == "" && c.dates.days() != "" {
				mend = changed(func(s *Spec) { s.Days = c.dates.days() })
			} else if len(odd) > maxTop {
				mend = nil
			}
			add(odd, mend, "some cells are no %s and count as missing", what)
		}
		if p.Role == Date && c.dates.forms() > 1 {
			add(nil, nil, "dates are written in %d different ways", c.dates.forms())
		} else if p.Role == Date && c.dates.either > 0 && c.dates.dayFirst+c.dates.monthFirst == 0 {
			other := map[string]string{"dmy": "mdy", "mdy": "dmy"}[p.Days]
			first := map[string]string{"dmy": "day", "mdy": "month"}[p.Days]
			if other != "" {
				add(nil, changed(func(s *Spec) { s.Days = other }), "every date could be read with the day or the month first; here the %s is", first)
			}
		}
	case Segment, Wave:
		if n := numbers.cells; n > 0 && n < c.filled && float64(n) >= 0.1*float64(c.filled) {
			mixed := map[string]int{}
			for _, w := range c.others(numbers) {
				mixed[w] = counts[w]
			}
			add(mixed, nil, "numbers and words are mixed")
		}
		if unit := numbers.unit(); unit != "" && numbers.cells*2 > c.filled {
			add(nil, changed(func(s *Spec) { s.Role, s.Unit = Number, unit }), "most values are numbers with the unit %q", unit)
		}
	}
	if p.Role.Charted() && p.Role != Number {
		p.alike(counts, add)
	}
	if p.Role.Charted() && p.Distinct > 1 {
		codes := map[string]int{}
		for _, w := range missingWords {
			for v, n := range counts {
				if strings.EqualFold(v, w) && !(p.Role == Number && !outlying(w, counts)) {
					codes[v] = n
				}
			}
		}
		if len(codes) > 0 {
			add(codes, changed(func(s *Spec) {
				for _, v := range top(Spec{}, codes) {
					s.Missing = append(s.Missing, v.Value)
				}
			}), "some values look like codes for a missing one")
		}
	}
	if p.Role.Charted() && p.Distinct > 60 && p.Role != Number {
		add(nil, nil, "%s are too many for a chart; group them", values(p.Distinct))
	}
}

// alike points out values that differ in case or blanks only.
func (p *Profile) alike(counts map[string]int, add func(map[string]int, *Spec, string, ...any)) {
	same := map[string][]string{}
	for v := range counts {
		key := strings.ToLower(strings.Join(strings.Fields(v), " "))
		same[key] = append(same[key], v)
	}
	found := map[string]int{}
	for _, vs := range same {
		if len(vs) > 1 {
			for _, v := range vs {
				found[v] = counts[v]
			}
		}
	}
	if len(found) > 0 {
		add(found, nil, "some values differ in case or blanks only; group them")
	}
}

// outlying says whether a number stands far from all others, as a code for a missing value does.
func outlying(code string, counts map[string]int) bool {
	x, err := parseNumber(code, "", false)
	if err != nil {
		return true
	}
	low, high := math.Inf(1), math.Inf(-1)
	for v := range counts {
		if y, err := parseNumber(v, "", false); err == nil && y != x {
			low, high = min(low, y), max(high, y)
		}
	}
	if x < 0 {
		return low >= 0
	}
	return x > 2*high
}
