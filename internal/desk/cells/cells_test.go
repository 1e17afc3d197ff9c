package cells

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/survey"
	"aftermath/core/text"
)

// What may be shown of a cell is its text without personal data, as soon as one question asks for that. In columns that hold no
// answers, cells are the same after masking where they were before; numbers are counted as they came.
func TestCellsAgainstMaskingOneByOne(t *testing.T) {
	cell := rapid.SampledFrom([]string{"", "late again", "write to ann@larkmoor.example", "write to ben@larkmoor.example", "ann@larkmoor.example",
		"ben@larkmoor.example", "ring 01632 960123", "ring 01632 960124", "North", "7", "4111 1111 1111 1111"})
	columns := []survey.Spec{{Role: survey.OpenEnded}, {Role: survey.Segment}, {Role: survey.Identifier}, {Role: survey.Number}}
	rapid.Check(t, func(rt *rapid.T) {
		rows := rapid.IntRange(1, 12).Draw(rt, "rows")
		came := make([][]string, len(columns))
		for i := range came {
			came[i] = rapid.SliceOfN(cell, rows, rows).Draw(rt, "cells")
		}
		masking, masked := Masking{}, map[int64]bool{}
		var pass []string
		for range rapid.IntRange(0, 4).Draw(rt, "edits") {
			question, on := rapid.Int64Range(1, 3).Draw(rt, "question"), rapid.Bool().Draw(rt, "on")
			masking, masked[question] = masking.With(question, on, []string{fmt.Sprint("text ", question)}), on
		}
		if masked[1] && rapid.Bool().Draw(rt, "pass") {
			pass = []string{"ann@larkmoor.example"}
			masking = masking.With(1, true, pass)
		}
		any := masked[1] || masked[2] || masked[3]
		c := New(came, func(i int) bool { return columns[i].Role == survey.OpenEnded }, masking)
		m := text.NewMasker(pass)
		for i := range came {
			require.Equal(rt, came[i], c.AsCame(i, ToStore))
			for row := range rows {
				shown := c.Shown(i)[row]
				switch {
				case !any:
					require.Equal(rt, came[i][row], shown)
				case i == 0:
					require.Equal(rt, m.Mask(came[i][row]), shown)
				default:
					require.True(rt, strings.HasPrefix(shown, m.Mask(came[i][row])))
					for other := range rows {
						require.Equal(rt, came[i][row] == came[i][other], shown == c.Shown(i)[other], "different people stay different")
					}
				}
			}
		}
		variables := c.Variables(columns)
		require.Equal(rt, came[3], variables[3])
		for i := range 3 {
			require.True(rt, slices.Equal(c.Shown(i), variables[i]))
		}
	})
}
