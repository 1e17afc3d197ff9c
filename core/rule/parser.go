package rule

import (
	"fmt"
	"slices"
)

// Kind is what a node of a rule's tree is.
type Kind int

// The nodes: parts, then joints.
const (
	Word      Kind = iota // Text
	Quote                 // Text
	Exact                 // Text
	List                  // Text is its name
	Category              // Names is its path
	Condition             // Text is the variable, Op the comparison, Names the values
	Regex                 // Text
	Any                   // *
	Of                    // Number of Kids[0]
	Row                   // Kids in a row
	Alternatives
	Near // Kids[0] and Kids[1] by Reach
	With // Kids[0] + Kids[1]
	Without
)

// Node is a part or a joint. Places count runes of the source.
type Node struct {
	Kind       Kind
	Start, End int
	Text, Op   string
	Names      []string
	Number     int
	Reach      Reach
	Kids       []*Node
}

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
func Parse(src string) (*Node, []Problem) {
	if len(src) > MaxLength {
		return nil, []Problem{{Message: fmt.Sprintf("the rule is longer than %d letters; part it into several", MaxLength)}}
	}
	tokens, problems := scan(src)
	p := &parser{tokens: tokens, problems: problems}
	if len(tokens) == 1 {
		return nil, append(problems, Problem{0, 0, "the rule is empty; write a word", nil, false})
	}
	if t := p.peek(); t.kind == minus || t.kind == reach && t.reach.Without {
		p.problem(t, "a rule can't start with what must not be there; say first what it finds (* is any answer)", &Mend{t.start, t.start, "* "})
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

func joint(k Kind, a, b *Node) *Node {
	return &Node{Kind: k, Start: a.Start, End: b.End, Kids: []*Node{a, b}}
}

// sum reads "+" and "-", from the left.
func (p *parser) sum() *Node {
	n := p.near()
	for {
		k := With
		switch p.peek().kind {
		case plus:
		case minus:
			k = Without
		default:
			return n
		}
		p.take()
		n = joint(k, n, p.near())
	}
}

// near reads the joints with a reach, from the right.
func (p *parser) near() *Node {
	n := p.alternatives()
	if p.peek().kind != reach {
		return n
	}
	t := p.take()
	n = joint(Near, n, p.near())
	n.Reach = t.reach
	return n
}

func (p *parser) alternatives() *Node {
	n := p.row()
	if p.peek().kind != slash {
		return n
	}
	n = &Node{Kind: Alternatives, Start: n.Start, Kids: []*Node{n}}
	for p.peek().kind == slash {
		p.take()
		n.Kids = append(n.Kids, p.row())
	}
	n.End = n.Kids[len(n.Kids)-1].End
	return n
}

func (p *parser) row() *Node {
	n := p.part()
	if !startsPart(p.peek().kind) {
		return n
	}
	n = &Node{Kind: Row, Start: n.Start, Kids: []*Node{n}}
	for startsPart(p.peek().kind) {
		n.Kids = append(n.Kids, p.part())
	}
	n.End = n.Kids[len(n.Kids)-1].End
	return n
}

func startsPart(k kind) bool { return k >= word && k <= anything || k == open }

func (p *parser) part() *Node {
	t := p.take()
	n := &Node{Start: t.start, End: t.end, Text: t.text}
	switch t.kind {
	case word:
		n.Kind = Word
	case quote:
		n.Kind = Quote
	case exact:
		n.Kind = Exact
	case list:
		n.Kind = List
	case anything:
		n.Kind = Any
	case regex:
		n.Kind = Regex
	case category:
		n.Kind = Category
		n.Names, n.Text = t.names, ""
		if slices.Contains(n.Names, "") {
			p.problem(t, "name a category between the brackets, as in {People / Crew}", nil)
		}
	case condition:
		n.Kind = Condition
		p.condition(t, n)
	case count:
		n.Kind, n.Number = Of, t.number
		n.Kids = []*Node{p.part()}
		n.End = n.Kids[0].End
	case open:
		n = p.group(t)
	default:
		if t.kind == end {
			// What is missing stands after the last thing written.
			last := p.tokens[max(len(p.tokens)-2, 0)]
			p.problem(token{start: last.start, end: last.end}, "something is missing after this", nil)
		} else {
			p.problem(t, "something is missing before this", nil)
		}
	}
	return n
}

func (p *parser) group(t token) *Node {
	p.depth++
	defer func() { p.depth-- }()
	if p.depth > maxDepth {
		p.problem(t, "the brackets nest too deep", nil)
		p.at = len(p.tokens) - 1
		return &Node{}
	}
	if k := p.peek(); k.kind == minus || k.kind == reach && k.reach.Without {
		p.problem(k, "a group can't start with what must not be there; say first what it finds (* is any answer)", &Mend{k.start, k.start, "* "})
	}
	n := p.sum()
	if c := p.peek(); c.kind == closing {
		p.take()
	} else if c.kind == end {
		p.problem(t, "this bracket is not closed", &Mend{c.start, c.start, ")"})
	}
	return n
}

// condition makes a node of [variable op value / value].
func (p *parser) condition(t token, n *Node) {
	n.Text, n.Op, n.Names = t.text, t.op, t.names
	if n.Op == "" || n.Text == "" || slices.Contains(n.Names, "") {
		p.problem(t, "a condition is a variable, a comparison and a value, as in [ticket = Day / Season]", nil)
	}
}
