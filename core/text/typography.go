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
}

// typography brings text to NFC and reads typographic quotes, dashes, ellipses and spaces as plain ones.
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
		if !known && unicode.Is(unicode.Zs, c) {
			with, known = " ", true
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
