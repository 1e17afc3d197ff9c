package rule

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/bits-and-blooms/bitset"

	"aftermath/core/lexicon"
	"aftermath/core/survey"
)

// Scope is all that a rule may speak of.
type Scope struct {
	View      *lexicon.View
	Variables []*survey.Variable
	// Category finds a category by its path and gives its key, by which Program.Uses and Matcher.Category speak of it.
	Category      func(path []string) (key string, err error)
	Categories    []string   // all paths as people write them, for the nearest name
	CategoryPaths [][]string // the same, by their parts
	Text          func(answer int) string
}

// Program is a rule made ready for one index and lexicon.
type Program struct {
	scope *Scope
	root  *op
	uses  []string
}

// Uses lists the keys of the categories that the rule names.
func (p *Program) Uses() []string { return p.uses }

// Same says whether two programs find the same in one index, whatever the lexicons they were compiled with: their parts
// come down to the same words.
func (p *Program) Same(q *Program) bool {
	return p.scope.View.Index == q.scope.View.Index && p.root.same(q.root)
}

// Terms visits the terms of a view that the program looks for, each perhaps several times. A merge is looked for as one, not by
// the words of its variants; of a row, each word's term.
func (p *Program) Terms(v *lexicon.View, visit func(term int)) { p.root.terms(v, visit) }

func (o *op) terms(v *lexicon.View, visit func(term int)) {
	termsOf(v, o.phrases, visit)
	termsOfSequence(v, o.sequence, visit)
	for _, k := range o.kids {
		k.terms(v, visit)
	}
}

func termsOf(v *lexicon.View, ps lexicon.Phrases, visit func(term int)) {
	for _, s := range ps.Sequences() {
		termsOfSequence(v, s, visit)
	}
	for _, row := range ps.Rows() {
		for _, part := range row {
			termsOf(v, part, visit)
		}
	}
}

func termsOfSequence(v *lexicon.View, s lexicon.Sequence, visit func(term int)) {
	if t, ok := mergeOf(v, s); ok {
		visit(t)
		return
	}
	for _, set := range s {
		for _, w := range set {
			visit(v.TermOf(w))
		}
	}
}

// mergeOf finds the merge that has several words in a row as a variant.
func mergeOf(v *lexicon.View, s lexicon.Sequence) (term int, ok bool) {
	if len(s) < 2 {
		return 0, false
	}
	for m := range v.Lexicon.Merges {
		if t := v.MergeTerm(m); slices.ContainsFunc(v.Phrases(t).Sequences(), s.Equal) {
			return t, true
		}
	}
	return 0, false
}

func (o *op) same(x *op) bool {
	return o.kind == x.kind && o.placed == x.placed && o.reach == x.reach && o.number == x.number && o.category == x.category &&
		o.phrases.Equal(x.phrases) && o.sequence.Equal(x.sequence) &&
		(o.answers == x.answers || o.answers != nil && x.answers != nil && o.answers.Equals(x.answers)) &&
		(o.regex == x.regex || o.regex != nil && x.regex != nil && o.regex.String() == x.regex.String()) &&
		slices.EqualFunc(o.kids, x.kids, (*op).same)
}

// op is a node made ready. A placed one has hits.
type op struct {
	kind     Kind
	placed   bool
	phrases  lexicon.Phrases  // Word, List
	sequence lexicon.Sequence // Row of single words
	kids     []*op
	reach    Reach
	number   int
	answers  *roaring.Bitmap // Condition
	category string
	regex    *regexp.Regexp

	start, end int             // its runes in the rule, 0 for what is only a piece of a part
	entry      string          // of a term list, in "2 of @list"
	single     lexicon.WordSet // what it finds if all its hits are single words
	table      *bitset.BitSet  // the same, for many words
	stretched  bool            // all its hits are words in a row
}

type compiler struct {
	scope    *Scope
	problems []Problem
	uses     []string
	unseen   int // words that occur nowhere
}

// Compile parses, checks and makes ready a rule. The program is nil if any problem is no warning.
func Compile(src string, scope *Scope) (*Program, []Problem) {
	tree, problems := Parse(src)
	if len(problems) > 0 {
		return nil, append(problems, mistakes(src)...)
	}
	c := &compiler{scope: scope}
	root := c.op(tree)
	c.problems = append(mistakes(src), c.problems...)
	slices.SortStableFunc(c.problems, func(a, b Problem) int { return boolInt(a.Warning) - boolInt(b.Warning) })
	if len(c.problems) > 0 && !c.problems[0].Warning {
		return nil, c.problems
	}
	return &Program{scope: scope, root: root, uses: c.uses}, c.problems
}

// problem is one about a node.
func (c *compiler) problem(n Node, format string, args ...any) Problem {
	start, end := n.Span()
	return Problem{Start: start, End: end, Message: fmt.Sprintf(format, args...)}
}

func (c *compiler) fail(n Node, format string, args ...any) *op {
	return c.failed(c.problem(n, format, args...))
}

func (c *compiler) failed(p Problem) *op {
	c.problems = append(c.problems, p)
	return &op{kind: Any}
}

// mend writes a part anew.
func (c *compiler) mend(of, to Node) *Mend {
	start, end := of.Span()
	return &Mend{start, end, to.String()}
}

// op makes ready a node with all that it is made of.
func (c *compiler) op(n Node) *op {
	o := n.compile(c)
	o.start, o.end = n.Span()
	o.singleWords(c.scope.View.Index.Vocabulary())
	o.stretched = o.onlyStretches()
	return o
}

func (n *WordNode) compile(c *compiler) *op  { return c.row([]Node{n}) }
func (n *RowNode) compile(c *compiler) *op   { return c.row(n.Parts) }
func (n *QuoteNode) compile(c *compiler) *op { return c.exact(n, n.Text) }
func (n *ExactNode) compile(c *compiler) *op { return c.exact(n, n.Text) }
func (n *AnyNode) compile(*compiler) *op     { return &op{kind: Any} }

func (n *ListNode) compile(c *compiler) *op {
	entries, ok := c.scope.View.Entries(n.Name)
	if !ok {
		if found, built := c.scope.View.BuiltIn(n.Name); built {
			return &op{kind: List, placed: true, phrases: found}
		}
		return c.unknownList(n)
	}
	var all []lexicon.Phrases
	for _, e := range entries {
		all = append(all, c.scope.View.EntryPhrases(n.Name, e))
	}
	return &op{kind: List, placed: true, phrases: lexicon.AnyOf(all...)}
}

func (n *CategoryNode) compile(c *compiler) *op {
	key, err := c.scope.Category(n.Path)
	if err != nil {
		return c.unknownCategory(n, err)
	}
	c.uses = append(c.uses, key)
	return &op{kind: Category, category: key}
}

func (n *RegexNode) compile(c *compiler) *op {
	re, err := regexp.Compile(n.Pattern)
	if err != nil {
		return c.fail(n, "the regular expression can't be read: %s", strings.TrimPrefix(err.Error(), "error parsing regexp: "))
	}
	return &op{kind: Regex, regex: re}
}

func (n *AlternativesNode) compile(c *compiler) *op {
	o := &op{kind: Alternatives, placed: true}
	for _, k := range n.Of {
		kid := c.op(k)
		o.kids = append(o.kids, kid)
		o.placed = o.placed && kid.placed
	}
	c.warnCovered(n, o)
	return o
}

func (n *NearNode) compile(c *compiler) *op {
	o := &op{kind: Near, placed: true, reach: n.Reach}
	for _, k := range n.Kids() {
		o.kids = append(
			o.kids, c.placedOp(k, "a joint with a reach", "take the reach away, so that it may stand anywhere in the answer"),
		)
	}
	return o
}

func (n *WithNode) compile(c *compiler) *op {
	return &op{kind: With, kids: []*op{c.op(n.A), c.op(n.B)}}
}

func (n *WithoutNode) compile(c *compiler) *op {
	return &op{kind: Without, kids: []*op{c.op(n.A), c.op(n.B)}}
}

// errors is how many of the problems so far are no warnings.
func (c *compiler) errors() (n int) {
	for _, p := range c.problems {
		n += boolInt(!p.Warning)
	}
	return n
}

// placedOp makes ready a part that must have hits.
func (c *compiler) placedOp(n Node, where, instead string) *op {
	before := c.errors()
	o := c.op(n)
	if !o.placed && c.errors() == before {
		return c.fail(n, "%s needs words that stand somewhere; this speaks of the whole answer: %s", where, instead)
	}
	return o
}

// row makes ready parts in a row. Neighbouring bare words are read together, since several may make one term.
func (c *compiler) row(parts []Node) *op {
	var kids []*op
	for i := 0; i < len(parts); {
		if parts[i].Kind() != Word {
			kids = append(kids, c.placedOp(parts[i], "a row", `join it with "+" instead`))
			i++
			continue
		}
		var words []string
		for ; i < len(parts); i++ {
			typed, ok := parts[i].(*WordNode)
			if !ok {
				break
			}
			own := c.words(typed, typed.Text)
			c.warnClash(typed, own)
			words = append(words, own...)
		}
		for _, ps := range c.scope.View.Row(words) {
			kids = append(kids, &op{kind: Word, placed: true, phrases: ps})
		}
	}
	return rowOf(kids)
}

// rowOf makes a row. One of which each part is single words is a sequence: it is found without making hits of its parts.
func rowOf(kids []*op) *op {
	if len(kids) == 1 {
		return kids[0]
	}
	row := &op{kind: Row, placed: true}
	for _, k := range kids {
		words := k.single
		if k.kind == Word && k.phrases.Single() && !k.phrases.Empty() {
			words = k.phrases.Words()
		}
		if words == nil {
			return &op{kind: Row, placed: true, kids: kids}
		}
		row.sequence = append(row.sequence, words)
		if k.kind != Word {
			row.kids = kids // what a part finds is told of them
		}
	}
	return row
}

// exact makes ready surfaces in a row, nothing joined.
func (c *compiler) exact(n Node, typed string) *op {
	var kids []*op
	for _, w := range c.words(n, typed) {
		var ps lexicon.Phrases
		if set := c.scope.View.Exact(w); len(set) > 0 {
			ps = lexicon.NewPhrases(lexicon.Sequence{set})
		}
		kids = append(kids, &op{kind: Word, placed: true, phrases: ps})
	}
	return rowOf(kids)
}

// words are what cleaning makes of the typed words of a part.
func (c *compiler) words(n Node, typed string) []string {
	words := c.scope.View.Typed(typed)
	if len(words) == 0 {
		c.fail(n, "cleaning leaves nothing of %q: no answer holds it as a word", typed)
	}
	for _, w := range words {
		if given := strings.Map(dropWild, w); lexicon.Wild(w) && len([]rune(given)) < 2 {
			c.fail(n, "a pattern needs at least two letters: %q would find far too much", w)
		}
		if !lexicon.Wild(w) {
			c.warnUnseen(n, w)
		}
	}
	return words
}

func dropWild(c rune) rune {
	if c == '*' || c == '?' {
		return -1
	}
	return c
}

func (n *OfNode) compile(c *compiler) *op {
	o := &op{kind: Of, number: n.Number}
	seen := map[string]bool{}
	switch among := n.Among.(type) {
	case *ListNode:
		entries, ok := c.scope.View.Entries(among.Name)
		if !ok {
			if _, built := c.scope.View.BuiltIn(among.Name); built {
				return c.fail(n, "@%s has no entries to count; join it to itself instead, as in @%[1]s +30w @%[1]s", among.Name)
			}
			return c.unknownList(among)
		}
		for _, e := range entries {
			if !seen[e] {
				seen[e] = true
				o.kids = append(o.kids, &op{kind: List, placed: true, entry: e, phrases: c.scope.View.EntryPhrases(among.Name, e)})
			}
		}
	case *AlternativesNode:
		for _, k := range among.Of {
			if !seen[k.String()] {
				seen[k.String()] = true
				o.kids = append(o.kids, c.op(k))
			}
		}
	default:
		o.kids = []*op{c.op(among)}
	}
	switch {
	case n.Number < 1:
		return c.fail(n, "at least 1 of these must be asked for")
	case n.Number > len(o.kids):
		return c.fail(n, "%d of them are asked for, but there are only %d different ones", n.Number, len(o.kids))
	}
	return o
}

func (n *ConditionNode) compile(c *compiler) *op {
	if v, ok := survey.ByName(c.scope.Variables, n.Variable); ok {
		set, err := v.Select(n.Op, n.Values, c.scope.View.Index.Len())
		if err != nil {
			return c.failed(c.unselected(n, v, err))
		}
		return &op{kind: Condition, answers: set}
	}
	var known []string
	for _, v := range c.scope.Variables {
		known = append(known, v.Name)
	}
	near := nearest(n.Variable, known)
	return c.unknown(n, "variable", n.Variable, near, &ConditionNode{n.span, n.leaf, near, n.Op, n.Values})
}

func abs(n int) int { return max(n, -n) }

func boolInt(b bool) int {
	if b {
		return 1
	}
	return 0
}
