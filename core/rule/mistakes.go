package rule

import (
	"regexp"
	"strings"
)

// mistake is a way of writing that is read as something, and seldom as what was meant.
type mistake struct {
	pattern *regexp.Regexp // of the text of a word, or of the rule from a sign on
	message string         // ${1} and so on stand for the groups of the pattern
	with    string         // what to write in its place
}

// reaches are mistakes that begin at a + or - that was read as the joint of whole answers.
var reaches = []mistake{
	{regexp.MustCompile(`^([+-][<>]?\d+) +([wWsS])(?:\s|$|[("@=])`), "a reach is written in one, as ${1}${2}", "${1}${2}"},
	{regexp.MustCompile(`^([+-][<>]?\d+)([WS])(?:\s|$|[("@=])`), "the unit of a reach is a small letter: ${1}${2}", "${1}${2}"},
	{regexp.MustCompile(`^([+-][<>]?\d+)()(?:\s|$|[("@=])`), "without a unit this is no reach; words are ${1}w, sentences ${1}s", "${1}w"},
}

// within are mistakes of words.
var within = []mistake{
	{regexp.MustCompile(`^(AND NOT|NOT|BUT NOT)$`), "this is read as a word; what must not be there comes after -", "-"},
	{regexp.MustCompile(`^(AND|&&|&)$`), "this is read as a word; both in one answer are joined by +", "+"},
	{regexp.MustCompile(`^(OR|\|\||\|)$`), "this is read as a word; either is written with /", "/"},
	{regexp.MustCompile(`^(.+?)([+-][<>]?\d+[wsWS])$`), "a joint stands apart from the word before it: ${1} ${2}", "${1} ${2}"},
	{regexp.MustCompile(`^(.+?)\+(.+)$`), "a joint stands apart from the word before it: ${1} + ${2}", "${1} + ${2}"},
	{regexp.MustCompile(`^!(.+)$`), "! says nothing here; what must not be there comes after -: - ${1}", "- ${1}"},
	{regexp.MustCompile(`^(.+),$`), "a comma joins nothing, so this is a row of words; either is written with /", "${1} /"},
	{regexp.MustCompile(`^(.+),(.+)$`), "a comma joins nothing, so this is a row of words; either is written with /", "${1} / ${2}"},
}

// comparisons are mistakes of the signs in conditions, with what to write.
var comparisons = [][2]string{{"=<", "<="}, {"=>", ">="}, {"==", "="}, {"<>", "!="}}

// mistakes warns of what is read otherwise than it was most likely meant. Places count runes.
func mistakes(src string) (out []Problem) {
	runes := []rune(src)
	for i, c := range runes {
		runes[i] = plain(c)
	}
	text := func(from, to int) string { return string(runes[from:to]) }
	tokens, _ := scan(src)
	add := func(p Problem, ok bool) {
		if ok {
			out = append(out, p)
		}
	}
	for i, t := range tokens {
		switch t.kind {
		case plus, minus:
			if next := tokens[i+1]; next.kind == word && next.start == t.end {
				add(brokenReach(t, text(t.start, len(runes))))
			}
		case word:
			add(ofWord(tokens, i))
			add(uncounted(tokens, i, text))
		case condition:
			add(ofComparison(t, text(t.start, t.end)))
		case open:
			add(idleBrackets(tokens, i, text))
		}
	}
	return out
}

// problem is the warning of a mistake, from the places of its groups in a text.
func (s mistake) problem(start, end int, in string, match []int) (Problem, bool) {
	filled := func(template string) string { return string(s.pattern.ExpandString(nil, template, in, match)) }
	return Problem{start, end, filled(s.message), &Mend{start, end, filled(s.with)}, true}, true
}

// brokenReach finds a reach in pieces, without its unit, or with a capital one, in the rule from its sign on.
func brokenReach(sign token, rest string) (Problem, bool) {
	for _, s := range reaches {
		if m := s.pattern.FindStringSubmatchIndex(rest); m != nil {
			written := rest[:m[5]] // to the end of its unit
			return s.problem(sign.start, sign.start+len([]rune(written)), strings.ToLower(written)+rest[m[5]:], m)
		}
	}
	return Problem{}, false
}

// ofWord finds a mistake in a word.
func ofWord(tokens []token, i int) (Problem, bool) {
	t := tokens[i]
	for _, s := range within {
		if m := s.pattern.FindStringSubmatchIndex(t.text); m != nil && !joins(tokens, i, s) {
			return s.problem(t.start, t.end, t.text, m)
		}
	}
	return Problem{}, false
}

// ofComparison finds a sign in a condition that is written the other way round.
func ofComparison(t token, written string) (Problem, bool) {
	at := strings.IndexAny(written, "=<>!")
	if at < 0 || strings.Contains(written[:at], `"`) {
		return Problem{}, false
	}
	for _, c := range comparisons {
		if strings.HasPrefix(written[at:], c[0]) {
			from := t.start + len([]rune(written[:at]))
			return Problem{from, from + 2, "a comparison is written " + c[1], &Mend{from, from + 2, c[1]}, true}, true
		}
	}
	return Problem{}, false
}

// joins says whether the joint that would be put in the place of a word has nothing on one side.
func joins(tokens []token, i int, s mistake) bool {
	if s.with != "-" && s.with != "+" && s.with != "/" {
		return false
	}
	return i == 0 && s.with != "-" || tokens[i+1].kind == end
}

// uncounted finds "2 of a / b", which counts only before a bracket or a term list.
func uncounted(tokens []token, i int, text func(from, to int) string) (Problem, bool) {
	if strings.Trim(tokens[i].text, "0123456789") != "" || tokens[i+1].kind != word || tokens[i+1].text != "of" ||
		!startsPart(tokens[min(i+2, len(tokens)-1)].kind) {
		return Problem{}, false
	}
	last, slashes := i+2, 0
	for j := last; startsPart(tokens[j].kind) || tokens[j].kind == slash; j++ {
		if tokens[j].kind == slash {
			slashes++
		} else {
			last = j
		}
	}
	if slashes == 0 {
		return Problem{}, false
	}
	from, to := tokens[i+2].start, tokens[last].end
	const message = "this is read as words in a row; what is counted stands in brackets"
	return Problem{tokens[i].start, to, message, &Mend{from, to, "(" + text(from, to) + ")"}, true}, true
}

// idleBrackets finds brackets around alternatives that stand among alternatives: "a / (b / c)" is "a / b / c", and a joint with
// a reach after it speaks of all of them.
func idleBrackets(tokens []token, i int, text func(from, to int) string) (Problem, bool) {
	closed := i + 1
	for ; startsPart(tokens[closed].kind) || tokens[closed].kind == slash; closed++ {
		if tokens[closed].kind == open || tokens[closed].kind == count {
			return Problem{}, false
		}
	}
	if tokens[closed].kind != closing || !hasSlash(tokens[i+1:closed]) {
		return Problem{}, false
	}
	before := i > 0 && tokens[i-1].kind == slash
	after := tokens[closed+1].kind == slash
	ofRow := i > 0 && (startsPart(tokens[i-1].kind) || tokens[i-1].kind == closing) || startsPart(tokens[closed+1].kind)
	if !before && !after || ofRow {
		return Problem{}, false
	}
	from, to := tokens[i].start, tokens[closed].end
	return Problem{from, to, "these brackets change nothing: / holds all of these together, before a reach, + and -",
		&Mend{from, to, text(tokens[i].end, tokens[closed].start)}, true}, true
}

func hasSlash(tokens []token) bool {
	for _, t := range tokens {
		if t.kind == slash {
			return true
		}
	}
	return false
}
