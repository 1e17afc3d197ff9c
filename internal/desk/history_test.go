package desk_test

import (
	. "aftermath/internal/desk"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/frame"
	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/scheme/schemetest"
	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/intake"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/store"
)

// written is all of a question and its study that edits change, to the last byte, and what the rules and decisions make of it.
func written(t require.TestingT, w *window) string {
	s := w.State()
	data, err := json.Marshal(
		[]any{
			s.Scheme.Playbook, s.Scheme.Decisions.In(s.Study.Rows), coded(w), s.Study.Columns, s.Study.Derived, s.Study.Rows,
			s.Study.Cells,
		},
	)
	require.NoError(t, err)
	return string(data)
}

// An abandoned edit does not come back: a new one ends what was undone before, for good.
func TestRedoForgetsWhatWasAbandoned(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, scheme.Hide{Terms: []string{"late"}})
	undo(t, q, 1)
	edit(t, q, scheme.Hide{Terms: []string{"boat"}})
	undo(t, q, 1)
	_, err := q.Redo()
	require.NoError(t, err)
	assert.Equal(t, []string{"boat"}, q.State().Scheme.Lexicon.StopWords.Add)
	_, err = q.Redo()
	assert.ErrorIs(t, err, ErrNothing)
}

// Undo takes back what it names, or says what comes first.
func TestUndoNamesWhatItTakesBack(t *testing.T) {
	d, q := open(t, sample...)
	first := edit(t, q, scheme.Hide{Terms: []string{"late"}})
	second := edit(t, q, scheme.Hide{Terms: []string{"boat"}})
	_, err := d.Undo(ctx, q.ID, first.Edit, false)
	require.ErrorIs(t, err, ErrNewer)
	require.ErrorContains(t, err, "Hid boat")
	assert.Equal(t, second.Edit, second.History.Undo.Edit)
	undone, err := d.Undo(ctx, q.ID, second.Edit, false)
	require.NoError(t, err)
	assert.Equal(t, first.Edit, undone.History.Undo.Edit, "what comes next is told at once")
	_, err = d.Undo(ctx, q.ID, second.Edit, false)
	assert.ErrorIs(t, err, ErrNewer, "it is undone already")
	_, err = d.Redo(ctx, q.ID, first.Edit)
	assert.ErrorIs(t, err, ErrNewer)
	assert.Equal(t, []string{"late"}, q.State().Scheme.Lexicon.StopWords.Add)
}

// secondQuestion makes the routes a question of their own.
func secondQuestion(t *testing.T, d *Desk, q *window) *window {
	editStudy(t, d, q.StudyID, SetColumn{survey.Spec{Name: "route", Role: survey.OpenEnded}})
	record, err := d.Record(ctx, q.StudyID)
	require.NoError(t, err)
	require.Len(t, record.Questions, 2)
	return &window{d, record.Questions[0].ID, q.StudyID}
}

// further adds respondents.
func further(t testing.TB, d *Desk, study int64, lines ...string) {
	s, err := d.Study(ctx, study)
	require.NoError(t, err)
	columns := []string{"id", "route", "recommend", "weight", "answer"}
	var f intake.Further
	for _, c := range columns {
		f.Columns = append(f.Columns, intake.ColumnTo{Column: c, To: c})
	}
	_, err = d.AddRows(ctx, study, s.Revision, csvSource(t, append([]string{strings.Join(columns, ",")}, lines...)...), f)
	require.NoError(t, err)
}

// addition adds a row, replaces those with an identifier, or cuts answers, and gives what the history says of it;
// nothing where there was nothing to cut.
func addition(t testing.TB, rt *rapid.T, d *Desk, q *window, n int) string {
	switch rapid.IntRange(0, 3).Draw(rt, "addition") {
	case 0:
		further(t, d, q.StudyID, fmt.Sprintf("%d,North,4,1,late and long", 100+n))
		return "Added one respondent"
	case 1:
		s, err := d.Study(ctx, q.StudyID)
		require.NoError(rt, err)
		how := files.Split{
			Column: "answer", Division: text.Division{By: "delimiter", At: rapid.SampledFrom([]string{",", " and ", "zz"}).Draw(rt, "at")},
		}
		tried, err := d.TryDivide(ctx, s, how)
		require.NoError(rt, err)
		e, err := d.EditStudy(ctx, q.StudyID, s.Revision, DivideColumn{how})
		require.Equal(rt, tried.Cut == 0, err != nil && isRefusal(err), "%v", err)
		if err != nil {
			return ""
		}
		require.Equal(rt, tried.Rows, q.State().Study.Respondents())
		return e.Summary
	}
	s, err := d.Study(ctx, q.StudyID)
	require.NoError(rt, err)
	f := intake.Further{Known: intake.ReplaceKnown, Columns: []intake.ColumnTo{{Column: "id", To: "id"}, {Column: "answer", To: "answer"}}}
	lines := []string{"id,answer"}
	for range rapid.IntRange(1, 3).Draw(rt, "rows") {
		r := rapid.SampledFrom(sample).Draw(rt, "who")
		words := r[4]
		if rapid.Bool().Draw(rt, "other words") {
			words = "a long queue and cold tea"
		}
		lines = append(lines, r[0]+`,"`+words+`"`)
	}
	file := csvSource(t, lines...)
	tried, err := d.TryRows(ctx, s, file, f)
	require.NoError(rt, err)
	e, err := d.AddRows(ctx, q.StudyID, s.Revision, file, f)
	require.NoError(rt, err)
	require.Equal(rt, s.Respondents()+tried.Rows-tried.Replaced, q.State().Study.Respondents())
	return e.Summary
}

// Decisions belong to respondents. Rows that are undone take theirs along; other rows that come in their place have none of them.
func TestDecisionsStayWithTheirRespondents(t *testing.T) {
	d, q := open(t, sample...)
	edit(t, q, category("Waiting", "queue"))
	w := id(t, q, "Waiting")
	other := secondQuestion(t, d, q)
	further(t, d, q.StudyID, "8,North,1,1,more tea", "9,South,2,1,late again")
	edit(t, q, scheme.Decide{Category: w, Answers: []survey.Respondent{7, 8}, To: scheme.On})
	assert.Equal(t, []uint32{0, 1, 7, 8}, coded(q)["Waiting"])

	// The other question's window undoes the rows: it is told that this one has built on them, and must confirm.
	h := other.history(t)
	require.Equal(t, "Added 2 respondents", h.Undo.Summary)
	require.Contains(t, h.Undo.Warning, "“answer” was edited since")
	_, err := d.Undo(ctx, other.ID, h.Undo.Edit, false)
	require.ErrorIs(t, err, ErrBuiltOn)
	assert.Len(t, q.State().Answers, 9, "nothing happened yet")
	_, err = d.Undo(ctx, other.ID, h.Undo.Edit, true)
	require.NoError(t, err)
	assert.Equal(t, []uint32{0, 1}, coded(q)["Waiting"])
	_, err = other.Redo()
	require.NoError(t, err)
	assert.Equal(t, []uint32{0, 1, 7, 8}, coded(q)["Waiting"], "they bring their decisions back")

	_, err = other.Undo()
	require.NoError(t, err)
	further(t, d, q.StudyID, "10,North,1,1,new and calm", "11,South,2,1,newer and calm")
	assert.Len(t, q.State().Answers, 9)
	assert.Equal(t, []uint32{0, 1}, coded(q)["Waiting"], "new people have no decisions of others")
	assert.Equal(t, []uint32{0, 1}, coded(anew(d, q))["Waiting"])
	assert.Equal(t, survey.Respondent(9), q.State().Respondent(7), "a number is used once")
	edit(t, q, scheme.Decide{Category: w, Answers: []survey.Respondent{10}, To: scheme.On})
	assert.Equal(t, []uint32{0, 1, 8}, coded(q)["Waiting"])
	_, err = q.Edit(q.State().Revision, scheme.Decide{Category: w, Answers: []survey.Respondent{7}, To: scheme.On})
	assert.ErrorIs(t, err, scheme.ErrEdit, "nobody is there any more")
}

// A key of a category is given out once, whatever was removed, undone or brought in; and after a new start, too.
func TestCategoryKeysAreUsedOnce(t *testing.T) {
	d, q := open(t, sample...)
	edit(t, q, category("A", "late"))
	first := id(t, q, "A")
	edit(t, q, scheme.RemoveCategory{Category: first})
	edit(t, q, category("B", "boat"))
	assert.NotEqual(t, first, id(t, q, "B"))
	second := id(t, q, "B")
	undo(t, q, 1)
	other := anew(d, q)
	edit(t, other, category("C", "tea"))
	assert.NotContains(t, []string{first, second}, id(t, other, "C"))
}

// Undo and redo go through the edits of a question and its study as one line. Random edits, undos and redos in the windows of two
// questions are held against plain lists of what everything was.
func TestHistoryAgainstAPlainList(t *testing.T) {
	d, _ := open(t, sample...)
	specs := []survey.Spec{
		{Name: "id", Role: survey.Identifier}, {Name: "route", Role: survey.OpenEnded}, {Name: "recommend", Role: survey.Number},
		{Name: "weight", Role: survey.Weight}, {Name: "answer", Role: survey.OpenEnded},
	}
	type made struct {
		id      int64
		window  int // of whose question; -1: of the study
		summary string
		number  int           // of the revision it made; 0: of the study
		before  scheme.Scheme // of its question
	}
	begun := func(int) playbook.Playbook {
		p := playbook.New("en")
		p.Frame = frame.Frame{{Name: "Queues", Rules: []string{"queue"}}, {Name: "Boats", Rules: []string{"boat"}}}
		p.Frame.Complete(nil, 0)
		return p
	}
	undone, redone, refused, past, carried := 0, 0, 0, 0, 0
	rapid.Check(t, func(rt *rapid.T) {
		study, err := d.LoadTable(ctx, "Ferries", specs, &files.Table{Rows: sample}, begun)
		require.NoError(rt, err)
		q := &window{d, study.Questions[1].ID, study.ID}
		windows, added := []*window{q, {d, study.Questions[0].ID, study.ID}}, 0
		var standing, back []made // back: undone, the one undone last at the end
		// By edit, what was written in the windows' questions before it: empty for decisions carried with rows,
		// which are kept in one go with them.
		was := map[int64]string{}
		all := func() string { return written(rt, windows[0]) + written(rt, windows[1]) }
		after := map[int64]string{}
		on := func(m made, w int) bool { return m.window < 0 || m.window == w }
		last := func(list []made, w int) int {
			for i := len(list) - 1; i >= 0; i-- {
				if on(list[i], w) {
					return i
				}
			}
			return -1
		}
		for _, w := range windows {
			require.NoError(rt, name(w, "draft"))
		}
		take := func(m made, before string) {
			standing = append(standing, m)
			was[m.id], after[m.id] = before, all()
			var left []made
			for _, b := range back { // what was undone on a line of this edit is ended
				if m.window >= 0 && !on(b, m.window) {
					left = append(left, b)
				}
			}
			back = left
		}
		for range rapid.SampledFrom([]int{16, 24, 8, 4, 1}).Draw(rt, "steps") {
			w := rapid.IntRange(0, 1).Draw(rt, "window")
			window := windows[w]
			switch rapid.IntRange(0, 9).Draw(rt, "step") {
			case 0, 1, 2:
				i := last(standing, w)
				if i < 0 {
					continue
				}
				h := window.history(rt)
				require.Equal(rt, standing[i].id, h.Undo.Edit, "undo would take back %s", standing[i].summary)
				built := false
				for _, m := range standing[i+1:] {
					built = built || standing[i].window < 0 && m.window >= 0
				}
				require.Equal(rt, built, h.Undo.Warning != "")
				now := all()
				effect, err := d.Undo(ctx, window.ID, h.Undo.Edit, true)
				require.NoError(rt, err)
				require.Equal(rt, "Undone: "+standing[i].summary, effect.Summary)
				undone++
				if id := standing[i].id; i == len(standing)-1 && after[id] == now && was[id] != "" {
					require.Equal(rt, was[standing[i].id], all(), "%s is taken back whole", standing[i].summary)
				}
				back = append(back, standing[i])
				standing = append(standing[:i:i], standing[i+1:]...)
			case 3, 4:
				i := last(back, w)
				h := window.history(rt)
				if i < 0 {
					require.Nil(rt, h.Redo)
					continue
				}
				require.Equal(rt, back[i].id, h.Redo.Edit, "redo would do %s again", back[i].summary)
				now := all()
				_, err := d.Redo(ctx, window.ID, h.Redo.Edit)
				require.NoError(rt, err)
				redone++
				if now == was[back[i].id] {
					require.Equal(rt, after[back[i].id], all(), "%s is done again whole", back[i].summary)
				}
				at := 0 // back where it stood: edits stand in the order of their numbers
				for at < len(standing) && standing[at].id < back[i].id {
					at++
				}
				standing = append(standing[:at:at], append([]made{back[i]}, standing[at:]...)...)
				back = append(back[:i:i], back[i+1:]...)
			case 5:
				before := all()
				s, err := d.Study(ctx, q.StudyID)
				require.NoError(rt, err)
				var change SetupEdit = DeriveVariable{survey.Derived{Name: "band", Kind: "bands", Of: []string{"recommend"},
					Edges: []float64{float64(rapid.IntRange(2, 9).Draw(rt, "edge"))}, Names: []string{"low", "high"}}}
				if rapid.Bool().Draw(rt, "name") {
					change = NameStudy{Name: rapid.StringMatching(`[A-Z][a-z]{1,9}`).Draw(rt, "to")}
				}
				e, err := d.EditStudy(ctx, q.StudyID, s.Revision, change)
				require.NoError(rt, err)
				take(made{id: e.Edit, window: -1, summary: e.Summary}, before)
			case 6:
				added++
				before, first := all(), [2]scheme.Scheme{windows[0].State().Scheme, windows[1].State().Scheme}
				summary := addition(t, rt, d, q, added)
				if summary == "" {
					require.Equal(rt, before, all())
					continue
				}
				for w, window := range windows { // what was decided goes along in an edit of the question, after that of the study
					line, err := d.Store().Line(ctx, q.StudyID, window.ID, 2)
					require.NoError(rt, err)
					rows, over := line[0], line[0]
					if over.QuestionID != nil {
						rows = line[1]
					}
					if w == 0 {
						take(made{id: rows.ID, window: -1, summary: summary}, before)
					}
					if over.QuestionID != nil {
						carried++
						take(made{over.ID, w, over.Summary, over.Number, first[w]}, "")
					}
				}
			default:
				e := schemetest.AnyEdit(rt, window.State().Scheme.Frame)
				if c, ok := e.(scheme.CopyFrom); ok {
					c.Question = windows[1-w].ID
					e = c
				}
				before, first := all(), window.State().Scheme
				preview, refusedPreview := window.Preview(e)
				kept, err := window.Edit(window.State().Revision, e)
				require.Equal(rt, err == nil, refusedPreview == nil, "a preview is refused just when the edit is")
				if err != nil {
					require.True(rt, isRefusal(err), "%v", err)
					require.Equal(rt, before, all())
					refused++
					continue
				}
				kept2 := kept
				kept2.Revision, kept2.Edit, kept2.History = preview.Revision, 0, preview.History
				require.Equal(rt, preview, kept2, "%T: what was previewed is what came", e)
				take(made{kept.Edit, w, kept.Summary, kept.Revision, first}, before)
			}
		}
		listed(rt, d, windows...)
		second := copied(rt, d, rapid.SampledFrom([]string{"copy", "back-up"}).Draw(rt, "second"), windows...)
		for w, window := range windows {
			was := window.State().Scheme // after the newest edit
			for i := len(standing) - 1; i >= 0; i-- {
				if m := standing[i]; m.window == w {
					asItWas(rt, window.State(), fmt.Sprint(m.number), was)
					was = m.before
					past++
				}
			}
		}
		// A program that starts anew finds what this one has in memory.
		for _, w := range windows {
			require.Equal(rt, written(rt, w), written(rt, anew(d, w)))
		}
		for _, w := range []int{0, 1, 0} { // all of it
			for last(standing, w) >= 0 {
				i := last(standing, w)
				_, err := windows[w].Undo()
				require.NoError(rt, err)
				standing = append(standing[:i:i], standing[i+1:]...)
			}
		}
		for _, w := range []int{0, 1, 0} { // and all of the copy
			undo(t, second[w], math.MaxInt)
		}
		for w := range windows {
			require.Equal(rt, written(rt, windows[w]), written(rt, second[w]))
		}
	})
	require.Greater(t, undone, 30)
	require.Greater(t, redone, 10)
	require.Greater(t, past, 30)
	t.Logf("%d undone, %d done again, %d refused, %d looked back, %d taken over", undone, redone, refused, past, carried)
}

// listed holds what lists say of questions, once they are open, against the questions.
func listed(t require.TestingT, d *Desk, windows ...*window) {
	for _, w := range windows {
		w.State()
	}
	record, err := d.Record(ctx, windows[0].StudyID)
	require.NoError(t, err)
	for _, w := range windows {
		i := slices.IndexFunc(record.Questions, func(q QuestionRecord) bool { return q.ID == w.ID })
		s := w.State()
		require.NotNil(t, record.Questions[i].Figures, "the question is open")
		require.Equal(t, [2]int{s.Answered(), int(s.Coding.Coded.GetCardinality())},
			[2]int{record.Questions[i].Figures.Answered, record.Questions[i].Figures.Coded})
	}
	require.Equal(t, windows[0].State().Study.Name, record.Name)
}

// copied copies the study of some windows, or restores it from a back-up, and gives the windows of the second one, in which all is as in
// the first.
func copied(t require.TestingT, d *Desk, how string, windows ...*window) (out []*window) {
	of, err := d.Record(ctx, windows[0].StudyID)
	require.NoError(t, err)
	var record Record
	if how == "copy" {
		record, err = d.CopyStudy(ctx, of.ID)
		require.NoError(t, err)
	} else {
		path := filepath.Join(os.TempDir(), fmt.Sprintf("aftermath-test-%d.zip", os.Getpid()))
		defer os.Remove(path)
		backUp(t, d, of.ID, path)
		record = must(d.Restore(ctx, path))[0]
	}
	require.Equal(t, of.Columns, record.Columns)
	for _, w := range windows {
		i := slices.IndexFunc(of.Questions, func(q QuestionRecord) bool { return q.ID == w.ID })
		c := &window{d, record.Questions[i].ID, record.ID}
		require.Equal(t, written(t, w), written(t, c))
		var lines [2][]RevisionInfo
		for j, of := range []*window{w, c} {
			q, err := d.Question(ctx, of.ID)
			require.NoError(t, err)
			lines[j], err = d.Revisions(ctx, q, 100)
			require.NoError(t, err)
			for k := range lines[j] {
				lines[j][k].Edit = 0 // the one thing that is another
			}
		}
		require.Equal(t, lines[0], lines[1])
		out = append(out, c)
	}
	return out
}

// A deleted study is found by nobody and takes no edits; restored, it is as it was; purged, it is gone with all of it.
func TestDeletedStudies(t *testing.T) {
	d, q := open(t, sample...)
	edit(t, q, category("Waiting", "queue"))
	before := written(t, q)
	revision := q.State().Revision
	require.ErrorIs(t, d.PurgeStudy(ctx, q.StudyID), ErrNotFound, "only what is deleted is purged")
	require.NoError(t, d.DeleteStudy(ctx, q.StudyID))
	for _, desk := range []*Desk{d, New(d.Store())} {
		_, err := desk.Question(ctx, q.ID)
		require.ErrorIs(t, err, ErrNotFound)
		_, err = desk.Edit(ctx, q.ID, revision, category("Late", "late"))
		require.ErrorIs(t, err, ErrNotFound)
		assert.Empty(t, must(desk.Studies(ctx, false)))
		assert.Len(t, must(desk.Studies(ctx, true)), 1)
	}
	require.NoError(t, d.Purge(ctx), "it was deleted just now, so it stays")
	must(d.RestoreStudy(ctx, q.StudyID))
	assert.Equal(t, before, written(t, q))
	listed(t, d, q)
	require.NoError(t, d.DeleteStudy(ctx, q.StudyID))
	require.NoError(t, d.PurgeStudy(ctx, q.StudyID))
	assert.Empty(t, must(d.Studies(ctx, true)))
	_, err := d.RestoreStudy(ctx, q.StudyID)
	assert.ErrorIs(t, err, ErrNotFound)
}

// asItWas looks back to a revision, and finds the scheme that was there then, on the answers that are there now.
func asItWas(t require.TestingT, now *state.State, revision string, was scheme.Scheme) {
	got, _, err := now.Links.Earlier(ctx, now, revision)
	require.NoError(t, err)
	want, err := now.With(ctx, was, scheme.Touched{Text: true, Lexicon: true, Frame: true, Decisions: true})
	require.NoError(t, err)
	var both [2]string
	for i, s := range []*state.State{got, want} {
		answers := map[string][]uint32{}
		for _, r := range s.Coding.Results {
			answers[r.ID] = r.Answers.ToArray()
		}
		data, err := json.Marshal([]any{s.Scheme.Playbook, s.Scheme.Decisions.In(s.Study.Rows), answers, s.Coding.Coded.ToArray()})
		require.NoError(t, err)
		both[i] = string(data)
	}
	require.Equal(t, both[1], both[0])
}

func isRefusal(err error) bool {
	for _, e := range []error{scheme.ErrEdit, state.ErrRequest} {
		if strings.Contains(err.Error(), e.Error()) {
			return true
		}
	}
	return false
}

// A database that an earlier program made is read with all that it holds: scheme, decisions, named states, kept focuses and every
// revision, which can be undone.
func TestDatabaseOfAnEarlierProgram(t *testing.T) {
	dump, err := os.ReadFile("testdata/earlier.sql")
	require.NoError(t, err)
	// A step could hold settings of others then.
	stray := strings.ReplaceAll(string(dump), `"step": "markup"`, `"step": "markup", "mode": "mask"`)
	require.NotEqual(t, string(dump), stray)
	s, err := store.Open(ctx, restored(t, stray))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	d := New(s)
	studies, err := d.Studies(ctx, false)
	require.NoError(t, err)
	require.Len(t, studies, 1)
	assert.Equal(t, survey.Rows{{From: 0, To: 9}}, studies[0].Rows)
	q := &window{d, studies[0].Questions[0].ID, studies[0].ID}
	assert.Equal(t, map[string][]uint32{"Waiting": {1, 2, 3, 7, 8}}, coded(q))
	assert.Equal(
		t,
		[]scheme.Marks{
			{Category: "", To: scheme.On, Respondents: []survey.Respondent{6}},
			{Category: "c1", To: scheme.On, Respondents: []survey.Respondent{3, 7, 8}},
			{Category: "c1", To: scheme.Off, Respondents: []survey.Respondent{0}},
		},
		decided(q),
	)
	assert.Equal(
		t, text.Steps(text.MarkupStep{}, text.RepeatsStep{}, text.LettersStep{Letters: map[string]string{"x": "y"}}),
		q.State().Scheme.Cleaning,
	)
	kept, err := keeper(d).KeptFocuses(ctx, q.ID)
	require.NoError(t, err)
	assert.Equal(t, focus.Category{ID: "c1"}, kept[0].Conditions[0].Test)
	then, name, err := q.State().Links.Earlier(ctx, q.State(), "=first draft")
	require.NoError(t, err)
	assert.Equal(t, "“first draft”", name)
	assert.Equal(t, []uint32{0, 1, 2, 3}, answersOf(then, "c1"))
	old, _, err := q.State().Links.Earlier(ctx, q.State(), "5")
	require.NoError(t, err)
	assert.Equal(
		t, []uint32{0, 2, 3, 7}, answersOf(old, "c2"),
		"the tea was removed after revision 5, by hand and all; respondent 7 came later and says tea",
	)

	// A new category gets a key that none ever had, though the newest one was removed.
	edit(t, q, category("New", "boat"))
	assert.Equal(t, "c3", id(t, q, "New"))

	// Back through everything, then forth again: what the earlier program has undone stays undone.
	before := written(t, q)
	var undone []string
	for {
		e, err := q.Undo()
		if err != nil {
			require.ErrorIs(t, err, ErrNothing)
			break
		}
		undone = append(undone, strings.TrimPrefix(e.Summary, "Undone: "))
	}
	assert.Equal(
		t,
		[]string{
			"Added the category New", "Hid late", "Put Waiting on 2 answers by hand", "Added 2 respondents", "Made the variable band",
			"Took Waiting off one answer by hand", "Changed the cleaning steps", "Settled one answer", "Removed the category Tea",
			"Put Tea on 2 answers by hand", "Added the category Tea", "Put Waiting on one answer by hand", "Merged tailback as queue",
			"Added the category Waiting",
		},
		undone,
	)
	assert.Empty(t, coded(q))
	assert.Empty(t, decided(q))
	assert.Len(t, q.State().Answers, 7)
	for range undone {
		_, err := q.Redo()
		require.NoError(t, err)
	}
	assert.Equal(t, before, written(t, q))
}

func answersOf(s *state.State, category string) []uint32 {
	r, ok := s.Coding.Of(category)
	if !ok {
		return nil
	}
	return r.Answers.ToArray()
}
