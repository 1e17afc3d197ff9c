package text

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// plainSigns are what typographic signs are read as.
var plainSigns = map[rune]string{
	'‘': "'", '’': "'", '‚': "'", '‛': "'", '′': "'", 'ʼ': "'", '`': "'", '´': "'", '‹': "'", '›': "'",
	'“': `"`, '”': `"`, '„': `"`, '‟': `"`, '″': `"`, '«': `"`, '»': `"`,
	'‐': "-", '‑': "-", '‒': "-", '–': "-", '—': "-", '―': "-", '−': "-",
	'…':      "...",
	'\u00ad': "", '\u200b': "", '\u200e': "", '\u200f': "", '\u2060': "", '\ufeff': "",
	'\u2028': "\n", '\u2029': "\n", '\u0085': "\n",
	'ﬀ': "ff", 'ﬁ': "fi", 'ﬂ': "fl", 'ﬃ': "ffi", 'ﬄ': "ffl", 'ﬅ': "st", 'ﬆ': "st",
}

// fullWidth is by how much the wide forms of ASCII signs (U+FF01 to U+FF5E) stand behind them.
const fullWidth = 0xfee0

// typography brings text to NFC and reads typographic quotes, dashes, ellipses, spaces, ligatures and wide letters as plain ones.
func typography(r *reading) {
	if r.ascii() && strings.IndexByte(r.text, '`') < 0 {
		return
	}
	composed := compose(r)
	for i, c := range r.text {
		if c < utf8.RuneSelf && c != '`' {
			continue
		}
		with, known := plainSigns[c]
		switch {
		case known:
		case unicode.Is(unicode.Zs, c):
			with, known = " ", true
		case c > fullWidth && c-fullWidth > ' ' && c-fullWidth < 0x7f:
			with, known = string(c-fullWidth), true
		}
		if known {
			r.replace(i, i+utf8.RuneLen(c), with)
		}
	}
	if composed && len(r.edits) == 0 {
		r.edits = append(r.edits, edit{})
	}
}

// compose brings the text to NFC and says whether that changed it.
func compose(r *reading) bool {
	if norm.NFC.IsNormalString(r.text) {
		return false
	}
	var it norm.Iter
	it.InitString(norm.NFC, r.text)
	for !it.Done() {
		start := it.Pos()
		with := string(it.Next())
		r.replace(start, it.Pos(), with)
	}
	return r.apply()
}
