package text

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/clipperhouse/uax29/v2/words"
	"golang.org/x/text/unicode/norm"
)

// Word is one word of a cleaned answer.
type Word struct {
	Surface  string `json:"surface"`  // in lower case, as the index counts it
	Start    int    `json:"start"`    // where it stands in the original, in bytes (UTF-8)
	End      int    `json:"end"`      // after its last byte
	Sentence int    `json:"sentence"` // from 0
	Spelling string `json:"-"`        // as Surface, with the accents that the respondent gave: what a stemmer needs
}

// piece is a word's place in the cleaned text.
type piece struct{ start, end int }

// split finds the words and sentences of a reading, and appends them to out.
func split(r *reading, language string, out []Word, pieces *[]piece) []Word {
	*pieces = joinTimes(appendWords((*pieces)[:0], r.text), r.text)
	low := ""
	if r.ascii() {
		low = strings.ToLower(r.text) // as long as the text
	}
	first, sentence := len(out), 0
	for i, p := range *pieces {
		if i > 0 && breaksSentence(r.text, (*pieces)[i-1], p, language) {
			sentence++
		}
		start, end := r.span(p.start, p.end)
		w := Word{Start: start, End: end, Sentence: sentence}
		if low != "" {
			w.Surface = low[p.start:p.end]
		} else {
			w.Surface = strings.ToLower(r.text[p.start:p.end])
		}
		w.Spelling = w.Surface
		if r.places != nil {
			w.Spelling = spelling(r.original[start:end], w.Surface)
		}
		out = append(out, w)
	}
	shareSpans(out[first:])
	return out
}

// appendWords finds the words of a text. Most of most texts is ASCII, which takes a shorter way; a blank before an ASCII
// sign that is none is a boundary whatever stands before it, so the two ways can be mixed there.
func appendWords(to []piece, s string) []piece {
	for start := 0; start < len(s); {
		// Up to the last boundary before the next sign that is not ASCII, then up to the first one after it.
		end, boundary := start, start
		for end < len(s) && s[end] < utf8.RuneSelf {
			if blankBefore(s, end) {
				boundary = end
			}
			end++
		}
		if end == len(s) || boundary > start {
			if end < len(s) {
				end = boundary
			}
			to = shifted(asciiPieces(to, s[start:end]), len(to), start)
			start = end
			continue
		}
		for end < len(s) && !blankBefore(s, end) {
			end++
		}
		to = shifted(allPieces(to, s[start:end]), len(to), start)
		start = end
	}
	return to
}

// joinTimes makes one word of a time of day in figures, as 07:15 is, which the standard parts at the colon. It changes the
// pieces.
func joinTimes(pieces []piece, s string) []piece {
	to := 0
	for i := 0; i < len(pieces); i++ {
		p := pieces[i]
		if i+1 < len(pieces) && p.end < len(s) && s[p.end] == ':' && isTime(s[p.start:p.end], pieces[i+1], p.end+1, s) {
			p.end = pieces[i+1].end
			i++
		}
		pieces[to] = p
		to++
	}
	return pieces[:to]
}

// isTime says whether an hour stands before a colon, and minutes, perhaps with am or pm, right after it.
func isTime(hour string, minutes piece, from int, s string) bool {
	digits := func(of string) bool {
		return strings.IndexFunc(of, func(c rune) bool { return c < '0' || c > '9' }) < 0
	}
	if minutes.start != from || len(hour) > 2 || !digits(hour) || minutes.end-from < 2 || !digits(s[from:from+2]) {
		return false
	}
	rest := s[from+2 : minutes.end]
	return rest == "" || strings.EqualFold(rest, "am") || strings.EqualFold(rest, "pm")
}

// blankBefore says whether a blank stands at s[at] before an ASCII sign that is none.
func blankBefore(s string, at int) bool {
	return s[at] == ' ' && at+1 < len(s) && s[at+1] != ' ' && s[at+1] < utf8.RuneSelf
}

// shifted moves the pieces from the first on.
func shifted(pieces []piece, first, by int) []piece {
	for i := first; i < len(pieces); i++ {
		pieces[i].start, pieces[i].end = pieces[i].start+by, pieces[i].end+by
	}
	return pieces
}

// allPieces finds the words of any text.
func allPieces(to []piece, s string) []piece {
	for it := words.FromString(s); it.Next(); {
		to = appendPieces(to, s, it.Start(), it.End())
	}
	return to
}

// asciiPieces finds what allPieces finds, in ASCII text, where the rules come down to a few: a word is a run of letters
// and digits; an apostrophe joins two letters, and like a full stop, comma or semicolon two digits.
func asciiPieces(to []piece, s string) []piece {
	for i := 0; i < len(s); {
		kind := asciiKind[s[i]]
		if kind == 0 {
			if s[i] == '%' || s[i] == '$' {
				to = append(to, piece{i, i + 1})
			}
			i++
			continue
		}
		start := i
		for i++; i < len(s); i++ {
			next := asciiKind[s[i]]
			if next == 0 {
				joins := i+1 < len(s) && asciiKind[s[i+1]] == kind &&
					(s[i] == '\'' || kind == 2 && (s[i] == '.' || s[i] == ',' || s[i] == ';'))
				if !joins {
					break
				}
				continue
			}
			kind = next
		}
		to = append(to, piece{start, i})
	}
	return to
}

// asciiKind tells letters (1) from digits (2) and all else (0).
var asciiKind = func() (k [256]uint8) {
	for c := range 128 {
		switch {
		case letter(byte(c)):
			k[c] = 1
		case '0' <= c && c <= '9':
			k[c] = 2
		}
	}
	return k
}()

// spelling is the original's own form of the word, if folding its accents is all that parts the two.
func spelling(original, surface string) string {
	if ascii(original) {
		return surface
	}
	given := strings.ToLower(norm.NFC.String(original))
	if Fold(given) == surface {
		return given
	}
	return surface
}

// shareSpans gives words whose places in the original overlap one place: they come from one word.
func shareSpans(ws []Word) {
	for i := 1; i < len(ws); i++ {
		if ws[i].Start >= ws[i-1].End {
			continue
		}
		start, end := min(ws[i-1].Start, ws[i].Start), max(ws[i-1].End, ws[i].End)
		first, before := i-1, ws[i-1]
		for first > 0 && ws[first-1].Start == before.Start && ws[first-1].End == before.End {
			first--
		}
		for j := first; j <= i; j++ {
			ws[j].Start, ws[j].End = start, end
		}
	}
}

// appendPieces adds the words in one UAX #29 segment. Ours differ from the standard's in that a full stop, colon or
// underscore between letters parts words, and that currency and percent signs and emoji are words.
func appendPieces(to []piece, s string, start, end int) []piece {
	seg := s[start:end]
	first := firstRune(seg)
	if !strings.ContainsFunc(seg, wordRune) {
		if first == '%' || picture(first) || first >= utf8.RuneSelf && unicode.Is(unicode.Sc, first) || first == '$' {
			return append(to, piece{start, end})
		}
		return to
	}
	if strings.IndexAny(seg, ".:_") < 0 {
		return append(to, piece{start, end})
	}
	at := 0
	for i := range len(seg) {
		parts := seg[i] == '_' ||
			(seg[i] == '.' || seg[i] == ':') && unicode.IsLetter(lastRune(seg[:i])) && unicode.IsLetter(firstRune(seg[i+1:]))
		if parts {
			if i > at {
				to = append(to, piece{start + at, start + i})
			}
			at = i + 1
		}
	}
	if at < len(seg) {
		to = append(to, piece{start + at, end})
	}
	return to
}

// abbreviations after which a full stop ends no sentence, per language.
var abbreviations = map[string]map[string]bool{
	"en": set("mr mrs ms dr prof sr jr vs approx incl dept est tel ext"),
	"de": set("bzw ca dr hr fr inkl nr str usw vgl zzgl"),
	"fr": set("mme mlle dr env tél"),
}

const (
	enders  = ".!?…"
	closers = `"')]}»”’`
)

// breaksSentence says whether a sentence ends between two neighbouring words.
func breaksSentence(s string, a, b piece, language string) bool {
	gap := s[a.end:b.start]
	if gap == " " {
		return false
	}
	if strings.ContainsAny(gap, "\n\r") {
		return true
	}
	if gap == "." {
		return wide(s[a.start:a.end]) && wide(s[b.start:b.end])
	}
	for i := 0; i < len(gap); {
		c, size := utf8.DecodeRuneInString(gap[i:])
		if !strings.ContainsRune(enders, c) {
			i += size
			continue
		}
		run := i
		for i < len(gap) {
			c, size := utf8.DecodeRuneInString(gap[i:])
			if !strings.ContainsRune(enders, c) {
				break
			}
			i += size
		}
		single := gap[run:i] == "." && run == 0
		i += len(gap[i:]) - len(strings.TrimLeft(gap[i:], closers))
		if i < len(gap) && !unicode.IsSpace(firstRune(gap[i:])) {
			continue
		}
		if i == len(gap) {
			continue // glued to the next word: only the lone full stop above parts there
		}
		if single && abbreviated(s[a.start:a.end], s[b.start:b.end], language) {
			continue
		}
		return true
	}
	return false
}

// wide says whether the word has two letters or more and no digit.
func wide(w string) bool {
	n := 0
	for _, c := range w {
		if unicode.IsDigit(c) {
			return false
		}
		n++
	}
	return n >= 2
}

// abbreviated says whether the full stop after word is that of an abbreviation or an initial.
func abbreviated(word, next, language string) bool {
	low := strings.ToLower(word)
	if low == "no" {
		return unicode.IsDigit(firstRune(next))
	}
	if abbreviations[language][low] {
		return true
	}
	c, size := utf8.DecodeRuneInString(word)
	return size == len(word) && unicode.IsLetter(c) && c != 'I' && c != 'i'
}
