package view_test

import (
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/chart"
	"aftermath/internal/view/code"
	"aftermath/internal/view/termview"
	"aftermath/internal/view/viewtest"
)

var ctx = context.Background()

// heap is a question as a list of people, from which every figure is worked out by going through all of them, one by one, with
// nothing but the words as they were typed.
type heap struct {
	people []person
	frame  []coder
}

type person struct {
	number  int
	text    string
	route   string
	topics  []string
	in      map[int]bool // categories, by their place
	settled bool
}

// coder is a category of the heap: each of its rules is terms that all have to be there.
type coder struct {
	rules   [][]string
	on, off map[int]bool // people
}

// one names the term that a word counts towards.
func one(word string) string {
	if word == "tailback" {
		return "queue"
	}
	return word
}

func (p person) terms() map[string]int {
	out := map[string]int{}
	for _, w := range strings.Fields(p.text) {
		out[one(w)]++
	}
	return out
}

func (p person) words() int { return len(strings.Fields(p.text)) }

func (p person) answered() bool { return p.text != "" }

func (p person) coded() bool { return len(p.in) > 0 }

func (p person) all(terms []string) bool {
	return !slices.ContainsFunc(terms, func(t string) bool { return p.terms()[t] == 0 })
}

var vocabulary = []string{"queue", "tailback", "boat", "rain", "ticket", "crew", "cabin", "the", "window"}

const stop = "the"

// anyHeap draws at least so many (three or more) people and a frame, and gives them as a question too.
func anyHeap(t *rapid.T, least int) (*heap, *state.State) {
	h := &heap{}
	cells := make([][]string, 3)
	routes := []string{"North", "South", "West", ""}
	for i := range rapid.IntRange(least, 45).Draw(t, "people") {
		p := person{number: i, in: map[int]bool{}}
		long := rapid.SampledFrom([]int{4, 3, 2, 5, 6, 1, 0}).Draw(t, "words")
		p.text = strings.Join(rapid.SliceOfN(rapid.SampledFrom(vocabulary), long, long).Draw(t, "text"), " ")
		p.route = rapid.SampledFrom(routes).Draw(t, "route")
		p.topics = rapid.SliceOfNDistinct(rapid.SampledFrom([]string{"price", "food"}), 0, 2, rapid.ID).Draw(t, "topics")
		if i < 3 { // so that each value is there
			p.route, p.topics = routes[i], []string{"price", "food"}
		}
		h.people = append(h.people, p)
		for i, cell := range []string{p.route, strings.Join(p.topics, ";"), p.text} {
			cells[i] = append(cells[i], cell)
		}
	}
	book := playbook.New("en")
	book.Lexicon.Merges = []lexicon.Merge{{Term: "queue", Variants: []string{"tailback"}}}
	for c := range rapid.SampledFrom([]int{0, 0, 1, 2, 4}).Draw(t, "categories") {
		x := coder{on: map[int]bool{}, off: map[int]bool{}}
		made := frame.Category{Name: fmt.Sprint("Category ", c)}
		for range rapid.IntRange(0, 2).Draw(t, "rules") {
			all := rapid.SliceOfNDistinct(
				rapid.SampledFrom([]string{"queue", "boat", "rain", "ticket", "crew", "cabin"}), 1, 2, rapid.ID,
			).Draw(t, "rule")
			x.rules, made.Rules = append(x.rules, all), append(made.Rules, strings.Join(all, " + "))
		}
		h.frame, book.Frame = append(h.frame, x), append(book.Frame, made)
	}
	book.Frame.Complete(nil, 0)
	s, err := state.Unstored(
		ctx,
		[]survey.Spec{{Name: "route", Role: survey.Segment}, {Name: "topics", Role: survey.Several, Delimiter: ";"},
			{Name: "answer", Role: survey.OpenEnded}},
		cells,
		2,
		book,
	)
	require.NoError(t, err)
	return h, h.decided(t, s)
}

// decided draws decisions by hand, and codes the heap with them.
func (h *heap) decided(t *rapid.T, s *state.State) *state.State {
	var marks []scheme.Marks
	mark := func(key string, to scheme.Mark, person int) {
		marks = append(marks, scheme.Marks{Category: key, To: to, Respondents: []survey.Respondent{survey.Respondent(person)}})
	}
	for i := range h.people {
		p := &h.people[i]
		if !p.answered() {
			continue
		}
		if p.settled = rapid.IntRange(0, 5).Draw(t, "settled") == 0; p.settled {
			mark("", scheme.On, i)
		}
		for c, x := range h.frame {
			switch rapid.IntRange(0, 9).Draw(t, "by hand") {
			case 0:
				x.on[i] = true
				mark(s.Scheme.Frame[c].ID, scheme.On, i)
			case 1:
				x.off[i] = true
				mark(s.Scheme.Frame[c].ID, scheme.Off, i)
			}
			if x.on[i] || !x.off[i] && slices.ContainsFunc(x.rules, p.all) {
				p.in[c] = true
			}
		}
	}
	patch := scheme.Patch{Decisions: marks}
	s, err := s.With(ctx, s.Scheme.Patched(patch), patch.Touches())
	require.NoError(t, err)
	return s
}

// anyFocus draws a focus, and the people in it.
func (h *heap) anyFocus(t *rapid.T) (f focus.Focus, in []person) {
	in = h.where(person.answered)
	narrow := func(c focus.Condition, is func(p person) bool) {
		if c.Not = rapid.Bool().Draw(t, "not"); c.Not {
			yes := is
			is = func(p person) bool { return !yes(p) }
		}
		f, in = append(f, c), slices.DeleteFunc(slices.Clone(in), func(p person) bool { return !is(p) })
	}
	if rapid.Bool().Draw(t, "by route") {
		narrow(focus.Is(focus.Variable{Name: "route", Op: "=", Values: []string{"North", "South"}}),
			func(p person) bool { return p.route == "North" || p.route == "South" })
	}
	if rapid.Bool().Draw(t, "by coding") {
		narrow(focus.Is(focus.Coded{}), person.coded)
	}
	if rapid.Bool().Draw(t, "by words") {
		narrow(focus.Is(focus.Words{Rule: "queue + boat"}), func(p person) bool { return p.all([]string{"queue", "boat"}) })
	}
	return f, in
}

// anyCondition draws a condition of nearly any kind, and says who meets it; wide conditions speak of those who say nothing, too.
func (h *heap) anyCondition(t *rapid.T, s *state.State) (c focus.Condition, is func(p person) bool, wide bool) {
	values := rapid.SliceOfNDistinct(rapid.SampledFrom([]string{"North", "South", "West"}), 1, 3, rapid.ID).Draw(t, "values")
	n := rapid.IntRange(0, 5).Draw(t, "n")
	who := rapid.SliceOfN(rapid.IntRange(0, len(h.people)-1), 1, 4).Draw(t, "who")
	category := -1
	if len(h.frame) > 0 {
		category = rapid.IntRange(0, len(h.frame)-1).Draw(t, "category")
	}
	kinds := []string{"variable", "several", "term", "words", "row", "coded", "settled", "short", "answers", "status", "decided"}
	if category >= 0 {
		kinds = append(kinds, "category", "rule", "decided for")
	}
	key := func() string { return s.Scheme.Frame[category].ID }
	switch kind := rapid.SampledFrom(kinds).Draw(t, "kind"); kind {
	case "variable":
		if rapid.Bool().Draw(t, "another value") {
			return focus.Is(focus.Variable{Name: "route", Op: "!=", Values: values}),
				func(p person) bool { return p.route != "" && !slices.Contains(values, p.route) }, false
		}
		return focus.Is(focus.Variable{Name: "route", Values: values}), func(p person) bool { return slices.Contains(values, p.route) }, false
	case "several":
		return focus.Is(focus.Variable{Name: "topics", Op: "=", Values: []string{"food"}}),
			func(p person) bool { return slices.Contains(p.topics, "food") }, false
	case "term":
		return focus.Is(focus.Term{Label: "queue"}), with("queue"), false
	case "words":
		return focus.Is(focus.Words{Rule: "boat - the"}), func(p person) bool { return with("boat")(p) && !with("the")(p) }, false
	case "row":
		side := func(p person) bool {
			words := strings.Fields(p.text)
			for i := range words {
				if i > 0 && one(words[i-1]) == "queue" && one(words[i]) == "boat" {
					return true
				}
			}
			return false
		}
		return focus.Is(focus.Row{Label: "queue boat"}), side, false
	case "coded":
		return focus.Is(focus.Coded{}), person.coded, false
	case "settled":
		return focus.Is(focus.Settled{}), func(p person) bool { return p.settled }, false
	case "short":
		return focus.Is(focus.Short{Words: n}), func(p person) bool { return p.answered() && p.words() < n }, false
	case "answers":
		var these []survey.Respondent
		for _, i := range who {
			these = append(these, survey.Respondent(i))
		}
		return focus.Is(focus.Respondents{Numbers: these}), func(p person) bool { return slices.Contains(who, p.number) }, true
	case "status":
		return focus.Is(focus.Status{Name: "missing"}), func(p person) bool { return !p.answered() }, true
	case "decided":
		any := func(p person) bool { return slices.ContainsFunc(h.frame, func(x coder) bool { return x.on[p.number] }) }
		return focus.Is(focus.Decided{}), any, false
	case "category":
		return focus.Is(focus.Category{ID: key()}), func(p person) bool { return p.in[category] }, false
	case "rule":
		if len(h.frame[category].rules) == 0 {
			return focus.Is(focus.Coded{}), person.coded, false
		}
		return focus.Is(focus.CategoryRule{Category: key(), Place: 1}), func(p person) bool { return p.all(h.frame[category].rules[0]) }, false
	default:
		return focus.Is(focus.Decided{Category: key()}), func(p person) bool { return h.frame[category].on[p.number] }, false
	}
}

// A focus holds those who meet all its conditions, found by asking each of them.
func TestFocusAgainstAskingEach(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h, s := anyHeap(t, 3)
		var f focus.Focus
		all, anybody := func(person) bool { return true }, false
		for range rapid.IntRange(1, 4).Draw(t, "conditions") {
			c, is, wide := h.anyCondition(t, s)
			c.Not = rapid.Bool().Draw(t, "not")
			before, not := all, c.Not
			all = func(p person) bool { return before(p) && is(p) != not }
			f, anybody = append(f, c), anybody || wide
		}
		got, err := f.Answers(ctx, s)
		require.NoError(t, err)
		want := []uint32{}
		for _, p := range h.people {
			if (anybody || p.answered()) && all(p) {
				want = append(want, uint32(p.number))
			}
		}
		require.Equal(t, want, append([]uint32{}, got.ToArray()...), "%+v", f)
	})
}

func (h *heap) where(is func(p person) bool) (out []person) { return those(h.people, is) }

func those(people []person, is func(p person) bool) (out []person) {
	for _, p := range people {
		if is(p) {
			out = append(out, p)
		}
	}
	return out
}

func count(people []person, is func(p person) bool) int { return len(those(people, is)) }

// times adds up the occurrences of each term.
func times(people []person) map[string]int {
	out := map[string]int{}
	for _, p := range people {
		for t, n := range p.terms() {
			out[t] += n
		}
	}
	return out
}

func words(people []person) (sum int) {
	for _, p := range people {
		sum += p.words()
	}
	return sum
}

func part(k, n int) float64 {
	if n == 0 {
		return 0
	}
	return float64(k) / float64(n)
}

func with(term string) func(p person) bool {
	return func(p person) bool { return p.terms()[term] > 0 }
}

// Every figure of the term table, of its members and of the text as a whole is that of going through the people.
func TestTermsAgainstCounting(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h, s := anyHeap(t, 3)
		f, in := h.anyFocus(t)
		typed := map[string]int{}
		for _, p := range in {
			for _, w := range strings.Fields(p.text) {
				typed[w]++
			}
		}
		all := times(in)
		for _, hidden := range []bool{false, true} {
			table, err := termview.Terms(ctx, s, f, termview.TermQuery{Row: 1, Stop: hidden, Sort: "times", Descending: true, Limit: 100})
			require.NoError(t, err)
			require.Equal(t, []int{len(in), words(in)}, []int{table.Base, table.Words})
			listed := 0
			for _, x := range table.Terms {
				listed++
				require.Equal(t, hidden, x.Label == stop)
				require.Equal(t, []any{count(in, with(x.Label)), all[x.Label]}, []any{x.Answers, x.Times}, x.Label)
				require.Equal(t, count(in, func(p person) bool { return with(x.Label)(p) && !p.coded() }), x.Uncoded)
				require.InDelta(t, part(x.Answers, len(in)), x.Share, 1e-12)
				require.InDelta(t, part(x.Times, words(in)), x.OfWords, 1e-12)
				sum := 0
				for _, m := range x.Members {
					sum += m.Times
					require.Equal(t, []any{x.Label, typed[m.Word]}, []any{one(m.Word), m.Times}, "members are counted in the focus")
				}
				require.Equal(t, x.Times, sum, "members add up to the term")
			}
			require.Equal(t, listed, table.Total)
			require.Equal(t, count1(all, func(term string) bool { return (term == stop) == hidden }), listed)
		}
		c, err := termview.CorpusOf(ctx, s, f, "route")
		require.NoError(t, err)
		groups := map[string][]person{"All": in}
		for _, r := range []string{"North", "South", "West"} {
			groups[r] = those(in, func(p person) bool { return p.route == r })
		}
		for _, x := range c.Figures {
			people := groups[x.Name]
			require.Equal(t, []int{len(people), words(people)}, []int{x.Answers, x.Words})
			require.InDelta(t, part(words(people), len(people)), x.Mean, 1e-12)
			below := count(people, func(p person) bool { return float64(p.words()) < x.Median })
			above := count(people, func(p person) bool { return float64(p.words()) > x.Median })
			require.True(t, 2*below <= len(people) && 2*above <= len(people), "half of them are at most, half at least as long")
		}
		sizes := slices.Sorted(maps.Values(all))
		half, sum := 0, 0
		for half < len(sizes) && 2*sum < words(in) {
			half++
			sum += sizes[len(sizes)-half]
		}
		require.Equal(t, []int{half, len(all)}, []int{c.Half, c.Terms})
	})
}

func count1(of map[string]int, is func(key string) bool) (n int) {
	for key := range of {
		if is(key) {
			n++
		}
	}
	return n
}

// Both sides of a comparison, also "the rest", leave out who has no value.
func TestCompareAgainstCounting(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h, s := anyHeap(t, 3)
		f, in := h.anyFocus(t)
		v, err := s.Study.Variable("route")
		require.NoError(t, err)
		if len(v.Values) < 2 {
			return
		}
		a := rapid.SampledFrom(v.Values).Draw(t, "a")
		b := rapid.SampledFrom(
			slices.DeleteFunc(append(slices.Clone(v.Values), ""), func(x string) bool { return x == a }),
		).Draw(t, "b")
		least := rapid.IntRange(0, 3).Draw(t, "least")
		got, err := termview.Compare(ctx, s, f, termview.CompareQuery{By: "route", A: a, B: b, Least: least, Limit: 100})
		require.NoError(t, err)
		first := those(in, func(p person) bool { return p.route == a })
		second := those(in, func(p person) bool { return p.route != "" && (p.route == b || b == "" && p.route != a) })
		require.Equal(
			t, []int{len(first), words(first), len(second), words(second)},
			[]int{got.A.Answers, got.A.Words, got.B.Answers, got.B.Words},
		)
		require.Equal(t, count(in, func(p person) bool { return p.route == "" }), got.Missing)
		seen := map[string]bool{}
		for _, x := range got.Terms {
			seen[x.Label] = true
			k1, k2 := times(first)[x.Label], times(second)[x.Label]
			require.Equal(
				t, []int{count(first, with(x.Label)), count(second, with(x.Label)), k1, k2}, []int{x.A, x.B, x.ATimes, x.BTimes}, x.Label,
			)
			require.InDelta(t, part(x.A, len(first)), x.AShare, 1e-12)
			require.InDelta(t, part(x.B, len(second)), x.BShare, 1e-12)
			require.InDelta(t, logLikelihood(k1, words(first), k2, words(second)), x.Keyness.G2, 1e-9)
			g2 := logLikelihood(x.A, len(first), x.B, len(second)) +
				logLikelihood(len(first)-x.A, len(first), len(second)-x.B, len(second))
			require.InDelta(t, g2, x.G2OfAnswers, 1e-9)
			require.InDelta(t, math.Erfc(math.Sqrt(max(g2, 0)/2)), x.P, 1e-9)
			require.GreaterOrEqual(t, x.Adjusted, x.P-1e-12)
		}
		require.Equal(t, len(seen), got.Tested)
		for term := range times(slices.Concat(first, second)) {
			enough := count(first, with(term))+count(second, with(term)) >= least
			require.Equal(t, enough && term != stop, seen[term], "%s is listed if enough say it", term)
		}
	})
}

// logLikelihood is 2 × the sum of observed × ln(observed / expected) over both texts.
func logLikelihood(k1, n1, k2, n2 int) (g2 float64) {
	if n1 == 0 || n2 == 0 {
		return 0
	}
	for _, x := range [][2]int{{k1, n1}, {k2, n2}} {
		if expected := float64(x[1]) * float64(k1+k2) / float64(n1+n2); x[0] > 0 {
			g2 += 2 * float64(x[0]) * math.Log(float64(x[0])/expected)
		}
	}
	return g2
}

// The frame and its health are counted by going through the people.
func TestFrameAndHealthAgainstCounting(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h, s := anyHeap(t, 3)
		f, in := h.anyFocus(t)
		has := func(c int) func(p person) bool { return func(p person) bool { return p.in[c] } }
		table, err := code.Frame(ctx, s, f, "")
		require.NoError(t, err)
		require.Equal(t, []int{len(in), count(in, person.coded)}, []int{table.Base, table.Coded})
		for c, line := range table.Categories {
			require.Equal(
				t, []int{count(in, has(c)), count(in, func(p person) bool { return p.in[c] && len(p.in) == 1 })},
				[]int{line.Has, line.Only},
			)
			for i, r := range line.Hits {
				require.Equal(t, count(in, func(p person) bool { return p.all(h.frame[c].rules[i]) }), r.Answers)
			}
			byHand := count(in, func(p person) bool { return h.frame[c].on[p.number] })
			require.Equal(t, []int{len(h.frame[c].on), byHand}, []int{line.Decisions, line.Hand}, "all of them, and those in the focus")
		}
		least := rapid.IntRange(0, 6).Draw(t, "least")
		health, err := code.HealthOf(ctx, s, f, least)
		require.NoError(t, err)
		require.Equal(t, []int{len(in), count(in, person.coded)}, []int{health.Base, health.Coded})
		small, overlaps := 0, 0
		for a := range h.frame {
			if count(in, has(a)) < least {
				small++
			}
			for b := range h.frame {
				both := count(in, func(p person) bool { return p.in[a] && p.in[b] })
				require.Equal(t, both, health.Matrix[a][b])
				if a < b && both > 0 && 2*both >= min(count(in, has(a)), count(in, has(b))) {
					overlaps++
				}
			}
		}
		require.Equal(t, []int{small, overlaps}, []int{len(health.Small), len(health.Overlaps)})
		ruled := map[string]bool{stop: true}
		for _, c := range h.frame {
			for _, r := range c.rules {
				for _, term := range r {
					ruled[term] = true
				}
			}
		}
		unused := map[string][2]int{}
		for _, u := range health.Unused {
			unused[u.Label] = [2]int{u.Answers, u.Uncoded}
		}
		want := map[string][2]int{}
		for term := range times(in) {
			if !ruled[term] {
				want[term] = [2]int{count(in, with(term)), count(in, func(p person) bool { return with(term)(p) && !p.coded() })}
			}
		}
		require.Equal(t, want, unused)
		for _, x := range health.Segments {
			of := func(p person) bool { return p.route == x.Value || slices.Contains(p.topics, x.Value) }
			filled := those(in, func(p person) bool {
				return x.Variable == "route" && p.route != "" || x.Variable == "topics" && len(p.topics) > 0
			})
			mine, rest := those(filled, of), those(filled, func(p person) bool { return !of(p) })
			require.Equal(t, []int{len(mine), count(mine, person.coded)}, []int{x.Base, x.Coded}, x.Value)
			require.InDelta(t, part(count(mine, person.coded), len(mine)), x.Share, 1e-12)
			require.InDelta(
				t, part(count(rest, person.coded), len(rest)), x.Rest, 1e-12, "of those with another value, not of those with none",
			)
		}
	})
}

// A draft gains answers that are neither coded nor settled, and its figures are those that keeping it would give.
func TestDraftsAgainstCounting(t *testing.T) {
	seen := 0
	rapid.Check(t, func(t *rapid.T) {
		h, s := anyHeap(t, 30)
		f, in := h.anyFocus(t)
		drafts, err := code.DraftsOf(ctx, s, f, "")
		require.NoError(t, err)
		left := func(p person) bool { return !p.coded() && !p.settled }
		require.Equal(t, count(in, left), drafts.Base)
		for _, d := range drafts.Drafts {
			seen++
			least := 1
			if strings.HasPrefix(d.Rule, "2 of") {
				least = 2
			}
			matches := those(in, func(p person) bool {
				return len(slices.DeleteFunc(slices.Clone(d.Terms), func(term string) bool { return !with(term)(p) })) >= least
			})
			require.Equal(
				t, []int{len(matches), count(matches, left), count(matches, person.coded)}, []int{d.Matches, d.Gained, d.Shared}, d.Rule,
			)
			require.GreaterOrEqual(t, d.Gained, 3)
		}
	})
	require.Positive(t, seen)
	t.Logf("%d drafts", seen)
}

// One key for one set of answers: conditions that differ in anything never share one, their order makes no difference.
func TestFocusKey(t *testing.T) {
	f := func(values ...string) focus.Focus {
		return focus.Focus{focus.Is(focus.Variable{Name: "route", Op: "=", Values: values})}
	}
	require.NotEqual(t, f("North", "East").Key(), f("North East").Key())
	require.NotEqual(t, f(`North","East`).Key(), f("North", "East").Key())
	texts := rapid.SampledFrom([]string{"", "a", "a b", `a","b`, "}", `{"kind":"coded"}`, "b"})
	one := rapid.Custom(func(t *rapid.T) focus.Condition {
		text := texts.Draw(t, "text")
		c := focus.Is(rapid.SampledFrom([]focus.Test{
			focus.Words{Rule: text}, focus.Term{Label: text}, focus.CategoryRule{Category: text, Place: rapid.IntRange(1, 2).Draw(t, "rule")},
			focus.Variable{Name: text, Values: rapid.SliceOfN(texts, 1, 3).Draw(t, "values")},
		}).Draw(t, "test"))
		c.Not = rapid.Bool().Draw(t, "not")
		return c
	})
	rapid.Check(t, func(t *rapid.T) {
		a, b := rapid.SliceOfN(one, 0, 3).Draw(t, "a"), rapid.SliceOfN(one, 0, 3).Draw(t, "b")
		has := func(list []focus.Condition, c focus.Condition) bool {
			return slices.ContainsFunc(list, func(o focus.Condition) bool { return fmt.Sprintf("%#v", o) == fmt.Sprintf("%#v", c) })
		}
		same := !slices.ContainsFunc(a, func(c focus.Condition) bool { return !has(b, c) }) &&
			!slices.ContainsFunc(b, func(c focus.Condition) bool { return !has(a, c) })
		require.Equal(t, same, focus.Focus(a).Key() == focus.Focus(b).Key())
		mixed := rapid.Permutation(a).Draw(t, "mixed")
		require.Equal(t, focus.Focus(a).Key(), focus.Focus(mixed).Key())
	})
}

// What is asked for stops when nobody waits for it any more.
func TestReportsStop(t *testing.T) {
	s := viewtest.Ferries(t, 400)
	left, leave := context.WithCancel(ctx)
	leave()
	for what, ask := range map[string]func() error{
		"terms":   func() error { _, err := termview.Terms(left, s, nil, termview.TermQuery{Limit: 10}); return err },
		"compare": func() error { _, err := termview.Compare(left, s, nil, termview.CompareQuery{Limit: 10}); return err },
		"corpus":  func() error { _, err := termview.CorpusOf(left, s, nil, ""); return err },
		"network": func() error {
			_, err := termview.NetworkOf(left, s, nil, termview.NetworkQuery{Terms: 20, Links: 20})
			return err
		},
		"drafts":  func() error { _, err := code.DraftsOf(left, s, nil, ""); return err },
		"health":  func() error { _, err := code.HealthOf(left, s, nil, 1); return err },
		"sharpen": func() error { _, err := code.Sharpen(left, s, nil, code.RuleQuery{Rule: "queue"}); return err },
		"misses": func() error {
			_, err := code.MissesOf(left, s, nil, code.RuleQuery{Rule: "queue + late"}, "")
			return err
		},
		"preview": func() error {
			_, err := code.PreviewRule(left, s, nil, code.RuleQuery{Rule: "queue + late"})
			return err
		},
		"chart": func() error { _, err := chart.ChartOf(left, s, nil, chart.Query{Weighted: true}); return err },
		"an edit": func() error {
			_, err := s.With(left, s.Scheme, scheme.Touched{Text: true, Lexicon: true, Frame: true})
			return err
		},
		"a search": func() error {
			_, err := focus.Focus{focus.Is(focus.Words{Rule: "/que+/"})}.Answers(left, s)
			return err
		},
	} {
		require.ErrorIs(t, ask(), context.Canceled, what)
	}
	_, err := termview.Terms(ctx, s, nil, termview.TermQuery{Limit: 10})
	require.NoError(t, err, "one who left leaves nothing behind for others")
}
