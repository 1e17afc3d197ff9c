package rule

// Kind is what a node of a rule's tree is.
type Kind int

// The kinds: parts, then joints.
const (
	Word Kind = iota
	Quote
	Exact
	List
	Category
	Condition
	Regex
	Any
	Of
	Row
	Alternatives
	Near
	With
	Without
	numKinds
)

// Kinds are all kinds there are.
func Kinds() []Kind {
	out := make([]Kind, numKinds)
	for i := range out {
		out[i] = Kind(i)
	}
	return out
}

// Node is a part or a joint of a rule. Each kind is a type of its own that says all that there is to say of it: how it is
// written, what it is compiled to, and how it can ask for less. Nodes do not change once made.
type Node interface {
	Kind() Kind
	// Span is the runes of the source that it stands in; 0, 0 for what was not read from one.
	Span() (start, end int)
	// Kids are what it is made of, in their order; none for a part.
	Kids() []Node
	// String writes it in its usual form. Parsing that gives the same node.
	String() string

	// with is the same node made of others, as many as Kids.
	with(kids []Node) Node
	// bare writes it without brackets around it; level says how tightly it binds.
	bare() string
	level() int
	compile(c *compiler) *op
	relax(placed bool, most int) []Relaxed
}

// span is where a node stands in the source.
type span struct{ start, end int }

// Span is the runes of the source.
func (s span) Span() (start, end int) { return s.start, s.end }

// leaf is what parts have in common: they are made of nothing else.
type leaf struct{}

// Kids are none.
func (leaf) Kids() []Node              { return nil }
func (leaf) level() int                { return levelPart }
func (leaf) relax(bool, int) []Relaxed { return nil }

// The parts.
type (
	// WordNode is a term, or a pattern.
	WordNode struct {
		span
		leaf
		Text string
	}
	// QuoteNode is surfaces in a row.
	QuoteNode struct {
		span
		leaf
		Text string
	}
	// ExactNode is a surface and no other form.
	ExactNode struct {
		span
		leaf
		Text string
	}
	// ListNode is any entry of a term list.
	ListNode struct {
		span
		leaf
		Name string
	}
	// CategoryNode is answers that a category has.
	CategoryNode struct {
		span
		leaf
		Path []string
	}
	// ConditionNode is respondents by a variable.
	ConditionNode struct {
		span
		leaf
		Variable, Op string
		Values       []string
	}
	// RegexNode is answers whose original matches.
	RegexNode struct {
		span
		leaf
		Pattern string
	}
	// AnyNode is any answer.
	AnyNode struct {
		span
		leaf
	}
)

// The joints, and what else is made of others.
type (
	// OfNode is so many of alternatives, or of the entries of a list.
	OfNode struct {
		span
		Number int
		Among  Node
	}
	// RowNode is parts right after each other.
	RowNode struct {
		span
		Parts []Node
	}
	// AlternativesNode is either.
	AlternativesNode struct {
		span
		Of []Node
	}
	// NearNode is both within a reach, or the one without the other.
	NearNode struct {
		span
		Reach Reach
		A, B  Node
	}
	// WithNode is both anywhere in the answer.
	WithNode struct {
		span
		A, B Node
	}
	// WithoutNode is the one, and the other nowhere in the answer.
	WithoutNode struct {
		span
		A, B Node
	}
)

// Kind says what it is.
func (*WordNode) Kind() Kind { return Word }

// Kind says what it is.
func (*QuoteNode) Kind() Kind { return Quote }

// Kind says what it is.
func (*ExactNode) Kind() Kind { return Exact }

// Kind says what it is.
func (*ListNode) Kind() Kind { return List }

// Kind says what it is.
func (*CategoryNode) Kind() Kind { return Category }

// Kind says what it is.
func (*ConditionNode) Kind() Kind { return Condition }

// Kind says what it is.
func (*RegexNode) Kind() Kind { return Regex }

// Kind says what it is.
func (*AnyNode) Kind() Kind { return Any }

// Kind says what it is.
func (*OfNode) Kind() Kind { return Of }

// Kind says what it is.
func (*RowNode) Kind() Kind { return Row }

// Kind says what it is.
func (*AlternativesNode) Kind() Kind { return Alternatives }

// Kind says what it is.
func (*NearNode) Kind() Kind { return Near }

// Kind says what it is.
func (*WithNode) Kind() Kind { return With }

// Kind says what it is.
func (*WithoutNode) Kind() Kind { return Without }

// Kids are what is counted.
func (n *OfNode) Kids() []Node { return []Node{n.Among} }

// Kids are the parts of the row.
func (n *RowNode) Kids() []Node { return n.Parts }

// Kids are the alternatives.
func (n *AlternativesNode) Kids() []Node { return n.Of }

// Kids are both sides.
func (n *NearNode) Kids() []Node { return []Node{n.A, n.B} }

// Kids are both sides.
func (n *WithNode) Kids() []Node { return []Node{n.A, n.B} }

// Kids are both sides.
func (n *WithoutNode) Kids() []Node { return []Node{n.A, n.B} }

func (n *WordNode) with([]Node) Node      { return n }
func (n *QuoteNode) with([]Node) Node     { return n }
func (n *ExactNode) with([]Node) Node     { return n }
func (n *ListNode) with([]Node) Node      { return n }
func (n *CategoryNode) with([]Node) Node  { return n }
func (n *ConditionNode) with([]Node) Node { return n }
func (n *RegexNode) with([]Node) Node     { return n }
func (n *AnyNode) with([]Node) Node       { return n }

func (n *OfNode) with(kids []Node) Node           { return &OfNode{n.span, n.Number, kids[0]} }
func (n *RowNode) with(kids []Node) Node          { return &RowNode{n.span, kids} }
func (n *AlternativesNode) with(kids []Node) Node { return &AlternativesNode{n.span, kids} }
func (n *NearNode) with(kids []Node) Node         { return &NearNode{n.span, n.Reach, kids[0], kids[1]} }
func (n *WithNode) with(kids []Node) Node         { return &WithNode{n.span, kids[0], kids[1]} }
func (n *WithoutNode) with(kids []Node) Node      { return &WithoutNode{n.span, kids[0], kids[1]} }

// withKid is a node with another kid in the place of one.
func withKid(n Node, i int, kid Node) Node {
	kids := append([]Node{}, n.Kids()...)
	kids[i] = kid
	return n.with(kids)
}

// Walk visits a node and all that it is made of, each before its kids, whose kids are left out where visit says no.
func Walk(n Node, visit func(Node) (deeper bool)) {
	if visit(n) {
		for _, k := range n.Kids() {
			Walk(k, visit)
		}
	}
}

// joined is the span of two nodes together.
func joined(a, b Node) span {
	start, _ := a.Span()
	_, end := b.Span()
	return span{start, end}
}

// Both is two nodes anywhere in the answer.
func Both(a, b Node) Node { return &WithNode{joined(a, b), a, b} }

// Except is a node, and another nowhere in the answer.
func Except(a, b Node) Node { return &WithoutNode{joined(a, b), a, b} }

// AnyOf is alternatives. Those that are alternatives themselves are taken apart; one alone stands for itself.
func AnyOf(nodes ...Node) Node {
	var all []Node
	for _, n := range nodes {
		if a, ok := n.(*AlternativesNode); ok {
			all = append(all, a.Of...)
		} else {
			all = append(all, n)
		}
	}
	if len(all) == 1 {
		return all[0]
	}
	return &AlternativesNode{joined(all[0], all[len(all)-1]), all}
}

// InRow is two nodes right after each other, rows taken apart.
func InRow(a, b Node) Node {
	var parts []Node
	for _, n := range []Node{a, b} {
		if row, ok := n.(*RowNode); ok {
			parts = append(parts, row.Parts...)
		} else {
			parts = append(parts, n)
		}
	}
	return &RowNode{joined(a, b), parts}
}

// Together is two nodes at most so many words apart, in either order.
func Together(a, b Node, words int) Node {
	return &NearNode{joined(a, b), Reach{Distance: words}, a, b}
}

// Unless is a node that has no other within a reach.
func Unless(a, b Node, reach Reach) Node {
	reach.Without = true
	return &NearNode{joined(a, b), reach, a, b}
}

// AtLeast is so many of alternatives.
func AtLeast(number int, among Node) Node { return &OfNode{Number: number, Among: among} }

// Term is a term as a rule writes it: by its label, in quotes where that would be read as something else.
func Term(label string) Node {
	if n, problems := Parse(label); len(problems) == 0 {
		return n
	}
	return &QuoteNode{Text: label}
}
