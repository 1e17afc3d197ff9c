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
	for i := 0; i < len(s); {
		switch s[i] {
		case '<':
			if end, with, ok := tag(s, i); ok {
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

// tag reads the tag, comment or script that begins at s[at] and says what stands for it.
func tag(s string, at int) (end int, with string, ok bool) {
	rest := s[at:]
	switch {
	case strings.HasPrefix(rest, "<!--"):
		if i := strings.Index(rest, "-->"); i >= 0 {
			return at + i + 3, "", true
		}
		return 0, "", false
	case strings.HasPrefix(rest, "<!"), strings.HasPrefix(rest, "<?"):
		if len(rest) > 2 && letter(rest[2]) {
			if i := strings.IndexByte(rest, '>'); i >= 0 {
				return at + i + 1, "", true
			}
		}
		return 0, "", false
	}
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
			i++
			if rawTags[name] && !closing {
				if j := strings.Index(strings.ToLower(rest[i:]), "</"+name); j >= 0 {
					if k := strings.IndexByte(rest[i+j:], '>'); k >= 0 {
						i += j + k + 1
					}
				}
			}
			if blockTags[name] || rawTags[name] {
				return at + i, "\n", true
			}
			return at + i, "", true
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
