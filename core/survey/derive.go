package survey

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"
)

// Derived is a variable that is made of others. It keeps its recipe, so it follows when data is added.
type Derived struct {
	Name   string    `json:"name"`
	Kind   string    `json:"kind" enum:"groups,bands,periods,pairs"`
	Of     []string  `json:"of" minItems:"1" maxItems:"2" doc:"the variable it is made of; pairs: two of them"`
	Groups []Group   `json:"groups,omitempty" doc:"groups: in the order in which charts show them; a value that is in none keeps its name and follows"`
	Rest   string    `json:"rest,omitempty" doc:"groups: one name for all values that are in none"`
	Edges  []float64 `json:"edges,omitempty" doc:"bands: where each band but the first begins, ascending"`
	Equal  int       `json:"equal,omitempty" minimum:"0" maximum:"20" doc:"bands: in place of edges, how many bands with about as many respondents each"`
	Names  []string  `json:"names,omitempty" doc:"bands: their names, one more than edges"`
	Period string    `json:"period,omitempty" enum:"hour,weekday,week,month,quarter,year" doc:"periods: hours of the day, days of the week, ISO weeks, months, quarters or years"`
	Dates  []string  `json:"dates,omitempty" doc:"bands of a date: the ISO dates on which each band but the first begins, ascending"`
}

// Group is a value with the values it is made of.
type Group struct {
	Name   string   `json:"name"`
	Values []string `json:"values"`
}

// ErrDerived is behind every error about a recipe.
var ErrDerived = errors.New("variable")

// Derive makes the variable. Of are the variables that the recipe names.
func Derive(d Derived, of []*Variable) (*Variable, error) {
	refuse := func(format string, args ...any) (*Variable, error) {
		return nil, fmt.Errorf("%w %q: "+format, append([]any{ErrDerived, d.Name}, args...)...)
	}
	if strings.TrimSpace(d.Name) == "" {
		return refuse("it needs a name")
	}
	v := &Variable{Spec: Spec{Name: d.Name, Role: Segment}, filled: roaring.New()}
	one := of[0]
	switch d.Kind {
	case "groups":
		if !one.Role.Charted() {
			return refuse("%q is a %s; only values can be grouped", one.Name, one.Role)
		}
		if one.Role == Several {
			v.Role = Several
		}
		return v, v.group(d, one)
	case "bands":
		v.ordered = true
		if one.Role == Date {
			return v, v.between(d, one)
		}
		if one.Role != Number && one.Role != Weight {
			return refuse("%q is a %s; only numbers and dates can be put in bands", one.Name, one.Role)
		}
		return v, v.band(d, one)
	case "periods":
		if one.Role != Date {
			return refuse("%q is a %s; only dates have periods", one.Name, one.Role)
		}
		switch d.Period {
		case "weekday":
			v.Values = weekdays
			return v, v.collect(one.Numbers, func(x float64) string { return weekdays[(int(DateOf(x).Weekday())+6)%7] })
		case "hour":
			if one.Hours == nil {
				return refuse("no date of %q is written with a time", one.Name)
			}
			return v, v.hours(one)
		}
		name, ok := periods[d.Period]
		if !ok {
			return refuse("there is no period %q; there are hour, weekday, week, month, quarter and year", d.Period)
		}
		v.ordered = true
		v.from(one.Numbers, name)
		slices.Sort(v.Values) // names of periods are in order of time by the alphabet
		return v, v.collect(one.Numbers, name)
	case "pairs":
		if len(of) != 2 || !of[0].Role.Charted() || !of[1].Role.Charted() {
			return refuse("a pair is made of two variables with values")
		}
		for i, a := range of[0].Values {
			for j, b := range of[1].Values {
				if set := roaring.And(of[0].sets[i], of[1].sets[j]); !set.IsEmpty() {
					v.Values, v.sets = append(v.Values, a+" · "+b), append(v.sets, set)
					v.filled.Or(set)
				}
			}
		}
		if of[0].Role == Several || of[1].Role == Several {
			v.Role = Several
		}
		return v, nil
	}
	return refuse("there is no way %q to make one", d.Kind)
}

func (v *Variable) group(d Derived, one *Variable) error {
	in := map[string]string{}
	add := func(name string, set *roaring.Bitmap) {
		i := slices.Index(v.Values, name)
		if i < 0 {
			i = len(v.Values)
			v.Values, v.sets = append(v.Values, name), append(v.sets, roaring.New())
		}
		v.sets[i].Or(set)
		v.filled.Or(set)
	}
	for _, g := range d.Groups {
		if strings.TrimSpace(g.Name) == "" {
			return fmt.Errorf("%w %q: a group has no name", ErrDerived, d.Name)
		}
		add(g.Name, roaring.New())
		for _, value := range g.Values {
			if other, taken := in[value]; taken {
				return fmt.Errorf("%w %q: %q is in two groups, %q and %q", ErrDerived, d.Name, value, other, g.Name)
			}
			in[value] = g.Name
		}
	}
	for i, value := range one.Values {
		name, grouped := in[value]
		switch {
		case grouped:
		case d.Rest != "":
			name = d.Rest
		default:
			name = value
		}
		add(name, one.sets[i])
	}
	return nil
}

func (v *Variable) band(d Derived, one *Variable) error {
	edges := d.Edges
	if d.Equal > 1 {
		edges = equalEdges(one.Numbers, d.Equal)
	}
	if !slices.IsSorted(edges) || len(slices.Compact(slices.Clone(edges))) != len(edges) ||
		slices.ContainsFunc(edges, func(e float64) bool { return math.IsNaN(e) || math.IsInf(e, 0) }) {
		return fmt.Errorf("%w %q: the edges must rise from one to the next", ErrDerived, d.Name)
	}
	if len(d.Names) > 0 && len(d.Names) != len(edges)+1 {
		return fmt.Errorf(
			"%w %q: %d edges make %d bands, and %d names were given", ErrDerived, d.Name, len(edges), len(edges)+1, len(d.Names),
		)
	}
	names := d.Names
	if len(names) == 0 {
		names = bandNames(edges, one.Numbers)
	}
	v.Values = slices.Clone(names)
	return v.collect(one.Numbers, func(x float64) string {
		i, at := slices.BinarySearch(edges, x)
		if at {
			i++
		}
		return names[i]
	})
}

// equalEdges are the values that part the numbers into n bands of about as many each; fewer where values repeat much.
func equalEdges(numbers []float64, n int) []float64 {
	sorted := slices.DeleteFunc(slices.Clone(numbers), math.IsNaN)
	slices.Sort(sorted)
	var edges []float64
	for i := 1; i < n && len(sorted) > 0; i++ {
		e := sorted[i*len(sorted)/n]
		if e > sorted[0] && (len(edges) == 0 || e > edges[len(edges)-1]) {
			edges = append(edges, e)
		}
	}
	return edges
}

// bandNames names bands by their edges: "up to 6", "7 to 8", "9 and over" for whole numbers.
func bandNames(edges, numbers []float64) []string {
	short := func(x float64) string { return strconv.FormatFloat(x, 'f', -1, 64) }
	whole := func(x float64) bool { return math.IsNaN(x) || x == math.Trunc(x) }
	if len(edges) == 0 {
		return []string{"all"}
	}
	all := !slices.ContainsFunc(numbers, func(x float64) bool { return !whole(x) }) &&
		!slices.ContainsFunc(edges, func(x float64) bool { return !whole(x) })
	first := "under " + short(edges[0])
	if all {
		first = "up to " + short(edges[0]-1)
	}
	names := []string{first}
	for i := 1; i < len(edges); i++ {
		name := short(edges[i-1]) + " to under " + short(edges[i])
		if all {
			name = short(edges[i-1]) + " to " + short(edges[i]-1)
			if edges[i]-1 == edges[i-1] {
				name = short(edges[i-1])
			}
		}
		names = append(names, name)
	}
	return append(names, short(edges[len(edges)-1])+" and over")
}

var weekdays = []string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"}

// hours puts each respondent whose date has a time into the hour of the day.
func (v *Variable) hours(of *Variable) error {
	hours := make([]float64, len(of.Hours))
	for i, h := range of.Hours {
		if hours[i] = float64(h); h < 0 {
			hours[i] = math.NaN()
		}
	}
	name := func(h float64) string { return fmt.Sprintf("%02.0f:00", h) }
	v.from(hours, name)
	slices.Sort(v.Values)
	return v.collect(hours, name)
}

// between puts each respondent with a date into the stretch between two days.
func (v *Variable) between(d Derived, one *Variable) error {
	var edges []float64
	for _, s := range d.Dates {
		x, err := parseDate(strings.TrimSpace(s), "")
		if err != nil {
			return fmt.Errorf("%w %q: %w", ErrDerived, d.Name, err)
		}
		edges = append(edges, x)
	}
	if len(edges) == 0 {
		return fmt.Errorf("%w %q: say on which days a new stretch begins", ErrDerived, d.Name)
	}
	d.Edges, d.Equal = edges, 0
	if len(d.Names) == 0 {
		written := func(x float64) string { return DateOf(x).Format("2 Jan 2006") }
		d.Names = []string{"before " + written(edges[0])}
		for i := 1; i < len(edges); i++ {
			d.Names = append(d.Names, written(edges[i-1])+" to "+written(edges[i]-1))
		}
		d.Names = append(d.Names, "from "+written(edges[len(edges)-1]))
	}
	return v.band(d, one)
}

// periods name the period that a day (since 1970-01-01) falls in; weeks are those of ISO 8601.
var periods = map[string]func(days float64) string{
	"week": func(d float64) string {
		year, week := DateOf(d).ISOWeek()
		return fmt.Sprintf("%d-W%02d", year, week)
	},
	"month":   func(d float64) string { return DateOf(d).Format("2006-01") },
	"quarter": func(d float64) string { return fmt.Sprintf("%d Q%d", DateOf(d).Year(), (int(DateOf(d).Month())+2)/3) },
	"year":    func(d float64) string { return DateOf(d).Format("2006") },
}

// from lists the values that a name of each number gives.
func (v *Variable) from(numbers []float64, name func(float64) string) {
	seen := map[float64]bool{}
	for _, x := range numbers {
		if x == x && !seen[x] {
			seen[x] = true
			if n := name(x); !slices.Contains(v.Values, n) {
				v.Values = append(v.Values, n)
			}
		}
	}
}

// collect puts each respondent with a number into the set of its name.
func (v *Variable) collect(numbers []float64, name func(float64) string) error {
	place := map[string]int{}
	for i, value := range v.Values {
		if _, twice := place[value]; twice {
			return fmt.Errorf("%w %q: two of its values are called %q", ErrDerived, v.Name, value)
		}
		place[value] = i
		v.sets = append(v.sets, roaring.New())
	}
	known := map[float64]int{}
	for i, x := range numbers {
		if x != x {
			continue
		}
		at, ok := known[x]
		if !ok {
			at = place[name(x)]
			known[x] = at
		}
		v.sets[at].Add(uint32(i))
		v.filled.Add(uint32(i))
	}
	return nil
}
