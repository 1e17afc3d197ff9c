package text

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// strokes are Latin letters that Unicode does not take apart into a base letter and a mark.
var strokes = map[rune]string{'ø': "o", 'Ø': "O", 'đ': "d", 'Đ': "D", 'ł': "l", 'Ł': "L", 'ß': "ss", 'æ': "ae", 'Æ': "AE",
	'œ': "oe", 'Œ': "OE", 'þ': "th", 'Þ': "Th", 'ð': "d", 'ı': "i"}

// Fold takes the accents off Latin letters: "café" becomes "cafe". Other scripts stay as they are.
func Fold(s string) string {
	if ascii(s) {
		return s
	}
	r := reading{original: s, text: s}
	foldAccents(&r)
	r.apply()
	return r.text
}

func foldAccents(r *reading) {
	if r.ascii() {
		return
	}
	for i, c := range r.text {
		if c < 0xc0 || c == utf8.RuneError {
			continue
		}
		size := utf8.RuneLen(c)
		switch with, known := strokes[c]; {
		case known:
			r.replace(i, i+size, with)
		case unicode.Is(unicode.Mn, c):
			if c <= 0x36f && i > 0 && unicode.Is(unicode.Latin, lastRune(r.text[:i])) {
				r.replace(i, i+size, "")
			}
		case unicode.Is(unicode.Latin, c):
			base := firstRune(norm.NFD.String(string(c)))
			if base != c {
				r.replace(i, i+size, string(base))
			}
		}
	}
}

// units are what may stay glued to a number: clock times, ordinals, and the measures that survey answers name.
var units = set(`am pm st nd rd th s sec secs min mins h hr hrs d wk wks mo mos yr yrs yo m km cm mm mi mph kmh knots ft in yd g kg mg t lb lbs oz
	l ml cl gal pt qt p k x gb mb tb kb w kw kwh v hz khz mhz ghz mp mah px hp cc pc pcs ct`)

// maxCode is how many letters a code such as V8, B12 or PB2 begins with.
const maxCode = 2

// isCode says whether letters before digits make a code with them: one letter, or two capital ones.
func isCode(letters string) bool {
	n := utf8.RuneCountInString(letters)
	return n == 1 || n <= maxCode && strings.ToUpper(letters) == letters
}

// partGlued parts letters from digits ("bus42"), but leaves a number with its unit whole ("10am"), and a code ("V8").
func partGlued(r *reading) {
	s := r.text
	i := 0
	for i < len(s) && asciiKind[s[i]] != 2 {
		i++
	}
	if i == len(s) { // other scripts' digits are left alone
		return
	}
	for i > 0 && (asciiKind[s[i-1]] != 0 || s[i-1] >= utf8.RuneSelf) {
		i-- // to the beginning of the word
	}
	for i < len(s) {
		c, size := utf8.DecodeRuneInString(s[i:])
		if !wordRune(c) {
			i += size
			continue
		}
		start := i
		var cuts []int
		wasDigit := unicode.IsDigit(c)
		for i < len(s) {
			c, size := utf8.DecodeRuneInString(s[i:])
			if !wordRune(c) {
				break
			}
			if digit := unicode.IsDigit(c); digit != wasDigit && !unicode.Is(unicode.M, c) {
				cuts = append(cuts, i)
				wasDigit = digit
			}
			i += size
		}
		if len(cuts) == 1 && unicode.IsDigit(firstRune(s[start:])) && units[strings.ToLower(s[cuts[0]:i])] {
			continue
		}
		if len(cuts) == 1 && !unicode.IsDigit(firstRune(s[start:])) && isCode(s[start:cuts[0]]) {
			continue
		}
		for _, at := range cuts {
			r.replace(at, at, " ")
		}
	}
}

// shortenRepeats leaves two of three or more of the same letter in a row, case aside.
func shortenRepeats(r *reading) {
	if r.ascii() && !thrice(r.text) {
		return
	}
	run, second, third, last := 0, 0, 0, rune(-1)
	flush := func(end int) {
		if run > 2 { // the second stands for all that follow, so that a word that ends in them is marked whole
			r.replace(second, end, r.text[second:third])
		}
	}
	for i, c := range r.text {
		low := c
		if c < utf8.RuneSelf {
			if c >= 'A' && c <= 'Z' {
				low = c + 'a' - 'A'
			}
		} else {
			low = unicode.ToLower(c)
		}
		if low == last && wordRune(c) && !unicode.IsDigit(c) {
			run++
			switch run {
			case 2:
				second = i
			case 3:
				third = i
			}
			continue
		}
		flush(i)
		run, last = 1, low
	}
	flush(len(r.text))
}

// thrice says whether an ASCII letter stands three times in a row, case aside.
func thrice(s string) bool {
	run := 1
	for i := 1; i < len(s); i++ {
		if s[i]|0x20 != s[i-1]|0x20 || !letter(s[i]) {
			run = 1
		} else if run++; run == 3 {
			return true
		}
	}
	return false
}

// dropNumbers takes numbers out that stand alone, with their decimal signs.
func dropNumbers(r *reading) {
	s := r.text
	for i := 0; i < len(s); {
		c, size := utf8.DecodeRuneInString(s[i:])
		if !wordRune(c) {
			i += size
			continue
		}
		start, digits := i, true
		for i < len(s) {
			c, size := utf8.DecodeRuneInString(s[i:])
			if !wordRune(c) &&
				!(strings.ContainsRune(".,:", c) && i+size < len(s) && unicode.IsDigit(firstRune(s[i+size:])) && unicode.IsDigit(lastRune(s[:i]))) {
				break
			}
			digits = digits && (unicode.IsDigit(c) || !wordRune(c))
			i += size
		}
		if digits {
			r.replace(start, i, "")
		}
	}
}

func dropEmoji(r *reading) {
	for i, c := range r.text {
		if picture(c) || c == '\u200d' || c == '\ufe0f' {
			r.replace(i, i+utf8.RuneLen(c), "")
		}
	}
}
