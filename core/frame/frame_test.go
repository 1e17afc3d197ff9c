package frame

import (
	"context"
	"fmt"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/corpus"
	"aftermath/core/lexicon"
	"aftermath/core/lexicon/lexicontest"
	"aftermath/core/rule"
	"aftermath/core/text"
)

var answers = []string{
	"late and the crew was rude", // 0
	"crew kind",                  // 1
	"nothing",                    // 2
	"nothing but the late boat",  // 3
	"cold tea",                   // 4
	"never late",                 // 5
}

func scope(t *testing.T) rule.Scope {
	p, err := text.NewPipeline("en", text.DefaultSteps())
	require.NoError(t, err)
	ix, err := corpus.Build(context.Background(), p, text.NewNoAnswers(p, nil), answers, 1, nil)
	require.NoError(t, err)
	return rule.Scope{
		View: lexicon.NewView(lexicon.NewStems("en", ix), p, lexicon.Default("en")),
		Text: func(i int) string { return answers[i] },
	}
}

func sample() Frame {
	f := Frame{
		{
			Name: "People",
			Code: 10,
			Children: []Category{
				{Name: "Friendly", Code: 11, Rules: []string{"kind / friendly"}}, {Name: "Rude", Rules: []string{"rude"}},
			},
		},
		{Name: "Late", Rules: []string{"late"}, Unless: []string{"never late"}},
		{Name: "Both", Rules: []string{"{People} + {Late}"}},
		{Name: "Nothing", Alone: true, Rules: []string{"nothing / none", "never"}},
	}
	f.Complete(nil, 0)
	return f
}

// coded gives for each category by its path the answers it has.
func coded(c *Coding) map[string][]uint32 {
	out := map[string][]uint32{}
	for _, r := range c.Results {
		out[r.PathName()] = r.Answers.ToArray()
	}
	return out
}

func TestCoding(t *testing.T) {
	f := sample()
	c := mustCode(f, NewDecisions(), scope(t), nil)
	assert.Equal(t, map[string][]uint32{"People": {0, 1}, "People / Friendly": {1}, "People / Rude": {0}, "Late": {0, 3},
		"Both": {0}, "Nothing": {2, 5}}, coded(c), "answer 3 says nothing, but not alone")
	assert.Equal(t, []uint32{0, 1, 2, 3, 5}, c.Coded.ToArray())
}

func TestDecisionsStandOverRules(t *testing.T) {
	f := sample()
	id := func(path ...string) string { p, _ := f.ByPath(path); return p.ID }
	d := NewDecisions()
	d.Off[id("Late")] = roaring.BitmapOf(0)
	d.On[id("People", "Rude")] = roaring.BitmapOf(4)
	d.On[id("Nothing")] = roaring.BitmapOf(3)
	got := coded(mustCode(f, d, scope(t), nil))
	assert.Equal(t, []uint32{3}, got["Late"])
	assert.Equal(t, []uint32{0, 1, 4}, got["People"], "the net follows")
	assert.Empty(t, got["Both"], "{Late} speaks of decisions too")
	assert.Equal(t, []uint32{2, 3, 5}, got["Nothing"], "put there by hand, it stays")
}

func TestCirclesAreNamed(t *testing.T) {
	f := Frame{
		{Name: "A", Rules: []string{"late / {B}", "tea"}}, {Name: "B", Rules: []string{"{C}"}},
		{Name: "C", Rules: []string{"{A}", "cold"}}, {Name: "D", Children: []Category{{Name: "E", Rules: []string{"{D}"}}}},
	}
	f.Complete(nil, 0)
	c := mustCode(f, NewDecisions(), scope(t), nil)
	assert.Equal(t, "this goes round in a circle: A → B → C → A", c.Results[0].Rules[0].Problems[0].Message)
	assert.Equal(t, "this goes round in a circle: D / E → D → D / E", c.Results[4].Rules[0].Problems[0].Message)
	assert.Equal(t, map[string][]uint32{"A": {4}, "B": {}, "C": {4}, "D": {}, "D / E": {}}, coded(c))
}

func TestAloneMayNotBeNamed(t *testing.T) {
	f := append(sample(), Category{Name: "X", ID: "x", Rules: []string{"{Nothing}"}})
	c := mustCode(f, NewDecisions(), scope(t), nil)
	r, _ := c.Of("x")
	assert.Contains(t, r.Rules[0].Problems[0].Message, "stands alone")
}

// Coding with what an earlier coding found gives the same as coding anew.
func TestReuse(t *testing.T) {
	s := scope(t)
	f := sample()
	earlier := mustCode(f, NewDecisions(), s, nil)
	g := f.Clone()
	g[1].Rules = []string{"late / tea", "cold"}
	assert.Equal(t, coded(mustCode(g, NewDecisions(), s, nil)), coded(mustCode(g, NewDecisions(), s, earlier)))
}

func TestCompleteGivesKeysCodesAndShortCodes(t *testing.T) {
	f := sample()
	var shorts []string
	for p := range f.All() {
		shorts = append(shorts, p.Short)
		assert.NotEmpty(t, p.ID)
		assert.NotZero(t, p.Code)
	}
	assert.Equal(t, []string{"1", "1f", "1r", "2", "3", "4"}, shorts)
	again := Frame{{Name: "Late"}, {Name: "people", Children: []Category{{Name: "Rude"}}}}
	again.Complete(f, 0)
	assert.Equal(t, f[1].ID, again[0].ID, "the same path keeps its key")
	assert.Equal(t, f[0].Children[1].ID, again[1].Children[0].ID)
	assert.ErrorIs(t, Frame{{Name: "a"}, {Name: "A"}}.Check(), ErrFrame)
	assert.ErrorIs(t, Frame{{Name: " "}}.Check(), ErrFrame)
}

// must gives what can't fail here.
func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

func mustCode(f Frame, d Decisions, s rule.Scope, earlier *Coding) *Coding {
	return must(Code(context.Background(), f, false, d, s, earlier))
}

func ExampleCode() {
	view := lexicontest.View(lexicontest.Example{}, "en", lexicon.Default("en"), "The boat was late", "Late, and cold tea", "Cold tea")
	f := Frame{{Name: "Late", Rules: []string{"late"}}, {Name: "Tea", Rules: []string{"tea - {Late}"}}}
	f.Complete(nil, 0)
	c, _ := Code(context.Background(), f, false, Decisions{}, rule.Scope{View: view}, nil)
	for _, r := range c.Results {
		fmt.Println(r.Name, r.Answers.ToArray())
	}
	// Output:
	// Late [0 1]
	// Tea [2]
}
