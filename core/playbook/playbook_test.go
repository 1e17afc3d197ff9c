package playbook

import (
	"context"
	"fmt"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/frame"
	"aftermath/core/text"
)

// The minimum that a playbook file must be able to say.
const whole = `{
  "aftermath": 1,
  "language": "en",
  "cleaning": [{"step": "markup"}, {"step": "replace", "rules": [{"find": "\\[ref \\d+\\]", "with": "", "regex": true}]}],
  "lexicon": {
    "inflections": true,
    "stopWords": {"base": "en", "add": ["ferry"], "keep": ["no"]},
    "merges": [{"term": "queue", "variants": ["line", "tailback*", "long wait"]}],
    "lists": [{"name": "crew", "entries": ["steward*", "deck hand", "staff"]}]
  },
  "frame": [
    {"name": "People", "code": 10, "children": [
      {"name": "Friendly crew", "code": 11, "rules": ["@crew +6w friendly / kind / helpful -<3w @negators"]}]},
    {"name": "Too slow", "code": 20, "rules": ["slow / late"], "unless": ["{People / Friendly crew} + never late"]},
    {"name": "Nothing to change", "code": 90, "alone": true, "rules": ["nothing / none"]}
  ]
}`

func TestWholePlaybookCodes(t *testing.T) {
	p, err := Parse([]byte(whole))
	require.NoError(t, err)
	answers := []string{
		"[ref 12] the staff were kind, never late", "slow stewards, not friendly", "nothing", "deck hand: helpful. late", "",
	}
	r, err := p.Read(context.Background(), answers, 1, nil)
	require.NoError(t, err)
	c, err := p.Code(t.Context(), p.View(r), answers, nil, frame.NewDecisions(), nil)
	require.NoError(t, err)
	got := map[string][]uint32{}
	for _, res := range c.Results {
		got[res.PathName()] = res.Answers.ToArray()
		for _, rr := range append(res.Rules, res.Unless...) {
			for _, problem := range rr.Problems {
				assert.True(t, problem.Warning, "%s: %s", rr.Source, problem.Message)
			}
		}
	}
	assert.Equal(
		t, map[string][]uint32{"People": {0, 3}, "People / Friendly crew": {0, 3}, "Too slow": {1, 3}, "Nothing to change": {2}}, got,
	)
}

func TestFileComesBackTheSame(t *testing.T) {
	p, err := Parse([]byte(whole))
	require.NoError(t, err)
	file, err := p.File()
	require.NoError(t, err)
	again, err := Parse(file)
	require.NoError(t, err)
	assert.Equal(t, p, again)
}

func TestDefaults(t *testing.T) {
	p, err := Parse([]byte(`{"aftermath": 1, "lexicon": {"merges": []}}`))
	require.NoError(t, err)
	want := New("en")
	want.Lexicon.Merges = p.Lexicon.Merges
	assert.Equal(t, want, p)
	p, err = Parse([]byte(`{"aftermath": 1, "cleaning": []}`))
	require.NoError(t, err)
	assert.Empty(t, p.Cleaning)
}

func TestBadPlaybooksAreRefused(t *testing.T) {
	for src, want := range map[string]string{
		`{"aftermath": 1, "lexikon": {}}`:                        `"lexikon"`,
		`{"aftermath": 1, "frame": [{"name": "A", "rulez": 1}]}`: `"rulez"`,
		`{"aftermath": 3}`:                                       "version",
		`{"aftermath": 1} x`:                                     "JSON",
		`[]`:                                                     "JSON",
		`{"aftermath": 1, "cleaning": [{"step": "polish"}]}`: "polish",
		`{"aftermath": 1, "frame": [{"name": ""}]}`:          "no name",
	} {
		_, err := Parse([]byte(src))
		require.ErrorIs(t, err, ErrPlaybook, src)
		assert.Contains(t, err.Error(), want)
	}
}

func FuzzParse(f *testing.F) {
	f.Add([]byte(whole))
	f.Fuzz(func(t *testing.T, data []byte) {
		p, err := Parse(data)
		if err != nil {
			return
		}
		file, err := p.File()
		require.NoError(t, err)
		_, err = Parse(file)
		require.NoError(t, err)
	})
}

// Looking through all answers at once, by several workers, finds what looking at each finds.
func TestInspectAgainstEachAnswer(t *testing.T) {
	p := New("en")
	p.Cleaning = []text.Step{
		{StepKind: text.ContractionsStep{}}, {StepKind: text.TypographyStep{}}, {StepKind: text.ReplaceStep{Rules: []text.Replacement{{Find: "'", With: " "}}}}, {StepKind: text.AccentsStep{}},
	}
	said := []string{"it’s late", "I can't", "fine", "they didn’t, can't", "café", ""}
	answers := make([]string, 3*inspected+7)
	for i := range answers {
		answers[i] = said[i*7%len(said)]
	}
	in, err := text.NewInspector(p.Language, p.Cleaning)
	require.NoError(t, err)
	want := map[text.Hazard][]uint32{}
	var c text.Cleaned
	for i, a := range answers {
		for _, h := range in.Inspect(a, &c) {
			want[h] = append(want[h], uint32(i))
		}
	}
	require.NotEmpty(t, want)
	for _, workers := range []int{1, 3} {
		var told atomic.Int64
		found, err := p.Inspect(context.Background(), answers, workers, func(int) { told.Add(1) })
		require.NoError(t, err)
		assert.Equal(t, int64(4), told.Load(), "once for each stretch of answers")
		assert.Len(t, found, len(want))
		for _, h := range found {
			assert.Equal(t, want[h.Hazard], h.Answers.ToArray())
			assert.Equal(t, text.Moved(p.Cleaning, h.First, h.Second), h.Mended)
		}
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	_, err = p.Inspect(ctx, answers, 2, nil)
	assert.ErrorIs(t, err, context.Canceled)
}

func ExamplePlaybook() {
	p, _ := Parse([]byte(whole))
	answers := []string{"The staff were kind", "slow, and the staff were not friendly", ""}
	ctx := context.Background()
	read, _ := p.Read(ctx, answers, 1, nil)
	coding, _ := p.Code(ctx, p.View(read), answers, nil, frame.NewDecisions(), nil)
	for _, r := range coding.Results {
		fmt.Println(r.PathName(), r.Answers.ToArray())
	}
	// Output:
	// People [0]
	// People / Friendly crew [0]
	// Too slow [1]
	// Nothing to change []
}
