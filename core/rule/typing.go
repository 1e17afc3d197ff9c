package rule

import (
	"slices"
	"strings"
)

// Typing is what is being written at a place of a rule that may not be whole yet.
type Typing struct {
	Kind     Kind   // Word, Exact, Quote, List, Category, Condition
	From     int    // the rune from which on it is replaced
	Prefix   string // what is there of it so far
	Variable string // in a condition, once the comparison is written: its variable; a value is being written then
}

// TypingAt says what is being written before the rune at a place.
func TypingAt(src string, at int) Typing {
	runes := []rune(src)
	at = max(0, min(at, len(runes)))
	open, from := rune(0), 0 // the bracket or quote that is open, and where its inside begins
	quoted := false          // inside quotes within brackets
	for i, c := range runes[:at] {
		c = plain(c)
		switch {
		case open == 0 && (c == '{' || c == '[' || c == '"'):
			open, from, quoted = c, i+1, false
		case open == '"' && c == '"', open == '{' && c == '}' && !quoted, open == '[' && c == ']' && !quoted:
			open = 0
		case open != 0 && c == '"':
			quoted = !quoted
		}
	}
	inside := runes[from:at]
	tail := func(stops string) Typing {
		start := at
		for start > from && !strings.ContainsRune(stops, plain(runes[start-1])) {
			start--
		}
		for start < at && runes[start] == ' ' {
			start++
		}
		return Typing{From: start, Prefix: strings.Trim(string(runes[start:at]), `"“”`)}
	}
	switch open {
	case '{':
		t := Typing{Kind: Category, From: from, Prefix: strings.TrimSpace(strings.ReplaceAll(string(inside), `"`, ""))}
		return t
	case '[':
		if i := strings.IndexAny(string(inside), "=<>!"); i >= 0 {
			t := tail("=<>!/")
			t.Kind, t.Variable = Condition, strings.Trim(strings.TrimSpace(string(inside)[:i]), `"“”`)
			return t
		}
		return Typing{Kind: Condition, From: from, Prefix: strings.Trim(strings.TrimSpace(string(inside)), `"“”`)}
	case '"':
		t := tail(` "`)
		t.Kind = Quote
		if from > 1 && runes[from-2] == '@' { // the quoted name of a term list
			return Typing{Kind: List, From: from - 2, Prefix: string(inside)}
		}
		return t
	}
	from = 0
	start := at
	for start > 0 && inWord(runes[start-1]) {
		start--
	}
	switch {
	case start < at && runes[start] == '@':
		return Typing{Kind: List, From: start, Prefix: string(runes[start+1 : at])}
	case start < at && runes[start] == '=':
		return Typing{Kind: Exact, From: start + 1, Prefix: string(runes[start+1 : at])}
	}
	return Typing{Kind: Word, From: start, Prefix: string(runes[start:at])}
}

// PartAt gives the smallest part of a rule at a rune, nil if none is there or the rule can't be read. Bare words in a row are
// one part: together they may stand for a merge.
func PartAt(src string, at int) Node {
	tree, problems := Parse(src)
	if tree == nil || len(problems) > 0 {
		return nil
	}
	part := tree
	Walk(tree, func(n Node) bool {
		if start, end := n.Span(); at < start || end <= at {
			return n == tree
		}
		part = n
		row, ok := n.(*RowNode)
		return !ok || slices.ContainsFunc(row.Parts, func(k Node) bool { return k.Kind() != Word })
	})
	return part
}

// Named writes what is named so that a rule can hold it: a term list, a category by its path, or a name or value in a condition.
func Named(k Kind, names ...string) string {
	switch k {
	case List:
		return "@" + listName(names[0])
	case Category:
		return "{" + path(names) + "}"
	}
	return name(names[0])
}
