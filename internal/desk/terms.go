package desk

import (
	"cmp"
	"slices"
	"strings"

	"aftermath/core/lexicon"
)

// Term is a line of the term table.
type Term struct {
	Label   string   `json:"label"`
	Members []Member `json:"members" doc:"what is joined under the label, the most frequent first; at most 12"`
	More    int      `json:"more" doc:"members not listed"`
	Merge   bool     `json:"merge,omitempty"`
	Stop    bool     `json:"stop,omitempty"`
	Answers int      `json:"answers"`
	Share   float64  `json:"share" doc:"of the answers in the focus, 0 to 1"`
	Times   int      `json:"times" doc:"occurrences"`
	OfWords float64  `json:"ofWords" doc:"share of all words in the focus, 0 to 1"`
	Uncoded int      `json:"uncoded" doc:"answers with it that no category has"`
}

// Member is a surface, or a variant of several words, that counts towards a term.
type Member struct {
	Word  string `json:"word"`
	Times int    `json:"times" doc:"in the whole question"`
}

// TermTable is the term table in a focus.
type TermTable struct {
	Total  int    `json:"total" doc:"terms that meet the search"`
	Hidden int    `json:"hidden" doc:"stop words among all terms in the focus"`
	Base   int    `json:"base" doc:"answers in the focus"`
	Words  int    `json:"words" doc:"words in the focus"`
	Terms  []Term `json:"terms"`
}

// TermQuery says which terms are asked for.
type TermQuery struct {
	Search        string
	Stop          bool // list the stop words instead
	Sort          string
	Descending    bool
	Offset, Limit int
}

// Terms gives a stretch of the term table.
func (q *Question) Terms(s *State, f Focus, want TermQuery) (TermTable, error) {
	set, err := q.Focus(s, f)
	if err != nil {
		return TermTable{}, err
	}
	counts, words := s.View.Count(set, s.Coding.Coded)
	t := TermTable{Base: int(set.GetCardinality()), Words: words, Terms: []Term{}}
	search := strings.ToLower(strings.TrimSpace(want.Search))
	var rows []lexicon.Count
	for _, c := range counts {
		term := s.View.Terms[c.Term]
		if term.Stop {
			t.Hidden++
		}
		if term.Stop == want.Stop && (search == "" || s.termHas(term, search)) {
			rows = append(rows, c)
		}
	}
	label := func(c lexicon.Count) string { return s.View.Terms[c.Term].Label }
	slices.SortFunc(rows, func(a, b lexicon.Count) int {
		order := 0
		switch want.Sort {
		case "term":
			order = strings.Compare(label(a), label(b))
		case "times":
			order = cmp.Compare(a.Times, b.Times)
		case "uncoded":
			order = cmp.Compare(share(a.Uncoded, a.Answers), share(b.Uncoded, b.Answers))
		default:
			order = cmp.Compare(a.Answers, b.Answers)
		}
		if want.Descending {
			order = -order
		}
		return cmp.Or(order, b.Answers-a.Answers, strings.Compare(label(a), label(b)))
	})
	t.Total = len(rows)
	for _, c := range rows[min(want.Offset, len(rows)):min(want.Offset+want.Limit, len(rows))] {
		t.Terms = append(t.Terms, s.term(c, t))
	}
	return t, nil
}

func share(part, whole int) float64 {
	if whole == 0 {
		return 0
	}
	return float64(part) / float64(whole)
}

// termHas says whether a term's label or one of its words holds the search.
func (s *State) termHas(t lexicon.Term, search string) bool {
	return strings.Contains(strings.ToLower(t.Label), search) ||
		slices.ContainsFunc(t.Words, func(w uint32) bool { return strings.Contains(s.View.Index.Spelling(w), search) })
}

// maxMembers is how many members of a term a table line lists.
const maxMembers = 12

func (s *State) term(c lexicon.Count, in TermTable) Term {
	term := s.View.Terms[c.Term]
	t := Term{Label: term.Label, Merge: term.Merge >= 0, Stop: term.Stop, Answers: c.Answers, Share: share(c.Answers, in.Base),
		Times: c.Times, OfWords: share(c.Times, in.Words), Uncoded: c.Uncoded, Members: []Member{}}
	for _, m := range s.View.Members(c.Term) {
		if len(t.Members) == maxMembers {
			t.More++
			continue
		}
		t.Members = append(t.Members, Member{m.Text, m.Times})
	}
	return t
}
