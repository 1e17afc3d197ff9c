package survey

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// guessRole guesses of a column in a file of others that say nothing of it.
func guessRole(name string, cells []string) Guess {
	answers := make([]string, len(cells))
	for i := range answers {
		answers[i] = fmt.Sprintf("more boats on day %d please", i)
	}
	return Guesses([]string{name, "answers"}, [][]string{cells, answers})[0]
}

func TestGuessRole(t *testing.T) {
	column := func(make func(i int) string) (cells []string) {
		for i := range 100 {
			cells = append(cells, make(i))
		}
		return
	}
	for _, c := range []struct {
		name  string
		cells []string
		want  Role
	}{
		{"Respondent ID", column(func(i int) string { return fmt.Sprint("R", i) }), Identifier},
		{"recommend", column(func(i int) string { return fmt.Sprint(i % 11) }), Number},
		{"sailed", column(func(i int) string { return fmt.Sprintf("2026-03-%02d", i%28+1) }), Date},
		{"weight", column(func(i int) string { return fmt.Sprintf("%.2f", 0.5+float64(i%7)/5) }), Weight},
		{"wave", column(func(i int) string { return []string{"Spring", "Autumn"}[i%2] }), Wave},
		{"route", column(func(i int) string { return []string{"Northern", "Southern", ""}[i%3] }), Segment},
		{"channels", column(func(i int) string { return []string{"App;Phone", "App", "Desk; App"}[i%3] }), Several},
		{"What should we change?", column(func(i int) string { return strings.Repeat("more boats please ", i%5) + fmt.Sprint(i) }), OpenEnded},
		{"notes", column(func(int) string { return " " }), LeftOut},
	} {
		got := guessRole(c.name, c.cells)
		assert.Equal(t, c.want, got.Role, "%s: %s", c.name, got.Reason)
		assert.NotEmpty(t, got.Reason)
	}
}

func TestSelect(t *testing.T) {
	make := func(role Role, cells ...string) *Variable {
		v, err := NewVariable(Spec{Name: "x", Role: role, Delimiter: ";"}, cells)
		require.NoError(t, err)
		return v
	}
	number := make(Number, "3", "", "10", "7.5")
	date := make(Date, "2026-03-01", "2026-04-01", "")
	several := make(Several, "App; Desk", "Desk;Desk", "", "Phone")
	assert.Equal(t, []string{"App", "Desk", "Phone"}, several.Values)
	assert.Equal(t, []string{"3", "7.5", "10"}, number.Values)
	for _, c := range []struct {
		v      *Variable
		op     string
		values []string
		want   []uint32
	}{
		{number, "<=", []string{"7.5"}, []uint32{0, 3}},
		{number, ">", []string{"3"}, []uint32{2, 3}},
		{number, "=", []string{"10.0"}, []uint32{2}},
		{number, "=", []string{"missing"}, []uint32{1}},
		{number, "!=", []string{"3"}, []uint32{2, 3}},
		{date, ">=", []string{"2026-03-15"}, []uint32{1}},
		{several, "=", []string{"desk", "Phone"}, []uint32{0, 1, 3}},
		{several, "!=", []string{"App"}, []uint32{1, 3}},
	} {
		got, err := c.v.Select(c.op, c.values, 4)
		require.NoError(t, err)
		assert.Equal(t, c.want, got.ToArray(), "%s %s %v", c.v.Role, c.op, c.values)
	}
	_, err := several.Select("<", []string{"3"}, 4)
	assert.ErrorIs(t, err, ErrValue)
	_, err = several.Select("=", []string{"Fax"}, 4)
	assert.ErrorIs(t, err, ErrValue)
}

func TestCellsThatDoNotFit(t *testing.T) {
	v, err := NewVariable(
		Spec{Name: "age", Role: Number, Missing: []string{"99", "Refused"}}, []string{"1", "x", "99", " refused ", ""},
	)
	require.NoError(t, err)
	assert.Equal(t, 1, v.Odd, "only x is neither a number nor missing")
	assert.Equal(t, []uint32{0}, v.Filled().ToArray())
	_, err = NewVariable(Spec{Name: "w", Role: Weight}, []string{"1", "-1"})
	assert.EqualError(t, err, `row 3, column "w": value "-1": a weight may not be negative`)
}

func TestNumbersAndDatesAsPeopleWriteThem(t *testing.T) {
	for _, c := range []struct {
		spec Spec
		cell string
		want float64
	}{
		{Spec{Role: Number}, "1,204", 1204}, {Spec{Role: Number}, "-3.50", -3.5}, {Spec{Role: Number, Comma: true}, "1.204,5", 1204.5}, {Spec{Role: Number, Unit: "min"}, "12 Min", 12},
		{Spec{Role: Number, Unit: "£"}, "-£1,000.5", -1000.5}, {Spec{Role: Date}, "2026-03-14T08:00:00", 20526}, {Spec{Role: Date}, "14 Mar 2026", 20526},
		{Spec{Role: Date, Days: "dmy"}, "14/03/2026", 20526}, {Spec{Role: Date, Days: "mdy"}, "3.14.26", 20526}, {Spec{Role: Date, Days: "dmy"}, "14-3-2026 08:15", 20526},
	} {
		got, err := c.spec.number(c.cell)
		require.NoError(t, err, c.cell)
		assert.InDelta(t, c.want, got, 1e-9, c.cell)
	}
	for _, bad := range []struct {
		spec Spec
		cell string
	}{{Spec{Role: Number}, "12 min"}, {Spec{Role: Number}, "1,2"}, {Spec{Role: Number}, "0x1p3_"}, {Spec{Role: Number}, "Inf"}, {Spec{Role: Date}, "14/03/2026"}, {Spec{Role: Date, Days: "mdy"}, "31/12/2026"}, {Spec{Role: Date, Days: "dmy"}, "31/02/2026"}} {
		_, err := bad.spec.number(bad.cell)
		assert.ErrorIs(t, err, ErrValue, bad.cell)
	}
}

func TestGuessesWithSettings(t *testing.T) {
	column := func(values ...string) (cells []string) {
		for i := range 100 {
			cells = append(cells, values[i%len(values)])
		}
		return
	}
	for _, c := range []struct {
		cells []string
		want  Spec
	}{
		{column("14/03/2026", "01/04/2026"), Spec{Name: "x", Role: Date, Days: "dmy"}},
		{column("03/14/2026", "04/01/2026"), Spec{Name: "x", Role: Date, Days: "mdy"}},
		{column("12 min", "5 min", "130 min"), Spec{Name: "x", Role: Number, Unit: "min"}},
		{column("1,5", "22,75"), Spec{Name: "x", Role: Number, Comma: true}},
		{append(column("1", "2", "3"), "refused"), Spec{Name: "x", Role: Number, Missing: []string{"refused"}}},
		{column("App|Phone", "App", "Desk|App"), Spec{Name: "x", Role: Several, Delimiter: "|"}},
	} {
		got := guessRole("x", c.cells)
		assert.Equal(t, c.want, got.Spec, got.Reason)
	}
}

// values writes a variable shortly: its values in order, each with its respondents.
func valuesOf(v *Variable) (out []string) {
	for i, value := range v.Values {
		out = append(out, fmt.Sprint(value, " ", v.sets[i].ToArray()))
	}
	return out
}

func TestDerive(t *testing.T) {
	cells := [][]string{
		{"18-24", "25-34", "35+", "", "18-24"},
		{"0", "6", "7", "10", ""},
		{"2026-01-01", "2025-12-29", "2026-06-30", "", "2024-02-29"},
		{"App;Phone", "Desk", "", "Phone", "App"},
		{"1.5", "2", "2.5", "9", "30"},
	}
	columns := []Spec{
		{Name: "age", Role: Segment}, {Name: "recommend", Role: Number}, {Name: "sailed", Role: Date},
		{Name: "channels", Role: Several, Delimiter: ";"}, {Name: "wait", Role: Number},
	}
	for _, c := range []struct {
		d    Derived
		want []string
	}{
		{Derived{Name: "d", Kind: "groups", Of: []string{"age"}, Groups: []Group{{"Over", []string{"35+"}}, {"Under 35", []string{"18-24", "25-34"}}}}, []string{"Over [2]", "Under 35 [0 1 4]"}},
		{Derived{Name: "d", Kind: "groups", Of: []string{"channels"}, Groups: []Group{{"At a distance", []string{"App", "Phone"}}}, Rest: "Other"}, []string{"At a distance [0 3 4]", "Other [1]"}},
		{Derived{Name: "d", Kind: "bands", Of: []string{"recommend"}, Edges: []float64{7, 9}}, []string{"up to 6 [0 1]", "7 to 8 [2]", "9 and over [3]"}},
		{Derived{Name: "d", Kind: "bands", Of: []string{"recommend"}, Edges: []float64{7, 9}, Names: []string{"0-6", "7-8", "9-10"}}, []string{"0-6 [0 1]", "7-8 [2]", "9-10 [3]"}},
		{Derived{Name: "d", Kind: "bands", Of: []string{"wait"}, Equal: 2}, []string{"under 2.5 [0 1]", "2.5 and over [2 3 4]"}},
		{Derived{Name: "d", Kind: "periods", Of: []string{"sailed"}, Period: "week"}, []string{"2024-W09 [4]", "2026-W01 [0 1]", "2026-W27 [2]"}},
		{Derived{Name: "d", Kind: "periods", Of: []string{"sailed"}, Period: "quarter"}, []string{"2024 Q1 [4]", "2025 Q4 [1]", "2026 Q1 [0]", "2026 Q2 [2]"}},
		{Derived{Name: "d", Kind: "pairs", Of: []string{"age", "channels"}}, []string{"18-24 · App [0 4]", "18-24 · Phone [0]", "25-34 · Desk [1]"}},
	} {
		s, err := Build(columns, []Derived{c.d}, cells, Set{})
		require.NoError(t, err)
		require.Empty(t, s.Failed)
		v, _ := s.Find("d")
		assert.Equal(t, c.want, valuesOf(v), "%+v", c.d)
	}
	// A variable may be made of one that was made; one that can't be made leaves the others be.
	s, err := Build(
		columns,
		[]Derived{
			{Name: "band", Kind: "bands", Of: []string{"recommend"}, Edges: []float64{7}},
			{Name: "by age", Kind: "pairs", Of: []string{"age", "band"}}, {Name: "lost", Kind: "groups", Of: []string{"gone"}},
		},
		cells,
		Set{},
	)
	require.NoError(t, err)
	v, ok := s.Find("by age")
	require.True(t, ok)
	assert.Equal(t, []string{"18-24 · up to 6 [0]", "25-34 · up to 6 [1]", "35+ · 7 and over [2]"}, valuesOf(v))
	assert.ErrorIs(t, s.Failed["lost"], ErrDerived)
	for _, bad := range []Derived{
		{Name: "d", Kind: "bands", Of: []string{"age"}}, {Name: "d", Kind: "bands", Of: []string{"recommend"}, Edges: []float64{9, 7}}, {Name: "d", Kind: "bands", Of: []string{"recommend"}, Edges: []float64{9}, Names: []string{"x"}},
		{Name: "d", Kind: "bands", Of: []string{"recommend"}, Edges: []float64{9}, Names: []string{"x", "x"}}, {Name: " ", Kind: "pairs", Of: []string{"age", "wait"}}, {Name: "d", Kind: "pairs", Of: []string{"age"}},
		{Name: "d", Kind: "periods", Of: []string{"sailed"}, Period: "age"}, {Name: "d", Kind: "groups", Of: []string{"age"}, Groups: []Group{{"a", []string{"18-24"}}, {"b", []string{"18-24"}}}}, {Name: "d", Kind: "stir", Of: []string{"age"}},
	} {
		_, err := s.Derive(bad)
		assert.ErrorIs(t, err, ErrDerived, "%+v", bad)
	}
}

func TestProfilePointsOutWhatIsOdd(t *testing.T) {
	points := func(spec Spec, cells ...string) string {
		var out []string
		for _, p := range profile(spec, cells).Points {
			out = append(out, fmt.Sprint(p.Text, " ", p.Count, " ", p.Values))
		}
		return strings.Join(out, "; ")
	}
	assert.Equal(
		t, "one value stands more than once, so the column does not name one respondent each 2 [a]; one respondent has none 0 []",
		points(Spec{Role: Identifier}, "a", "b", "a", ""),
	)
	assert.Equal(t, "some cells are no numbers and count as missing 2 [x]", points(Spec{Role: Number}, "1", "x", "2", "x"))
	assert.Equal(t, "dates are written in 2 different ways 0 []", points(Spec{Role: Date, Days: "dmy"}, "2026-03-14", "14/03/2026"))
	assert.Equal(t, "every filled cell says the same 2 [x]", points(Spec{Role: Segment}, "x", "x", ""))
	assert.Equal(
		t, "some values differ in case or blanks only; group them 3 [North north]",
		points(Spec{Role: Segment}, "North", "north", "North", "South"),
	)
	assert.Contains(t, points(Spec{Role: Segment}, "12 min", "12 min", "5 min"), `most values are numbers with the unit "min"`)
	assert.Equal(t, "numbers and words are mixed 1 [none]", points(Spec{Role: Segment}, "1", "2", "none"))
	assert.Equal(t, "some values look like codes for a missing one 1 [99]", points(Spec{Role: Number}, "1", "9", "99"))
	assert.Empty(t, points(Spec{Role: Number}, "97", "98", "99"))
	p := profile(Spec{Role: OpenEnded}, []string{"one two three", "", "one"})
	assert.Equal(t, WordFigures{1, 3, 2}, *p.Words)
	p = profile(Spec{Role: Date}, []string{"2026-01-01", "2026-01-02", "2026-01-02", ""})
	assert.Equal(t, []Bin{{"2026-01-01", "2026-01-01", 1}, {"2026-01-02", "2026-01-02", 2}}, p.Bins)
}

// Each mend adds to what is declared missing by itself, and none to the column's own list.
func TestMendsDoNotShareTheirLists(t *testing.T) {
	missing := make([]string, 1, 8)
	missing[0] = "none"
	p := profile(Spec{Role: Number, Missing: missing}, []string{"1", "2", "x", "99", "none"})
	var mends [][]string
	for _, point := range p.Points {
		mends = append(mends, point.Mend.Missing)
	}
	assert.Equal(t, [][]string{{"none", "x"}, {"none", "99"}}, mends)
	assert.Equal(t, []string{"none"}, p.Missing)
}

func ExampleDerive() {
	score, _ := NewVariable(Spec{Name: "recommend", Role: Number}, []string{"3", "10", "", "8"})
	bands, _ := Derive(Derived{Name: "bands", Kind: "bands", Of: []string{"recommend"}, Edges: []float64{7}, Names: []string{"low", "high"}}, []*Variable{score})
	for _, value := range bands.Values {
		fmt.Println(value, bands.With(value).ToArray())
	}
	// Output:
	// low [0]
	// high [1 3]
}

// profile is that of a column, for one who waits.
func profile(spec Spec, cells []string) Profile {
	p, err := NewProfile(context.Background(), spec, cells)
	if err != nil {
		panic(err)
	}
	return p
}
