package rule

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/lexicon"
)

// A mend is taken as it is: what comes out is read without that problem.
func TestMends(t *testing.T) {
	s := scope(t, worked)
	for src, want := range map[string]string{
		`(kind + rude`:          `(kind + rude)`,
		`"long queue`:           `"long queue"`,
		`frendly + kind`:        `friendly + kind`,
		`freindly`:              `friendly`, // two letters swapped are one mistake
		`@crww / kind`:          `@crew / kind`,
		`{Delay} + kind`:        `{Delays} + kind`,
		`[tickets = Day]`:       `[ticket = Day]`,
		`[ticket = Dax]`:        `[ticket = Day]`,
		`queue / queues / kind`: `queue / kind`,
	} {
		_, problems := Compile(src, s)
		require.NotEmpty(t, problems, src)
		i := 0
		for i < len(problems)-1 && problems[i].Mend == nil {
			i++
		}
		m := problems[i].Mend
		require.NotNil(t, m, "%s: %v", src, problems)
		runes := []rune(src)
		got := string(runes[:m.Start]) + m.With + string(runes[m.End:])
		assert.Equal(t, want, got)
		p, _ := Compile(got, s)
		assert.NotNil(t, p, got)
	}
}

// What is read otherwise than it was meant is said, with a mend that says the same without a warning of its kind.
func TestSlips(t *testing.T) {
	s := scope(t, worked)
	s.Categories, s.CategoryPaths = append(s.Categories, "People / Crew"), append(s.CategoryPaths, []string{"People", "Crew"})
	for src, want := range map[string]string{
		`queue +4 kind`:                     `queue +4w kind`,
		`queue +>4 kind`:                    `queue +>4w kind`,
		`queue+3w kind`:                     `queue +3w kind`,
		`queue+kind`:                        `queue + kind`,
		`queue +3 w kind`:                   `queue +3w kind`,
		`queue +3W kind`:                    `queue +3w kind`,
		`queue -2 kind`:                     `queue -2w kind`,
		`queue AND kind`:                    `queue + kind`,
		`queue OR kind`:                     `queue / kind`,
		`queue NOT kind`:                    `queue - kind`,
		`queue !kind`:                       `queue - kind`,
		`queue, kind`:                       `queue / kind`,
		`queue,kind`:                        `queue / kind`,
		`[recommend =< 6]`:                  `[recommend <= 6]`,
		`2 of queue / kind`:                 `2 of (queue / kind)`,
		`queue + 2 of queue / kind + long`:  `queue + 2 of (queue / kind) + long`,
		`queue / (kind / helpful) +4w long`: `queue / kind / helpful +4w long`,
		`{Crew} + kind`:                     `{People / Crew} + kind`,
	} {
		_, problems := Compile(src, s)
		i := 0
		for i < len(problems)-1 && problems[i].Mend == nil {
			i++
		}
		require.NotEmpty(t, problems, src)
		m := problems[i].Mend
		require.NotNil(t, m, "%s: %v", src, problems)
		runes := []rune(src)
		assert.Equal(t, want, string(runes[:m.Start])+m.With+string(runes[m.End:]), src)
		assert.Empty(t, mistakes(want), want)
	}
	for _, src := range []string{
		`check-in`, `24 hours`, `4 of us`, `"queue, kind"`, `queue + 4 kind`, `(queue / kind) + long`, `long (queue / kind)`, `and or not`,
		`(queue / kind) long / kind`, `["a =< b" = Day]`, `[ticket = a=>b]`, `re"a,b"`, `don't`, `queue / (kind + long)`, `(a / b) / (c + d)`, `2 of (queue / kind)`,
		`queue / (kind / long) late`,
	} {
		if src == `(a / b) / (c + d)` {
			assert.Len(t, mistakes(src), 1, src)
			continue
		}
		assert.Empty(t, mistakes(src), src)
	}
	// Whatever is written, places are inside it, and mends don't fail.
	rapid.Check(t, func(t *rapid.T) {
		src := rapid.StringOfN(rapid.SampledFrom([]rune("ab2 +-/()!,<>=w[]{}\"@éAND")), 0, 24, -1).Draw(t, "rule")
		n := len([]rune(src))
		for _, p := range mistakes(src) {
			require.True(t, 0 <= p.Start && p.Start <= p.End && p.End <= n && 0 <= p.Mend.Start && p.Mend.Start <= p.Mend.End && p.Mend.End <= n)
		}
	})
}

func TestWarnings(t *testing.T) {
	s := scope(t, worked, "kite")
	warned := func(src string) (out []Problem) {
		p, problems := Compile(src, s)
		require.NotNil(t, p, "%s: %v", src, problems)
		return problems
	}
	for src, want := range map[string]string{
		`zebra`:          "occurs in no answer",
		`queue / queues`: "adds nothing: ",
		`kind / ki*`:     "adds nothing: ki* finds it already",
	} {
		problems := warned(src)
		require.Len(t, problems, 1, src)
		assert.Contains(t, problems[0].Message, want, src)
		assert.True(t, problems[0].Warning)
	}
	for _, src := range []string{`kind / helpful`, `kind + helpful - rude*`, `@crew / kind`, `=queue / long`} {
		for _, p := range warned(src) {
			assert.NotContains(t, p.Message, "adds nothing", src)
		}
	}
	// A word that two merges claim is said to belong to the first.
	l := s.View.Lexicon.Clone()
	l.Merges = append(
		l.Merges, lexicon.Merge{Term: "goodness", Variants: []string{"helpful"}},
		lexicon.Merge{Term: "aid", Variants: []string{"helpful"}},
	)
	s.View = s.View.With(l)
	problems := warned(`helpful`)
	require.NotEmpty(t, problems)
	assert.Equal(t, `"helpful" counts as "goodness", though the merge "aid" asks for it too`, problems[0].Message)
}

func TestRelax(t *testing.T) {
	for src, want := range map[string][]string{
		`kind`:            nil,
		`kind + crew`:     {"kind: no crew", "crew: no kind"},
		`kind - rude`:     {"kind: taken away by rude"},
		`2 of (a / b)`:    {"1 of (a / b): only 1 of them"},
		`crew -<3w "not"`: {`crew: taken away by "not" within reach`},
		`crew +3w kind`: {"crew +6w kind: crew and kind within 6w, but not within 3w",
			"crew + kind: crew and kind, but not within 3w",
			"crew - kind: no kind at all", "kind - crew: no crew at all"},
	} {
		tree, problems := Parse(src)
		require.Empty(t, problems, src)
		var got []string
		for _, r := range Relax(tree) {
			got = append(got, r.Rule.String()+": "+r.Lacks)
		}
		assert.Equal(t, want, got, src)
	}
	// What a rule lacks can be given another word to be instead.
	tree, _ := Parse(`(late / slow) + driver`)
	ways := Relax(tree)
	part, beside := Lacking(tree, ways[0])
	require.NotNil(t, part)
	assert.Equal(t, "driver", part.String())
	assert.Equal(t, "late / slow + driver / crew", beside(Term("crew")).String())
}

// Every relaxed form is a rule that can be read, and printed.
func TestRelaxedRulesCanBeRead(t *testing.T) {
	s := scope(t, worked, "kind staff, long queues")
	rapid.Check(t, func(t *rapid.T) {
		src := anyTree(2).Draw(t, "rule")
		if p, _ := Compile(src, s); p == nil {
			return
		}
		tree, _ := Parse(src)
		for _, r := range Relax(tree) {
			require.NotEmpty(t, r.Lacks)
			p, problems := Compile(r.Rule.String(), s)
			if p == nil { // "2 of" of what is no longer different is all that may come of it
				require.Contains(t, problems[0].Message, "different", "%s relaxed to %s", src, r.Rule)
			}
		}
	})
}

func TestTypingAt(t *testing.T) {
	for src, want := range map[string]string{ // | is where one types
		`que|`:                  "Word 0 que",
		`queue / wa|`:           "Word 8 wa",
		`queue +3w |`:           "Word 10 ",
		`@cr|`:                  "List 0 cr",
		`kind @"on b|`:          "List 5 on b",
		`=qu|`:                  "Exact 1 qu",
		`{People / Fr|`:         "Category 1 People / Fr",
		`[tick|`:                "Condition 1 tick",
		`[ticket = Da|`:         "Condition 10 Da ticket",
		`[ticket = Day / Se|`:   "Condition 16 Se ticket",
		`"long qu|`:             "Quote 6 qu",
		`(late / sl|) + driver`: "Word 8 sl",
		`“long qu|`:             "Quote 6 qu",
	} {
		at := len([]rune(src[:strings.Index(src, "|")]))
		got := TypingAt(strings.Replace(src, "|", "", 1), at)
		kind := map[Kind]string{Word: "Word", List: "List", Exact: "Exact", Category: "Category", Condition: "Condition", Quote: "Quote"}[got.Kind]
		assert.Equal(t, want, strings.TrimSuffix(fmt.Sprintf("%s %d %s %s", kind, got.From, got.Prefix, got.Variable), " "), src)
	}
}

func TestTrace(t *testing.T) {
	s := scope(t, worked, "the crew were rude. never kind")
	trace := func(src string, answer int) (out []string) {
		p, problems := Compile(src, s)
		require.NotNil(t, p, "%s: %v", src, problems)
		for _, step := range (&Matcher{Scope: s}).Trace(p, answer) {
			text := step.Entry
			if step.End > 0 {
				text = string([]rune(src)[step.Start:step.End])
			}
			out = append(
				out, fmt.Sprintf("%d %s %v%s %v", step.Depth, text, step.Found, map[bool]string{true: " spoils"}[step.Spoils], step.Words),
			)
		}
		return out
	}
	assert.Equal(
		t,
		[]string{
			"0 @crew +3w kind + rude false []", "1 @crew +3w kind true [7 10]", "2 @crew true [0 7]", "2 kind true [10]",
			"1 rude false []",
		},
		trace("@crew +3w kind + rude", 0),
	)
	assert.Equal(t, []string{"0 @crew - rude false []", "1 @crew true [1]", "1 rude true spoils [3]"}, trace("@crew - rude", 1))
	assert.Equal(
		t, []string{"0 kind -<3w @negators false []", "1 kind true [5]", "1 @negators true spoils [4]"},
		trace("kind -<3w @negators", 1),
	)
}
