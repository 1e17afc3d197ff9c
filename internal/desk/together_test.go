package desk_test

import (
	. "aftermath/internal/desk"
	"context"
	"errors"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/core/terms"
	"aftermath/core/text"
	"aftermath/internal/desk/focus"
	"aftermath/internal/view/answers"
	"aftermath/internal/view/chart"
	"aftermath/internal/view/clean"
	"aftermath/internal/view/code"
	"aftermath/internal/view/data"
	"aftermath/internal/view/termview"
)

// Readers, previews, edits, undo, redo, edits of the study, opening and letting go at the same time: nobody sees a state that is
// half made, and what is in memory in the end is what is stored. It is run with the race detector, too.
func TestAllAtTheSameTime(t *testing.T) {
	d, q := open(t, themes()...)
	edit(t, q, category("Waiting", "queue"))
	edit(t, q, category("Seats", "seats / socket", "{Waiting} + dogs"))
	const times = 25
	var all sync.WaitGroup
	each := func(do func(i int) error) {
		all.Go(func() {
			for i := range times {
				if err := do(i); err != nil && !expected(err) {
					assert.NoError(t, err)
					return
				}
			}
		})
	}
	north := focus.Focus{focus.Is(focus.Variable{Name: "route", Op: "=", Values: []string{"North"}})}
	read := func(ask func(f focus.Focus) error) {
		for _, f := range []focus.Focus{nil, north} {
			each(func(int) error { return ask(f) })
		}
	}
	read(func(f focus.Focus) error {
		s := q.State()
		table, err := termview.Terms(ctx, s, f, termview.TermQuery{Limit: 20, Sort: "distinct"})
		if err == nil && len(table.Terms) > 0 {
			assert.LessOrEqual(t, table.Terms[0].Answers, table.Base)
		}
		return err
	})
	read(func(f focus.Focus) error {
		s := q.State()
		set, err := f.Answers(ctx, s)
		if err != nil {
			return err
		}
		frame, err := code.Frame(ctx, s, f, "0")
		if err == nil {
			assert.Equal(t, int(set.GetCardinality()), frame.Base)
		}
		return err
	})
	read(func(f focus.Focus) error {
		s := q.State()
		_, err := chart.ChartOf(ctx, s, f, chart.Query{By: "route", Weighted: true})
		_, err2 := answers.List(ctx, s, f, 0, 10, 5)
		_, err3 := data.OverviewOf(ctx, s, f)
		_, err4 := clean.CleaningOf(ctx, s, f, 5, 3)
		_, err5 := termview.Context(ctx, s, f, termview.Subject{Kind: "rule", Text: "seats"}, terms.ByAfter, false, 0, 5)
		return errors.Join(err, err2, err3, err4, err5)
	})
	edits := []scheme.Edit{
		scheme.Hide{Terms: []string{"late"}},
		scheme.WriteRule{Category: "c1", Rule: "late + queue"},
		scheme.MergeTerms{Label: "dog", Terms: []string{"deck", "cold"}},
		scheme.SetCleaning{
			Steps: []text.Step{{StepKind: text.RepeatsStep{}}},
		},
		scheme.Decide{Category: "c1", Answers: []survey.Respondent{1, 2, 3}, To: scheme.On},
		scheme.SetCleaning{Steps: text.DefaultSteps()},
	}
	each(func(i int) error { _, err := q.Preview(edits[i%len(edits)]); return err })
	each(func(i int) error { _, err := q.Edit(q.State().Revision, edits[i%len(edits)]); return err })
	each(func(i int) error { _, err := q.Edit(q.State().Revision, edits[(i+1)%len(edits)]); return err })
	each(func(int) error { _, err := q.Undo(); return err })
	each(func(int) error { _, err := q.Redo(); return err })
	each(func(i int) error {
		_, err := code.PreviewRule(ctx, q.State(), nil, code.RuleQuery{Rule: "dogs / {Waiting}", Category: "c2", Limit: 3})
		return err
	})
	each(func(i int) error {
		s, err := d.Study(ctx, q.StudyID)
		if err != nil {
			return err
		}
		_, err = d.EditStudy(
			ctx,
			q.StudyID,
			s.Revision,
			DeriveVariable{survey.Derived{Name: "band", Kind: "bands", Of: []string{"recommend"}, Edges: []float64{float64(i)}}},
		)
		return err
	})
	each(func(int) error {
		time.Sleep(20 * time.Millisecond)
		d.LetGo(0)
		return nil
	})
	each(func(i int) error { // callers who leave
		gone, leave := context.WithTimeout(ctx, time.Duration(i%5)*time.Millisecond)
		defer leave()
		_, err := d.Preview(gone, q.ID, scheme.SetCleaning{Steps: []text.Step{{StepKind: text.AccentsStep{}}}})
		return err
	})
	done := make(chan struct{})
	go func() { all.Wait(); close(done) }()
	select {
	case <-done:
	case <-time.After(3 * time.Minute):
		t.Fatal("somebody waits for something that does not come")
	}
	require.Equal(t, written(t, anew(d, q)), written(t, q))
}

// expected are the refusals that come of several doing things at once.
func expected(err error) bool {
	for _, e := range []error{ErrConflict, ErrNewer, ErrNothing, scheme.ErrEdit, context.Canceled, context.DeadlineExceeded} {
		if errors.Is(err, e) {
			return true
		}
	}
	return isRefusal(err)
}

// What the open questions hold together is bounded: those used longest ago make room, and come back as they were.
func TestQuestionsMakeRoom(t *testing.T) {
	d, w := open(t, sample...)
	edit(t, w, category("Late", "late"))
	before := written(t, w)
	second := must(d.CopyStudy(ctx, w.StudyID))
	d.MostAnswers = len(sample) + 1
	c := &window{d, second.Questions[0].ID, second.ID}
	require.Equal(t, before, written(t, c))
	questions, answers := d.InMemory()
	require.Equal(t, []int{1, len(sample)}, []int{questions, answers})
	require.Equal(t, before, written(t, w))
	questions, _ = d.InMemory()
	require.Equal(t, 1, questions)
}

// A question that nobody uses is let go of; one in which an edit is being made is not. It is opened again as it was.
func TestQuestionsAreLetGoOf(t *testing.T) {
	d, q := open(t, sample...)
	edit(t, q, category("Waiting", "queue"))
	first, err := d.Question(ctx, q.ID)
	require.NoError(t, err)
	d.LetGo(time.Hour)
	same, err := d.Question(ctx, q.ID)
	require.NoError(t, err)
	assert.Same(t, first, same)
	require.NoError(t, first.EditLock().Acquire(ctx, 1))
	d.LetGo(-time.Hour)
	assert.NotNil(t, d.Opened(q.ID), "an edit is being made")
	first.EditLock().Release(1)
	d.LetGo(-time.Hour)
	assert.Nil(t, d.Opened(q.ID))
	assert.Nil(t, d.OpenedStudy(q.StudyID))
	assert.ErrorIs(t, first.State().Memo.Life().Err(), context.Canceled, "what is worked out in the background ends")
	assert.Equal(t, []uint32{0, 1}, coded(q)["Waiting"])
	edit(t, q, scheme.Hide{Terms: []string{"late"}})
}

// Who waits for an opening may leave; it goes on for the others. A panic is an error of those who wait.
func TestOpeningTogether(t *testing.T) {
	d, _ := open(t, sample...)
	begun, end := make(chan struct{}), make(chan struct{})
	var once sync.Once
	opening := func(context.Context) (int, error) {
		once.Do(func() { close(begun) })
		<-end
		return 7, nil
	}
	result := make(chan error, 1)
	gone, leave := context.WithCancel(ctx)
	go func() { _, err := Together(gone, d, "x", opening); result <- err }()
	<-begun
	other := make(chan int, 1)
	go func() { v, _ := Together(ctx, d, "x", opening); other <- v }()
	leave()
	assert.ErrorIs(t, <-result, context.Canceled)
	close(end)
	assert.Equal(t, 7, <-other)
	_, err := Together(ctx, d, "y", func(context.Context) (int, error) { panic("broken") })
	assert.ErrorContains(t, err, "broken")
}
