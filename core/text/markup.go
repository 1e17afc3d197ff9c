package text

import (
	"html"
	"strings"
)

// blockTags part words and sentences; every other tag is taken out without a trace.
var blockTags = map[string]bool{"address": true, "article": true, "aside": true, "blockquote": true, "br": true,
	"dd": true, "div": true, "dl": true, "dt": true, "footer": true, "form": true, "h1": true, "h2": true, "h3": true,
	"h4": true, "h5": true, "h6": true, "header": true, "hr": true, "li": true, "main": true, "nav": true, "ol": true,
	"option": true, "p": true, "pre": true, "section": true, "table": true, "td": true, "th": true, "tr": true, "ul": true}

// rawTags hold what is no text at all.
var rawTags = map[string]bool{"script": true, "style": true}

// markup takes HTML and XML tags out, drops comments and scripts, and decodes entities. A "<" that begins no tag
// ("price < 20", "<3") stays.
func markup(r *reading) {
	s := r.text
	if strings.IndexByte(s, '<') < 0 && strings.IndexByte(s, '&') < 0 {
		return
	}
	t := tags{text: s}
	for i := 0; i < len(s); {
		switch s[i] {
		case '<':
			if end, with, ok := t.tag(i); ok {
				r.replace(i, end, with)
				i = end
				continue
			}
		case '&':
			if end, with, ok := entity(s, i); ok {
				r.replace(i, end, with)
				i = end
				continue
			}
		}
		i++
	}
}

// entities decodes entities, wherever they stand.
func entities(r *reading) {
	for at := 0; ; {
		i := strings.IndexByte(r.text[at:], '&')
		if i < 0 {
			return
		}
		at += i
		end, with, ok := entity(r.text, at)
		if !ok {
			end = at + 1
		} else {
			r.replace(at, end, with)
		}
		at = end
	}
}

// Markup lists the tags, comments and entities of an original, in order, with what people read in their place.
func Markup(original string) []Mark {
	var r reading
	r.start(original)
	markup(&r)
	out := make([]Mark, len(r.edits))
	for i, e := range r.edits {
		out[i] = Mark{e.start, e.end, e.with}
	}
	return out
}

// tags reads the tags of one text. What was looked for and is not there is not looked for again, so that the time stays in
// proportion to the text, whatever stands in it.
type tags struct {
	text   string
	low    string         // the text in small letters, made when it is first needed
	absent map[string]int // by what was looked for: from there on it is not in the text
}

// after gives the place behind the first occurrence of a sign at or after a place, -1 if there is none.
func (t *tags) after(at int, sign string) int {
	if from, known := t.absent[sign]; known && at >= from {
		return -1
	}
	if i := strings.Index(t.text[at:], sign); i >= 0 {
		return at + i + len(sign)
	}
	if t.absent == nil {
		t.absent = map[string]int{}
	}
	t.absent[sign] = at
	return -1
}

// closing gives the place behind the closing tag of a raw one at or after a place, -1 if there is none.
func (t *tags) closing(at int, name string) int {
	if t.low == "" {
		t.low = lowASCII(t.text)
	}
	low := tags{text: t.low, absent: t.absent}
	i := low.after(at, "</"+name)
	if t.absent = low.absent; i < 0 {
		return -1
	}
	return t.after(i, ">")
}

// lowASCII is a text of the same length with ASCII letters made small.
func lowASCII(s string) string {
	out := []byte(s)
	for i, c := range out {
		if 'A' <= c && c <= 'Z' {
			out[i] = c + 'a' - 'A'
		}
	}
	return string(out)
}

// maxTag is how long a tag may be, in bytes: a longer one is none.
const maxTag = 1 << 12

// tag reads the tag, comment or script that begins at a place and says what stands for it.
func (t *tags) tag(at int) (end int, with string, ok bool) {
	rest := t.text[at:]
	switch {
	case strings.HasPrefix(rest, "<!--"):
		end := t.after(at, "-->")
		return end, "", end >= 0
	case strings.HasPrefix(rest, "<!"), strings.HasPrefix(rest, "<?"):
		if len(rest) > 2 && letter(rest[2]) {
			end := t.after(at, ">")
			return end, "", end >= 0
		}
		return 0, "", false
	}
	rest = rest[:min(len(rest), maxTag)]
	i := 1
	closing := i < len(rest) && rest[i] == '/'
	if closing {
		i++
	}
	start := i
	for i < len(rest) && (letter(rest[i]) || i > start && (rest[i] >= '0' && rest[i] <= '9' || strings.IndexByte("-:_", rest[i]) >= 0)) {
		i++
	}
	if i == start || i == len(rest) || !strings.ContainsRune(" \t\r\n/>", rune(rest[i])) {
		return 0, "", false
	}
	name := strings.ToLower(rest[start:i])
	for quote := byte(0); i < len(rest); i++ {
		switch c := rest[i]; {
		case quote != 0:
			if c == quote {
				quote = 0
			}
		case (c == '"' || c == '\'') && rest[i-1] == '=':
			quote = c
		case c == '<':
			return 0, "", false // "<b and then <c>": the first one was no tag
		case c == '>':
			end = at + i + 1
			if rawTags[name] && !closing {
				if after := t.closing(end, name); after >= 0 {
					end = after
				}
			}
			if blockTags[name] || rawTags[name] {
				with = "\n"
			}
			return end, with, true
		}
	}
	return 0, "", false
}

func letter(c byte) bool { return 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' }

// bareEntities are read without their semicolon too: exports often lose it.
var bareEntities = []string{"nbsp", "quot", "amp"}

// entity reads the character reference that begins at s[at]. One that was encoded twice ("&amp;nbsp;") is decoded twice.
func entity(s string, at int) (end int, with string, ok bool) {
	i := at + 1
	for i < len(s) && i-at < 34 && (letter(s[i]) || s[i] >= '0' && s[i] <= '9' || s[i] == '#') {
		i++
	}
	name := s[at+1 : i]
	if i < len(s) && s[i] == ';' {
		if with = html.UnescapeString(s[at : i+1]); with != s[at:i+1] {
			if with == "&" {
				if end, inner, ok := entity("&"+s[i+1:min(len(s), i+40)], 0); ok && end > 1 {
					return i + end, inner, true
				}
			}
			return i + 1, with, true
		}
		return 0, "", false
	}
	for _, bare := range bareEntities {
		if name == bare {
			return i, html.UnescapeString("&" + bare + ";"), true
		}
	}
	return 0, "", false
}
