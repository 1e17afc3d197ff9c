package survey

import (
	"fmt"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
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
			for range rapid.IntRange(0, map[bool]int{true: 3, false: 1}[role == Several]).Draw(t, "values") {
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

func FuzzGuessRole(f *testing.F) {
	f.Add("channels", "App;Phone\nApp\n\nDesk")
	f.Fuzz(func(t *testing.T, name, cells string) {
		column := strings.Split(cells, "\n")
		g := GuessRole(name, column)
		require.Contains(t, Roles, g.Role)
		require.NotEmpty(t, g.Reason)
		// What was guessed can be read as what it was guessed to be.
		_, err := NewVariable(g.Spec, column)
		require.NoError(t, err)
	})
}
