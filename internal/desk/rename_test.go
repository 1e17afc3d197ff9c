package desk_test

import (
	. "aftermath/internal/desk"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/intake"
	"aftermath/internal/desk/state"
)

// A column and its values get other names: rules, focuses and made variables find them by the new and the old ones,
// files too; one undo takes all of it back. Names that somebody has, or had, are refused.
func TestRenamedColumnsAreFound(t *testing.T) {
	d, q := open(t, sample...)
	north := scheme.AddCategory{Name: "North", Rules: []string{"* + [route = North]"}}
	edit(t, q, north)
	editStudy(t, d, q.StudyID, DeriveVariable{survey.Derived{
		Name: "side", Kind: "groups", Of: []string{"route"}, Groups: []survey.Group{{Name: "up", Values: []string{"North"}}}}})
	editStudy(t, d, q.StudyID, ChooseUnderAnswers{Names: []string{"route"}})
	before := written(t, q)
	inFocus := func(name, value string) []uint32 {
		set, err := q.Focus(focus.Focus{focus.Is(focus.Variable{Name: name, Op: "=", Values: []string{value}})})
		require.NoError(t, err)
		return set.ToArray()
	}
	want, up := coded(q)["North"], inFocus("side", "up")
	require.Equal(t, []uint32{0, 1}, want)
	refuse := func(e SetupEdit) {
		t.Helper()
		s, err := d.Study(ctx, q.StudyID)
		require.NoError(t, err)
		_, err = d.EditStudy(ctx, q.StudyID, s.Revision, e)
		assert.Error(t, err, "%+v", e)
	}
	refuse(RenameColumn{Name: "route", To: "Recommend"})
	refuse(RenameColumn{Name: "route", Values: []survey.Called{{From: "North", To: "south"}}})
	refuse(RenameColumn{Name: "route", Values: []survey.Called{{From: "East", To: "West"}}})
	refuse(RenameColumn{Name: "recommend", Values: []survey.Called{{From: "3", To: "three"}}})

	editStudy(t, d, q.StudyID, RenameColumn{Name: "route", To: "Crossing", Values: []survey.Called{{From: "North", To: "Northern line"}}})
	check := func(w *window) {
		t.Helper()
		for _, name := range []string{"route", "Crossing"} {
			for _, value := range []string{"North", "Northern line"} {
				assert.Equal(t, want, inFocus(name, value))
			}
		}
		assert.Equal(t, want, coded(w)["North"])
		assert.Equal(t, up, inFocus("side", "up"))
		assert.Equal(t, []state.About{{Value: "Northern line"}}, w.State().Who(0))
		assert.Equal(t, "North", w.State().Cell(0, 1), "the cells stay as they came")
	}
	check(q)
	check(anew(d, q))
	edit(t, q, scheme.AddCategory{Name: "Again", Rules: []string{`* + [Crossing = "Northern line"]`}})
	assert.Equal(t, want, coded(q)["Again"])

	// The names that were given up are no other's.
	refuse(RenameColumn{Name: "recommend", To: "route"})
	refuse(RenameColumn{Name: "Crossing", Values: []survey.Called{{From: "South", To: "North"}}})
	s, err := d.Study(ctx, q.StudyID)
	require.NoError(t, err)
	further := intake.GuessFurther(s, []survey.Guess{{Spec: survey.Spec{Name: "Route"}}})
	assert.Equal(t, "Crossing", further.Columns[0].To, "the next wave has the old name still")

	// The question itself.
	editStudy(t, d, q.StudyID, RenameColumn{Name: "answer", To: "What should we change?"})
	assert.Equal(t, "What should we change?", q.State().Question.Name)
	undo(t, q, 3)
	assert.Equal(t, before, written(t, q))
	assert.Equal(t, want, coded(q)["North"])
}
