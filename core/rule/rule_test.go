package rule

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/lexicon"
	"aftermath/core/lexicon/lexicontest"
	"aftermath/core/survey"
)

const worked = "Staff were not friendly. The car-deck crew, however, were kind and helpful! Queue? Long queues."

func scope(t require.TestingT, answers ...string) *Scope {
	l := lexicon.Default("en")
	l.Lists = []lexicon.List{
		{Name: "crew", Entries: []string{"crew", "staff", "steward*"}}, {Name: "on board", Entries: []string{"car deck"}},
	}
	l.Merges = []lexicon.Merge{
		{Term: "queue", Variants: []string{"line", "tailback*"}}, {Term: "customer service", Variants: []string{"help desk"}},
	}
	cells := make([]string, len(answers))
	for i := range cells {
		cells[i] = []string{"Day", "Season", ""}[i%3]
	}
	ticket, err := survey.NewVariable(survey.Spec{Name: "ticket", Role: survey.Segment}, cells)
	require.NoError(t, err)
	return &Scope{View: lexicontest.View(t, "en", l, answers...), Variables: []*survey.Variable{ticket},
		Categories: []string{"Delays"}, CategoryPaths: [][]string{{"Delays"}}, Text: func(i int) string { return answers[i] },
		Category: func(path []string) (string, error) {
			if strings.Join(path, "/") == "Delays" {
				return "d", nil
			}
			return "", errors.New("there is no such category")
		}}
}

// find gives the answers that a rule matches, and the words that decided on the first.
func find(t require.TestingT, s *Scope, src string) (answers []uint32, words []int) {
	p, problems := Compile(src, s)
	require.NotNil(t, p, "%s: %v", src, problems)
	m := &Matcher{Scope: s, Category: func(string) *roaring.Bitmap { return roaring.BitmapOf(0) }}
	set := must(m.Answers(context.Background(), p))
	e, ok := m.Explain(p, 0)
	require.Equal(t, set.Contains(0), ok, "%s: the set and the answer alone differ", src)
	return set.ToArray(), e.Words
}

func TestWorkedExamples(t *testing.T) {
	s := scope(t, worked)
	for src, want := range map[string][]int{
		`friendly`:                {3},
		`friendly -<3w @negators`: nil,
		`@crew +6w friendly / kind -<3w @negators`: {7, 10},
		`@crew +1s friendly`:                       {0, 3},
		`@crew +>2w kind`:                          nil,
		`@crew +>3w kind`:                          {7, 10},
		`friendly +1s kind`:                        nil,
		`friendly +2s kind`:                        {3, 10},
		`long queue`:                               {14, 15},
		`"long queue"`:                             nil,
		`"long queue*"`:                            {14, 15},
		`queue long`:                               nil,
		`=queue`:                                   {13},
		`line`:                                     {13, 15},
		`queue -0w long queue`:                     {13},
		`queue -1w long queue`:                     nil,
		`car-deck`:                                 {5, 6},
		`(car / upper) deck`:                       {5, 6},
		`helpful - rude`:                           {12},
		`helpful + rude / queue`:                   {12, 13, 15},
		`queue +1w queue`:                          nil,
		`queue +2w queue`:                          {13, 15},
		`2 of (rude / kind / helpful)`:             {10, 12},
		`2 of @crew`:                               {0, 7},
		// and more of our own
		`@"on board" crew`:              {5, 6, 7},
		`“long queue*”`:                 {14, 15},
		`d?ck / he*ful`:                 {6, 12},
		`kind -rude`:                    {10},
		`kind/rude`:                     {10},
		`kind – helpful`:                nil,
		`[ticket = day] + kind`:         {10},
		`[ticket = missing] + kind`:     nil,
		`{Delays} + kind`:               {10},
		`weren't / isn't`:               {1, 2},
		`* - rude`:                      {},
		`re"car-\w+" + kind`:            {10},
		`late / slow + driver`:          nil,
		`(kind + rude) / (crew + kind)`: {7, 10},
	} {
		answers, words := find(t, s, src)
		assert.Equal(t, want != nil, len(answers) == 1, src)
		if len(want) > 0 {
			assert.Equal(t, want, words, src)
		}
	}
}

func TestMergeOfSeveralWords(t *testing.T) {
	s := scope(t, "customer service was poor", "the help desk", "service for a customer", "n/a")
	answers, _ := find(t, s, "customer service")
	assert.Equal(t, []uint32{0, 1}, answers)
	answers, _ = find(t, s, "service")
	assert.Equal(t, []uint32{0, 2}, answers, "between terms nothing is taken away")
	answers, _ = find(t, s, "*")
	assert.Equal(t, []uint32{0, 1, 2}, answers, "only answered ones are matched")
}

func TestProblems(t *testing.T) {
	s := scope(t, worked)
	for src, want := range map[string]string{
		``:                         "empty",
		`(staff + kind) +3w help`:  "joint with a reach",
		`(staff + kindd) +3w help`: "joint with a reach", // a warning inside hides no error
		`- rude`:                   "can't start with what must not be there",
		`-3w rude`:                 "can't start with what must not be there",
		`kind +`:                   "missing after",
		`/ kind`:                   "missing before",
		`kind + / rude`:            "missing before",
		`(kind`:                    "not closed",
		`kind)`:                    "closes nothing",
		`kind]`:                    "closes nothing",
		`"kind`:                    "not closed",
		`{Delays`:                  "not closed",
		`kind +0w rude`:            "reach of 0",
		`kind +101w rude`:          "too far",
		`kind +21s rude`:           "too far",
		`@crww`:                    `the nearest is "crew"`,
		`{Delay}`:                  `the nearest is "Delays"`,
		`[tickets = Day]`:          `the nearest is "ticket"`,
		`[ticket = Dax]`:           `the nearest is "Day"`,
		`[ticket < 3]`:             "takes one number",
		`[ticket]`:                 "a variable, a comparison and a value",
		`q*`:                       "at least two letters",
		`!!`:                       "cleaning leaves nothing",
		`re"("`:                    "regular expression",
		`3 of (a / b)`:             "only 2 different",
		`2 of (kind / kind)`:       "only 1 different",
		`kind {Delays}`:            "a row",
		`= kind`:                   "after = comes",
		`{}`:                       "name a category",
	} {
		p, problems := Compile(src, s)
		require.Nil(t, p, src)
		require.NotEmpty(t, problems, src)
		assert.Contains(t, problems[0].Message, want, src)
	}
	_, problems := Compile("frendly", s)
	require.Len(t, problems, 1)
	assert.True(t, problems[0].Warning)
	assert.Equal(t, &Mend{0, 7, "friendly"}, problems[0].Mend)
}

// anyRule draws a rule as a tree.
func anyRule(depth int) *rapid.Generator[string] {
	part := rapid.SampledFrom(
		[]string{"kind", "queue", "@crew", `"long queues"`, "=queue", "he*ful", "car-deck", "crew", "not", "staff"},
	)
	if depth == 0 {
		return part
	}
	return rapid.Custom(func(t *rapid.T) string {
		sub := anyRule(depth - 1)
		a, b := sub.Draw(t, "a"), sub.Draw(t, "b")
		switch rapid.IntRange(0, 5).Draw(t, "shape") {
		case 0:
			return a + " / " + b
		case 1:
			return "(" + a + ") " + b
		case 2:
			return "(" + a + ") " + rapid.SampledFrom(
				[]string{"+", "-"},
			).Draw(t, "sign") + rapid.SampledFrom(
				[]string{"4w", ">2w", "<3w", "1s", "2s"},
			).Draw(t, "reach") + " (" + b + ")"
		case 3:
			return "(" + a + ") + (" + b + ")"
		case 4:
			return "(" + a + ") - (" + b + ")"
		}
		return part.Draw(t, "part")
	})
}

// A printed rule parses to the rule it was printed from and finds the same; the set agrees with each answer alone.
func TestPrinterAndParserAreInverse(t *testing.T) {
	s := scope(t, worked, "kind staff, long queues", "not a queue in sight", "helpful crew not staff. kind")
	m := &Matcher{Scope: s}
	rapid.Check(t, func(t *rapid.T) {
		src := anyRule(3).Draw(t, "rule")
		tree, problems := Parse(src)
		require.Empty(t, problems, src)
		again, problems := Parse(tree.String())
		require.Empty(t, problems, tree.String())
		require.Equal(t, tree.String(), again.String())
		p, problems := Compile(src, s)
		if p == nil {
			return // a reach beside what is not placed
		}
		q, _ := Compile(tree.String(), s)
		set := must(m.Answers(context.Background(), p))
		require.Equal(t, set.ToArray(), must(m.Answers(context.Background(), q)).ToArray(), "%s printed as %s", src, tree)
		for i := range 4 {
			_, ok := m.Explain(p, i)
			require.Equal(t, set.Contains(uint32(i)), ok, "%s on answer %d", src, i)
		}
	})
}

func TestNamesAreRewritten(t *testing.T) {
	got := Names(`@crew + {People / "Food / drink"} - crew`, func(k Kind, names []string) ([]string, bool) {
		if k == List {
			return []string{"deck hands"}, true
		}
		return []string{"Folk", names[1]}, true
	})
	assert.Equal(t, `@"deck hands" + {Folk / "Food / drink"} - crew`, got)
}

// Names are written so that they are read back, whatever they are; only what is named changes.
func TestAnyNameIsReadBack(t *testing.T) {
	name := rapid.StringOfN(rapid.SampledFrom([]rune("ab /\"“”}]@=<({' -*")), 1, 5, -1)
	rapid.Check(t, func(t *rapid.T) {
		path, list, value := rapid.SliceOfN(name, 1, 3).Draw(t, "path"), name.Draw(t, "list"), name.Draw(t, "value")
		src := Named(
			Category,
			path...) + " + " + Named(List, list) + " - [" + Named(
			Condition,
			"my \"ticket\"",
		) + " = " + Named(Condition, value) + " / b] + late"
		tree, problems := Parse(src)
		require.Empty(t, problems, src)
		got := map[Kind][]string{}
		Walk(tree, func(n Node) bool {
			switch n := n.(type) {
			case *CategoryNode:
				got[Category] = n.Path
			case *ListNode:
				got[List] = []string{n.Name}
			case *ConditionNode:
				got[Condition] = append([]string{n.Variable}, n.Values...)
			}
			return true
		})
		require.Equal(t, map[Kind][]string{Category: path, List: {list}, Condition: {"my \"ticket\"", value, "b"}}, got, src)
		require.Equal(t, tree.String(), must2(Parse(tree.String())).String())
		to := name.Draw(t, "to")
		renamed := Names(src, func(k Kind, names []string) ([]string, bool) { return []string{to}, k == List })
		require.Equal(t, strings.Replace(src, " + "+Named(List, list)+" - ", " + "+Named(List, to)+" - ", 1), renamed)
	})
}

// must2 gives the tree of a rule that can be read.
func must2(n Node, problems []Problem) Node {
	if len(problems) > 0 {
		panic(problems[0])
	}
	return n
}

func TestBuiltInListsFindTheirOwnFormsOnly(t *testing.T) {
	s := scope(t, "it is hard", "hardly any", "a bare wall", "barely warm", "scarce seats", "scarcely a seat", "not here")
	answers, _ := find(t, s, `@negators`)
	assert.Equal(t, []uint32{1, 3, 5, 6}, answers)
	answers, _ = find(t, s, `2 of @negators`)
	assert.Empty(t, answers)
}

func TestLongRulesAreRefused(t *testing.T) {
	_, problems := Parse(strings.Repeat("a", MaxLength+1))
	require.Len(t, problems, 1)
	assert.Contains(t, problems[0].Message, "longer than")
}

func ExampleParse() {
	tree, problems := Parse(`(late/slow) + driver - refund`)
	fmt.Println(tree, len(problems))
	_, problems = Parse(`(late + driver`)
	fmt.Println(problems[0], "mend:", problems[0].Mend.With)
	// Output:
	// late / slow + driver - refund 0
	// 1: this bracket is not closed mend: )
}

func ExampleRelax() {
	tree, _ := Parse(`crew +4w rude`)
	for _, way := range Relax(tree) {
		fmt.Println(way.Rule, "|", way.Lacks)
	}
	// Output:
	// crew +8w rude | crew and rude within 8w, but not within 4w
	// crew + rude | crew and rude, but not within 4w
	// crew - rude | no rude at all
	// rude - crew | no crew at all
}

func FuzzCompile(f *testing.F) {
	s := scope(f, worked)
	for _, src := range []string{`@crew +6w friendly / kind -<3w @negators`, `2 of (a / b) + [ticket = "Day"] - {Delays}`, `re"\d+`, `“a –`, `((((`} {
		f.Add(src)
	}
	m := &Matcher{Scope: s, Category: func(string) *roaring.Bitmap { return roaring.New() }}
	f.Fuzz(func(t *testing.T, src string) {
		p, problems := Compile(src, s)
		for _, problem := range problems {
			require.True(t, 0 <= problem.Start && problem.Start <= problem.End && problem.End <= len([]rune(src)), "%q: %+v", src, problem)
		}
		if p != nil {
			must(m.Answers(context.Background(), p))
			m.Explain(p, 0)
		} else {
			require.NotEmpty(t, problems)
		}
	})
}

// must gives what can't fail here.
func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// A regular expression reads the text of every answer: that ends when nobody waits for it any more.
func TestMatchingStopsWithItsCaller(t *testing.T) {
	answers := make([]string, 30000)
	for i := range answers {
		answers[i] = "the boat was late"
	}
	s := scope(t, answers...)
	ctx, leave := context.WithCancel(context.Background())
	defer leave()
	read := 0
	s.Text = func(int) string {
		if read++; read == 10 {
			leave()
		}
		return "the boat was late"
	}
	p, problems := Compile(`re"l.te"`, s)
	require.Empty(t, problems)
	_, err := (&Matcher{Scope: s}).Answers(ctx, p)
	require.ErrorIs(t, err, context.Canceled)
	require.Less(t, read, len(answers)/2)
}
