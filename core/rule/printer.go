package rule

import (
	"strconv"
	"strings"
	"unicode"

	"aftermath/core/naming"
)

// String prints a rule in its usual form. Parsing what is printed gives the same tree.
func (n *Node) String() string { return n.print(0) }

// Levels of binding, loosest first.
const (
	levelSum = iota
	levelNear
	levelAlternatives
	levelRow
	levelPart
)

func (n *Node) level() int {
	switch n.Kind {
	case With, Without:
		return levelSum
	case Near:
		return levelNear
	case Alternatives:
		return levelAlternatives
	case Row:
		return levelRow
	}
	return levelPart
}

// print writes the node where nothing looser than the level may stand without brackets.
func (n *Node) print(level int) string {
	s := n.bare()
	if n.level() < level {
		return "(" + s + ")"
	}
	return s
}

func (n *Node) bare() string {
	join := func(sep string, level int) string {
		var parts []string
		for _, k := range n.Kids {
			parts = append(parts, k.print(level))
		}
		return strings.Join(parts, sep)
	}
	switch n.Kind {
	case Quote:
		return `"` + n.Text + `"`
	case Exact:
		return "=" + n.Text
	case List:
		return "@" + listName(n.Text)
	case Regex:
		return `re"` + n.Text + `"`
	case Any:
		return "*"
	case Category:
		return "{" + path(n.Names) + "}"
	case Condition:
		return "[" + name(n.Text) + " " + n.Op + " " + path(n.Names) + "]"
	case Of:
		if n.Kids[0].Kind == List {
			return strconv.Itoa(n.Number) + " of " + n.Kids[0].bare()
		}
		return strconv.Itoa(n.Number) + " of (" + n.Kids[0].bare() + ")"
	case Row:
		return join(" ", levelPart)
	case Alternatives:
		return join(" / ", levelRow)
	case Near:
		return n.Kids[0].print(levelAlternatives) + " " + n.Reach.String() + " " + n.Kids[1].print(levelNear)
	case With:
		return n.Kids[0].print(levelSum) + " + " + n.Kids[1].print(levelNear)
	case Without:
		return n.Kids[0].print(levelSum) + " - " + n.Kids[1].print(levelNear)
	}
	return n.Text
}

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
