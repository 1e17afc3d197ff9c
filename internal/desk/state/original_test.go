package state

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/text"
)

// An original that is parted loses nothing: its pieces make up what was written and, read, what the markup step reads. Masked, no
// piece shows personal data, whatever it is cut at.
func TestPiecesOfAnOriginal(t *testing.T) {
	markup, err := text.NewPipeline("en", []text.Step{{StepKind: text.MarkupStep{}}})
	require.NoError(t, err)
	words := rapid.SampledFrom([]string{"queue ", "caf&eacute; ", "<b>", "</b>", "<br/>", "&amp;", "&nbsp;", "a < b ", "<a href=\"mailto:", "\">", "</a>",
		" ann@example.net ", "ann&#64;example.net ", " 0300 555 0188 ", "\n", "é", ". "})
	rapid.Check(t, func(rt *rapid.T) {
		original := strings.Join(rapid.SliceOfN(words, 0, 12).Draw(rt, "words"), "")
		plain, masked := NewOriginal(original), NewOriginal(text.NewMasker(nil).Mask(original))
		from := rapid.IntRange(0, len(original)).Draw(rt, "from")
		to := rapid.IntRange(from, len(original)).Draw(rt, "to")
		written, at := "", from
		for _, p := range plain.Pieces(from, to) {
			require.Equal(rt, at, p.Start)
			written, at = written+p.Text, p.End
		}
		require.Equal(rt, original[from:to], written)
		require.Equal(rt, markup.Clean(original).Text, plain.AsRead())
		for _, seen := range []string{masked.Text, masked.AsRead(), masked.Read(min(from, len(masked.Text)), len(masked.Text))} {
			require.NotContains(rt, seen, "ann@", "from %q", original)
			require.NotContains(rt, seen, "ann&#64;", "from %q", original)
			require.NotContains(rt, seen, "0300 555", "from %q", original)
		}
	})
	o := NewOriginal(text.NewMasker(nil).Mask(`<a href="mailto:ann@example.net">ann&#64;example.net</a> said so &amp; left`))
	assert.Equal(t, `<a href="mailto:`+text.MaskSign+`">`+text.MaskSign+`</a> said so &amp; left`, o.Text)
	assert.Equal(t, text.MaskSign+" said so & left", o.AsRead())
}
