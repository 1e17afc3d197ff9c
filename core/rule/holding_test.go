package rule

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestHolding(t *testing.T) {
	for src, want := range map[string][]string{
		"a1 / b1":                         {},
		"queue":                           {},
		"late / slow + driver / crew":     {"late / slow 1", "driver / crew 1"},
		"late + slow - bus":               {"late + slow 1"},
		"@crew +6w kind -<3w @negators":   {"kind -<3w @negators 1"},
		"ab / (cd / ef) +4w gh":           {"ab / (cd / ef) 2", "cd / ef 1"},
		"(ab + cd) / ef + gh":             {"(ab + cd) / ef 2", "ab + cd 1"},
		"2 of (slow / late) + long queue": {"slow / late 1", "long queue 1"},
		"((":                              {},
	} {
		got := []string{}
		for _, h := range Holding(src) {
			got = append(got, string([]rune(src)[h.Start:h.End])+" "+string(rune('0'+h.Depth)))
		}
		assert.Equal(t, want, got, src)
	}
}
