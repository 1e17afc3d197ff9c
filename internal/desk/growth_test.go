package desk_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/code"
)

// BenchmarkGrowth does what once grew faster than its input, at one size and at four times that: the ratio of the two is about
// four, or less.
func BenchmarkGrowth(b *testing.B) {
	cases := []struct {
		name    string
		size    int
		unit    string
		prepare func(b *testing.B, n int) (do func())
	}{
		{"near misses", 500, "joints", func(b *testing.B, n int) func() {
			s := unstoredOf(b, playbook.New("en"), "the queue was long", "queue and tea")
			want := code.RuleQuery{Rule: "queue" + strings.Repeat(" + tea", n/2) + strings.Repeat(" / a", n/2)}
			return func() { must(code.MissesOf(ctx, s, nil, want, "")) }
		}},
		{"a rule of alternatives", 500, "alternatives", func(b *testing.B, n int) func() {
			s := unstoredOf(b, playbook.New("en"), "the queue was long", "queue and tea")
			var rule strings.Builder
			rule.WriteString("queue")
			for i := range n {
				fmt.Fprintf(&rule, " / w%d", i)
			}
			return func() { must(code.PreviewRule(ctx, s, nil, code.RuleQuery{Rule: rule.String()})) }
		}},
		{"tags that never close", 64 << 10, "bytes", func(b *testing.B, n int) func() {
			p := must(text.NewPipeline("en", text.DefaultSteps()))
			var cells []string
			for _, sign := range []string{"<script>", "<!--", "<!a", "<a b='", "</p", "&amp;", "<"} {
				cells = append(cells, strings.Repeat(sign, n/len(sign)))
			}
			return func() {
				for _, cell := range cells {
					p.Clean(cell)
				}
			}
		}},
		{"completion", 5000, "values", func(b *testing.B, n int) func() {
			cells := [][]string{nil, nil}
			for i := range n {
				cells[0], cells[1] = append(cells[0], fmt.Sprint("Boat ", i)), append(cells[1], "late")
			}
			s := must(
				state.Unstored(
					ctx, []survey.Spec{{Name: "boat", Role: survey.Segment}, {Name: "answer", Role: survey.OpenEnded}}, cells, 1,
					playbook.New("en"),
				),
			)
			return func() { must(code.Complete(ctx, s, "[boat = Bo", 10)) }
		}},
		{"a list of merges in rows", 10, "variants", func(b *testing.B, n int) func() {
			p := playbook.New("en")
			for _, m := range []string{"north", "slow", "long", "late"} {
				merge := lexicon.Merge{Term: m}
				for i := range n {
					merge.Variants = append(merge.Variants, fmt.Sprintf("%s a%d b%d", m, i, i%3))
				}
				p.Lexicon.Merges = append(p.Lexicon.Merges, merge)
			}
			p.Lexicon.Lists = []lexicon.List{{Name: "x", Entries: []string{"north slow long late"}}}
			return func() {
				s := unstoredOf(b, p, strings.Repeat("north a1 b1 slow long a2 b2 late ", 40), "north slow long late a3 b0")
				must(code.PreviewRule(ctx, s, nil, code.RuleQuery{Rule: "@x"}))
			}
		}},
		{"a frame", 500, "categories", func(b *testing.B, n int) func() {
			p := playbook.New("en")
			for i := range n {
				c := frame.Category{Name: fmt.Sprint("Category ", i), Rules: []string{"queue + late"}, Alone: i%50 == 0}
				if i%10 == 5 {
					c.Rules = append(c.Rules, fmt.Sprintf("{Category %d} + tea", i-1))
				}
				p.Frame = append(p.Frame, c)
			}
			p.Frame.Complete(nil, 0)
			s := unstoredOf(b, p, "the queue was late", "queue and tea")
			at := scheme.Situation{View: s.View, Coding: s.Coding, Rows: s.Study.Rows}
			return func() {
				c := must(scheme.Apply(ctx, s.Scheme, scheme.WriteRule{Category: "c7", Rule: "tea"}, at))
				next := must(s.With(ctx, c.Scheme, c.Redo.Touches()))
				must(code.Frame(ctx, next, nil, ""))
			}
		}},
		{"the frame since a state", 250, "revisions", func(b *testing.B, n int) func() {
			_, q := open(b, sample...)
			for i := range 50 {
				edit(b, q, category(fmt.Sprint("Category ", i), "queue"))
			}
			for i := range n {
				was := "queue"
				if i >= 50 {
					was = fmt.Sprintf("late + w%d", i-50)
				}
				edit(b, q, scheme.WriteRule{Category: fmt.Sprintf("c%d", i%50+1), Was: was, Rule: fmt.Sprintf("late + w%d", i)})
			}
			s := q.State()
			return func() {
				fresh := *s
				fresh.Memo = state.NewMemo()
				must(code.Frame(ctx, &fresh, nil, "1"))
			}
		}},
		{"undo", 5000, "decisions", func(b *testing.B, n int) func() {
			var rows [][]string
			var all []survey.Respondent
			for i := range n {
				rows, all = append(rows, []string{fmt.Sprint(i), "North", "1", "1", "late"}), append(all, survey.Respondent(i))
			}
			_, q := open(b, rows...)
			edit(b, q, category("Late"))
			edit(b, q, scheme.Decide{Category: "c1", Answers: all, To: scheme.On})
			undone := false
			return func() {
				if undone = !undone; undone {
					must(q.Undo())
				} else {
					must(q.Redo())
				}
			}
		}},
	}
	for _, c := range cases {
		b.Run(c.name, func(b *testing.B) {
			took := map[int]time.Duration{}
			for _, n := range []int{c.size, 4 * c.size} {
				do := c.prepare(b, n)
				do()
				took[n] = median(do)
			}
			for b.Loop() { // what is measured is above
			}
			b.ReportMetric(0, "ns/op")
			b.ReportMetric(ms(took[c.size]), fmt.Sprintf("ms-at-%d-%s", c.size, c.unit))
			b.ReportMetric(ms(took[4*c.size]), fmt.Sprintf("ms-at-%d-%s", 4*c.size, c.unit))
			b.ReportMetric(float64(took[4*c.size])/float64(took[c.size]), "times")
		})
	}
}

// unstoredOf is a question of a few answers in no store.
func unstoredOf(t testing.TB, p playbook.Playbook, answers ...string) *state.State {
	s, err := state.Unstored(ctx, []survey.Spec{{Name: "answer", Role: survey.OpenEnded}}, [][]string{answers}, 0, p)
	require.NoError(t, err)
	return s
}
