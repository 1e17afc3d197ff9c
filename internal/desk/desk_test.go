package desk

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/files"
	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

var ctx = context.Background()

// open loads a small study and opens its question.
func open(t testing.TB, rows ...[]string) (*Desk, *Question) {
	s, err := store.Open(ctx, pgtest.Database(t))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	d := New(s)
	table := &files.Table{Columns: []string{"id", "route", "recommend", "weight", "answer"}, Rows: rows}
	specs := []survey.Spec{{Name: "id", Role: survey.Identifier}, {Name: "route", Role: survey.Segment}, {Name: "recommend", Role: survey.Number},
		{Name: "weight", Role: survey.Weight}, {Name: "answer", Role: survey.OpenEnded}}
	study, err := d.LoadTable(ctx, "Ferries", specs, table, func(int) playbook.Playbook { return playbook.New("en") })
	require.NoError(t, err)
	questions, err := s.Questions(ctx, study.ID)
	require.NoError(t, err)
	q, err := d.Question(ctx, questions[0].ID)
	require.NoError(t, err)
	return d, q
}

var sample = [][]string{
	{"1", "North", "3", "1", "The queue was long"},
	{"2", "North", "9", "0.5", "queues, late boat"},
	{"3", "South", "", "2", "tailback at the pier"},
	{"4", "South", "5", "1", "cold tea, didn’t like it"},
	{"5", "", "7", "1", "n/a"},
	{"6", "North", "8", "1", ""},
	{"7", "South", "2", "1", "late"},
}

func edit(t testing.TB, q *Question, e Edit) Effect {
	t.Helper()
	effect, err := q.Edit(ctx, q.State().Revision, e)
	require.NoError(t, err)
	return effect
}

// coded gives for each category by its path the answers it has.
func coded(q *Question) map[string][]uint32 {
	out := map[string][]uint32{}
	for _, r := range q.State().Coding.Results {
		out[r.PathName()] = r.Answers.ToArray()
	}
	return out
}

func id(t testing.TB, q *Question, path ...string) string {
	p, ok := q.State().Playbook.Frame.ByPath(path)
	require.True(t, ok, "%v", path)
	return p.ID
}

func TestEditsAreKeptAndUndone(t *testing.T) {
	d, q := open(t, sample...)
	effect := edit(t, q, Edit{Kind: "add category", Category: &frame.Category{Name: "Waiting", Rules: []string{"queue"}}})
	assert.Equal(t, []CategoryEffect{{id(t, q, "Waiting"), "Waiting", 2, 0}}, effect.Categories)
	preview, err := q.Preview(ctx, Edit{Kind: "merge", Label: "queue", Terms: []string{"tailback"}})
	require.NoError(t, err)
	effect = edit(t, q, Edit{Kind: "merge", Label: "queue", Terms: []string{"tailback"}})
	assert.Equal(t, preview.Categories, effect.Categories, "what was previewed is what came")
	assert.Equal(t, []uint32{0, 1, 2}, coded(q)["Waiting"])
	edit(t, q, Edit{Kind: "decide", ID: id(t, q, "Waiting"), Answers: []uint32{3}, To: "on"})
	edit(t, q, Edit{Kind: "decide", ID: id(t, q, "Waiting"), Answers: []uint32{0}, To: "off"})
	edit(t, q, Edit{Kind: "settle", Answers: []uint32{6}, To: "on"})
	assert.Equal(t, []uint32{1, 2, 3}, coded(q)["Waiting"])

	// A program that starts anew finds all of it.
	again, err := New(d.Store).Question(ctx, q.ID)
	require.NoError(t, err)
	assert.Equal(t, coded(q), coded(again))
	assert.Equal(t, q.State().Playbook, again.State().Playbook)
	assert.True(t, again.State().Decisions.Settled.Contains(6))
	o, err := again.Overview(again.State(), nil)
	require.NoError(t, err)
	assert.Equal(t, map[string]int{"answered": 5, "no answer": 1, "missing": 1, "empty": 0}, o.Statuses)
	assert.Equal(t, []int{3, 1, 1}, []int{o.Coded, o.Settled, o.Left})

	// A category that is removed takes its decisions along, and undo brings both back.
	edit(t, again, Edit{Kind: "remove category", ID: id(t, again, "Waiting")})
	assert.Empty(t, coded(again))
	for range 3 {
		_, err = again.Undo(ctx, false)
		require.NoError(t, err)
	}
	assert.Equal(t, []uint32{0, 1, 2, 3}, coded(again)["Waiting"])
	_, err = again.Undo(ctx, true)
	require.NoError(t, err)
	assert.Equal(t, []uint32{1, 2, 3}, coded(again)["Waiting"])
	edit(t, again, Edit{Kind: "hide", Terms: []string{"boat"}})
	_, err = again.Undo(ctx, true)
	assert.ErrorIs(t, err, ErrNothing, "a new edit leaves nothing to redo")
}

func TestTwoWindowsDoNotOverwriteEachOther(t *testing.T) {
	_, q := open(t, sample...)
	seen := q.State().Revision
	edit(t, q, Edit{Kind: "hide", Terms: []string{"boat"}})
	_, err := q.Edit(ctx, seen, Edit{Kind: "hide", Terms: []string{"tea"}})
	assert.ErrorIs(t, err, store.ErrConflict)
	assert.Equal(t, []string{"boat"}, q.State().Playbook.Lexicon.StopWords.Add)
}

// Another program on the same database may have been faster: the edit is refused, and the next look shows what is stored.
func TestTwoProgramsDoNotOverwriteEachOther(t *testing.T) {
	d, q := open(t, sample...)
	other, err := New(d.Store).Question(ctx, q.ID)
	require.NoError(t, err)
	edit(t, other, Edit{Kind: "hide", Terms: []string{"boat"}})
	_, err = q.Edit(ctx, q.State().Revision, Edit{Kind: "hide", Terms: []string{"tea"}})
	assert.ErrorIs(t, err, store.ErrConflict)
	again, err := d.Question(ctx, q.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"boat"}, again.State().Playbook.Lexicon.StopWords.Add)
	edit(t, again, Edit{Kind: "hide", Terms: []string{"tea"}})
}

func TestStopWordsShapeListsNeverRules(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, Edit{Kind: "add category", Category: &frame.Category{Name: "Waiting", Rules: []string{"queue"}}})
	labels := func(stop bool) (out []string) {
		table, err := q.Terms(q.State(), nil, TermQuery{Stop: stop, Limit: 100, Descending: true})
		require.NoError(t, err)
		for _, term := range table.Terms {
			out = append(out, term.Label)
		}
		return
	}
	require.Contains(t, labels(false), "queue")
	edit(t, q, Edit{Kind: "hide", Terms: []string{"queue"}})
	assert.NotContains(t, labels(false), "queue")
	assert.Contains(t, labels(true), "queue")
	assert.Equal(t, []uint32{0, 1}, coded(q)["Waiting"])
	edit(t, q, Edit{Kind: "show", Terms: []string{"queue"}})
	assert.Contains(t, labels(false), "queue")
}

func TestRenamingRewritesRules(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, Edit{Kind: "add category", Category: &frame.Category{Name: "People"}})
	edit(t, q, Edit{Kind: "add category", Parent: id(t, q, "People"), Category: &frame.Category{Name: "Crew", Rules: []string{"late"}}})
	edit(t, q, Edit{Kind: "add category", Category: &frame.Category{Name: "Both", Rules: []string{"{People / Crew} + boat"}}})
	before := coded(q)["Both"]
	require.NotEmpty(t, before)
	edit(t, q, Edit{Kind: "change category", ID: id(t, q, "People"), Category: &frame.Category{Name: "Food / drink"}})
	edit(t, q, Edit{Kind: "move category", ID: id(t, q, "Food / drink", "Crew")})
	p, _ := q.State().Playbook.Frame.ByPath([]string{"Both"})
	assert.Equal(t, []string{"{Crew} + boat"}, p.Rules)
	assert.Equal(t, before, coded(q)["Both"])
}

func TestFocusNarrowsEverything(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, Edit{Kind: "add category", Category: &frame.Category{Name: "Waiting", Rules: []string{"queue"}}})
	s := q.State()
	for _, c := range []struct {
		focus string
		want  []uint32
	}{
		{``, []uint32{0, 1, 2, 3, 6}},
		{`[{"kind":"variable","name":"route","op":"=","values":["North"]}]`, []uint32{0, 1}},
		{`[{"kind":"variable","name":"recommend","op":"<=","values":["5"]},{"kind":"coded","not":true}]`, []uint32{3, 6}},
		{`[{"kind":"words","text":"late - boat"}]`, []uint32{6}},
		{`[{"kind":"term","text":"queues"}]`, []uint32{0, 1}},
		{`[{"kind":"category","id":"` + id(t, q, "Waiting") + `","not":true}]`, []uint32{2, 3, 6}},
		{`[{"kind":"status","text":"no answer"}]`, []uint32{4}},
		{`[{"kind":"step","text":"contractions"}]`, []uint32{3}},
		{`[{"kind":"answers","answers":[5]}]`, []uint32{5}},
	} {
		f, err := ParseFocus(c.focus)
		require.NoError(t, err)
		set, err := q.Focus(s, f)
		require.NoError(t, err)
		assert.Equal(t, c.want, set.ToArray(), c.focus)
		page, err := q.List(s, f, 0, 0, 10)
		require.NoError(t, err)
		assert.Len(t, page.Answers, len(c.want))
	}
	for _, bad := range []string{`{`, `[{"kind":"words","text":"((("}]`, `[{"kind":"variable","name":"nope","values":["x"]}]`, `[{"kind":"variable","name":"route","values":["West"]}]`, `[{"kind":"category","id":"c99"}]`} {
		f, err := ParseFocus(bad)
		if err == nil {
			_, err = q.Focus(s, f)
		}
		assert.ErrorIs(t, err, ErrRequest, bad)
	}
}

func TestHighlightsSitOnTheOriginal(t *testing.T) {
	_, q := open(t, []string{"1", "North", "1", "1", "<b>Long</b> queues &amp; we didn’t board. Queue!"}, []string{"2", "South", "1", "1", "no"})
	f := Focus{{Kind: "words", Text: `long queue / didn't / =queue`}}
	page, err := q.List(q.State(), f, 0, 0, 1)
	require.NoError(t, err)
	var marked []string
	whole := ""
	for _, p := range page.Answers[0].Parts {
		whole += p.Text
		if p.Hit {
			marked = append(marked, p.Text)
		}
	}
	assert.Equal(t, q.Answers[0], whole)
	assert.Equal(t, []string{"Long", "queues", "didn’t", "Queue"}, marked)
}

func TestChartCountsWhatItShows(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, Edit{Kind: "add category", Category: &frame.Category{Name: "Late", Rules: []string{"late"}}})
	c, err := q.Chart(q.State(), nil, "route", BaseAnswered, true)
	require.NoError(t, err)
	assert.Equal(t, []string{"All", "North", "South"}, c.Columns)
	assert.Equal(t, 1.5/5.5, c.Cells[0][0].Share, "weights 0.5 and 1 of 1, 0.5, 2, 1, 1")
	assert.Equal(t, 2, c.Cells[0][0].Answers)
	assert.Equal(t, 0.5/1.5, c.Cells[0][1].Share)
	assert.Equal(t, 3, c.Cells[1][0].Answers, "not coded")
	c, err = q.Chart(q.State(), nil, "route", BaseRespondents, false)
	require.NoError(t, err)
	assert.Equal(t, 6, c.Bases[0].Answers)
	assert.Equal(t, 1, c.Missing, "respondent 5 has no route")
	_, err = q.Chart(q.State(), nil, "nope", BaseAnswered, false)
	assert.ErrorIs(t, err, ErrRequest)
}

func TestLoadIsWholeOrNotAtAll(t *testing.T) {
	s, err := store.Open(ctx, pgtest.Database(t))
	require.NoError(t, err)
	defer s.Close()
	d := New(s)
	specs := []survey.Spec{{Name: "n", Role: survey.Weight}, {Name: "answer", Role: survey.OpenEnded}}
	source := func(rows ...string) Source {
		path := filepath.Join(t.TempDir(), "x.csv")
		require.NoError(t, os.WriteFile(path, []byte("n,answer\n"+strings.Join(rows, "\n")), 0o600))
		return Source{path, 1, files.Recipe{Format: files.Delimited, Delimiter: ",", Headers: 1}}
	}
	_, _, err = d.Load(ctx, "x", specs, source("1,a", "two,b"), "en")
	assert.EqualError(t, err, `nothing was loaded: row 2 of the data, column "n": value "two" is no number`)
	_, _, err = d.Load(ctx, "x", specs, source("1,a", "2,\"b"), "en")
	assert.ErrorContains(t, err, "nothing was loaded: file: row 3")
	rows := make([]string, 300_000)
	for i := range rows {
		rows[i] = fmt.Sprint(i, ",a")
	}
	cancelled, cancel := context.WithCancel(ctx)
	events, stop := d.Events.Listen()
	defer stop()
	go func() {
		for e := range events {
			if e.Kind == "progress" && e.Done > 0 {
				cancel()
				return
			}
		}
	}()
	_, _, err = d.Load(cancelled, "x", specs, source(rows...), "en")
	assert.ErrorIs(t, err, context.Canceled)
	all, err := s.Studies(ctx)
	require.NoError(t, err)
	assert.Empty(t, all)
}

// decided gives all decisions by hand, by category; settled under no name.
func decided(q *Question) map[string][]uint32 {
	d := q.State().Decisions
	out := map[string][]uint32{"": d.Settled.ToArray()}
	for id, set := range d.On {
		if !set.IsEmpty() {
			out["on "+id] = set.ToArray()
		}
	}
	for id, set := range d.Off {
		if !set.IsEmpty() {
			out["off "+id] = set.ToArray()
		}
	}
	return out
}

// Whatever is done, undoing all of it gives what was there before.
func TestUndoGivesBackEverything(t *testing.T) {
	d, q := open(t, sample...)
	edit(t, q, Edit{Kind: "add category", Category: &frame.Category{Name: "Waiting", Rules: []string{"queue"}}})
	edit(t, q, Edit{Kind: "decide", ID: id(t, q, "Waiting"), Answers: []uint32{3}, To: "on"})
	waiting := id(t, q, "Waiting")
	rapid.Check(t, func(rt *rapid.T) {
		before := q.State()
		was := coded(q)
		done := 0
		for range rapid.IntRange(1, 6).Draw(rt, "edits") {
			e := rapid.SampledFrom([]Edit{
				{Kind: "hide", Terms: []string{"late"}}, {Kind: "show", Terms: []string{"late"}},
				{Kind: "merge", Label: "queue", Terms: []string{"tailback", "long"}}, {Kind: "split", Label: "queue"},
				{Kind: "part", Terms: []string{"queues"}}, {Kind: "join", Terms: []string{"queues"}}, {Kind: "inflections", To: "off"}, {Kind: "base"},
				{Kind: "list", Label: "x", Terms: []string{"tea"}}, {Kind: "rename", Label: "@x", Name: "y"}, {Kind: "unlist", Label: "x"}, {Kind: "apart", Label: "late", Terms: []string{"plate"}},
				{Kind: "language", Label: "de"}, {Kind: "lexicon", Lexicon: &lexicon.Lexicon{Merges: []lexicon.Merge{{Term: "tea", Variants: []string{"cold tea"}}}}},
				{Kind: "add category", Category: &frame.Category{Name: "Late", Rules: []string{"late"}}},
				{Kind: "change category", ID: waiting, Category: &frame.Category{Name: "Wait", Note: "a note", Colour: 3, Alone: true}},
				{Kind: "rule", ID: waiting, Was: "queue", Rule: "queue / tea"}, {Kind: "rule", ID: waiting, Rule: "late"}, {Kind: "rule", ID: waiting, Was: "late"}, {Kind: "rule", ID: waiting, Rule: "boat", Unless: true},
				{Kind: "rest", ID: waiting, Was: "queue", To: "on"}, {Kind: "rest", ID: waiting, Was: "queue", To: "off"}, {Kind: "duplicate category", ID: waiting},
				{Kind: "split category", ID: waiting, Name: "Parted", Rules: []string{"late"}}, {Kind: "move category", ID: waiting}, {Kind: "go back", State: "1"},
				{Kind: "frame", Frame: &frame.Frame{{Name: "Waiting", Rules: []string{"late"}}, {Name: "Net", Children: []frame.Category{{Name: "Tea", Rules: []string{"tea"}}}}}}, {Kind: "frame", To: "on", Frame: &frame.Frame{{Name: "More"}}},
				{Kind: "refuse draft", Rule: "cold / tea"}, {Kind: "draft again"},
				{Kind: "remove category", ID: waiting}, {Kind: "cleaning", Steps: []text.Step{{ID: "repeats"}}},
				{Kind: "decide", ID: waiting, Answers: []uint32{0, 6}, To: "on"}, {Kind: "decide", ID: waiting, Answers: []uint32{0, 3}, To: "off"},
				{Kind: "decide", ID: waiting, Answers: []uint32{3}, To: "rules"}, {Kind: "settle", Answers: []uint32{0, 2, 6}, To: "on"}, {Kind: "settle", Answers: []uint32{0, 3}, To: "off"},
			}).Draw(rt, "edit")
			preview, refused := q.Preview(ctx, e)
			effect, err := q.Edit(ctx, q.State().Revision, e)
			require.Equal(rt, err == nil, refused == nil, "a preview is refused just when the edit is")
			if err == nil {
				require.Equal(rt, preview.Categories, effect.Categories, "%s: what was previewed is what came", e.Kind)
				require.Equal(rt, preview.Coded, effect.Coded)
				done++
			} else {
				require.ErrorIs(rt, err, ErrRequest)
			}
		}
		// A program that starts anew in between finds what this one has in memory.
		stored, err := New(d.Store).Question(ctx, q.ID)
		require.NoError(rt, err)
		require.Equal(rt, coded(q), coded(stored))
		require.Equal(rt, decided(q), decided(stored))
		for range done {
			_, err := q.Undo(ctx, false)
			require.NoError(rt, err)
		}
		require.Equal(rt, was, coded(q))
		require.True(rt, same(before.Playbook, q.State().Playbook))
		require.True(rt, before.Decisions.Settled.Equals(q.State().Decisions.Settled))
		stored, err = New(d.Store).Question(ctx, q.ID)
		require.NoError(rt, err)
		require.Equal(rt, decided(q), decided(stored))
	})
}

func TestSheetShowsEveryStep(t *testing.T) {
	var rows [][]string
	for i := range 50 {
		rows = append(rows, []string{fmt.Sprint(i), "North", "1", "1", "it’s plain"})
	}
	rows[40][4], rows[45][4] = "soooo late", "<p>tags</p>"
	_, q := open(t, rows...)
	c, err := q.Cleaning(q.State(), nil, 6, 3)
	require.NoError(t, err)
	var shown []string
	for _, p := range c.Proof {
		shown = append(shown, q.Answers[p.Number])
	}
	assert.True(t, slices.Contains(shown, rows[40][4]) && slices.Contains(shown, rows[45][4]), strings.Join(shown, "\n"))
}
