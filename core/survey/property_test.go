package survey

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"gonum.org/v1/gonum/stat"
	"pgregory.net/rapid"
)

// A condition selects the respondents that reading cell by cell selects; "!=" is the opposite of "=" among those with a
// value; a missing value satisfies only "= missing".
func TestSelectAgainstReadingCells(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		role := rapid.SampledFrom([]Role{Segment, Several, Number, Date, Wave}).Draw(t, "role")
		value := func() string {
			switch role {
			case Number:
				return strconv.Itoa(rapid.IntRange(-3, 12).Draw(t, "number"))
			case Date:
				return fmt.Sprintf("2026-%02d-%02d", rapid.IntRange(1, 3).Draw(t, "month"), rapid.IntRange(1, 28).Draw(t, "day"))
			}
			return rapid.SampledFrom([]string{"Day", "Season", "Ten-trip"}).Draw(t, "value")
		}
		var cells []string
		for range rapid.IntRange(1, 30).Draw(t, "respondents") {
			var parts []string
			most := 1
			if role == Several {
				most = 3
			}
			for range rapid.IntRange(0, most).Draw(t, "values") {
				parts = append(parts, value())
			}
			cells = append(cells, strings.Join(parts, "; "))
		}
		v, err := NewVariable(Spec{Name: "x", Role: role, Delimiter: ";"}, cells)
		require.NoError(t, err)
		op := rapid.SampledFrom([]string{"=", "!=", "<", "<=", ">", ">="}).Draw(t, "op")
		asked := value()
		set, err := v.Select(op, []string{asked}, len(cells))
		if err != nil {
			require.ErrorIs(t, err, ErrValue)
			return // a value nobody has, or an order among names
		}
		for i, cell := range cells {
			want := false
			for part := range strings.SplitSeq(cell, ";") {
				if part = strings.TrimSpace(part); part == "" {
					continue
				}
				less, same := part < asked, part == asked // ISO dates are in the order of the alphabet
				if role == Number {
					x, _ := strconv.Atoi(part)
					y, _ := strconv.Atoi(asked)
					less, same = x < y, x == y
				}
				want = want || map[string]bool{"=": same, "!=": same, "<": less, "<=": less || same, ">": !less && !same, ">=": !less}[op]
			}
			if op == "!=" {
				want = cell != "" && !want
			}
			require.Equal(t, want, set.Contains(uint32(i)), "%s %s %q for %q", role, op, asked, cell)
		}
		missing, err := v.Select("=", []string{Missing}, len(cells))
		require.NoError(t, err)
		for i, cell := range cells {
			require.Equal(t, cell == "", missing.Contains(uint32(i)))
		}
	})
}

// Bands, periods and groups put every respondent with a value into one value, the one that its definition names, and
// nobody else anywhere; pairs hold who is in both.
func TestDerivedAgainstTheirDefinitions(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 40).Draw(t, "respondents")
		scores, days, routes := make([]string, n), make([]string, n), make([]string, n)
		for i := range n {
			scores[i] = rapid.SampledFrom([]string{"", "-2", "0", "3", "6", "6.5", "7", "10", "11", "odd"}).Draw(t, "score")
			days[i] = rapid.SampledFrom(
				[]string{"", "2024-12-30", "2025-01-01", "2025-03-31", "2025-04-01", "2026-12-31", "2027-01-03", "2025-04-01T18:30:00"},
			).Draw(t, "day")
			routes[i] = rapid.SampledFrom([]string{"", "North", "South", "West", "Sound"}).Draw(t, "route")
		}
		columns := []Spec{{Name: "score", Role: Number}, {Name: "day", Role: Date}, {Name: "route", Role: Segment}}
		made := []Derived{
			{Name: "band", Kind: "bands", Of: []string{"score"}, Edges: []float64{0, 6.5, 10}, Names: []string{"a", "b", "c", "d"}},
			{Name: "equal", Kind: "bands", Of: []string{"score"}, Equal: rapid.IntRange(2, 5).Draw(t, "bands")},
			{Name: "quarter", Kind: "periods", Of: []string{"day"}, Period: "quarter"},
			{Name: "week", Kind: "periods", Of: []string{"day"}, Period: "week"},
			{Name: "weekday", Kind: "periods", Of: []string{"day"}, Period: "weekday"},
			{Name: "stretch", Kind: "bands", Of: []string{"day"}, Dates: []string{"2025-01-01", "2026-01-01"}},
			{
				Name:   "side",
				Kind:   "groups",
				Of:     []string{"route"},
				Groups: []Group{{"Up", []string{"North"}}, {"Down", []string{"South", "West"}}},
			},
			{Name: "both", Kind: "pairs", Of: []string{"band", "side"}},
		}
		s, err := Build(columns, made, [][]string{scores, days, routes}, Set{})
		require.NoError(t, err)
		require.Empty(t, s.Failed)
		if hour, err := s.Derive(Derived{Name: "hour", Kind: "periods", Of: []string{"day"}, Period: "hour"}); err == nil {
			s.Variables = append(s.Variables, hour)
		}
		find := func(name string) *Variable { v, ok := s.Find(name); require.True(t, ok); return v }
		of := func(v *Variable, i int) string {
			var in []string
			for _, value := range v.Values {
				if v.With(value).Contains(uint32(i)) {
					in = append(in, value)
				}
			}
			require.LessOrEqual(t, len(in), 1, "%s: respondent %d", v.Name, i)
			require.Equal(t, len(in) == 1, v.Filled().Contains(uint32(i)))
			return strings.Join(in, "")
		}
		for i := range n {
			band := ""
			if x, err := strconv.ParseFloat(scores[i], 64); err == nil {
				switch {
				case x < 0:
					band = "a"
				case x < 6.5:
					band = "b"
				case x < 10:
					band = "c"
				default:
					band = "d"
				}
			}
			require.Equal(t, band, of(find("band"), i))
			require.Equal(t, band != "", of(find("equal"), i) != "")
			quarter, week, weekday, stretch := "", "", "", ""
			day, _, _ := strings.Cut(days[i], "T")
			if d, err := time.Parse(time.DateOnly, day); err == nil {
				weekday = d.Weekday().String()
				switch {
				case day < "2025-01-01":
					stretch = "before 1 Jan 2025"
				case day < "2026-01-01":
					stretch = "1 Jan 2025 to 31 Dec 2025"
				default:
					stretch = "from 1 Jan 2026"
				}
				quarter = fmt.Sprintf("%d Q%d", d.Year(), 1+int(d.Month()-1)/3)
				y, w := d.ISOWeek()
				week = fmt.Sprintf("%d-W%02d", y, w)
			}
			require.Equal(t, quarter, of(find("quarter"), i))
			require.Equal(t, week, of(find("week"), i))
			require.Equal(t, weekday, of(find("weekday"), i))
			require.Equal(t, stretch, of(find("stretch"), i))
			if hour, ok := s.Find("hour"); ok {
				require.Equal(t, map[bool]string{true: "18:00"}[strings.Contains(days[i], "T")], of(hour, i))
			} else {
				require.NotContains(t, days[i], "T")
			}
			side := map[string]string{"": "", "North": "Up", "South": "Down", "West": "Down", "Sound": "Sound"}[routes[i]]
			require.Equal(t, side, of(find("side"), i))
			both := ""
			if band != "" && side != "" {
				both = band + " · " + side
			}
			require.Equal(t, both, of(find("both"), i))
		}
		// Bands of equal counts are in order, and none is empty.
		low := math.Inf(-1)
		for _, value := range find("equal").Values {
			numbers := []float64{}
			for it := find("equal").With(value).Iterator(); it.HasNext(); {
				numbers = append(numbers, find("score").Numbers[it.Next()])
			}
			if find("score").Filled().IsEmpty() {
				break
			}
			require.NotEmpty(t, numbers)
			require.Greater(t, slices.Min(numbers), low)
			low = slices.Max(numbers)
		}
	})
}

// A profile counts what counting cell by cell counts.
func TestProfileAgainstCounting(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		cells := rapid.SliceOfN(
			rapid.SampledFrom([]string{"", " ", "1", " 2 ", "2", "30", "x", "99", "A;B", "B; A;A"}), 1, 60,
		).Draw(t, "cells")
		role := rapid.SampledFrom([]Role{Segment, Several, Number, OpenEnded, Identifier, LeftOut}).Draw(t, "role")
		p := profile(Spec{Name: "x", Role: role, Delimiter: ";", Missing: []string{"99"}}, cells)
		filled, declared, counts := 0, 0, map[string]int{}
		for _, c := range cells {
			c = strings.TrimSpace(c)
			switch {
			case c == "":
			case c == "99":
				declared++
			default:
				filled++
				seen := map[string]bool{}
				for part := range strings.SplitSeq(c, map[bool]string{true: ";", false: "\x00"}[role == Several]) {
					if part = strings.TrimSpace(part); !seen[part] {
						seen[part] = true
						counts[part]++
					}
				}
			}
		}
		require.Equal(t, []int{filled, declared}, []int{p.Filled, p.Declared})
		if role == Number {
			var all []float64
			for _, c := range cells {
				if x, err := strconv.ParseFloat(strings.TrimSpace(c), 64); err == nil && x != 99 {
					all = append(all, x)
				}
			}
			if len(all) == 0 {
				require.Nil(t, p.Figures)
			} else {
				slices.Sort(all)
				mean, spread := stat.MeanStdDev(all, nil)
				require.InDelta(t, mean, p.Figures.Mean, 1e-9)
				require.InDelta(t, (all[(len(all)-1)/2]+all[len(all)/2])/2, p.Figures.Median, 1e-9)
				require.Equal(t, []float64{all[0], all[len(all)-1]}, []float64{p.Figures.Least, p.Figures.Most})
				if len(all) > 1 {
					require.InDelta(t, spread, p.Figures.Spread, 1e-9)
				}
			}
		}
		for _, v := range p.Top {
			if v.Value != "99" {
				require.Equal(t, counts[v.Value], v.Count, v.Value)
			}
		}
	})
}

func FuzzGuessRole(f *testing.F) {
	f.Add("channels", "App;Phone\nApp\n\nDesk")
	f.Fuzz(func(t *testing.T, name, cells string) {
		column := strings.Split(cells, "\n")
		g := guessRole(name, column)
		require.Contains(t, Roles, g.Role)
		require.NotEmpty(t, g.Reason)
		// What was guessed can be read as what it was guessed to be.
		_, err := NewVariable(g.Spec, column)
		require.NoError(t, err)
	})
}
