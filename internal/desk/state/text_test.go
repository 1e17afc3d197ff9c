package state

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/text"
)

// A stretch of an answer shows each sign that is in no personal data, and a mask where such data begins: nothing of data
// that begins before it or ends after it.
func TestCutAgainstGoingThroughTheSigns(t *testing.T) {
	part := rapid.SampledFrom([]string{"late ", "a@larkmoor.example", "01632 960123", " and ", "+44 1632 960123", "x"})
	rapid.Check(t, func(t *rapid.T) {
		whole := strings.Join(rapid.SliceOfN(part, 0, 6).Draw(t, "parts"), " ")
		start := rapid.IntRange(0, len(whole)).Draw(t, "start")
		end := rapid.IntRange(start, len(whole)).Draw(t, "end")
		personal := text.NewMasker(nil).Find(whole)
		want := ""
		for i := start; i < end; i++ {
			sign := whole[i : i+1]
			for _, p := range personal {
				switch {
				case i == p.Start:
					sign = text.MaskSign
				case p.Start < i && i < p.End:
					sign = ""
				}
			}
			want += sign
		}
		require.Equal(t, want, Original{Unmasked: whole, masked: personal}.Cut(start, end))
	})
}
