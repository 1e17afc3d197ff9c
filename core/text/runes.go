package text

import (
	"unicode"
	"unicode/utf8"
)

// wordRune says whether c can be part of a word.
func wordRune(c rune) bool {
	if c < utf8.RuneSelf {
		return 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' || '0' <= c && c <= '9'
	}
	return c != utf8.RuneError && (unicode.IsLetter(c) || unicode.IsDigit(c) || unicode.Is(unicode.M, c))
}

func firstRune(s string) rune { c, _ := utf8.DecodeRuneInString(s); return c }
func lastRune(s string) rune  { c, _ := utf8.DecodeLastRuneInString(s); return c }

func ascii(s string) bool {
	for i := range len(s) {
		if s[i] >= utf8.RuneSelf {
			return false
		}
	}
	return true
}

// pictures are the blocks that hold the emoji: symbols that respondents use as words. Letters, arrows, box drawing and
// typographic signs are left out.
var pictures = &unicode.RangeTable{
	R16: []unicode.Range16{
		{Lo: 0x231a, Hi: 0x231b, Stride: 1}, {Lo: 0x23e9, Hi: 0x23f3, Stride: 1}, {Lo: 0x2600, Hi: 0x27bf, Stride: 1},
		{Lo: 0x2b05, Hi: 0x2b07, Stride: 1}, {Lo: 0x2b1b, Hi: 0x2b1c, Stride: 1}, {Lo: 0x2b50, Hi: 0x2b55, Stride: 5},
	},
	R32: []unicode.Range32{
		{Lo: 0x1f000, Hi: 0x1f0ff, Stride: 1}, {Lo: 0x1f170, Hi: 0x1f1ff, Stride: 1}, {Lo: 0x1f200, Hi: 0x1faff, Stride: 1},
	},
}

func picture(c rune) bool { return c > 0x2000 && unicode.Is(pictures, c) }
