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

// split finds the words and sentences of a reading.
func split(r *reading, language string) []Word {
	pieces := make([]piece, 0, len(r.text)/5+1)
	for it := words.FromString(r.text); it.Next(); {
		pieces = appendPieces(pieces, r.text, it.Start(), it.End())
	}
	if len(pieces) == 0 {
		return nil
	}
	out := make([]Word, len(pieces))
	sentence := 0
	for i, p := range pieces {
		if i > 0 && breaksSentence(r.text, pieces[i-1], p, language) {
			sentence++
		}
		start, end := r.span(p.start, p.end)
		surface := strings.ToLower(r.text[p.start:p.end])
		out[i] = Word{Surface: surface, Spelling: surface, Start: start, End: end, Sentence: sentence}
		if r.from != nil {
			out[i].Spelling = spelling(r.original[start:end], surface)
		}
	}
	shareSpans(out)
	return out
}

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
