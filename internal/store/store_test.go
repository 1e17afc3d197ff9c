package store

import (
	"context"
	"errors"
	"slices"
	"strings"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/pg/pgtest"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

var ctx = context.Background()

func opened(t testing.TB) *Store {
	s, err := Open(ctx, pgtest.Database(t))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s
}

// of makes rows of a list.
func of(rows ...[]string) Rows {
	return func(row func(cells []string) error) error {
		for _, cells := range rows {
			if err := row(cells); err != nil {
				return err
			}
		}
		return nil
	}
}

func empty(int) playbook.Playbook { return playbook.New("en") }

// loaded is a study with two questions.
func loaded(t require.TestingT, s *Store, rows ...[]string) (Study, []Question) {
	study := Study{
		Setup: Setup{Name: "Ferries", Columns: []survey.Spec{{Name: "first", Role: survey.OpenEnded}, {Name: "second", Role: survey.OpenEnded}}},
	}
	require.NoError(t, s.Load(ctx, &study, of(rows...), empty))
	questions, err := s.Questions(ctx, study.ID)
	require.NoError(t, err)
	require.Len(t, questions, 2)
	return study, questions
}

// Cells come back as they came, whatever is in them; a study that can't be stored leaves nothing behind.
func TestCellsComeBack(t *testing.T) {
	s := opened(t)
	cell := rapid.OneOf(
		rapid.StringOfN(rapid.SampledFrom([]rune("ab\t\n\r\\N{}\"',é漢🚢 ")), 0, 6, -1),
		rapid.SampledFrom([]string{"", `\N`, "NULL", `\.`}),
	)
	rapid.Check(t, func(t *rapid.T) {
		rows := rapid.SliceOfN(rapid.SliceOfN(cell, 2, 2), 0, 8).Draw(t, "rows")
		study, _ := loaded(t, s, rows...)
		kept, err := s.Study(ctx, study.ID)
		require.NoError(t, err)
		require.Equal(t, len(rows), kept.Respondents())
		columns, err := s.Columns(ctx, kept)
		require.NoError(t, err)
		for i, row := range rows {
			require.Equal(t, row, []string{columns[0][i], columns[1][i]})
		}
		require.NoError(t, s.DeleteStudy(ctx, study.ID))
		require.ErrorIs(t, s.DeleteStudy(ctx, study.ID), ErrNotFound)
	})
	bad := Study{Setup: Setup{Name: "Half", Columns: []survey.Spec{{Name: "first", Role: survey.OpenEnded}}}}
	err := s.Load(ctx, &bad, of([]string{"whole"}, []string{"null \x00"}), empty)
	assert.True(t, Unstorable(err), "%v", err)
	broken := errors.New("the file ends")
	err = s.Load(ctx, &bad, func(row func([]string) error) error { return errors.Join(row([]string{"whole"}), broken) }, empty)
	assert.ErrorIs(t, err, broken)
	left, err := s.Studies(ctx, false)
	require.NoError(t, err)
	assert.Empty(t, left)
	_, err = s.Study(ctx, 99)
	assert.ErrorIs(t, err, ErrNotFound)
}

// Rows that are added get numbers that nobody had, also after rows were taken away.
func TestNumbersOfRespondentsAreUsedOnce(t *testing.T) {
	s := opened(t)
	study, _ := loaded(t, s, []string{"a", "b"}, []string{"c", "d"})
	add := func(text string) (Study, int64) {
		e := StudyEdit{Summary: "Added", Before: study.Setup, After: study.Setup}
		added := 0
		kept, id, err := s.KeepStudy(ctx, study, &e, empty, func(tx pgx.Tx) error {
			return AddRows(ctx, study, of([]string{text, text}), &e.After, &added)(tx)
		})
		require.NoError(t, err)
		require.Equal(t, 1, added)
		return kept, id
	}
	before := study.Setup
	study, id := add("new")
	require.Equal(t, survey.Rows{{From: 0, To: 3}}, study.Rows)
	study, err := s.MarkStudyEdit(ctx, study, Mark{Entry: Entry{ID: id, StudyID: study.ID}, Undone: true}, before)
	require.NoError(t, err)
	require.Equal(t, survey.Rows{{From: 0, To: 2}}, study.Rows)
	study, _, err = s.KeepStudy(ctx, study, &StudyEdit{Before: study.Setup, After: study.Setup}, empty, nil)
	require.NoError(t, err)
	study, _ = add("newer")
	require.Equal(t, survey.Rows{{From: 0, To: 2}, {From: 3, To: 4}}, study.Rows)
	columns, err := s.Columns(ctx, study)
	require.NoError(t, err)
	require.Equal(t, []string{"a", "c", "newer"}, columns[0])
}

// Decisions are, after any changes, what a map says that is changed along.
func TestDecisionsAreWhatWasWrittenLast(t *testing.T) {
	s := opened(t)
	rapid.Check(t, func(t *rapid.T) {
		_, questions := loaded(t, s, []string{"a", "b"})
		q := questions[0]
		type key struct {
			category string
			who      survey.Respondent
		}
		type decision struct {
			on   bool
			from scheme.Origin
		}
		want := map[key]decision{}
		for range rapid.IntRange(1, 5).Draw(t, "changes") {
			m := scheme.Marks{
				Category: rapid.SampledFrom([]string{"", "c1", "c2"}).Draw(t, "category"),
				To:       rapid.SampledFrom([]scheme.Mark{scheme.On, scheme.Off, scheme.ByRules}).Draw(t, "to"),
				Origin:   rapid.SampledFrom([]scheme.Origin{{}, {By: "Ann", Day: "2026-01-02"}, {Suggested: true}}).Draw(t, "from"),
				Respondents: rapid.SliceOfNDistinct(
					rapid.Map(rapid.IntRange(0, 9), func(n int) survey.Respondent { return survey.Respondent(n) }),
					1,
					5,
					rapid.ID,
				).Draw(
					t,
					"who",
				),
			}
			if m.Category == "" && m.To == scheme.Off {
				m.To = scheme.ByRules // what is settled is settled or not
			}
			for _, who := range m.Respondents {
				if m.To == scheme.ByRules {
					delete(want, key{m.Category, who})
				} else {
					want[key{m.Category, who}] = decision{m.To == scheme.On, m.Origin}
				}
			}
			revision, err := s.Keep(ctx, Change{Question: q, Marks: []scheme.Marks{m}})
			require.NoError(t, err)
			q.Revision = revision
		}
		got := map[key]decision{}
		d, err := s.Decisions(ctx, q.ID)
		require.NoError(t, err)
		for _, m := range d.All() {
			for _, who := range m.Respondents {
				got[key{m.Category, who}] = decision{m.To == scheme.On, m.Origin}
			}
		}
		require.Equal(t, want, got)
		other, err := s.Decisions(ctx, questions[1].ID)
		require.NoError(t, err)
		require.Empty(t, other.All(), "they are of one question")
	})
}

// Which edit comes next to be undone or done again is worked out from a plain list of what was done.
func TestLinesAgainstAPlainList(t *testing.T) {
	s := opened(t)
	rapid.Check(t, func(t *rapid.T) {
		study, questions := loaded(t, s, []string{"a", "b"})
		type step struct {
			id    int64
			whose int // of which question; 2: of the study
		}
		var stand, back []step
		next := func(list []step, q int) (out int64) {
			for _, x := range list {
				if x.whose == q || x.whose == 2 {
					out = x.id
				}
			}
			return out
		}
		for range rapid.IntRange(1, 15).Draw(t, "steps") {
			q := rapid.IntRange(0, 1).Draw(t, "question")
			find, from, to, undone := s.NextUndo, &stand, &back, true
			switch rapid.IntRange(0, 3).Draw(t, "step") {
			case 0: // an edit of a question ends what was undone on its line
				e := Entry{StudyID: study.ID, Summary: "x", Undo: []byte("{}"), Redo: []byte("{}")}
				revision, err := s.Keep(ctx, Change{Question: questions[q], Entry: &e})
				require.NoError(t, err)
				questions[q].Revision = revision
				stand = append(stand, step{e.ID, q})
				back = slices.DeleteFunc(back, func(x step) bool { return x.whose == q || x.whose == 2 })
				continue
			case 1: // one of the study that of all
				kept, id, err := s.KeepStudy(ctx, study, &StudyEdit{Summary: "y", Before: study.Setup, After: study.Setup}, empty, nil)
				require.NoError(t, err)
				study, stand, back = kept, append(stand, step{id, 2}), nil
				continue
			case 2:
				find, from, to, undone = s.NextRedo, &back, &stand, false
			}
			want := next(*from, q)
			e, ok, err := find(ctx, study.ID, questions[q].ID)
			require.NoError(t, err)
			require.Equal(t, []any{want, want != 0}, []any{e.ID, ok})
			mark := func(e Entry) error {
				if e.QuestionID == nil {
					kept, err := s.MarkStudyEdit(ctx, study, Mark{Entry: e, Question: questions[q].ID, Undone: undone}, study.Setup)
					if err == nil {
						study = kept
					}
					return err
				}
				revision, err := s.Keep(ctx, Change{Question: questions[q], Mark: &Mark{Entry: e, Question: questions[q].ID, Undone: undone}})
				if err == nil {
					questions[q].Revision = revision
				}
				return err
			}
			for _, x := range slices.Concat(stand, back) { // any other is refused, and nothing is written
				if id := questions[q].ID; x.id != want {
					require.ErrorIs(t, mark(Entry{ID: x.id, StudyID: study.ID, QuestionID: &id}), ErrNotNext)
				}
			}
			if !ok {
				continue
			}
			require.NoError(t, mark(e))
			i := slices.IndexFunc(*from, func(x step) bool { return x.id == want })
			x := (*from)[i]
			*from = slices.Delete(*from, i, i+1)
			*to = append(*to, x)
			slices.SortFunc(stand, func(a, b step) int { return int(a.id - b.id) })
		}
	})
}

// Two programs that change the same thing don't overwrite each other: the second is told.
func TestSecondChangeOfTheSameStateIsRefused(t *testing.T) {
	s := opened(t)
	study, questions := loaded(t, s, []string{"a", "b"})
	_, err := s.Keep(ctx, Change{Question: questions[0], Entry: &Entry{StudyID: study.ID, Undo: []byte("{}"), Redo: []byte("{}")}})
	require.NoError(t, err)
	_, err = s.Keep(
		ctx,
		Change{Question: questions[0], Marks: []scheme.Marks{{Category: "c1", To: scheme.On, Respondents: []survey.Respondent{0}}}},
	)
	require.ErrorIs(t, err, ErrConflict)
	d, err := s.Decisions(ctx, questions[0].ID)
	require.NoError(t, err)
	assert.Empty(t, d.All(), "nothing of what was refused is kept")
	_, _, err = s.KeepStudy(ctx, study, &StudyEdit{After: study.Setup}, empty, nil)
	require.NoError(t, err)
	_, _, err = s.KeepStudy(ctx, study, &StudyEdit{After: study.Setup}, empty, nil)
	require.ErrorIs(t, err, ErrConflict)
}

// Names of states and focuses are of one question; a name is given once, a focus is kept anew under its name.
func TestNames(t *testing.T) {
	s := opened(t)
	_, questions := loaded(t, s, []string{"a", "b"})
	a, b := questions[0].ID, questions[1].ID
	state := NamedState{QuestionID: a, Name: "draft", Number: 3, Scheme: playbook.New("de")}
	require.NoError(t, s.KeepNamedState(ctx, &state))
	require.ErrorIs(t, s.KeepNamedState(ctx, &NamedState{QuestionID: a, Name: "draft"}), ErrTaken)
	require.NoError(t, s.KeepNamedState(ctx, &NamedState{QuestionID: b, Name: "draft", Number: 5}))
	got, err := s.NamedState(ctx, a, "draft")
	require.NoError(t, err)
	assert.Equal(t, []any{3, "de"}, []any{got.Number, got.Scheme.Language})
	require.NoError(t, s.DropNamedState(ctx, a, "draft"))
	_, err = s.NamedState(ctx, a, "draft")
	assert.ErrorIs(t, err, ErrNotFound)
	for _, conditions := range []string{`[]`, `[{"kind": "coded"}]`} {
		require.NoError(t, s.KeepFocus(ctx, Focus{a, "mine", []byte(conditions)}))
	}
	kept, err := s.Focuses(ctx, a)
	require.NoError(t, err)
	require.Len(t, kept, 1)
	assert.JSONEq(t, `[{"kind": "coded"}]`, string(kept[0].Conditions))
	assert.True(t, NotThere(s.KeepFocus(ctx, Focus{99, "mine", []byte("[]")})))
}

// What the database says is told apart by what can be done about it.
func TestErrorsAreToldApart(t *testing.T) {
	away := opened(t)
	require.NoError(t, away.Close())
	_, err := away.Studies(ctx, false)
	require.Error(t, err)
	left, leave := context.WithCancel(ctx)
	leave()
	_, gone := opened(t).Studies(left, false)
	require.ErrorIs(t, gone, context.Canceled)
	for _, err := range []error{gone, ErrNotFound, ErrConflict, nil} {
		assert.False(t, Away(err), "%v", err)
	}
	_, err = Open(ctx, "postgres://nobody@127.0.0.1:1/none?connect_timeout=2")
	assert.True(t, Away(err), "%v", err)
}

// Whatever table belongs to a study, by keys that lead to it, is copied, backed up and restored with it; who may do what stays behind.
func TestEveryTableOfAStudyIsKept(t *testing.T) {
	address := pgtest.Database(t)
	s, err := Open(t.Context(), address)
	require.NoError(t, err)
	defer s.Close()
	belonging := strings.Split(pgtest.Query(t, address, `with recursive of(t) as (select 'studies'::regclass::oid
		union select conrelid from pg_constraint join of on confrelid = t where contype = 'f')
		select string_agg(t::regclass::text, ' ' order by t::regclass::text) from of`), " ")
	kept := []string{"members"}
	for _, k := range keptTables {
		if k.name != respondentsTable { // it is loaded without a key, which would take as long again
			kept = append(kept, k.name)
		}
	}
	assert.ElementsMatch(t, belonging, kept)
}
