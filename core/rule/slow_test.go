package rule

import (
	"context"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/lexicon"
	"aftermath/core/text"
)

// slow matches rules straight from their definitions, over the words of one answer: slowly, and obviously right. It
// knows nothing of the index, of candidates or of sets; it shares only the tree with the fast matcher.
type slow struct {
	words     []string // surfaces
	sentences []int
	stem      func(string) string
	lists     map[string][]string
	original  string
	ticket    string // of the respondent; empty for a missing value
	delayed   bool   // the category {Delays} has the answer
}

// spot is a hit: the places of its words, ascending.
type spot []int

func (s spot) start() int { return s[0] }
func (s spot) end() int   { return s[len(s)-1] }

func (m slow) placed(n Node) bool {
	switch n := n.(type) {
	case *WordNode, *QuoteNode, *ExactNode, *ListNode, *RowNode, *NearNode:
		return true
	case *AlternativesNode:
		return !slices.ContainsFunc(n.Of, func(k Node) bool { return !m.placed(k) })
	}
	return false
}

// readable says whether reaches and rows stand only beside what is placed.
func (m slow) readable(n Node) bool {
	for _, k := range n.Kids() {
		if (n.Kind() == Near || n.Kind() == Row) && !m.placed(k) || !m.readable(k) {
			return false
		}
	}
	return true
}

func (m slow) matches(n Node) bool {
	if m.placed(n) {
		return len(m.spots(n)) > 0
	}
	switch n := n.(type) {
	case *AnyNode:
		return len(m.words) > 0
	case *WithNode:
		return m.matches(n.A) && m.matches(n.B)
	case *WithoutNode:
		return m.matches(n.A) && !m.matches(n.B)
	case *AlternativesNode:
		return slices.ContainsFunc(n.Of, m.matches)
	case *RegexNode:
		return regexp.MustCompile(n.Pattern).MatchString(m.original)
	case *CategoryNode:
		return m.delayed
	case *ConditionNode:
		is := slices.ContainsFunc(n.Values, func(v string) bool {
			return strings.EqualFold(v, m.ticket) || v == "missing" && m.ticket == ""
		})
		return n.Op == "=" && is || n.Op == "!=" && !is && m.ticket != ""
	case *OfNode:
		if list, ok := n.Among.(*ListNode); ok {
			found := map[string]bool{}
			for _, e := range m.lists[list.Name] {
				for _, w := range m.words {
					if m.stem(e) == m.stem(w) {
						found[m.stem(e)] = true
					}
				}
			}
			return len(found) >= n.Number
		}
		kids, found := map[string]Node{}, 0
		for _, k := range n.Among.Kids() {
			kids[k.String()] = k
		}
		for _, k := range kids {
			if m.matches(k) {
				found++
			}
		}
		return found >= n.Number
	}
	panic(n.Kind())
}

// row finds words in a row, each by its test.
func (m slow) row(length int, fits func(i, place int) bool) (out []spot) {
	for start := 0; start+length <= len(m.words); start++ {
		s := spot{}
		for i := range length {
			if !fits(i, start+i) || m.sentences[start+i] != m.sentences[start] {
				break
			}
			s = append(s, start+i)
		}
		if len(s) == length {
			out = append(out, s)
		}
	}
	return out
}

func glob(pattern, word string) bool {
	if pattern == "" {
		return word == ""
	}
	switch pattern[0] {
	case '*':
		return glob(pattern[1:], word) || word != "" && glob(pattern, word[1:])
	case '?':
		return word != "" && glob(pattern[1:], word[1:])
	}
	return word != "" && word[0] == pattern[0] && glob(pattern[1:], word[1:])
}

func (m slow) spots(n Node) []spot {
	exact := func(text string) []spot {
		parts := strings.Fields(text)
		return m.row(len(parts), func(i, place int) bool { return glob(parts[i], m.words[place]) })
	}
	switch n := n.(type) {
	case *WordNode:
		parts := strings.FieldsFunc(n.Text, func(c rune) bool { return c == '-' })
		return m.row(len(parts), func(i, place int) bool {
			if strings.ContainsAny(parts[i], "*?") {
				return glob(parts[i], m.words[place])
			}
			return m.stem(parts[i]) == m.stem(m.words[place])
		})
	case *QuoteNode:
		return exact(n.Text)
	case *ExactNode:
		return exact(n.Text)
	case *ListNode:
		return m.row(1, func(_, place int) bool {
			if n.Name == lexicon.Negators { // themselves, and no other form
				return slices.Contains(m.lists[n.Name], m.words[place])
			}
			return slices.ContainsFunc(m.lists[n.Name], func(e string) bool { return m.stem(e) == m.stem(m.words[place]) })
		})
	case *AlternativesNode:
		var out []spot
		for _, k := range n.Of {
			out = append(out, m.spots(k)...)
		}
		return out
	case *RowNode:
		out := m.spots(n.Parts[0])
		for _, k := range n.Parts[1:] {
			out = m.joined(out, m.spots(k), func(a, b spot) bool {
				return b.start() == a.end()+1 && m.sentences[a.end()] == m.sentences[b.start()]
			})
		}
		return out
	case *NearNode:
		as, bs := m.spots(n.A), m.spots(n.B)
		if !n.Reach.Without {
			return m.joined(as, bs, func(a, b spot) bool { return m.within(n.Reach, a, b) })
		}
		return slices.DeleteFunc(as, func(a spot) bool {
			return slices.ContainsFunc(bs, func(b spot) bool {
				inside := !slices.ContainsFunc(a, func(w int) bool { return !slices.Contains(b, w) })
				return !shared(a, b) && m.within(n.Reach, a, b) || inside && len(a) < len(b)
			})
		})
	}
	panic(n.Kind())
}

func shared(a, b spot) bool {
	return slices.ContainsFunc(a, func(w int) bool { return slices.Contains(b, w) })
}

func (m slow) joined(as, bs []spot, ok func(a, b spot) bool) (out []spot) {
	for _, a := range as {
		for _, b := range bs {
			if !shared(a, b) && ok(a, b) {
				both := append(slices.Clone(a), b...)
				slices.Sort(both)
				out = append(out, both)
			}
		}
	}
	return out
}

// within counts steps one by one.
func (m slow) within(r Reach, a, b spot) bool {
	if r.Direction == '>' && b.start() <= a.end() || r.Direction == '<' && b.end() >= a.start() {
		return false
	}
	first, last := a, b
	if b.start() < a.start() {
		first, last = b, a
	}
	steps := 0
	for at := first.end(); at < last.start(); at++ {
		if !r.Sentences || m.sentences[at+1] != m.sentences[at] {
			steps++
		}
	}
	if r.Sentences {
		return steps < r.Distance
	}
	return steps <= r.Distance
}

// anyTree draws a rule over a small vocabulary, so that rules and answers meet often.
func anyTree(depth int) *rapid.Generator[string] {
	part := rapid.SampledFrom(
		[]string{
			"kind", "boat", "late", "@crew", `"late boats"`, "=boats", "bo*", "l?te", "late-boat", "rude", `"b*t late"`, "crews",
			"@negators", "hard",
		},
	)
	if depth == 0 {
		return part
	}
	// Parts that speak of the whole answer, or of who gave it.
	whole := rapid.SampledFrom(
		[]string{"*", "[ticket = Day]", "[ticket = season / missing]", "[ticket != Day]", "{Delays}", `re"boats?[.!] "`, "2 of @crew"},
	)
	return rapid.Custom(func(t *rapid.T) string {
		sub := anyTree(depth - 1)
		a, b := sub.Draw(t, "a"), sub.Draw(t, "b")
		reach := rapid.SampledFrom([]string{"1w", "2w", "4w", ">1w", ">3w", "<2w", "1s", "2s", ">1s", "<2s"}).Draw(t, "reach")
		if rapid.IntRange(0, 7).Draw(t, "of the whole answer") == 0 {
			a = whole.Draw(t, "whole")
		}
		switch rapid.IntRange(0, 9).Draw(t, "shape") {
		case 0, 1:
			return "(" + a + ") +" + reach + " (" + b + ")"
		case 2, 3:
			return "(" + a + ") -" + reach + " (" + b + ")"
		case 4:
			return "(" + a + ") -0w (" + b + ")"
		case 5:
			return "(" + a + ") (" + b + ")"
		case 6:
			return "(" + a + ") / (" + b + ")"
		case 7:
			return "(" + a + ") + (" + b + ")"
		case 8:
			return "(" + a + ") - (" + b + ")"
		}
		return "2 of ((" + a + ") / (" + b + ") / kind)"
	})
}

// comparison counts what was compared.
type comparison struct{ pairs, matched, marked int }

// compare draws answers and rules and holds the fast matcher against the definitions.
func (c *comparison) compare(t *rapid.T) {
	words := []string{"kind", "boat", "boats", "late", "lately", "crew", "rude", "staff", "bot", "the", "hardly", "hard", "not"}
	ends := []string{" ", " ", " ", " ", ". ", "! ", "-"}
	p, err := text.NewPipeline("en", text.DefaultSteps())
	require.NoError(t, err)
	var answers []string
	for range 20 {
		var b strings.Builder
		for range rapid.IntRange(1, 9).Draw(t, "length") {
			b.WriteString(rapid.SampledFrom(words).Draw(t, "word") + rapid.SampledFrom(ends).Draw(t, "end"))
		}
		answers = append(answers, b.String())
	}
	delayed := roaring.BitmapOf(rapid.SliceOf(rapid.Uint32Range(0, 19)).Draw(t, "delayed")...)
	s := scope(t, answers...)
	// Terms by the view are what the definitions call a word with its inflections.
	stem := func(w string) string {
		if term, ok := s.View.Find(w); ok {
			return s.View.Terms[term].Label
		}
		return w
	}
	m := &Matcher{Scope: s, Category: func(string) *roaring.Bitmap { return delayed }}
	for range 16 {
		src := anyTree(2).Draw(t, "rule")
		tree, problems := Parse(src)
		require.Empty(t, problems, src)
		program, problems := Compile(src, s)
		reference := slow{
			stem:  stem,
			lists: map[string][]string{"crew": {"crew", "staff", "steward"}, lexicon.Negators: {"not", "hardly", "never", "no"}},
		}
		if program == nil {
			require.False(t, reference.readable(tree) && !strings.Contains(problems[0].Message, "only"), "%s: %v", src, problems)
			continue
		}
		found := must(m.Answers(context.Background(), program))
		for i, a := range answers {
			reference.original, reference.ticket, reference.delayed = a, []string{"Day", "Season", ""}[i%3], delayed.Contains(uint32(i))
			reference.words, reference.sentences = nil, nil
			for _, w := range p.Clean(a).Words {
				reference.words, reference.sentences = append(reference.words, w.Surface), append(reference.sentences, w.Sentence)
			}
			c.pairs++
			want := reference.matches(tree)
			require.Equal(t, want, found.Contains(uint32(i)), "%s on %q", src, a)
			if !want {
				continue
			}
			c.matched++
			if !reference.placed(tree) {
				continue
			}
			c.marked++
			marked := map[int]bool{}
			for _, s := range reference.spots(tree) {
				for _, w := range s {
					marked[w] = true
				}
			}
			e, _ := m.Explain(program, i)
			require.Len(t, e.Words, len(marked), "%s on %q", src, a)
			for _, w := range e.Words {
				require.True(t, marked[w], "%s on %q: word %d", src, a, w)
			}
		}
	}
}

// The fast matcher finds what the definitions say, and marks the words they say: over 20,000 pairs of a rule and an answer,
// and more while fuzzing.
func TestFastMatcherAgainstDefinitions(t *testing.T) {
	var c comparison
	for c.pairs < 20_000 {
		rapid.Check(t, c.compare)
	}
	require.Greater(t, c.matched, 2_000, "rules and answers must meet")
	require.Greater(t, c.marked, 500)
	t.Logf("%d pairs compared, %d matched, %d with marked words", c.pairs, c.matched, c.marked)
}

func FuzzMatcher(f *testing.F) {
	var c comparison
	f.Fuzz(rapid.MakeFuzz(c.compare))
}

// Programs that are the same under two lexicons find the same answers, so that a result may be used again; and rules that a
// change of the lexicon does not touch are the same.
func TestSameProgramsFindTheSame(t *testing.T) {
	same, other := 0, 0
	rapid.Check(t, func(t *rapid.T) {
		s := scope(
			t,
			rapid.SliceOfN(rapid.StringMatching(`((kind|boat|boats|late|crew|rude|staff|the)( |\. )){1,7}`), 12, 12).Draw(t, "answers")...)
		l := s.View.Lexicon.Clone()
		switch rapid.IntRange(0, 4).Draw(t, "change") {
		case 0:
			l.Merges = append(l.Merges, lexicon.Merge{Term: "boat", Variants: []string{"rude", "the crew"}})
		case 1:
			l.Lists[0].Entries = append(l.Lists[0].Entries, "boat")
		case 2:
			l.Inflections = false
		case 3:
			l.Parted = []string{"boats"}
		case 4:
			l.StopWords.Add = []string{"boat"}
		}
		changed := *s
		changed.View = s.View.With(l)
		for range 8 {
			src := anyTree(2).Draw(t, "rule")
			a, _ := Compile(src, s)
			b, _ := Compile(src, &changed)
			if a == nil || b == nil {
				continue
			}
			if !a.Same(b) {
				other++
				continue
			}
			same++
			delayed := func(string) *roaring.Bitmap { return roaring.BitmapOf(0, 3) }
			require.Equal(
				t, must((&Matcher{Scope: s, Category: delayed}).Answers(context.Background(), a)).ToArray(),
				must((&Matcher{Scope: &changed, Category: delayed}).Answers(context.Background(), b)).ToArray(), src,
			)
		}
	})
	require.Greater(t, same, 100)
	require.Greater(t, other, 100)
}

// kindsInRules are rules that hold each kind of part and joint; the first is of the kind itself.
var kindsInRules = map[Kind]string{
	Word: "queue", Quote: `"long queue"`, Exact: "=queue", List: "@crew", Category: "{Delays}", Condition: "[ticket = Day]",
	Regex: `re"que+"`, Any: "*", Of: "2 of (queue / boat / late)", Row: "long queue", Alternatives: "queue / @crew", Near: "queue +2w boat",
	With: "queue + boat", Without: "queue - boat",
}

// Every kind is written, read back, compiled and matched both ways; one that is added and forgotten in a switch ends here in a panic.
func TestEveryKind(t *testing.T) {
	s := scope(t, "a long queue", "the boat was late, the crew kind", "queue boat")
	m := &Matcher{Scope: s, Category: func(string) *roaring.Bitmap { return roaring.BitmapOf(1) }}
	for _, k := range Kinds() {
		src, ok := kindsInRules[k]
		require.True(t, ok, "kind %d has no rule here", k)
		n, problems := Parse(src)
		require.Empty(t, problems, src)
		require.Equal(t, k, n.Kind(), src)
		assert.Equal(t, src, n.String())
		p, problems := Compile(src, s)
		require.NotNil(t, p, "%s: %v", src, problems)
		all, err := m.Answers(t.Context(), p)
		require.NoError(t, err)
		r := m.reader()
		for i := range 3 {
			r.open(i)
			assert.Equal(t, r.matches(p.root), all.Contains(uint32(i)), "%s in answer %d", src, i)
		}
		Relax(n)
	}
	assert.Panics(t, func() { run{Matcher: m, ctx: t.Context()}.within(&op{kind: numKinds}, m.index().NewSet()) })
	assert.Panics(t, func() { m.reader().matches(&op{kind: numKinds}) })
}
