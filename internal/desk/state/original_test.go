package state

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/text"
)

// An original that is parted loses nothing: its pieces make up what was written and, read, what the markup step reads. Masked, no
// piece shows personal data, whatever it is cut at.
func TestPiecesOfAnOriginal(t *testing.T) {
	markup, err := text.NewPipeline("en", []text.Step{{ID: "markup"}})
	require.NoError(t, err)
	shown := func(original string, mask bool) Original {
		p := playbook.New("en")
		p.Mask = mask
		return (&State{Scheme: scheme.Scheme{Playbook: p}}).Shown(original)
	}
	words := rapid.SampledFrom([]string{"queue ", "caf&eacute; ", "<b>", "</b>", "<br/>", "&amp;", "&nbsp;", "a < b ", "<a href=\"mailto:", "\">", "</a>",
		" ann@example.net ", "ann&#64;example.net ", " 0300 555 0188 ", "\n", "é", ". "})
	rapid.Check(t, func(rt *rapid.T) {
		original := strings.Join(rapid.SliceOfN(words, 0, 12).Draw(rt, "words"), "")
		plain, masked := shown(original, false), shown(original, true)
		from := rapid.IntRange(0, len(original)).Draw(rt, "from")
		to := rapid.IntRange(from, len(original)).Draw(rt, "to")
		written, at := "", from
		for _, p := range plain.Pieces(from, to) {
			require.Equal(rt, at, p.Start)
			written, at = written+p.Text, p.End
		}
		require.Equal(rt, original[from:to], written)
		require.Equal(rt, markup.Clean(original).Text, plain.Read(0, len(original)))
		for _, seen := range []string{masked.All(), masked.Read(0, len(original)), masked.Read(from, to), masked.Cut(from, to)} {
			require.NotContains(rt, seen, "ann@", "from %q", original)
			require.NotContains(rt, seen, "ann&#64;", "from %q", original)
			require.NotContains(rt, seen, "0300 555", "from %q", original)
		}
	})
	o := shown(`<a href="mailto:ann@example.net">ann&#64;example.net</a> said so &amp; left`, true)
	assert.Equal(t, `<a href="mailto:`+text.MaskSign+`">`+text.MaskSign+`</a> said so &amp; left`, o.All())
	assert.Equal(t, text.MaskSign+" said so & left", o.Read(0, len(o.Unmasked)))
}
