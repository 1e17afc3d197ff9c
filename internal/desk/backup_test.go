package desk_test

import (
	. "aftermath/internal/desk"
	"aftermath/internal/kept"
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/internal/backup"
	"aftermath/internal/desk/focus"
	"aftermath/internal/files"
	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
	"aftermath/internal/view/chart"
	"aftermath/internal/view/report"
	"aftermath/internal/view/review"
)

// backUp writes a back-up of a study, or with 0 of all, to a file.
func backUp(t require.TestingT, d *Desk, study int64, path string) {
	f, err := os.Create(path)
	require.NoError(t, err)
	require.NoError(t, d.Backup(ctx, study, f))
	require.NoError(t, f.Close())
}

// everything makes a study with some of all that can belong to one.
func everything(t *testing.T) (*Desk, *window) {
	d, w := open(t, sample...)
	edit(t, w, scheme.AddCategory{Name: "Waiting", Rules: []string{"queue / tailback"}})
	edit(t, w, scheme.AddCategory{Name: "Late", Rules: []string{"late"}})
	late := id(t, w, "Late")
	edit(t, w, scheme.Decide{Category: late, Answers: []survey.Respondent{0, 3}, To: scheme.On})
	edit(t, w, scheme.RemoveCategory{Category: id(t, w, "Waiting")})
	undo(t, w, 1)
	q := questionOf(t, w)
	f := focus.Focus{focus.Is(focus.Category{ID: late})}
	require.NoError(t, keeper(d).KeepFocus(ctx, w.ID, kept.KeptFocus{Name: "Late ones", Conditions: f}))
	require.NoError(t, d.NameState(ctx, q, "now", "sent"))
	made, err := keeper(d).MakeSample(ctx, q, review.Draw{Name: "All", Size: 100, Seed: 1})
	require.NoError(t, err)
	require.NoError(t, keeper(d).CodeSample(ctx, q, made.ID, "Ann", 0, []string{late}))
	_, err = keeper(d).AgreementWith(ctx, q, made.ID, "Ann", nil)
	require.NoError(t, err)
	drawn := chart.Design{Plan: chart.TablePlan{Query: chart.Query{By: "route"}}, Look: chart.Look{Focus: f}}
	require.NoError(t, failed(keeper(d).KeepChart(ctx, q, kept.NewChart{Name: "By route", Drawn: drawn})))
	r, err := keeper(d).AddReport(ctx, w.StudyID, "Autumn", []report.Block{
		block("c", report.ChartPart{OfQuestion: report.OfQuestion{Question: w.ID}, Drawn: drawn}),
	})
	require.NoError(t, err)
	_, err = keeper(d).Freeze(ctx, w.StudyID, r.ID, "as sent")
	require.NoError(t, err)
	require.NoError(t, keeper(d).SetHouseStyle(ctx, report.Style{Colours: []string{}, Face: "serif", Size: 12, Decimals: 2}))
	return d, w
}

// contents are the parts of a back-up by what they are of, without the numbers that are given anew, and without what each is called.
func contents(t require.TestingT, path string) map[string][]string {
	a, err := backup.Open(ctx, path, math.MaxInt64)
	require.NoError(t, err)
	defer a.Close()
	out := map[string][]string{}
	for _, p := range a.Parts {
		what := p.Name[strings.LastIndex(p.Name, "/")+1:]
		err := a.Lines(ctx, p.Name, func(line []byte) error {
			var row map[string]any
			if err := json.Unmarshal(line, &row); err != nil {
				return err
			}
			anonymous(row)
			if what == "studies.ndjson" {
				delete(row, "name")
			}
			data, err := json.Marshal(row)
			out[what] = append(out[what], string(data))
			return err
		})
		require.NoError(t, err)
	}
	return out
}

// anonymous takes the numbers of rows out of a row and all that it holds.
func anonymous(row any) {
	switch row := row.(type) {
	case map[string]any:
		for name, value := range row {
			if _, number := value.(float64); number && (name == "id" || strings.HasSuffix(name, "_id") || name == "question") {
				row[name] = value.(float64) > 0
			}
			anonymous(value)
		}
	case []any:
		for _, value := range row {
			anonymous(value)
		}
	}
}

// A restored study is the original to the last row: beside it under another name, and in another database under its own.
func TestRestoredStudyIsTheSame(t *testing.T) {
	d, w := everything(t)
	dir := t.TempDir()
	first, second, third := filepath.Join(dir, "1"), filepath.Join(dir, "2"), filepath.Join(dir, "3")
	backUp(t, d, w.StudyID, first)
	restored := must(d.Restore(ctx, first))
	require.Len(t, restored, 1)
	assert.Equal(t, "Ferries (2)", restored[0].Name)
	backUp(t, d, restored[0].ID, second)
	want := contents(t, first)
	for _, of := range []string{"studies", "questions", "respondents", "decisions", "focus", "named_states", "samples", "sample_members", "sample_codes",
		"sample_figures", "charts", "reports", "report_versions", "frozen_reports", "history"} {
		require.NotEmpty(t, want[of+".ndjson"], of)
	}
	require.Equal(t, want, contents(t, second))
	// The report beside it speaks of its own question.
	reports := must(keeper(d).Reports(ctx, restored[0].ID))
	page := must(keeper(d).Report(ctx, restored[0].ID, reports[0].ID)).Page
	require.Equal(t, restored[0].Questions[0].ID, page.Sections[0].Content.(report.ChartContent).Block.Question)
	require.Empty(t, page.Sections[0].Problem)

	s, err := store.Open(ctx, pgtest.Database(t))
	require.NoError(t, err)
	defer s.Close()
	other := New(s)
	backUp(t, d, 0, third)
	all := must(other.Restore(ctx, third))
	require.Len(t, all, 2)
	assert.Equal(t, []string{"Ferries", "Ferries (2)"}, []string{all[0].Name, all[1].Name})
	assert.Equal(t, 2, must(keeper(other).HouseStyle(ctx)).Decimals)
	backUp(t, other, all[0].ID, second)
	require.Equal(t, want, contents(t, second))
	// What was undone there can be done again here, and what is undone here comes first.
	c := &window{other, all[0].Questions[0].ID, all[0].ID}
	before := written(t, c)
	edit(t, c, scheme.AddCategory{Name: "New", Rules: []string{"tea"}})
	undo(t, c, 1)
	require.Equal(t, before, written(t, c))

	_, err = d.Restore(ctx, filepath.Join(dir, "none"))
	require.Error(t, err)
	require.ErrorIs(t, d.Backup(ctx, 99, io.Discard), ErrNotFound)
}

// A back-up that was damaged anywhere is refused, or still says the same; nothing of it is ever restored by halves.
func TestDamagedBackups(t *testing.T) {
	d, w := everything(t)
	path, damaged := filepath.Join(t.TempDir(), "x"), filepath.Join(t.TempDir(), "y")
	backUp(t, d, w.StudyID, path)
	whole, err := os.ReadFile(path)
	require.NoError(t, err)
	want := contents(t, path)
	studies := len(must(d.Studies(ctx, false)))
	refused := 0
	rapid.Check(t, func(rt *rapid.T) {
		data := bytes.Clone(whole)
		switch at := rapid.IntRange(0, len(data)-1).Draw(rt, "at"); {
		case rapid.Bool().Draw(rt, "cut"):
			data = data[:at]
		default:
			data[at] ^= byte(rapid.IntRange(1, 255).Draw(rt, "by"))
		}
		require.NoError(rt, os.WriteFile(damaged, data, 0o600))
		a, err := backup.Open(ctx, damaged, math.MaxInt64)
		if err != nil {
			require.ErrorIs(rt, err, backup.ErrBackup)
			refused++
			return
		}
		require.NoError(rt, a.Close())
		require.Equal(rt, want, contents(rt, damaged))
	})
	require.Greater(t, refused, 50)
	require.Len(t, must(d.Studies(ctx, false)), studies)
}

// rewritten writes a back-up anew, whole and with the right sums, with other lines in some parts; nil leaves a part out.
func rewritten(t *testing.T, path, to string, change func(part string, line string) (string, bool)) {
	a, err := backup.Open(ctx, path, math.MaxInt64)
	require.NoError(t, err)
	defer a.Close()
	f, err := os.Create(to)
	require.NoError(t, err)
	w := backup.NewWriter(f, time.Now())
	for _, s := range a.Studies {
		w.Study(s)
	}
	for _, p := range a.Parts {
		if _, keep := change(p.Name, ""); !keep {
			continue
		}
		require.NoError(t, w.Part(p.Name, func(put func([]byte) error) error {
			return a.Lines(ctx, p.Name, func(line []byte) error {
				changed, keep := change(p.Name, string(line))
				if !keep {
					return nil
				}
				return put([]byte(changed))
			})
		}))
	}
	require.NoError(t, w.Close())
	require.NoError(t, f.Close())
}

// What does not fit together is refused with a reason, whatever the sums say, and nothing comes of it.
func TestBackupsThatDoNotFitTogether(t *testing.T) {
	d, w := everything(t)
	dir := t.TempDir()
	path, bad := filepath.Join(dir, "x"), filepath.Join(dir, "y")
	backUp(t, d, w.StudyID, path)
	before := len(must(d.Studies(ctx, false)))
	replace := func(part, from, to string) func(string, string) (string, bool) {
		return func(p, line string) (string, bool) {
			if strings.HasSuffix(p, part) {
				return strings.Replace(line, from, to, 1), true
			}
			return line, true
		}
	}
	for name, c := range map[string]struct {
		change func(part, line string) (string, bool)
		says   string
	}{
		"a part is missing": {func(p, line string) (string, bool) { return line, !strings.HasSuffix(p, "/history.ndjson") }, "history.ndjson is missing"},
		"a row is missing": {func(p, line string) (string, bool) {
			return line, line == "" || !strings.Contains(line, "tailback at the pier")
		}, "1 are missing"},
		"another's question": {replace("/decisions.ndjson", `"question_id":`, `"question_id":7`), "is not in it"},
		"another's study":    {replace("/respondents.ndjson", `"study_id":`, `"study_id":7`), "another study"},
		"unknown column":     {replace("/charts.ndjson", `"note":`, `"nota":`), `knows no "nota"`},
		"twice the same":     {replace("/respondents.ndjson", `"number":3`, `"number":2`), "do not fit together"},
		"no scheme":          {replace("/questions.ndjson", `"lexicon": {`, `"lexicon": 7, "x": {`), "can't be read"},
		"a null character":   {replace("/studies.ndjson", `"route"`, `"ro\u0000ute"`), "do not fit together"},
		"no object":          {replace("/history.ndjson", `{`, `[{`), "no JSON"},
	} {
		t.Run(name, func(t *testing.T) {
			rewritten(t, path, bad, c.change)
			_, err := d.Restore(ctx, bad)
			require.ErrorIs(t, err, backup.ErrBackup)
			require.ErrorContains(t, err, c.says)
			require.Len(t, must(d.Studies(ctx, false)), before)
		})
	}
	// A newer program's is told apart.
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	m, err := z.Create("manifest.json")
	require.NoError(t, err)
	_, err = fmt.Fprintf(m, `{"aftermathBackup":%d}`, backup.Format+1)
	require.NoError(t, err)
	require.NoError(t, z.Close())
	require.NoError(t, os.WriteFile(bad, b.Bytes(), 0o600))
	_, err = d.Restore(ctx, bad)
	require.ErrorContains(t, err, "use a newer program")
}

// A back-up that is made while others edit is of one moment: as many edits as the revision says, and what they have made.
func TestBackupIsOfOneMoment(t *testing.T) {
	rows := make([][]string, 0, 3000)
	for i := range 3000 {
		rows = append(rows, []string{fmt.Sprint(i), "North", "3", "1", strings.Repeat("the boat was late ", 1+i%5)})
	}
	d, w := open(t, rows...)
	w.State()
	var edits sync.WaitGroup
	edits.Add(1)
	begun := make(chan struct{})
	go func() {
		defer edits.Done()
		for i := range 40 {
			if i == 3 {
				close(begun)
			}
			_, err := w.Edit(w.State().Revision, scheme.AddCategory{Name: fmt.Sprint("Category ", i), Rules: []string{"late"}})
			assert.NoError(t, err)
		}
	}()
	<-begun
	path := filepath.Join(t.TempDir(), "x")
	backUp(t, d, w.StudyID, path)
	edits.Wait()
	r := must(d.Restore(ctx, path))[0]
	c := &window{d, r.Questions[0].ID, r.ID}
	revision := c.State().Revision
	assert.GreaterOrEqual(t, revision, 3)
	assert.Len(t, c.State().Coding.Results, revision)
	q := questionOf(t, c)
	assert.Len(t, must(d.Revisions(ctx, q, 100)), revision)
	assert.Len(t, c.State().Answers, len(rows))
}

// A back-up that an earlier program made opens. The file is never made anew: formats to come bring files of their own.
func TestEarlierBackupsOpen(t *testing.T) {
	s, err := store.Open(ctx, pgtest.Database(t))
	require.NoError(t, err)
	defer s.Close()
	d := New(s)
	_, err = d.LoadTable(ctx, "Another", []survey.Spec{{Name: "answer", Role: survey.OpenEnded}}, &files.Table{Rows: [][]string{{"late"}}},
		func(int) playbook.Playbook { return playbook.New("en") })
	require.NoError(t, err)
	for format, name := range []string{1: "Ferries", 2: "Ferries (2)"} {
		if format == 0 {
			continue
		}
		r := must(d.Restore(ctx, filepath.Join("testdata", fmt.Sprintf("format-%d.aftermath.zip", format))))[0]
		assert.Equal(t, name, r.Name)
		assert.Len(t, must(keeper(d).ColumnSets(ctx, r.ID)), format-1, "there are none in the first format")
		w := &window{d, r.Questions[0].ID, r.ID}
		assert.Equal(t, []string{"Waiting", "Late"}, []string{w.State().Coding.Results[0].Path[0], w.State().Coding.Results[1].Path[0]})
		assert.Equal(t, 5, w.State().Revision)
		assert.Len(t, must(keeper(d).KeptCharts(ctx, questionOf(t, w))), 1)
		assert.Empty(t, must(keeper(d).KeptCharts(ctx, questionOf(t, w)))[0].Problem)
		assert.Len(t, must(keeper(d).Samples(ctx, w.ID)), 1)
		page := must(keeper(d).Report(ctx, r.ID, must(keeper(d).Reports(ctx, r.ID))[0].ID)).Page
		assert.Empty(t, page.Sections[0].Problem)
	}
}

// A back-up is read back: whole, with a study that is restored apart and leaves nothing behind. What comes back otherwise is found.
func TestBackupsAreReadBack(t *testing.T) {
	url := pgtest.Database(t)
	d, w := openAt(t, url, sample...)
	edit(t, w, scheme.AddCategory{Name: "Late", Rules: []string{"late"}})
	path := filepath.Join(t.TempDir(), "x")
	backUp(t, d, 0, path)
	first := func([]backup.Study) int { return 0 }
	schemas := func() string {
		return pgtest.Query(t, url, "select count(*)::text from pg_namespace where nspname like 'aftermath%'")
	}
	before := schemas()
	v, err := d.Verify(ctx, path, first)
	require.NoError(t, err)
	assert.Equal(t, Verified{Studies: 1, Study: w.State().Study.Name, Figures: 3}, v)
	assert.Equal(t, before, schemas(), "nothing is left of it")
	assert.Len(t, must(d.Studies(ctx, false)), 1)

	// The same file, but with a word of an answer changed and its sum made anew: it is whole, and its figures are others.
	other := filepath.Join(t.TempDir(), "y")
	rewrite(t, path, other, func(part string, line []byte) []byte {
		if strings.Contains(part, "respondents") {
			return bytes.ReplaceAll(line, []byte("late"), []byte("soon"))
		}
		return line
	})
	_, err = d.Verify(ctx, other, first)
	require.ErrorIs(t, err, backup.ErrBackup)
	assert.ErrorContains(t, err, "comes back with")
	assert.Equal(t, before, schemas())

	// It is taken only as far as there is room for what it unpacks to.
	d.MostRestored = 100
	_, err = d.Restore(ctx, path)
	require.ErrorIs(t, err, backup.ErrBackup)
	assert.ErrorContains(t, err, "unpacks to more than")
	d.MostRestored, d.Free = 0, func() (uint64, error) { return 100, nil }
	_, err = d.Restore(ctx, path)
	assert.ErrorContains(t, err, "unpacks to more than")
	assert.Len(t, must(d.Studies(ctx, false)), 1)
}

// rewrite copies a back-up with its lines changed, as a program would write them.
func rewrite(t *testing.T, from, to string, change func(part string, line []byte) []byte) {
	a, err := backup.Open(ctx, from, math.MaxInt64)
	require.NoError(t, err)
	defer a.Close()
	f, err := os.Create(to)
	require.NoError(t, err)
	w := backup.NewWriter(f, a.Made)
	for _, s := range a.Studies {
		w.Study(s)
	}
	for _, p := range a.Parts {
		require.NoError(t, w.Part(p.Name, func(line func([]byte) error) error {
			return a.Lines(ctx, p.Name, func(data []byte) error { return line(change(p.Name, slices.Clone(data))) })
		}))
	}
	require.NoError(t, errors.Join(w.Close(), f.Close()))
}
