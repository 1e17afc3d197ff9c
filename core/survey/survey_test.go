package survey

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

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
		got := GuessRole(c.name, c.cells)
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

func TestBadCellNamesRowAndColumn(t *testing.T) {
	_, err := NewVariable(Spec{Name: "age", Role: Number}, []string{"1", "x"})
	assert.EqualError(t, err, `row 3, column "age": value "x" is no number`)
	_, err = NewVariable(Spec{Name: "w", Role: Weight}, []string{"-1"})
	assert.ErrorIs(t, err, ErrValue)
}
