package lexicon

import (
	"fmt"
	"slices"
	"strings"
)

// Part is a part of the lexicon that goes in and out as a table.
type Part string

// The parts.
const (
	StopWordsPart Part = "stop-words"
	MergesPart    Part = "merges"
	ListsPart     Part = "lists"
)

// headers of the tables.
var headers = map[Part][]string{StopWordsPart: {"word", "use"}, MergesPart: {"term", "variant"}, ListsPart: {"list", "entry"}}

// Table gives a part as rows of cells, a header first: stop words with their use (hide or keep), merges with a row for
// each variant, term lists with a row for each entry.
func (l Lexicon) Table(part Part) [][]string {
	rows := [][]string{headers[part]}
	switch part {
	case StopWordsPart:
		for _, w := range l.StopWords.Add {
			rows = append(rows, []string{w, "hide"})
		}
		for _, w := range l.StopWords.Keep {
			rows = append(rows, []string{w, "keep"})
		}
	case MergesPart:
		for _, m := range l.Merges {
			rows = pairs(rows, m.Term, m.Variants)
		}
	case ListsPart:
		for _, list := range l.Lists {
			rows = pairs(rows, list.Name, list.Entries)
		}
	}
	return rows
}

func pairs(rows [][]string, name string, items []string) [][]string {
	for _, item := range items {
		rows = append(rows, []string{name, item})
	}
	if len(items) == 0 {
		rows = append(rows, []string{name, ""})
	}
	return rows
}

// WithTable is the lexicon with what a table says added to a part; what is there already stays as it is. The first row is
// taken for a header if it is one. A stop word without a use is hidden. A row that says nothing is passed over.
func (l Lexicon) WithTable(part Part, rows [][]string) (out Lexicon, added int, err error) {
	if headers[part] == nil {
		return l, 0, fmt.Errorf("%w: there is no part %q; the parts are stop-words, merges and lists", ErrLexicon, part)
	}
	out = l.Clone()
	for i, row := range rows {
		cells := []string{"", ""}
		for j := range cells {
			if j < len(row) {
				cells[j] = strings.TrimSpace(row[j])
			}
		}
		name, item := cells[0], cells[1]
		if name == "" || i == 0 && strings.EqualFold(name, headers[part][0]) {
			continue
		}
		put := false
		switch part {
		case StopWordsPart:
			to := &out.StopWords.Add
			switch strings.ToLower(item) {
			case "", "hide":
			case "keep":
				to = &out.StopWords.Keep
			default:
				return l, 0, fmt.Errorf(
					"%w: row %d: the use of a stop word is hide or keep, not %q; nothing was changed", ErrLexicon, i+1, item,
				)
			}
			put = addOnce(to, name)
		case MergesPart:
			at := slices.IndexFunc(out.Merges, func(m Merge) bool { return strings.EqualFold(m.Term, name) })
			if at < 0 {
				at, put = len(out.Merges), true
				out.Merges = append(out.Merges, Merge{Term: name, Variants: []string{}})
			}
			put = addOnce(&out.Merges[at].Variants, item) || put
		case ListsPart:
			at := slices.IndexFunc(out.Lists, func(x List) bool { return x.Name == name })
			if at < 0 {
				at, put = len(out.Lists), true
				out.Lists = append(out.Lists, List{Name: name, Entries: []string{}})
			}
			put = addOnce(&out.Lists[at].Entries, item) || put
		}
		if put {
			added++
		}
	}
	return out, added, out.Check()
}

// addOnce adds a word that is not there yet.
func addOnce(to *[]string, word string) bool {
	if word == "" || slices.Contains(*to, word) {
		return false
	}
	*to = append(*to, word)
	return true
}

// Clone copies all that edits change.
func (l Lexicon) Clone() Lexicon {
	l.StopWords.Add, l.StopWords.Keep = slices.Clone(l.StopWords.Add), slices.Clone(l.StopWords.Keep)
	l.Parted = slices.Clone(l.Parted)
	clone := func(merges []Merge) []Merge {
		merges = slices.Clone(merges)
		for i := range merges {
			merges[i].Variants = slices.Clone(merges[i].Variants)
		}
		return merges
	}
	l.Merges, l.Apart, l.Lists = clone(l.Merges), clone(l.Apart), slices.Clone(l.Lists)
	for i := range l.Lists {
		l.Lists[i].Entries = slices.Clone(l.Lists[i].Entries)
	}
	return l
}
