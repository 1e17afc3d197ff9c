// Package termview is what the view Terms asks for: what is said, counted, in context, compared, over time, and what may be one.
package termview

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"sync/atomic"
	"unicode/utf8"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/lexicon"
	"aftermath/core/terms"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view"
)

// Term is a line of the term table: a term, or two or three terms in a row.
type Term struct {
	Label    string   `json:"label" doc:"rows of terms: as they are mostly written"`
	Members  []Member `json:"members" doc:"what is joined under the label, the most frequent first; at most 12"`
	More     int      `json:"more" doc:"members not listed"`
	Merge    bool     `json:"merge,omitempty"`
	Stop     bool     `json:"stop,omitempty"`
	Lists    []string `json:"lists" doc:"term lists that it is in"`
	Answers  int      `json:"answers"`
	Share    float64  `json:"share" doc:"of the answers in the focus, 0 to 1"`
	Times    int      `json:"times" doc:"occurrences"`
	OfWords  float64  `json:"ofWords" doc:"share of all words in the focus, 0 to 1"`
	Uncoded  int      `json:"uncoded" doc:"answers with it that no category has"`
	Distinct float64  `json:"distinct" doc:"single terms: mean distinctiveness in the answers with it, 0 to 1; 0 for stop words"`
	Everyday float64  `json:"everyday" doc:"single terms: how many times as often as in everyday speech it is said; 0 where that is not known"`
	Strip    []int    `json:"strip" doc:"answers with it in each bucket of the strip"`
}

// Member is a surface, or a variant of several words, that counts towards a term.
type Member struct {
	Word  string `json:"word"`
	Times int    `json:"times" doc:"in the focus"`
}

// TermTable is the term table in a focus.
type TermTable struct {
	Total  int    `json:"total" doc:"terms that meet the filters"`
	Hidden int    `json:"hidden" doc:"stop words among all terms in the focus; of rows of terms those that were hidden by themselves"`
	Rare   int    `json:"rare" doc:"rows of terms that stand in one answer only: they are not listed"`
	Base   int    `json:"base" doc:"answers in the focus"`
	Words  int    `json:"words" doc:"words in the focus"`
	Strip  Strip  `json:"strip"`
	Terms  []Term `json:"terms"`

	Everyday bool `json:"everyday" doc:"it is known how often words are said in everyday speech"`

	Pending bool `json:"pending" doc:"distinctiveness is still being worked out: ask again in a second"`
}

// TermQuery says which terms are asked for.
type TermQuery struct {
	Row           int    // terms in a row: 1 to 3
	Search        string // letters in the label or a member; with * or ? a pattern
	Stop          bool   // list the stop words instead
	Answers       int    // at least
	Letters       int    // at least
	List          string // in this term list
	NotMerged     bool
	NotInRules    bool
	Class         string  // of this word class: noun, verb, adjective, adverb, or OtherClass
	Everyday      float64 // said at least so many times as often as in everyday speech
	Sort          string  // answers, times, uncoded, distinct, everyday or term
	Descending    bool
	Offset, Limit int
	NoStrips      bool // strips are not wanted: the files have none
}

// Terms gives a stretch of the term table.
func Terms(ctx context.Context, s *state.State, f focus.Focus, want TermQuery) (TermTable, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return TermTable{}, err
	}
	want.Row = min(max(want.Row, 1), 3)
	counted, err := Count(ctx, s, f, want.Row, want.Row > 1 && want.Stop)
	if err != nil {
		return TermTable{}, err
	}
	strip := stripOf(s.Study)
	t := TermTable{Base: counted.Base, Words: counted.Words, Rare: counted.Rare, Strip: strip.in(set), Terms: []Term{}}
	keep, err := filter(s, want)
	if err != nil {
		return TermTable{}, err
	}
	usual, err := everydayOf(ctx, s)
	if err != nil {
		return TermTable{}, err
	}
	t.Everyday = usual != nil && want.Row == 1
	var rows []terms.Row
	for _, r := range counted.Rows {
		if want.Row == 1 && s.View.Terms[r.Terms[0]].Stop {
			t.Hidden++
		}
		if keep(r) && (want.Everyday <= 0 || !t.Everyday || more(usual, r, t.Words) >= want.Everyday) {
			rows = append(rows, r)
		}
	}
	if want.Row > 1 {
		t.Hidden = hiddenRows(s, want.Row)
	}
	var distinct []float64
	if want.Row == 1 {
		if distinct, err = distinctIn(ctx, s, f, want.Sort == "distinct"); err != nil {
			return TermTable{}, err
		}
		t.Pending = distinct == nil
	}
	t.Total = len(rows)
	unusual := func(r terms.Row) float64 { return more(usual, r, t.Words) }
	rows = firstOf(rows, want.Offset+want.Limit, order(s, want, distinct, unusual))
	page := rows[min(want.Offset, len(rows)):min(want.Offset+want.Limit, len(rows))]
	t.Terms = make([]Term, len(page))
	l := lines{s: s, set: set, in: t, lists: listsOf(s), distinct: distinct, usual: usual}
	if l.words, err = wordsIn(ctx, s, f); err != nil {
		return TermTable{}, err
	}
	if !want.NoStrips {
		l.strip = strip
	}
	var failed atomic.Value
	err = view.Each(ctx, len(page), func(i int) {
		made, err := l.line(ctx, page[i])
		if err != nil {
			failed.Store(err)
		}
		t.Terms[i] = made
	})
	if bad, ok := failed.Load().(error); ok {
		return TermTable{}, bad
	}
	return t, err
}

// hiddenRows is how many rows of so many terms were hidden by themselves.
func hiddenRows(s *state.State, n int) (hidden int) {
	for _, w := range s.View.Lexicon.StopWords.Add {
		if len(s.View.Typed(w)) == n {
			hidden++
		}
	}
	return hidden
}

// label names a row by the labels of its terms, for searching and sorting.
func label(s *state.State, r terms.Row) string {
	out := s.View.Terms[r.Terms[0]].Label
	for _, t := range r.Terms[1:] {
		if t >= 0 {
			out += " " + s.View.Terms[t].Label
		}
	}
	return out
}

// filter makes the test that a row must pass.
func filter(s *state.State, want TermQuery) (func(terms.Row) bool, error) {
	search := strings.ToLower(strings.TrimSpace(want.Search))
	var listed map[int]bool
	if want.List != "" {
		entries, ok := s.View.Entries(want.List)
		if !ok {
			return nil, fmt.Errorf("%w: there is no term list %q", state.ErrRequest, want.List)
		}
		listed = map[int]bool{}
		for _, e := range entries {
			for _, t := range termsOf(s, e) {
				listed[t] = true
			}
		}
	}
	var classed func(int32) bool
	if want.Class != "" && want.Class != AnyClass {
		classed = ofClass(s, want.Class)
	}
	var ruled []bool
	if want.NotInRules {
		ruled = Ruled(s)
	}
	any := func(r terms.Row, is func(t int32) bool) bool {
		return slices.ContainsFunc(r.Terms[:], func(t int32) bool { return t >= 0 && is(t) })
	}
	return func(r terms.Row) bool {
		switch {
		case want.Row == 1 && s.View.Terms[r.Terms[0]].Stop != want.Stop, r.Answers < want.Answers,
			listed != nil && !any(r, func(t int32) bool { return listed[int(t)] }),
			want.NotMerged && any(r, func(t int32) bool { return s.View.Terms[t].Merge >= 0 }),
			classed != nil && !any(r, classed),
			ruled != nil && any(r, func(t int32) bool { return ruled[t] }):
			return false
		}
		if want.Letters > 1 && utf8.RuneCountInString(strings.ReplaceAll(label(s, r), " ", "")) < want.Letters {
			return false
		}
		return search == "" || has(s, r, search)
	}, nil
}

// has says whether a row's label, or a word of a single term, holds the letters or is of the pattern.
func has(s *state.State, r terms.Row, search string) bool {
	found := func(word string) bool { return strings.Contains(word, search) }
	if lexicon.Wild(search) {
		found = func(word string) bool { return lexicon.GlobMatch(search, word) }
	}
	return found(strings.ToLower(label(s, r))) || slices.ContainsFunc(r.Terms[:], func(t int32) bool {
		return t >= 0 && form(s, t, found)
	}) || inRow(s, r, strings.Fields(search))
}

// form says whether a word that counts towards a term passes a test, as it is written or as it is read.
func form(s *state.State, term int32, is func(word string) bool) bool {
	return slices.ContainsFunc(s.View.Terms[term].Words, func(w uint32) bool {
		return is(strings.ToLower(s.View.Index.Spelling(w))) || is(s.View.Index.Surface(w))
	})
}

// inRow says whether a row of terms is written with these words in a row in it, in whatever forms: the first may begin within a
// word, and the last end within one.
func inRow(s *state.State, r terms.Row, sought []string) bool {
	for from := 0; len(sought) > 1 && from+len(sought) <= len(r.Terms); from++ {
		all := true
		for i, w := range sought {
			t := r.Terms[from+i]
			all = all && t >= 0 && form(s, t, func(word string) bool {
				switch i {
				case 0:
					return strings.HasSuffix(word, w)
				case len(sought) - 1:
					return strings.HasPrefix(word, w)
				}
				return word == w
			})
		}
		if all {
			return true
		}
	}
	return false
}

// termsOf are the terms that an entry of a list stands for: one, or all that a pattern finds.
func termsOf(s *state.State, entry string) []int {
	if t, ok := s.View.Find(entry); ok {
		return []int{t}
	}
	var out []int
	if words := s.View.Typed(entry); len(words) == 1 && lexicon.Wild(words[0]) {
		for _, w := range s.View.Exact(words[0]) {
			out = append(out, s.View.TermOf(w))
		}
	}
	return out
}

// listsOf gives the term lists that each term is in.
func listsOf(s *state.State) map[int][]string {
	out := map[int][]string{}
	for _, l := range s.View.Lexicon.Lists {
		for _, e := range l.Entries {
			for _, t := range termsOf(s, e) {
				if !slices.Contains(out[t], l.Name) {
					out[t] = append(out[t], l.Name)
				}
			}
		}
	}
	return out
}

// order compares rows by what is asked for; ties go by answers, and then by the alphabet.
func order(s *state.State, want TermQuery, distinct []float64, everyday func(terms.Row) float64) func(a, b terms.Row) int {
	key := func(r terms.Row) float64 { return float64(r.Answers) }
	switch want.Sort {
	case "times":
		key = func(r terms.Row) float64 { return float64(r.Times) }
	case "uncoded":
		key = func(r terms.Row) float64 { return view.Share(r.Uncoded, r.Answers) }
	case "everyday":
		key = everyday
	case "distinct":
		if distinct != nil {
			key = func(r terms.Row) float64 { return distinct[r.Terms[0]] }
		}
	}
	return func(a, b terms.Row) int {
		order := cmp.Compare(key(a), key(b))
		if want.Sort == "term" {
			order = strings.Compare(label(s, a), label(s, b))
		}
		if want.Descending {
			order = -order
		}
		if order == 0 {
			order = b.Answers - a.Answers
		}
		for i := 0; order == 0 && i < len(a.Terms) && a.Terms[i] >= 0; i++ {
			order = strings.Compare(s.View.Terms[a.Terms[i]].Label, s.View.Terms[b.Terms[i]].Label)
		}
		return order
	}
}

// firstOf gives the first n rows in an order: a page needs no more, and to sort all of them takes far longer.
func firstOf(rows []terms.Row, n int, order func(a, b terms.Row) int) []terms.Row {
	if n >= len(rows)/4 {
		slices.SortFunc(rows, order)
		return rows
	}
	if n <= 0 {
		return nil
	}
	best := make([]terms.Row, 0, 2*n)
	for _, r := range rows {
		if len(best) >= n && order(best[n-1], r) <= 0 {
			continue
		}
		if best = append(best, r); len(best) == 2*n || len(best) == n {
			slices.SortFunc(best, order)
			best = best[:n]
		}
	}
	slices.SortFunc(best, order)
	return best[:min(n, len(best))]
}

// maxMembers is how many members of a term a table line lists.
const maxMembers = 12

// lines makes the lines of a page.
type lines struct {
	s        *state.State
	set      *roaring.Bitmap // the focus
	words    []int32         // counts of words in it
	in       TermTable
	strip    *strip // nil for none
	lists    map[int][]string
	distinct []float64 // nil while it is not there
	usual    terms.Everyday
}

func (l lines) line(ctx context.Context, r terms.Row) (Term, error) {
	s, term := l.s, int(r.Terms[0])
	t := Term{
		Answers: r.Answers,
		Share:   view.Share(r.Answers, l.in.Base),
		Times:   r.Times,
		OfWords: view.Share(r.Times, l.in.Words),
		Uncoded: r.Uncoded,
		Members: []Member{},
		Lists:   []string{},
	}
	found := lexicon.NewPhrases(s.View.RowSequence(r.Terms))
	if r.Terms[1] < 0 {
		of := s.View.Terms[term]
		t.Label, t.Merge, t.Stop, found = of.Label, of.Merge >= 0, of.Stop, s.View.Phrases(term)
		t.Lists = append(t.Lists, l.lists[term]...)
		t.Everyday = more(l.usual, r, l.in.Words)
		if l.distinct != nil {
			t.Distinct = l.distinct[term]
		}
		members, err := s.Counter.MembersIn(ctx, l.set, l.words, term)
		if err != nil {
			return t, err
		}
		t.More = max(0, len(members)-maxMembers)
		for _, m := range members[:len(members)-t.More] {
			t.Members = append(t.Members, Member{m.Text, m.Times})
		}
	} else {
		t.Label, t.Stop = s.Counter.RowLabel(r.Terms), s.View.RowHidden(r.Terms)
	}
	if l.strip != nil {
		t.Strip = l.strip.count(roaring.And(found.Answers(s.View.Index), l.set))
	}
	return t, nil
}

// Members lists all members of a term that occur in a focus.
func Members(ctx context.Context, s *state.State, f focus.Focus, label string) ([]Member, error) {
	t, ok := s.View.Find(label)
	if !ok {
		return nil, fmt.Errorf("%w: there is no term %q any more", state.ErrRequest, label)
	}
	set, err := f.Answers(ctx, s)
	if err != nil {
		return nil, err
	}
	words, err := wordsIn(ctx, s, f)
	if err != nil {
		return nil, err
	}
	members, err := s.Counter.MembersIn(ctx, set, words, t)
	out := []Member{}
	for _, m := range members {
		out = append(out, Member{m.Text, m.Times})
	}
	return out, err
}

// MatrixTerms are the answers of a focus, and its most frequent terms that are not hidden, with at least so many answers.
func MatrixTerms(ctx context.Context, s *state.State, f focus.Focus, least, limit int) (*roaring.Bitmap, []terms.Row, error) {
	set, err := f.Answers(ctx, s)
	if err != nil {
		return nil, nil, err
	}
	counted, err := Count(ctx, s, f, 1, false)
	if err != nil {
		return nil, nil, err
	}
	rows := slices.DeleteFunc(
		slices.Clone(counted.Rows), func(r terms.Row) bool { return s.View.Terms[r.Terms[0]].Stop || r.Answers < least },
	)
	rows = firstOf(rows, limit, order(s, TermQuery{Descending: true}, nil, nil))
	return set, rows[:min(limit, len(rows))], nil
}

// Ruled says of each term whether a rule looks for it.
func Ruled(s *state.State) []bool {
	out := make([]bool, len(s.View.Terms))
	s.Coding.RuleTerms(func(t int) { out[t] = true })
	return out
}
