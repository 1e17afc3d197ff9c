// Package naming is the one grammar for names and paths of names, in rules, files and messages: names are separated by "/", and a
// name with a special sign in it, or a blank at an end, stands in quotes, with each quote inside it written twice:
// People / "Food / drink" / "The ""Swan""".
package naming

import (
	"strings"
	"unicode"
)

// Separator parts the names of a path.
const Separator = '/'

// IsQuote says whether a sign opens and closes a quoted name: the straight quote, and what word processors make of it.
func IsQuote(c rune) bool { return strings.ContainsRune(`"“”„«»`, c) }

// Quoted writes a name in quotes.
func Quoted(name string) string {
	var b strings.Builder
	b.WriteByte('"')
	for _, c := range name {
		if b.WriteRune(c); IsQuote(c) {
			b.WriteRune(c)
		}
	}
	b.WriteByte('"')
	return b.String()
}

// Write writes a name, in quotes where it has to be: if it is empty, has white space at an end, holds a separator or a quote,
// or a sign that is special where it is written.
func Write(name string, special func(c rune) bool) string {
	if name == "" || name != strings.TrimSpace(name) || strings.ContainsFunc(name, func(c rune) bool {
		return c == Separator || IsQuote(c) || special != nil && special(c)
	}) {
		return Quoted(name)
	}
	return name
}

// Path writes a path as people read it.
func Path(names []string) string { return PathOf(names, nil) }

// PathOf writes a path where some signs are special.
func PathOf(names []string, special func(c rune) bool) string {
	out := make([]string, len(names))
	for i, name := range names {
		out[i] = Write(name, special)
	}
	return strings.Join(out, " / ")
}

// Name is a name that was read.
type Name struct {
	Text   string
	Quoted bool
	End    int  // the rune after it and the white space that follows: one of the ends, or the end of the text
	Closed bool // its quote is closed, and nothing but white space stands after it
}

// Read reads the name that begins at a rune, up to a sign of ends outside quotes.
func Read(src []rune, at int, ends string) Name {
	for at < len(src) && unicode.IsSpace(src[at]) {
		at++
	}
	if at == len(src) || !IsQuote(src[at]) {
		end := at
		for end < len(src) && !strings.ContainsRune(ends, src[end]) {
			end++
		}
		return Name{Text: strings.TrimSpace(string(src[at:end])), End: end, Closed: true}
	}
	n := readQuoted(src, at)
	rest := n.End
	for n.End < len(src) && !strings.ContainsRune(ends, src[n.End]) {
		n.End++
	}
	if n.Closed && strings.TrimSpace(string(src[rest:n.End])) != "" {
		n.Closed = false
	}
	return n
}

// readQuoted reads the quoted name that begins at a rune; its end is the rune after the closing quote.
func readQuoted(src []rune, at int) Name {
	n := Name{Quoted: true}
	var b strings.Builder
	for at++; at < len(src); at++ {
		if IsQuote(src[at]) {
			if at+1 == len(src) || src[at+1] != src[at] {
				n.Closed = true
				at++
				break
			}
			at++ // written twice: the second one
		}
		b.WriteRune(src[at])
	}
	n.Text, n.End = b.String(), at
	return n
}

// ReadQuoted reads a quoted name at a rune, which must be a quote.
func ReadQuoted(src []rune, at int) Name { return readQuoted(src, at) }

// ReadPath reads names separated by separators from a rune up to a sign of ends outside quotes. Ok is false if a quote is not
// closed, or something stands beside a quoted name.
func ReadPath(src []rune, at int, ends string) (names []string, end int, ok bool) {
	ok = true
	for {
		n := Read(src, at, ends+string(Separator))
		names, ok = append(names, n.Text), ok && n.Closed
		if n.End == len(src) || src[n.End] != Separator {
			return names, n.End, ok
		}
		at = n.End + 1
	}
}

// ParsePath reads a path that fills a text. Ok is false for a text that is none: with an empty name outside quotes, a quote that
// is not closed, or something beside a quoted name.
func ParsePath(text string) (names []string, ok bool) {
	names, _, ok = ReadPath([]rune(text), 0, "")
	for _, name := range names {
		ok = ok && name != ""
	}
	return names, ok
}
