package desk_test

import (
	. "aftermath/internal/desk"
	"aftermath/internal/kept"
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/RoaringBitmap/roaring/v2"
	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"aftermath/core/frame"
	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/intake"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
	"aftermath/internal/view/effect"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

var ctx = context.Background()

// window is an open question as a window of the interface has it: it knows the question and asks the desk for the rest.
type window struct {
	desk    *Desk
	ID      int64
	StudyID int64
}

// open loads a small study and opens its question.
func open(t testing.TB, rows ...[]string) (*Desk, *window) {
	return openAt(t, pgtest.Database(t), rows...)
}

// openAt is open on a database.
func openAt(t testing.TB, url string, rows ...[]string) (*Desk, *window) {
	s, err := store.Open(ctx, url)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	d := New(s)
	specs := []survey.Spec{
		{Name: "id", Role: survey.Identifier}, {Name: "route", Role: survey.Segment}, {Name: "recommend", Role: survey.Number},
		{Name: "weight", Role: survey.Weight}, {Name: "answer", Role: survey.OpenEnded},
	}
	study, err := d.LoadTable(
		ctx, "Ferries", specs, &files.Table{Rows: rows}, func(int) playbook.Playbook { return playbook.New("en") },
	)
	require.NoError(t, err)
	return d, &window{d, study.Questions[0].ID, study.ID}
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

// State is the question's state as it is now.
func (w *window) State() *state.State {
	q, err := w.desk.Question(ctx, w.ID)
	if err != nil {
		panic(err)
	}
	return q.State()
}

func (w *window) Edit(revision int, e scheme.Edit) (effect.Effect, error) {
	return w.desk.Edit(ctx, w.ID, revision, e)
}

func (w *window) Preview(e scheme.Edit) (effect.Effect, error) { return w.desk.Preview(ctx, w.ID, e) }

func (w *window) history(t require.TestingT) effect.History {
	q, err := w.desk.Question(ctx, w.ID)
	require.NoError(t, err)
	h, err := w.desk.History(ctx, q)
	require.NoError(t, err)
	return h
}

// Undo takes the newest edit back, whatever else goes with it.
func (w *window) Undo() (effect.Effect, error) {
	q, err := w.desk.Question(ctx, w.ID)
	if err != nil {
		return effect.Effect{}, err
	}
	h, err := w.desk.History(ctx, q)
	if err != nil || h.Undo == nil {
		return effect.Effect{}, errors.Join(err, ErrNothing)
	}
	return w.desk.Undo(ctx, w.ID, h.Undo.Edit, true)
}

// Redo does the edit again that was undone last.
func (w *window) Redo() (effect.Effect, error) {
	q, err := w.desk.Question(ctx, w.ID)
	if err != nil {
		return effect.Effect{}, err
	}
	h, err := w.desk.History(ctx, q)
	if err != nil || h.Redo == nil {
		return effect.Effect{}, errors.Join(err, ErrNothing)
	}
	return w.desk.Redo(ctx, w.ID, h.Redo.Edit)
}

// Focus gives the rows of a focus.
func (w *window) Focus(f focus.Focus) (*roaring.Bitmap, error) { return f.Answers(ctx, w.State()) }

func edit(t testing.TB, w *window, e scheme.Edit) effect.Effect {
	t.Helper()
	made, err := w.Edit(w.State().Revision, e)
	require.NoError(t, err)
	return made
}

func undo(t testing.TB, w *window, times int) {
	for range times {
		if _, err := w.Undo(); errors.Is(err, ErrNothing) {
			return
		} else {
			require.NoError(t, err)
		}
	}
}

// coded gives for each category by its path the rows it has.
func coded(w *window) map[string][]uint32 {
	out := map[string][]uint32{}
	for _, r := range w.State().Coding.Results {
		out[r.PathName()] = r.Answers.ToArray()
	}
	return out
}

func id(t testing.TB, w *window, path ...string) string {
	p, ok := w.State().Scheme.Frame.ByPath(path)
	require.True(t, ok, "%v", path)
	return p.ID
}

func category(name string, rules ...string) scheme.AddCategory {
	return scheme.AddCategory{Name: name, Rules: rules}
}

func rulesOf(t testing.TB, w *window, path ...string) frame.Category {
	p, ok := w.State().Scheme.Frame.ByPath(path)
	require.True(t, ok, "%v", path)
	return *p.Category
}

// decided gives all decisions by hand.
func decided(w *window) []scheme.Marks { return w.State().Scheme.Decisions.All() }

// csvSource is a file on its way in.
func csvSource(t testing.TB, lines ...string) intake.Source {
	path := filepath.Join(t.TempDir(), "x.csv")
	require.NoError(t, os.WriteFile(path, []byte(strings.Join(lines, "\n")), 0o600))
	return intake.Source{Path: path, Size: 1, Recipe: files.Recipe{Format: files.Delimited, Delimiter: ",", Headers: 1}}
}

// anew is a window of a program that starts anew on the same database.
func anew(d *Desk, w *window) *window { return &window{New(d.Store()), w.ID, w.StudyID} }

// must gives what can't fail here.
func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// restored is a database that a dump was read into.
func restored(t testing.TB, dump string) string {
	url := pgtest.Database(t)
	conn, err := pgx.Connect(ctx, url)
	require.NoError(t, err)
	defer conn.Close(ctx)
	_, err = conn.PgConn().Exec(ctx, dump).ReadAll()
	require.NoError(t, err)
	return url
}

// keeper keeps what stands beside the questions of a desk.
func keeper(d *Desk) *kept.Keeper { return kept.New(d, d.Store()) }

// failed is the error of what also makes something.
func failed[T any](_ T, err error) error { return err }

// size is how many answers are behind conditions.
func size(t testing.TB, w *window, f focus.Focus, more ...focus.Condition) int {
	t.Helper()
	set, err := w.Focus(append(append(focus.Focus{}, f...), more...))
	require.NoError(t, err)
	return int(set.GetCardinality())
}
