package desk_test

import (
	. "aftermath/internal/desk"
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/intake"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/store"
	"aftermath/internal/view/answers"
	"aftermath/internal/view/clean"
)

// shape is what of a study edits change, as a desk that knows nothing yet reads it from the database.
func shape(t *testing.T, d *Desk, id int64) (columns []string, cells [][]string, variables []string) {
	s, err := New(d.Store()).Study(ctx, id)
	require.NoError(t, err)
	for _, c := range s.Columns {
		columns = append(columns, c.Name)
	}
	for _, v := range s.Variables {
		variables = append(variables, v.Name)
	}
	return columns, shownCells(s), variables
}

// shownCells are the cells of a study, column by column.
func shownCells(s *state.Study) (out [][]string) {
	for i := range s.Columns {
		out = append(out, s.Cells.Shown(i))
	}
	return out
}

func editStudy(t *testing.T, d *Desk, id int64, e SetupEdit) {
	t.Helper()
	s, err := d.Study(ctx, id)
	require.NoError(t, err)
	_, err = d.EditStudy(ctx, id, s.Revision, e)
	require.NoError(t, err)
}

// A derived variable serves rules at once, follows when respondents are added, and goes and comes with undo and redo,
// which take edits of the study and of the question in the order of time.
func TestStudyAndQuestionShareOneHistory(t *testing.T) {
	d, q := open(t, sample...)
	bands := survey.Derived{
		Name:  "band",
		Kind:  "bands",
		Of:    []string{"recommend"},
		Edges: []float64{7},
		Names: []string{"low", "high"},
	}
	edit(t, q, scheme.AddCategory{Name: "High", Rules: []string{"[band = high]"}})
	high := func(q *window) []uint32 {
		r, ok := q.State().Coding.Of(id(t, q, "High"))
		require.True(t, ok)
		return r.Answers.ToArray()
	}
	assert.Empty(t, high(q), "the rule names a variable that is not there")
	editStudy(t, d, q.StudyID, DeriveVariable{bands})
	assert.Equal(t, []uint32{1}, high(q), "respondents 5 and 6 say nothing")
	edit(t, q, scheme.Hide{Terms: []string{"late"}})

	s, err := d.Study(ctx, q.StudyID)
	require.NoError(t, err)
	_, err = d.EditStudy(ctx, q.StudyID, 0, DeriveVariable{bands})
	assert.ErrorIs(t, err, store.ErrConflict)
	more := csvSource(t, "ID,Route,recommend,weight,answer,deck", "7,North,10,1,more tea,A", "8,West,1,1,late,B")
	further := intake.GuessFurther(
		s,
		[]survey.Guess{
			{Spec: survey.Spec{Name: "ID"}}, {Spec: survey.Spec{Name: "Route"}}, {Spec: survey.Spec{Name: "recommend"}},
			{Spec: survey.Spec{Name: "weight"}}, {Spec: survey.Spec{Name: "answer"}}, {Spec: survey.Spec{Name: "deck"}},
		},
	)
	assert.Equal(t, "id", further.Columns[0].To)
	assert.Empty(t, further.Columns[5].To)
	report, err := d.TryRows(ctx, s, more, further)
	require.NoError(t, err)
	assert.Equal(
		t,
		intake.FurtherReport{Rows: 2, Blank: []string{}, LeftOut: []string{"deck"}, Known: 1, Samples: []string{"7"}, Changed: []intake.Changed{}, Revision: 1,
			Values: []intake.FreshValues{
				{Column: "route", Values: []survey.ValueCount{{Value: "West", Count: 1}}},
			}, Notes: files.Notes{Rows: 2}},
		report,
	)
	skipping := further
	skipping.Known = intake.SkipKnown
	report, err = d.TryRows(ctx, s, more, skipping)
	require.NoError(t, err)
	assert.Equal(t, []int{1, 1}, []int{report.Rows, report.Known}, "who is there already is passed over")
	further.Columns[5].New = &survey.Spec{Name: "deck", Role: survey.Segment}
	further.Fill = []intake.Fill{{Column: "wave", Value: "second", Before: "first"}}
	_, err = d.AddRows(ctx, q.StudyID, s.Revision, more, further)
	require.NoError(t, err)
	assert.Equal(t, []uint32{1, 7}, high(q))
	columns, cells, variables := shape(t, d, q.StudyID)
	assert.Equal(t, []string{"id", "route", "recommend", "weight", "answer", "deck", "wave"}, columns)
	assert.Contains(t, variables, "band")
	assert.Equal(t, []string{"first", "first", "first", "first", "first", "first", "first", "second", "second"}, cells[6])
	assert.Equal(t, []string{"", "", "", "", "", "", "", "A", "B"}, cells[5])

	// Back through everything, then forth again.
	var undone []string
	for {
		e, err := q.Undo()
		if err != nil {
			require.ErrorIs(t, err, ErrNothing)
			break
		}
		undone = append(undone, e.Summary)
	}
	assert.Equal(
		t,
		[]string{
			"Undone: Added 2 respondents",
			"Undone: Hid late",
			"Undone: Made the variable band",
			"Undone: Added the category High",
		},
		undone,
	)
	columns, cells, _ = shape(t, d, q.StudyID)
	assert.Equal(t, []string{"id", "route", "recommend", "weight", "answer"}, columns)
	assert.Len(t, cells[0], 7)
	for range undone {
		_, err := q.Redo()
		require.NoError(t, err)
	}
	assert.Equal(t, []uint32{1, 7}, high(q))
	_, cells, _ = shape(t, d, q.StudyID)
	assert.Equal(t, "more tea", cells[4][7])

	// An edit made after something was undone ends the way back to it, whichever of the two logs it is in.
	_, err = q.Undo()
	require.NoError(t, err)
	edit(t, q, scheme.Show{Terms: []string{"late"}})
	_, err = q.Redo()
	assert.ErrorIs(t, err, ErrNothing)
}

func TestColumnsAreAddedByKey(t *testing.T) {
	d, q := open(t, sample...)
	s, err := d.Study(ctx, q.StudyID)
	require.NoError(t, err)
	file := csvSource(t, "key,card,spend", "2,gold,5", " 1 ,silver,7", "2,bronze,1", "99,none,0")
	join := intake.Join{
		Key:     "id",
		FileKey: "key",
		Columns: []intake.JoinColumn{
			{From: "card", Spec: survey.Spec{Name: "card", Role: survey.Segment}},
			{From: "spend", Spec: survey.Spec{Name: "money", Role: survey.Number}},
		},
	}
	report, err := d.TryColumns(ctx, s, file, join)
	require.NoError(t, err)
	assert.Equal(
		t,
		intake.JoinReport{
			Matched:      2,
			Without:      5,
			WithoutKeys:  []string{"3", "4", "5", "6", "7"},
			Unused:       1,
			UnusedKeys:   []string{"99"},
			Repeated:     1,
			RepeatedKeys: []string{"2"},
			SharedKeys:   []string{},
			Notes:        files.Notes{Rows: 4},
		},
		report,
	)
	_, err = d.AddColumns(ctx, q.StudyID, s.Revision, file, join)
	require.NoError(t, err)
	columns, cells, _ := shape(t, d, q.StudyID)
	assert.Equal(t, []string{"id", "route", "recommend", "weight", "answer", "card", "money"}, columns)
	assert.Equal(t, []string{"silver", "gold", "", "", "", "", ""}, cells[5])
	f, err := q.Focus(focus.Focus{focus.Is(focus.Variable{Name: "card", Op: "=", Values: []string{"gold"}})})
	require.NoError(t, err)
	assert.Equal(t, []uint32{1}, f.ToArray())

	// What an undone addition has left in the rows does not come back with another.
	_, err = q.Undo()
	require.NoError(t, err)
	s, err = d.Study(ctx, q.StudyID)
	require.NoError(t, err)
	_, err = d.AddColumns(
		ctx,
		q.StudyID,
		s.Revision,
		csvSource(t, "key,pet", "3,dog"),
		intake.Join{
			Key:     "id",
			FileKey: "key",
			Columns: []intake.JoinColumn{{From: "pet", Spec: survey.Spec{Name: "pet", Role: survey.Segment}}},
		},
	)
	require.NoError(t, err)
	columns, cells, _ = shape(t, d, q.StudyID)
	assert.Equal(t, "pet", columns[5])
	assert.Equal(t, []string{"", "", "dog", "", "", "", ""}, cells[5])

	for _, bad := range []intake.Join{{Key: "nope", FileKey: "key"}, {Key: "id", FileKey: "nope", Columns: join.Columns}, {Key: "id", FileKey: "key", Columns: []intake.JoinColumn{{From: "card", Spec: survey.Spec{Name: "route"}}}}} {
		_, err := d.TryColumns(ctx, s, file, bad)
		assert.Error(t, err, "%+v", bad)
	}
}

// A column that becomes open-ended is a question of its own; cleaning, lexicon and frame can be copied to it.
func TestQuestionsCopyFromEachOther(t *testing.T) {
	d, q := open(t, sample...)
	edit(t, q, scheme.MergeTerms{Label: "queue", Terms: []string{"tailback"}})
	edit(t, q, scheme.AddCategory{Name: "Waiting", Rules: []string{"queue"}})
	editStudy(t, d, q.StudyID, SetColumn{survey.Spec{Name: "route", Role: survey.OpenEnded}})
	record, err := d.Record(ctx, q.StudyID)
	require.NoError(t, err)
	require.Len(t, record.Questions, 2)
	other := &window{d, record.Questions[0].ID, q.StudyID} // routes stand before answers
	assert.Equal(t, "North", other.State().Answers[0])
	edit(t, other, scheme.CopyFrom{Question: q.ID, Parts: []scheme.Part{"frame"}})
	assert.Len(t, other.State().Coding.Results, 1)
	assert.Empty(t, other.State().Scheme.Lexicon.Merges)
	edit(t, other, scheme.CopyFrom{Question: q.ID, Parts: []scheme.Part{"lexicon", "cleaning"}})
	assert.Len(t, other.State().Scheme.Lexicon.Merges, 1)
	for range 2 {
		_, err = other.Undo()
		require.NoError(t, err)
	}
	assert.Empty(t, other.State().Coding.Results)
	_, err = d.EditStudy(ctx, q.StudyID, 1, SetColumn{survey.Spec{Name: "nope"}})
	assert.ErrorIs(t, err, state.ErrRequest)
}

// What a preview of cleaning says is what keeping it does; checks find what an order spoils, and the mend mends it.
func TestCleaningIsTriedKeptAndMended(t *testing.T) {
	_, q := open(
		t, []string{"1", "North", "1", "1", "I can't sit"}, []string{"2", "North", "1", "1", "I can't sit!"},
		[]string{"3", "North", "1", "1", "call 01632 960123, a@mail.example"}, []string{"4", "", "", "1", "fine"},
	)
	steps := append(
		[]text.Step{{StepKind: text.ReplaceStep{Rules: []text.Replacement{{Find: "'", With: " ", Regex: true}}}}},
		text.DefaultSteps()...)
	tried, err := q.Preview(scheme.SetCleaning{Steps: steps})
	require.NoError(t, err)
	assert.Equal(t, 2, tried.Read)
	assert.Len(t, tried.Proof, 2)
	edit(t, q, scheme.SetCleaning{Steps: steps})
	checks, err := clean.ChecksOf(ctx, q.State())
	require.NoError(t, err)
	require.Len(t, checks.Hazards, 1)
	assert.Equal(t, 2, checks.Hazards[0].Answers)
	f, err := q.Focus(focus.Focus{focus.Is(focus.Hazard{First: checks.Hazards[0].First, Second: checks.Hazards[0].Second})})
	require.NoError(t, err)
	assert.Equal(t, []uint32{0, 1}, f.ToArray())
	require.NotEmpty(t, checks.Leftovers)
	assert.Equal(t, clean.LeftoverOf{Text: "can't", Answers: 2}, checks.Leftovers[0].From[0])
	edit(t, q, scheme.SetCleaning{Steps: checks.Hazards[0].Mend})
	checks, err = clean.ChecksOf(ctx, q.State())
	require.NoError(t, err)
	assert.Empty(t, checks.Hazards)
	assert.Empty(t, checks.Leftovers)

	cancelled, cancel := context.WithCancel(ctx)
	cancel()
	_, err = q.desk.Preview(cancelled, q.ID, scheme.SetCleaning{Steps: text.DefaultSteps()})
	assert.ErrorIs(t, err, context.Canceled)

	c, err := clean.CleaningOf(ctx, q.State(), nil, 6, 2)
	require.NoError(t, err)
	assert.Equal(t, []int{2, 1, 1}, []int{c.Alike.Answers, c.Alike.Groups, c.Short})
	found, err := clean.PersonalOf(ctx, q.State(), true)
	require.NoError(t, err)
	assert.Equal(t, []int{1, 1}, []int{found.Kinds[text.MailAddress].Answers, found.Kinds[text.PhoneNumber].Answers})
	edit(t, q, scheme.MaskPersonalData{On: true})
	assert.Equal(t, "call •••, •••", q.State().Cell(2, 4))
	page, err := answers.List(ctx, q.State(), focus.Focus{focus.Is(focus.Personal{What: "phone"})}, 0, 0, 1)
	require.NoError(t, err)
	assert.Equal(t, []focus.Part{{Text: "call •••, •••"}}, page.Answers[0].Parts)
	page, err = answers.List(ctx, q.State(), focus.Focus{focus.Is(focus.Words{Rule: "call"})}, 0, 0, 1)
	require.NoError(t, err)
	assert.Equal(t, []focus.Part{{Text: "call", Hit: true}, {Text: " •••, •••"}}, page.Answers[0].Parts)
}

func TestTryingAText(t *testing.T) {
	_, q := open(t, sample...)
	edit(t, q, scheme.AddCategory{Name: "Waiting", Rules: []string{"queue - slow", "long + [route = North]"}})
	got, err := clean.Try(ctx, q.State(), "<b>Queues</b> weren't long. Zorb")
	require.NoError(t, err)
	assert.Equal(t, "answered", got.Status)
	require.Len(t, got.Words, 5)
	assert.Equal(t, []any{"queue", 0, false}, []any{got.Words[0].Term, got.Words[0].Sentence, got.Words[0].New})
	assert.Equal(t, []any{"zorb", 1, true}, []any{got.Words[4].Surface, got.Words[4].Sentence, got.Words[4].New})
	require.Len(t, got.Categories, 1)
	assert.Equal(t, []int{1}, got.Categories[0].Rules, "nothing is known of whoever said it")
	assert.Equal(
		t, []focus.Part{{Text: "<b>", Read: new(string)}, {Text: "Queues", Hit: true}, {Text: "</b>", Read: new(string)},
			{Text: " weren't long. Zorb"}}, got.Categories[0].Parts,
	)
}

// Whatever a cell holds, it comes back from the database as it came, in its place.
func TestCellsComeBackFromTheDatabase(t *testing.T) {
	d, _ := open(t, sample...)
	cell := rapid.StringOfN(rapid.SampledFrom([]rune("a {},\"\\'\n\r\té€👍\u0301N")), 0, 8, -1)
	rapid.Check(t, func(rt *rapid.T) {
		var rows [][]string
		for range rapid.IntRange(0, 9).Draw(rt, "rows") {
			rows = append(rows, []string{cell.Draw(rt, "a"), cell.Draw(rt, "b"), cell.Draw(rt, "c")})
		}
		columns := []survey.Spec{
			{Name: "a", Role: survey.LeftOut}, {Name: "b", Role: survey.OpenEnded}, {Name: "c", Role: survey.Segment},
		}
		study, err := d.LoadTable(
			ctx, "Cells", columns, &files.Table{Rows: rows}, func(int) playbook.Playbook { return playbook.New("en") },
		)
		require.NoError(rt, err)
		require.Equal(rt, len(rows), study.Rows.Len())
		opened, err := d.Study(ctx, study.ID)
		require.NoError(rt, err)
		for i := range columns {
			require.Len(rt, opened.Cells.Shown(i), len(rows))
			for r, row := range rows {
				require.Equal(rt, row[i], opened.Cells.Shown(i)[r])
			}
		}
		require.NoError(rt, d.DeleteStudy(ctx, study.ID))
		_, err = d.Study(ctx, study.ID)
		require.ErrorIs(rt, err, ErrNotFound)
	})
}

// Rows that take the place of others keep what the file doesn't say and what was decided by hand on the same words, and
// nothing of what was decided on other words; what they replaced comes back, whatever was edited meanwhile.
func TestRowsTakeThePlaceOfOthers(t *testing.T) {
	d, q := open(t, sample...)
	edit(t, q, category("Waiting", "queue"))
	w := id(t, q, "Waiting")
	edit(t, q, scheme.Decide{Category: w, Answers: []survey.Respondent{3, 6}, To: scheme.On})
	edit(t, q, scheme.Settle{Answers: []survey.Respondent{2}, On: true})
	before := written(t, q)

	s, err := d.Study(ctx, q.StudyID)
	require.NoError(t, err)
	file := csvSource(t, "id,route,answer", "4,East,\"cold tea, didn’t like it\"", "7,South,early", "3,South,tailback at the pier", "9,West,new")
	f := intake.Further{Known: intake.ReplaceKnown, Columns: []intake.ColumnTo{
		{Column: "id", To: "id"}, {Column: "route", To: "route"}, {Column: "answer", To: "answer"},
	}}
	report, err := d.TryRows(ctx, s, file, f)
	require.NoError(t, err)
	assert.Equal(t, []int{4, 3, 3, 0}, []int{report.Rows, report.Known, report.Replaced, report.Twice})
	assert.Equal(t, []intake.Changed{{Column: "answer", Answers: 1}}, report.Changed)
	e, err := d.AddRows(ctx, q.StudyID, s.Revision, file, f)
	require.NoError(t, err)
	assert.Equal(t, "Replaced 3 respondents, added 1", e.Summary)

	_, cells, _ := shape(t, d, q.StudyID)
	assert.Equal(t, []string{"1", "2", "5", "6", "4", "7", "3", "9"}, cells[0])
	assert.Equal(t, []string{"North", "North", "", "North", "East", "South", "South", "West"}, cells[1])
	assert.Equal(t, []string{"3", "9", "7", "8", "5", "2", "", ""}, cells[2], "not in the file: as it was")
	assert.Equal(t, []uint32{0, 1, 4}, coded(q)["Waiting"], "“early” is another answer than “late” was")
	assert.Equal(t, []uint32{6}, q.State().Scheme.Decisions.In(q.State().Study.Rows).Settled.ToArray())

	editStudy(t, d, q.StudyID, NameStudy{Name: "Ferries again"})
	edit(t, q, scheme.Hide{Terms: []string{"late"}})
	undo(t, q, 2)
	assert.Equal(t, "Took over what was decided by hand on 2 answers", q.history(t).Undo.Summary)
	undo(t, q, 2)
	assert.Equal(t, before, written(t, q))
	assert.Equal(t, before, written(t, anew(d, q)), "in the database, too")
}

// Parts of an answer are rows of their own, which know where they stand; what else was said stays with the first.
func TestAnswersAreCutIntoParts(t *testing.T) {
	d, q := open(t, sample...)
	columns := must(d.Study(ctx, q.StudyID)).Columns
	route := columns[1]
	route.Role = survey.OpenEnded
	editStudy(t, d, q.StudyID, SetColumn{route})
	edit(t, q, category("Late", "late"))
	edit(t, q, scheme.Decide{Category: id(t, q, "Late"), Answers: []survey.Respondent{1, 0}, To: scheme.Off})
	before := written(t, q)
	how := files.Split{Column: "answer", Division: text.Division{By: "delimiter", At: ","}}
	tried, err := d.TryDivide(ctx, must(d.Study(ctx, q.StudyID)), how)
	require.NoError(t, err)
	assert.Equal(t, intake.Divided{Cut: 2, Parts: 4, Rows: 9, Longest: 2, Revision: tried.Revision, Samples: []intake.Sample{
		{Number: 1, Parts: []string{"queues", "late boat"}}, {Number: 3, Parts: []string{"cold tea", "didn’t like it"}},
	}}, tried)
	editStudy(t, d, q.StudyID, DivideColumn{how})
	names, cells, _ := shape(t, d, q.StudyID)
	assert.Equal(t, []string{"id", "route", "recommend", "weight", "answer", "document", "part", "position"}, names)
	assert.Equal(t, []string{"1", "3", "5", "6", "7", "2", "2", "4", "4"}, cells[0])
	assert.Equal(t, []string{"North", "South", "", "North", "South", "North", "", "South", ""}, cells[1])
	assert.Equal(t, []string{"queues", "late boat", "cold tea", "didn’t like it"}, cells[4][5:])
	assert.Equal(t, []string{"1", "3", "5", "6", "7", "2", "2", "4", "4"}, cells[5])
	assert.Equal(t, []string{"1st quarter", "3rd quarter", "1st quarter", "3rd quarter"}, cells[7][5:])
	assert.Equal(t, []uint32{4, 6}, coded(q)["Late"], "what was decided on the whole answer does not hold for its parts")
	_, err = d.EditStudy(ctx, q.StudyID, must(d.Study(ctx, q.StudyID)).Revision, DivideColumn{how})
	require.ErrorIs(t, err, state.ErrRequest, "nothing is left to cut")
	undo(t, q, 1)
	assert.Equal(t, before, written(t, q))
}

// Questions of columns that are gone, or open-ended no longer, stand in no replacement's way.
func TestRowsAreReplacedBesideQuestionsOutOfSight(t *testing.T) {
	d, q := open(t, sample...)
	further := func(known string, lines ...string) (intake.Source, intake.Further) {
		return csvSource(t, lines...), intake.Further{Known: known, Columns: []intake.ColumnTo{
			{Column: "id", To: "id"}, {Column: "answer", To: "answer"},
		}}
	}
	file, f := further("", "id,answer,also", "8,more,and more")
	f.Columns = append(f.Columns, intake.ColumnTo{Column: "also", New: &survey.Spec{Name: "also", Role: survey.OpenEnded}})
	_, err := d.AddRows(ctx, q.StudyID, must(d.Study(ctx, q.StudyID)).Revision, file, f)
	require.NoError(t, err)
	also := &window{d, must(d.Record(ctx, q.StudyID)).Questions[1].ID, q.StudyID}
	edit(t, also, scheme.Settle{Answers: []survey.Respondent{6}, On: true})
	undo(t, q, 1)
	edit(t, q, category("Waiting", "queue"))
	edit(t, q, scheme.Decide{Category: id(t, q, "Waiting"), Answers: []survey.Respondent{6}, To: scheme.On})
	file, f = further(intake.ReplaceKnown, "id,answer", "7,late")
	_, err = d.AddRows(ctx, q.StudyID, must(d.Study(ctx, q.StudyID)).Revision, file, f)
	require.NoError(t, err)
	assert.Equal(t, []uint32{0, 1, 6}, coded(q)["Waiting"])
}
