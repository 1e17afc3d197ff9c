package rule

import (
	"fmt"
	"slices"
)

// Problem is something wrong with a rule, or (Warning) something to know about it.
type Problem struct {
	Start   int    `json:"start" doc:"first rune"`
	End     int    `json:"end" doc:"after the last rune"`
	Message string `json:"message"`
	Mend    *Mend  `json:"mend,omitempty"`
	Warning bool   `json:"warning,omitempty"`
}

func (p Problem) Error() string { return fmt.Sprintf("%d: %s", p.Start+1, p.Message) }

// Mend is a change that puts a problem right: the runes from Start to End become With.
type Mend struct {
	Start int    `json:"start"`
	End   int    `json:"end"`
	With  string `json:"with"`
}

// Held is a stretch of a rule that a joint holds together.
type Held struct {
	Start int `json:"start" doc:"first rune"`
	End   int `json:"end" doc:"after the last rune"`
	Depth int `json:"depth" doc:"how many joints stand within, one in the other: 1 or more"`
}

// Holding lists what the joints of a rule hold together, the rule as a whole aside: each before those within it. Of a rule with
// one joint it is empty, and of one that can't be read.
func Holding(src string) []Held {
	out, runes := []Held{}, []rune(src)
	tree, problems := Parse(src)
	if len(problems) > 0 {
		return out
	}
	var depth func(n Node) int
	depth = func(n Node) (most int) {
		at := len(out)
		for _, k := range n.Kids() {
			most = max(most, depth(k))
		}
		if n.level() == levelPart {
			return most
		}
		if n != tree {
			out = slices.Insert(out, at, held(runes, n, most+1))
		}
		return most + 1
	}
	depth(tree)
	return out
}

// held is the stretch of a node, with the brackets around what is at its ends: they are no part of its span.
func held(src []rune, n Node, depth int) Held {
	start, end := n.Span()
	open := 0
	for _, c := range src[start:end] {
		switch {
		case c == '(':
			open++
		case c == ')' && open == 0:
			for at := start - 1; at >= 0; at-- { // it was opened before the first word
				if src[at] == '(' {
					start = at
					break
				}
			}
		case c == ')':
			open--
		}
	}
	for ; open > 0 && end < len(src); end++ {
		if src[end] == ')' {
			open--
		}
	}
	return Held{start, end, depth}
}

// MaxLength is how long a rule may be, in bytes.
const MaxLength = 20_000

// maxDepth bounds how deep brackets may nest.
const maxDepth = 200

type parser struct {
	tokens   []token
	at       int
	depth    int
	problems []Problem
}

// Parse reads a rule. With problems the tree may be nil or have holes; it must not be matched.
func Parse(src string) (Node, []Problem) {
	if len(src) > MaxLength {
		return nil, []Problem{{Message: fmt.Sprintf("the rule is longer than %d letters; part it into several", MaxLength)}}
	}
	tokens, problems := scan(src)
	p := &parser{tokens: tokens, problems: problems}
	if len(tokens) == 1 {
		return nil, append(problems, Problem{0, 0, "the rule is empty; write a word", nil, false})
	}
	if t := p.peek(); t.kind == minus || t.kind == reach && t.reach.Without {
		p.problem(
			t, "a rule can't start with what must not be there; say first what it finds (* is any answer)",
			&Mend{t.start, t.start, "* "},
		)
		return nil, p.problems
	}
	root := p.sum()
	for len(p.problems) == 0 && p.peek().kind != end {
		t := p.peek()
		if t.kind == closing {
			p.problem(t, "this bracket closes nothing; take it out", &Mend{t.start, t.end, ""})
		} else {
			p.problem(t, "this does not belong here", nil)
		}
	}
	return root, p.problems
}

func (p *parser) peek() token { return p.tokens[p.at] }

func (p *parser) take() token {
	t := p.tokens[p.at]
	if t.kind != end {
		p.at++
	}
	return t
}

func (p *parser) problem(t token, message string, mend *Mend) {
	p.problems = append(p.problems, Problem{t.start, t.end, message, mend, false})
}

// sum reads "+" and "-", from the left.
func (p *parser) sum() Node {
	n := p.near()
	for {
		switch p.peek().kind {
		case plus:
			p.take()
			n = Both(n, p.near())
		case minus:
			p.take()
			n = Except(n, p.near())
		default:
			return n
		}
	}
}

// near reads the joints with a reach, from the right.
func (p *parser) near() Node {
	n := p.alternatives()
	if p.peek().kind != reach {
		return n
	}
	t := p.take()
	m := p.near()
	return &NearNode{joined(n, m), t.reach, n, m}
}

func (p *parser) alternatives() Node {
	n := p.row()
	if p.peek().kind != slash {
		return n
	}
	all := []Node{n}
	for p.peek().kind == slash {
		p.take()
		all = append(all, p.row())
	}
	return &AlternativesNode{joined(n, all[len(all)-1]), all}
}

func (p *parser) row() Node {
	n := p.part()
	if !startsPart(p.peek().kind) {
		return n
	}
	all := []Node{n}
	for startsPart(p.peek().kind) {
		all = append(all, p.part())
	}
	return &RowNode{joined(n, all[len(all)-1]), all}
}

func startsPart(k kind) bool { return k >= word && k <= anything || k == open }

func (p *parser) part() Node {
	t := p.take()
	at := span{t.start, t.end}
	switch t.kind {
	case word:
		return &WordNode{span: at, Text: t.text}
	case quote:
		return &QuoteNode{span: at, Text: t.text}
	case exact:
		return &ExactNode{span: at, Text: t.text}
	case list:
		return &ListNode{span: at, Name: t.text}
	case anything:
		return &AnyNode{span: at}
	case regex:
		return &RegexNode{span: at, Pattern: t.text}
	case category:
		if slices.Contains(t.names, "") {
			p.problem(t, "name a category between the brackets, as in {People / Crew}", nil)
		}
		return &CategoryNode{span: at, Path: t.names}
	case condition:
		if t.op == "" || t.text == "" || slices.Contains(t.names, "") {
			p.problem(t, "a condition is a variable, a comparison and a value, as in [ticket = Day / Season]", nil)
		}
		return &ConditionNode{span: at, Variable: t.text, Op: t.op, Values: t.names}
	case count:
		among := p.part()
		_, end := among.Span()
		return &OfNode{span{t.start, end}, t.number, among}
	case open:
		return p.group(t)
	case end:
		// What is missing stands after the last thing written.
		last := p.tokens[max(len(p.tokens)-2, 0)]
		p.problem(token{start: last.start, end: last.end}, "something is missing after this", nil)
	default:
		p.problem(t, "something is missing before this", nil)
	}
	return &WordNode{span: at}
}

func (p *parser) group(t token) Node {
	p.depth++
	defer func() { p.depth-- }()
	if p.depth > maxDepth {
		p.problem(t, "the brackets nest too deep", nil)
		p.at = len(p.tokens) - 1
		return &WordNode{span: span{t.start, t.end}}
	}
	if k := p.peek(); k.kind == minus || k.kind == reach && k.reach.Without {
		p.problem(
			k, "a group can't start with what must not be there; say first what it finds (* is any answer)",
			&Mend{k.start, k.start, "* "},
		)
	}
	n := p.sum()
	if c := p.peek(); c.kind == closing {
		p.take()
	} else if c.kind == end {
		p.problem(t, "this bracket is not closed", &Mend{c.start, c.start, ")"})
	}
	return n
}
