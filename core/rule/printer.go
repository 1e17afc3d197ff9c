package rule

import (
	"strconv"
	"strings"
	"unicode"

	"aftermath/core/naming"
)

// Levels of binding, loosest first.
const (
	levelSum = iota
	levelNear
	levelAlternatives
	levelRow
	levelPart
)

func (n *OfNode) level() int           { return levelPart }
func (n *RowNode) level() int          { return levelRow }
func (n *AlternativesNode) level() int { return levelAlternatives }
func (n *NearNode) level() int         { return levelNear }
func (n *WithNode) level() int         { return levelSum }
func (n *WithoutNode) level() int      { return levelSum }

// printed writes a node where nothing looser than the level may stand without brackets.
func printed(n Node, level int) string {
	if s := n.bare(); n.level() >= level {
		return s
	} else {
		return "(" + s + ")"
	}
}

func printedAll(nodes []Node, sep string, level int) string {
	parts := make([]string, len(nodes))
	for i, n := range nodes {
		parts[i] = printed(n, level)
	}
	return strings.Join(parts, sep)
}

func (n *WordNode) bare() string     { return n.Text }
func (n *QuoteNode) bare() string    { return `"` + n.Text + `"` }
func (n *ExactNode) bare() string    { return "=" + n.Text }
func (n *ListNode) bare() string     { return "@" + listName(n.Name) }
func (n *CategoryNode) bare() string { return "{" + path(n.Path) + "}" }
func (n *RegexNode) bare() string    { return `re"` + n.Pattern + `"` }
func (n *AnyNode) bare() string      { return "*" }
func (n *ConditionNode) bare() string {
	return "[" + name(n.Variable) + " " + n.Op + " " + path(n.Values) + "]"
}

func (n *OfNode) bare() string {
	if n.Among.Kind() == List {
		return strconv.Itoa(n.Number) + " of " + n.Among.bare()
	}
	return strconv.Itoa(n.Number) + " of (" + n.Among.bare() + ")"
}

func (n *RowNode) bare() string          { return printedAll(n.Parts, " ", levelPart) }
func (n *AlternativesNode) bare() string { return printedAll(n.Of, " / ", levelRow) }

func (n *NearNode) bare() string {
	return printed(n.A, levelAlternatives) + " " + n.Reach.String() + " " + printed(n.B, levelNear)
}

func (n *WithNode) bare() string    { return printed(n.A, levelSum) + " + " + printed(n.B, levelNear) }
func (n *WithoutNode) bare() string { return printed(n.A, levelSum) + " - " + printed(n.B, levelNear) }

func (n *WordNode) String() string         { return n.bare() }
func (n *QuoteNode) String() string        { return n.bare() }
func (n *ExactNode) String() string        { return n.bare() }
func (n *ListNode) String() string         { return n.bare() }
func (n *CategoryNode) String() string     { return n.bare() }
func (n *ConditionNode) String() string    { return n.bare() }
func (n *RegexNode) String() string        { return n.bare() }
func (n *AnyNode) String() string          { return n.bare() }
func (n *OfNode) String() string           { return n.bare() }
func (n *RowNode) String() string          { return n.bare() }
func (n *AlternativesNode) String() string { return n.bare() }
func (n *NearNode) String() string         { return n.bare() }
func (n *WithNode) String() string         { return n.bare() }
func (n *WithoutNode) String() string      { return n.bare() }

// special says whether a sign in a name of a category, variable or value makes it stand in quotes.
func special(c rune) bool {
	return !unicode.IsLetter(c) && !unicode.IsDigit(c) && !strings.ContainsRune(" _-'.", c)
}

func path(names []string) string { return naming.PathOf(names, special) }

func name(s string) string { return naming.Write(s, special) }

// listName writes a name of a list so that "@" before it reads it whole.
func listName(s string) string { return naming.Write(s, func(c rune) bool { return !inWord(c) }) }

// Names renames what a rule names: every list, category or variable for which the function gives another name. It
// returns the source with only those names changed.
func Names(src string, rename func(k Kind, names []string) ([]string, bool)) string {
	tokens, _ := scan(src)
	runes := []rune(src)
	var b strings.Builder
	at := 0
	for _, t := range tokens {
		var with string
		switch t.kind {
		case list:
			if to, ok := rename(List, []string{t.text}); ok {
				with = "@" + listName(to[0])
			}
		case category:
			if to, ok := rename(Category, t.names); ok {
				with = "{" + path(to) + "}"
			}
		}
		if with != "" {
			b.WriteString(string(runes[at:t.start]))
			b.WriteString(with)
			at = t.end
		}
	}
	b.WriteString(string(runes[at:]))
	return b.String()
}
