package api

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/desk"
	"aftermath/internal/files"
	"aftermath/internal/store"
)

// maxUpload is how large an uploaded file may be, in bytes.
const maxUpload = 2 << 30

// uploads holds the files that were uploaded and are not loaded yet, the newest few.
type uploads struct {
	mu    sync.Mutex
	next  int
	files map[string]*files.Table
	order []string
}

const keptUploads = 4

func (u *uploads) add(t *files.Table) string {
	u.mu.Lock()
	defer u.mu.Unlock()
	u.next++
	id := strconv.Itoa(u.next)
	if u.files == nil {
		u.files = map[string]*files.Table{}
	}
	u.files[id] = t
	u.order = append(u.order, id)
	if len(u.order) > keptUploads {
		delete(u.files, u.order[0])
		u.order = u.order[1:]
	}
	return id
}

func (u *uploads) get(id string) (*files.Table, error) {
	u.mu.Lock()
	defer u.mu.Unlock()
	if t := u.files[id]; t != nil {
		return t, nil
	}
	return nil, fmt.Errorf("%w: the uploaded file is no longer held; choose it again", desk.ErrRequest)
}

func (u *uploads) drop(id string) {
	u.mu.Lock()
	defer u.mu.Unlock()
	delete(u.files, id)
	u.order = slices.DeleteFunc(u.order, func(x string) bool { return x == id })
}

// Upload is a file that was read, with what its columns seem to be.
type Upload struct {
	ID      string         `json:"id"`
	Rows    int            `json:"rows"`
	Columns []survey.Guess `json:"columns"`
	Head    [][]string     `json:"head" doc:"the first rows"`
}

// guessFrom is how many rows a column's role is guessed from.
const guessFrom = 5000

// uploadInput reads the body as a stream, past huma's own limits.
type uploadInput struct {
	upload *Upload
	table  *files.Table
	err    error
}

// Resolve reads the table while the body arrives.
func (i *uploadInput) Resolve(ctx huma.Context) []error {
	i.table, i.err = files.ReadCSV(http.MaxBytesReader(nil, struct{ readCloser }{readCloser{ctx.BodyReader()}}, maxUpload), func(int) error { return ctx.Context().Err() })
	return nil
}

type readCloser struct {
	reader interface{ Read([]byte) (int, error) }
}

func (r readCloser) Read(p []byte) (int, error) { return r.reader.Read(p) }
func (readCloser) Close() error                 { return nil }

func (s *server) upload(ctx context.Context, in *uploadInput) (*body[Upload], error) {
	if in.err != nil {
		return nil, problem(in.err)
	}
	t := in.table
	if len(t.Rows) == 0 {
		return nil, problem(fmt.Errorf("%w: it has a header and no rows", files.ErrFile))
	}
	u := Upload{Rows: len(t.Rows), Head: t.Rows[:min(8, len(t.Rows))]}
	sample := files.Table{Columns: t.Columns, Rows: t.Rows[:min(guessFrom, len(t.Rows))]}
	for i, name := range t.Columns {
		u.Columns = append(u.Columns, survey.GuessRole(name, sample.Column(i)))
	}
	u.ID = s.uploads.add(t)
	return &body[Upload]{u}, nil
}

// StudyInfo is a study with its questions.
type StudyInfo struct {
	ID          int64          `json:"id"`
	Name        string         `json:"name"`
	Respondents int            `json:"respondents"`
	Created     time.Time      `json:"created"`
	Columns     []survey.Spec  `json:"columns"`
	Questions   []QuestionInfo `json:"questions"`
}

// QuestionInfo names a question.
type QuestionInfo struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

func (s *server) info(ctx context.Context, study store.Study) (StudyInfo, error) {
	questions, err := s.desk.Store.Questions(ctx, study.ID)
	if err != nil {
		return StudyInfo{}, err
	}
	i := StudyInfo{ID: study.ID, Name: study.Name, Respondents: study.Respondents, Created: study.Created, Columns: study.Columns, Questions: []QuestionInfo{}}
	for _, q := range questions {
		i.Questions = append(i.Questions, QuestionInfo{q.ID, study.Columns[q.Column].Name})
	}
	return i, nil
}

func (s *server) studies(ctx context.Context, _ *struct{}) (*body[[]StudyInfo], error) {
	all, err := s.desk.Store.Studies(ctx)
	if err != nil {
		return nil, problem(err)
	}
	out := []StudyInfo{}
	for _, study := range all {
		i, err := s.info(ctx, study)
		if err != nil {
			return nil, problem(err)
		}
		out = append(out, i)
	}
	return &body[[]StudyInfo]{out}, nil
}

type newStudy struct {
	Body struct {
		Upload   string        `json:"upload"`
		Name     string        `json:"name" minLength:"1" maxLength:"200"`
		Language string        `json:"language,omitempty" doc:"of the answers; en if left out"`
		Columns  []survey.Spec `json:"columns" minItems:"1"`
	}
}

// load stores an uploaded file as a study. Cancelling the request cancels the load; nothing of it remains then.
func (s *server) load(ctx context.Context, in *newStudy) (*body[StudyInfo], error) {
	t, err := s.uploads.get(in.Body.Upload)
	if err != nil {
		return nil, problem(err)
	}
	language := in.Body.Language
	if language == "" {
		language = "en"
	}
	study, err := s.desk.Load(ctx, in.Body.Name, in.Body.Columns, t, func(int) playbook.Playbook { return playbook.New(language) })
	if err != nil {
		return nil, problem(err)
	}
	s.uploads.drop(in.Body.Upload)
	i, err := s.info(ctx, study)
	return &body[StudyInfo]{i}, problem(err)
}

type StudyInput struct {
	Study int64 `path:"study"`
}

func (s *server) study(ctx context.Context, in *StudyInput) (*body[StudyInfo], error) {
	study, err := s.desk.Store.Study(ctx, in.Study)
	if err != nil {
		return nil, problem(err)
	}
	i, err := s.info(ctx, study)
	return &body[StudyInfo]{i}, problem(err)
}

func (s *server) deleteStudy(ctx context.Context, in *StudyInput) (*struct{}, error) {
	if err := s.desk.DeleteStudy(ctx, in.Study); err != nil {
		return nil, problem(err)
	}
	s.desk.Events.Send(desk.Event{Kind: "studies"})
	return nil, nil
}

// ColumnProfile is a column at a glance.
type ColumnProfile struct {
	survey.Spec
	Filled   int          `json:"filled"`
	Distinct int          `json:"distinct"`
	Top      []ValueCount `json:"top" doc:"the most frequent values, or for numbers and dates all in order"`
	Samples  []string     `json:"samples"`
}

// ValueCount is a value and how many respondents have it.
type ValueCount struct {
	Value string `json:"value"`
	Count int    `json:"count"`
}

// Sheet is a study's columns and some of its rows as they came.
type Sheet struct {
	Total   int             `json:"total" doc:"respondents"`
	Columns []ColumnProfile `json:"columns"`
	Rows    [][]string      `json:"rows"`
}

type sheetInput struct {
	StudyInput
	Offset int `query:"offset" minimum:"0"`
	Limit  int `query:"limit" minimum:"0" maximum:"200" default:"50"`
}

func (s *server) sheet(ctx context.Context, in *sheetInput) (*body[Sheet], error) {
	study, err := s.desk.Study(ctx, in.Study)
	if err != nil {
		return nil, problem(err)
	}
	out := Sheet{Total: study.Respondents, Rows: [][]string{}, Columns: []ColumnProfile{}}
	for i, spec := range study.Columns {
		out.Columns = append(out.Columns, profile(spec, study.Cells[i]))
	}
	for r := in.Offset; r < min(in.Offset+in.Limit, out.Total); r++ {
		row := make([]string, len(study.Columns))
		for i := range row {
			row[i] = study.Cells[i][r]
		}
		out.Rows = append(out.Rows, row)
	}
	return &body[Sheet]{out}, nil
}

// maxTop is how many values a profile lists.
const maxTop = 12

func profile(spec survey.Spec, cells []string) ColumnProfile {
	p := ColumnProfile{Spec: spec, Top: []ValueCount{}, Samples: []string{}}
	counts := map[string]int{}
	for _, cell := range cells {
		cell = strings.TrimSpace(cell)
		if cell == "" {
			continue
		}
		p.Filled++
		if counts[cell]++; counts[cell] == 1 && len(p.Samples) < 3 {
			p.Samples = append(p.Samples, cell)
		}
	}
	p.Distinct = len(counts)
	switch spec.Role {
	case survey.OpenEnded, survey.Identifier:
		return p
	case survey.Several:
		if v, err := survey.NewVariable(spec, cells); err == nil {
			clear(counts)
			for _, value := range v.Values {
				counts[value] = int(v.With(value).GetCardinality())
			}
		}
	}
	for value, n := range counts {
		p.Top = append(p.Top, ValueCount{value, n})
	}
	slices.SortFunc(p.Top, func(a, b ValueCount) int {
		if a.Count != b.Count && spec.Role != survey.Number {
			return b.Count - a.Count
		}
		return survey.CompareValues(a.Value, b.Value)
	})
	p.Top = p.Top[:min(maxTop, len(p.Top))]
	return p
}
