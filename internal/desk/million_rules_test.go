package desk_test

import (
	"context"
	_ "embed"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"aftermath/core/frame"
	"aftermath/core/survey"
	"aftermath/internal/demo"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/code"
	"aftermath/internal/view/termview"
)

// published is a list of 40 rules of all kinds, re"" apart, each with the same question in PostgreSQL's text search where
// that can be asked there.
//
//go:embed testdata/rules.tsv
var published string

type ruleCase struct{ rule, tsquery string }

func publishedRules(b *testing.B) (out []ruleCase) {
	for line := range strings.Lines(published) {
		rule, tsquery, _ := strings.Cut(strings.TrimRight(line, "\n"), "\t")
		out = append(out, ruleCase{rule, tsquery})
	}
	require.Len(b, out, 40)
	return out
}

// unstored is a question in no store.
type unstored struct{ state *state.State }

func (u unstored) State() *state.State { return u.state }

func (u unstored) Focus(f focus.Focus) (*roaring.Bitmap, error) { return f.Answers(ctx, u.state) }

// millionQuestion is a question of a million answers of about 20 words, with the demo's variables and playbook, in no store.
func millionQuestion(b *testing.B) unstored {
	book, err := demo.Playbook(demo.Change)
	require.NoError(b, err)
	columns := demo.Specs()
	rows := respondents(million)
	cells := make([][]string, len(columns))
	for c := range cells {
		cells[c] = make([]string, million)
		for i, row := range rows {
			cells[c][i] = row[c]
		}
	}
	cells[10], cells[11] = millionAnswers(million), make([]string, million)
	s, err := state.Unstored(context.Background(), columns, cells, 10, book)
	require.NoError(b, err)
	return unstored{s}
}

// median asks five times.
func median(do func()) time.Duration {
	var took []time.Duration
	for range 5 {
		start := time.Now()
		do()
		took = append(took, time.Since(start))
	}
	slices.Sort(took)
	return took[2]
}

func ms(d time.Duration) float64 { return float64(d.Microseconds()) / 1000 }

// BenchmarkMillionRules previews each published rule with its counts and 20 examples, and asks PostgreSQL's text search with
// a GIN index the same question, of the same million answers in the same run.
func BenchmarkMillionRules(b *testing.B) {
	ctx := context.Background()
	q := millionQuestion(b)
	s := q.State()
	conn := connect(b)
	_, err := conn.Exec(ctx, "create unlogged table said (answer text)")
	require.NoError(b, err)
	_, err = conn.CopyFrom(
		ctx, pgx.Identifier{"said"}, []string{"answer"},
		pgx.CopyFromSlice(million, func(i int) ([]any, error) { return []any{s.Answers[i]}, nil }),
	)
	require.NoError(b, err)
	for _, sql := range []string{"create unlogged table found as select to_tsvector('english', answer) as v from said", "create index on found using gin (v)", "analyze found"} {
		_, err = conn.Exec(ctx, sql)
		require.NoError(b, err)
	}
	rules := publishedRules(b)
	for b.Loop() {
		var previews []time.Duration
		var ours, theirs time.Duration
		for _, r := range rules {
			var p code.RulePreview
			preview := median(func() {
				p, err = code.PreviewRule(ctx, s, nil, code.RuleQuery{Rule: r.rule, Category: "c2", Show: "new", By: "passenger type"})
				require.NoError(b, err)
			})
			for _, problem := range p.Problems {
				require.True(b, problem.Warning, "%s: %s", r.rule, problem.Message)
			}
			counted := median(func() { _, _ = s.Coding.Try(ctx, r.rule) })
			previews = append(previews, preview)
			line := fmt.Sprintf("%-70s %8d answers, preview %6.1f ms, count %6.1f ms", r.rule, p.Matches, ms(preview), ms(counted))
			if r.tsquery != "" {
				var n int
				asked := median(func() {
					require.NoError(b, conn.QueryRow(ctx, "select count(*) from found where v @@ to_tsquery('english', $1)", r.tsquery).Scan(&n))
				})
				ours, theirs = ours+counted, theirs+asked
				line += fmt.Sprintf("; PostgreSQL %8d answers, %7.1f ms, %5.1f times", n, ms(asked), float64(asked)/float64(counted))
			}
			b.Log(line)
		}
		slices.Sort(previews)
		b.ReportMetric(ms(previews[len(previews)/2]), "ms-preview-median")
		b.ReportMetric(ms(previews[len(previews)*95/100-1]), "ms-preview-95%")
		b.ReportMetric(float64(theirs)/float64(ours), "times-faster-than-PostgreSQL")
	}
}

// frameOf is a frame of n rules of all kinds: the published ones, and further ones made of the words that stand in them.
func frameOf(b *testing.B, n int) frame.Frame {
	var rules []string
	for _, r := range publishedRules(b) {
		if !strings.Contains(r.rule, "{") {
			rules = append(rules, r.rule)
		}
	}
	words := strings.Fields(
		"queue wait boat crew late toilet seat price ticket food coffee car deck lane sign bus train noise wifi staff sailing winter quiet stairs refund minute hour dog children rude",
	)
	for i := 0; len(rules) < n; i++ {
		w := func(k int) string { return words[(i*7+k*11+i/len(words))%len(words)] }
		rules = append(
			rules,
			fmt.Sprintf(
				[]string{"%s + %s / %s", "%s +6w %s / %s", "%s / %s - %s", "%s +1s %s - %s", "%s -<3w %s / %s"}[i%5], w(0), w(1), w(2),
			),
		)
	}
	f := frame.Frame{}
	for i, r := range rules[:n] {
		if i%4 == 0 {
			f = append(f, frame.Category{Name: fmt.Sprintf("Category %d", i/4+1)})
		}
		c := &f[len(f)-1]
		c.Rules = append(c.Rules, r)
	}
	f.Complete(nil, 0)
	return f
}

// BenchmarkMillionFrame codes a million answers, and a tenth of them, by a frame of 200 rules anew.
func BenchmarkMillionFrame(b *testing.B) {
	q := millionQuestion(b)
	s := q.State()
	book := s.Scheme.Playbook.Clone()
	book.Frame = frameOf(b, 200)
	tenth, err := book.Read(context.Background(), s.Answers[:million/10], 2, nil)
	require.NoError(b, err)
	for b.Loop() {
		took := map[int]time.Duration{}
		for n, view := range map[int]*state.State{million: {View: s.View}, million / 10: {View: book.View(tenth)}} {
			variables := []*survey.Variable{}
			for _, v := range s.Study.Variables {
				variables = append(variables, v)
			}
			took[n] = median(func() {
				c := must(book.Code(ctx, view.View, s.Answers, variables, frame.NewDecisions(), nil))
				require.Len(b, c.Results, 50)
			})
		}
		b.ReportMetric(took[million].Seconds(), "s-million")
		b.ReportMetric(took[million/10].Seconds(), "s-tenth")
	}
}

// BenchmarkMillionCode asks what stands around the frame and a rule that is being written.
func BenchmarkMillionCode(b *testing.B) {
	q := millionQuestion(b)
	s := q.State()
	want := code.RuleQuery{Rule: "stood / sat / stuck +6w minute / hour / line", Category: "c2", Limit: 15}
	check := func(_ any, err error) { require.NoError(b, err) }
	for name, ask := range map[string]func(){
		"drafts":      func() { check(code.DraftsOf(ctx, s, nil, "")) },
		"health":      func() { check(code.HealthOf(ctx, s, nil, 30)) },
		"near misses": func() { check(code.MissesOf(ctx, s, nil, want, "")) },
		"suggestions": func() { check(code.Sharpen(ctx, s, nil, want)) },
		"rules from ten examples": func() {
			check(code.Induce(ctx, s, nil, code.ExampleQuery{In: []survey.Respondent{1, 22, 333, 4444, 55_555, 7, 88, 999, 1010, 11_111}}))
		},
		"a sample of a rule": func() { check(code.SampleOf(ctx, s, "c2", "", 50, 1)) },
		"two rules beside":   func() { check(code.BesideOf(ctx, s, nil, code.TwoRules{A: want.Rule, B: "queue / wait"})) },
		"values":             func() { check(termview.ValuesOf(ctx, s, nil)) },
		"two in a row, compared": func() {
			check(termview.Compare(ctx, s, nil, termview.CompareQuery{Row: 2, Least: 5, Limit: 60}))
		},
		"what moved":           func() { check(termview.RisingOf(ctx, s, nil, termview.TimeQuery{}, "", 60)) },
		"coverage of the text": func() { check(termview.CorpusOf(ctx, s, nil, "")) },
		"a completion":         func() { check(code.Complete(ctx, s, "queue / wa", 10)) },
		"a part":               func() { check(code.PartAt(ctx, s, nil, want.Rule, 2)) },
		"a why":                func() { check(code.WhyOf(s, 77_777, "c2")) },
	} {
		start := time.Now()
		ask() // what is kept per focus is counted once
		first := time.Since(start)
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				ask()
			}
			b.ReportMetric(float64(first.Microseconds())/1000, "ms-first")
		})
	}
}
