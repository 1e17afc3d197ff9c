// Package rule is the rule language: scanner, parser to a tree with places, printer, checker and matcher. A rule says
// which words an answer must hold, and how near to each other; docs/rules.md teaches it.
package rule

import (
	"fmt"
	"strconv"
	"strings"
	"unicode"

	"aftermath/core/naming"
	"aftermath/core/survey"
)

// kind is what a token is.
type kind int

const (
	end       kind = iota
	word           // queue, queu*
	quote          // "long queue"
	exact          // =queue
	list           // @crew
	category       // {People / Crew}
	condition      // [ticket = Day]
	regex          // re"\d+"
	count          // 2 of
	anything       // *
	slash          // /
	plus           // +
	minus          // -
	reach          // +4w
	open           // (
	closing        // )
)

// token is a piece of a rule. Places count runes.
type token struct {
	kind       kind
	start, end int
	text       string   // what is named or written, without its signs; of a condition the variable
	op         string   // of a condition, empty for one that can't be read
	names      []string // the path of a category, the values of a condition
	reach      Reach
	number     int // of "2 of"
}

// Reach is how far apart the two sides of a joint may stand.
type Reach struct {
	Without   bool // "-": no such side may be there
	Direction rune // '>', '<', or 0 for either order
	Distance  int
	Sentences bool // the distance counts sentences, not words
}

func (r Reach) String() string {
	out, unit := "+", "w"
	if r.Without {
		out = "-"
	}
	if r.Direction != 0 {
		out += string(r.Direction)
	}
	if r.Sentences {
		unit = "s"
	}
	return out + strconv.Itoa(r.Distance) + unit
}

// Words says what a reach asks of its two sides.
func (r Reach) Words() string {
	var out string
	switch {
	case r.Sentences && r.Distance == 1:
		out = "in one sentence"
	case r.Sentences:
		out = fmt.Sprintf("within %d sentences", r.Distance)
	case r.Distance == 1:
		out = "side by side"
	default:
		out = fmt.Sprintf("at most %d words apart", r.Distance)
	}
	switch r.Direction {
	case '>':
		out += ", in this order"
	case '<':
		out += ", in the other order"
	}
	if r.Without {
		return "the first without the second " + out
	}
	return "both, " + out
}

// The greatest reaches.
const (
	MaxWords     = 100
	MaxSentences = 20
)

type scanner struct {
	src      []rune
	at       int
	problems []Problem
}

// plain reads curly quotes and long dashes as plain ones.
func plain(c rune) rune {
	switch c {
	case '“', '”', '„', '«', '»':
		return '"'
	case '–', '—', '−':
		return '-'
	case '‘', '’':
		return '\''
	}
	return c
}

func (s *scanner) peek(ahead int) rune {
	if s.at+ahead < len(s.src) && s.at+ahead >= 0 {
		return plain(s.src[s.at+ahead])
	}
	return 0
}

func (s *scanner) problem(start, end int, message string) {
	s.problems = append(s.problems, Problem{Start: start, End: end, Message: message})
}

// scan cuts a rule into tokens; the last one is end.
func scan(src string) ([]token, []Problem) {
	s := &scanner{src: []rune(src)}
	var out []token
	for {
		for unicode.IsSpace(s.peek(0)) {
			s.at++
		}
		start := s.at
		if start == len(s.src) || s.note() {
			return append(out, token{kind: end, start: start, end: start}), s.problems
		}
		t := s.next()
		t.start, t.end = start, s.at
		out = append(out, t)
	}
}

// note says whether a note begins here: "#" and a blank, up to the end of the rule.
func (s *scanner) note() bool {
	after := s.peek(1)
	return s.peek(0) == '#' && (after == 0 || unicode.IsSpace(after))
}

// Note parts a rule from the note behind it, which says something to people and finds nothing: in "queue / wait # on foot only"
// it is "on foot only".
func Note(src string) (rule, note string) {
	tokens, _ := scan(src)
	runes := []rune(src)
	end := tokens[len(tokens)-1].start
	return strings.TrimSpace(string(runes[:end])), strings.TrimSpace(strings.TrimPrefix(string(runes[end:]), "#"))
}

// WithNote puts a note behind a rule; none if it is empty.
func WithNote(rule, note string) string {
	if note == "" {
		return rule
	}
	return rule + " # " + note
}

func (s *scanner) next() token {
	switch c := s.peek(0); c {
	case '/':
		s.at++
		return token{kind: slash}
	case '(':
		s.at++
		return token{kind: open}
	case ')':
		s.at++
		return token{kind: closing}
	case '"':
		return token{kind: quote, text: s.quoted()}
	case '{':
		return s.category()
	case '[':
		return s.condition()
	case '@':
		s.at++
		if s.peek(0) == '"' {
			return token{kind: list, text: s.quotedName()}
		}
		return s.named(list, "@", "the name of a term list")
	case '=':
		s.at++
		return s.named(exact, "=", "a word")
	case '+', '-':
		if t, ok := s.joint(c); ok {
			return t
		}
	case '*':
		if !inWord(s.peek(1)) {
			s.at++
			return token{kind: anything}
		}
	case 'r':
		if s.peek(1) == 'e' && s.peek(2) == '"' {
			s.at += 2
			return token{kind: regex, text: s.pattern()}
		}
	}
	if t, ok := s.counted(); ok {
		return t
	}
	return s.named(word, "", "a word")
}

// inWord says whether c may stand inside a bare word.
func inWord(c rune) bool {
	return c != 0 && !unicode.IsSpace(c) && !strings.ContainsRune(`/()[]{}"`, c)
}

func (s *scanner) named(k kind, sign, what string) token {
	start := s.at
	for inWord(s.peek(0)) {
		s.at++
	}
	if s.at == start {
		if sign == "" { // a closing bracket of a name that was never opened
			s.at++
			s.problem(start, s.at, `"`+string(s.src[start:s.at])+`" closes nothing here; take it out`)
			return token{kind: word, text: "x"}
		}
		s.problem(start-1, s.at, "after "+sign+" comes "+what)
	}
	return token{kind: k, text: string(s.src[start:s.at])}
}

// quoted reads "…" and gives what is inside.
func (s *scanner) quoted() string {
	start := s.at
	s.at++
	for s.at < len(s.src) && s.peek(0) != '"' {
		s.at++
	}
	if s.at == len(s.src) {
		s.problems = append(
			s.problems, Problem{Start: start, End: s.at, Message: "this quote is not closed", Mend: &Mend{s.at, s.at, `"`}},
		)
		return string(s.src[start+1:])
	}
	s.at++
	return string(s.src[start+1 : s.at-1])
}

// pattern reads the "…" of a regular expression, where \" is no end.
func (s *scanner) pattern() string {
	start := s.at
	for s.at++; s.at < len(s.src) && s.peek(0) != '"'; s.at++ {
		if s.src[s.at] == '\\' && s.at+1 < len(s.src) {
			s.at++
		}
	}
	if s.at >= len(s.src) {
		s.at = len(s.src)
		s.problems = append(
			s.problems, Problem{Start: start, End: s.at, Message: "this quote is not closed", Mend: &Mend{s.at, s.at, `"`}},
		)
		return string(s.src[start+1:])
	}
	s.at++
	return string(s.src[start+1 : s.at-1])
}

// quotedName reads the quoted name of a term list.
func (s *scanner) quotedName() string {
	start := s.at
	n := naming.ReadQuoted(s.src, s.at)
	if s.at = n.End; !n.Closed {
		s.problems = append(
			s.problems, Problem{Start: start, End: s.at, Message: "this quote is not closed", Mend: &Mend{s.at, s.at, `"`}},
		)
	}
	return n.Text
}

// category reads {People / Crew}.
func (s *scanner) category() token {
	start := s.at
	names, end, ok := naming.ReadPath(s.src, s.at+1, "}")
	s.close(start, end, '}', "a category's name", ok)
	return token{kind: category, names: names}
}

// condition reads [ticket = Day / Season].
func (s *scanner) condition() token {
	start := s.at
	t := token{kind: condition}
	variable := naming.Read(s.src, s.at+1, "=<>!]")
	t.text = variable.Text
	end := variable.End
	for _, known := range survey.Operators {
		if rest := string(s.src[end:min(end+2, len(s.src))]); strings.HasPrefix(rest, known) && len(known) > len(t.op) {
			t.op = known
		}
	}
	ok := variable.Closed
	if t.op == "" { // a sign that is no comparison: to the end of it
		_, end, _ = naming.ReadPath(s.src, end, "]")
	} else {
		var valuesOK bool
		t.names, end, valuesOK = naming.ReadPath(s.src, end+len(t.op), "]")
		ok = ok && valuesOK
	}
	s.close(start, end, ']', "a condition", ok)
	return t
}

// close takes the sign that closes a bracket, if it is there, and says what is wrong if not.
func (s *scanner) close(start, end int, sign rune, what string, namesOK bool) {
	if s.at = end; end == len(s.src) {
		s.problems = append(
			s.problems,
			Problem{
				Start:   start,
				End:     end,
				Message: "this bracket around " + what + " is not closed",
				Mend:    &Mend{end, end, string(sign)},
			},
		)
		return
	}
	s.at++
	if !namesOK {
		s.problem(
			start, s.at,
			`a name in quotes must be closed, and nothing may stand beside it; write a quote in a name twice, as in "The ""Swan"""`,
		)
	}
}

// joint reads "+", "-" or a joint with a reach. Glued to the word before it, a sign belongs to that word.
func (s *scanner) joint(c rune) (token, bool) {
	before := s.peek(-1)
	if before != 0 && !unicode.IsSpace(before) && !strings.ContainsRune("()[]{}", before) {
		return token{}, false
	}
	after := s.peek(1)
	if after != 0 && !unicode.IsSpace(after) && (strings.ContainsRune(`/)]}+-`, after)) {
		return token{}, false
	}
	if t, ok := s.reach(c); ok {
		return t, true
	}
	s.at++
	if c == '-' {
		return token{kind: minus}, true
	}
	return token{kind: plus}, true
}

// reach reads sign, direction, number and unit, if they stand there and nothing else is glued to them.
func (s *scanner) reach(sign rune) (token, bool) {
	r := Reach{Without: sign == '-'}
	i := 1
	if d := s.peek(i); d == '>' || d == '<' {
		r.Direction = d
		i++
	}
	digits := i
	for unicode.IsDigit(s.peek(i)) {
		r.Distance = min(r.Distance*10+int(s.peek(i)-'0'), 1e6)
		i++
	}
	unit := s.peek(i)
	if i == digits || unit != 'w' && unit != 's' {
		return token{}, false
	}
	if c := s.peek(i + 1); c != 0 && !unicode.IsSpace(c) && !strings.ContainsRune(`("@=`, c) {
		return token{}, false
	}
	r.Sentences = unit == 's'
	start := s.at
	s.at += i + 1
	limit, name := MaxWords, "words"
	if r.Sentences {
		limit, name = MaxSentences, "sentences"
	}
	switch {
	case r.Distance > limit:
		s.problem(start, s.at, "too far: a reach goes up to "+strconv.Itoa(limit)+" "+name+"; for the whole answer write "+string(sign))
	case r.Distance == 0 && !(r.Without && !r.Sentences):
		s.problem(start, s.at, "a reach of 0 finds nothing here; neighbouring words are 1 apart, and one sentence is 1s")
	}
	return token{kind: reach, reach: r}, true
}

// counted reads "2 of" where "(" or "@" follows.
func (s *scanner) counted() (token, bool) {
	i, n := 0, 0
	for unicode.IsDigit(s.peek(i)) {
		n = min(n*10+int(s.peek(i)-'0'), 1e6)
		i++
	}
	if i == 0 || !unicode.IsSpace(s.peek(i)) {
		return token{}, false
	}
	for unicode.IsSpace(s.peek(i)) {
		i++
	}
	if s.peek(i) != 'o' || s.peek(i+1) != 'f' {
		return token{}, false
	}
	i += 2
	for unicode.IsSpace(s.peek(i)) {
		i++
	}
	if c := s.peek(i); c != '(' && c != '@' {
		return token{}, false
	}
	s.at += i
	return token{kind: count, number: n}, true
}
