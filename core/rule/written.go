package rule

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Written is a rule as it is written: what its parts look like, and what is made of them. It says nothing of what the rule finds.
type Written struct {
	Spans       []Span   `json:"spans" doc:"ascending, without overlaps; words, and the blanks between, are in none"`
	Rule        string   `json:"rule" doc:"without its note"`
	Note        string   `json:"note" doc:"without its sign; empty if it has none"`
	Alternative string   `json:"alternative" doc:"as it stands among others with / between them"`
	Name        string   `json:"name" doc:"its first words, for a category that is made of it; empty if it has none"`
	Terms       []string `json:"terms" doc:"where it is words, or rows of them, with / between them and nothing else: these"`
}

// Span is a stretch of a rule.
type Span struct {
	Start int    `json:"start" doc:"in runes of the source"`
	End   int    `json:"end"`
	Kind  string `json:"kind" enum:"joint,list,name,quote,bracket,note"`
}

// Kinds of spans.
const (
	SpanJoint   = "joint"
	SpanList    = "list"
	SpanName    = "name" // of a category, or a condition on respondents
	SpanQuote   = "quote"
	SpanBracket = "bracket"
	SpanNote    = "note"
)

// spanKinds are the kinds of spans of tokens; those that are not here are in none.
var spanKinds = map[kind]string{
	quote: SpanQuote, regex: SpanQuote, list: SpanList, category: SpanName, condition: SpanName, count: SpanJoint, slash: SpanJoint,
	plus: SpanJoint, minus: SpanJoint, reach: SpanJoint, open: SpanBracket, closing: SpanBracket,
}

// nameWords is how many words or quotes name a rule.
const nameWords = 2

// Read says how a rule is written. Any text can be read; what can't be parsed stands among alternatives between brackets, and of a
// text longer than MaxLength nothing is said.
func Read(src string) Written {
	w := Written{Spans: []Span{}, Terms: []string{}}
	if len(src) > MaxLength {
		w.Rule, w.Alternative = src, "("+src+")"
		return w
	}
	tokens, _ := scan(src)
	runes := []rune(src)
	onlyTerms := true
	for _, t := range tokens {
		if k, ok := spanKinds[t.kind]; ok {
			w.Spans = append(w.Spans, Span{t.start, t.end, k})
		}
		switch t.kind {
		case word, quote, slash, end:
		default:
			onlyTerms = false
		}
	}
	last := tokens[len(tokens)-1].start
	if last < len(runes) {
		w.Spans = append(w.Spans, Span{last, len(runes), SpanNote})
	}
	w.Rule, w.Note = Note(src)
	w.Name = nameOf(tokens)
	n, problems := Parse(src)
	if w.Alternative = w.Rule; len(problems) > 0 && w.Rule != "" || n != nil && n.level() < levelAlternatives {
		w.Alternative = "(" + w.Rule + ")"
	}
	if onlyTerms && len(problems) == 0 && n != nil {
		parts := []Node{n}
		if n.Kind() == Alternatives {
			parts = n.Kids()
		}
		for _, p := range parts {
			w.Terms = append(w.Terms, p.String())
		}
	}
	return w
}

// nameOf makes a name of the words of a rule. Words in a row are one of them.
func nameOf(tokens []token) string {
	var names []string
	row := false
	for _, t := range tokens {
		isWord := t.kind == word || t.kind == exact
		switch {
		case isWord && row:
			names[len(names)-1] += " " + t.text
		case isWord || t.kind == quote:
			names = append(names, strings.TrimSpace(t.text))
		}
		row = isWord
	}
	name := strings.TrimSpace(strings.Join(names[:min(len(names), nameWords)], " "))
	first, size := utf8.DecodeRuneInString(name)
	if size == 0 {
		return ""
	}
	return string(unicode.ToUpper(first)) + name[size:]
}
