package api

import (
	"context"
	"errors"
	"fmt"
	"runtime"
	"slices"
	"time"

	"golang.org/x/sync/errgroup"

	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/desk"
	"aftermath/internal/files"
	"aftermath/internal/store"
)

// StudyInfo is a study with its questions.
type StudyInfo struct {
	ID          int64            `json:"id"`
	Name        string           `json:"name"`
	Revision    int              `json:"revision"`
	Respondents int              `json:"respondents"`
	Created     time.Time        `json:"created"`
	Columns     []survey.Spec    `json:"columns"`
	Derived     []survey.Derived `json:"derived"`
	Questions   []QuestionInfo   `json:"questions"`
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
	i := StudyInfo{ID: study.ID, Name: study.Name, Revision: study.Revision, Respondents: study.Respondents, Created: study.Created, Columns: study.Columns,
		Derived: append([]survey.Derived{}, study.Derived...), Questions: []QuestionInfo{}}
	for _, q := range questions {
		// A column that is open-ended no longer keeps its question, out of sight, in case it becomes so again.
		if q.Column >= len(study.Columns) || study.Columns[q.Column].Role != survey.OpenEnded {
			continue
		}
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
		Recipe   *files.Recipe `json:"recipe,omitempty" doc:"how the file is read; as it was guessed if left out"`
		Name     string        `json:"name" minLength:"1" maxLength:"200"`
		Language string        `json:"language,omitempty" doc:"of the answers; found out for each question if left out"`
		Columns  []survey.Spec `json:"columns" minItems:"1"`
	}
}

// LoadedStudy is a study as it was stored, with what was odd about its file.
type LoadedStudy struct {
	StudyInfo
	Notes files.Notes `json:"notes"`
}

// load stores an uploaded file as a study. Cancelling the request cancels the load; nothing of it remains then.
func (s *server) load(ctx context.Context, in *newStudy) (*body[LoadedStudy], error) {
	from, err := s.uploads.source(in.Body.Upload, in.Body.Recipe)
	if err != nil {
		return nil, problem(err)
	}
	study, notes, err := s.desk.Load(ctx, in.Body.Name, in.Body.Columns, from, in.Body.Language)
	if err != nil {
		return nil, problem(err)
	}
	s.uploads.drop(in.Body.Upload)
	i, err := s.info(ctx, study)
	return &body[LoadedStudy]{LoadedStudy{i, notes}}, problem(err)
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

// Sheet is a study's columns and some of its rows as they came.
type Sheet struct {
	Total   int              `json:"total" doc:"respondents"`
	Columns []survey.Profile `json:"columns"`
	Derived []MadeVariable   `json:"derived" doc:"variables made of others"`
	Rows    [][]string       `json:"rows"`
}

// MadeVariable is a derived variable with its values.
type MadeVariable struct {
	survey.Derived
	desk.Making
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
	out := Sheet{Total: study.Respondents, Rows: [][]string{}, Columns: make([]survey.Profile, len(study.Columns)), Derived: []MadeVariable{}}
	var g errgroup.Group
	g.SetLimit(runtime.GOMAXPROCS(0))
	for i := range study.Columns {
		g.Go(func() error { out.Columns[i] = study.Profile(i); return nil })
	}
	_ = g.Wait()
	for _, d := range study.Derived {
		out.Derived = append(out.Derived, MadeVariable{d, study.TryDerived(d)})
	}
	for r := in.Offset; r < min(in.Offset+in.Limit, out.Total); r++ {
		row := make([]string, len(study.Columns))
		for i := range row {
			row[i] = study.Cells[i][r]
		}
		out.Rows = append(out.Rows, row)
	}
	questions, err := s.desk.Store.Questions(ctx, in.Study)
	if slices.ContainsFunc(questions, func(q store.Question) bool { return q.Scheme.Mask }) {
		out.mask()
	}
	return &body[Sheet]{out}, problem(err)
}

// mask masks mail addresses and phone numbers in the open-ended columns: one question that asks for it is enough, since a
// row holds the answers to all.
func (s *Sheet) mask() {
	for i, c := range s.Columns {
		if c.Role != survey.OpenEnded {
			continue
		}
		for _, row := range s.Rows {
			row[i] = text.Mask(row[i])
		}
		p := &s.Columns[i]
		p.Samples, p.Top = slices.Clone(p.Samples), slices.Clone(p.Top) // what is kept is not masked
		for j := range p.Samples {
			p.Samples[j] = text.Mask(p.Samples[j])
		}
		for j := range p.Top {
			p.Top[j].Value = text.Mask(p.Top[j].Value)
		}
	}
}

// Done says what an edit of a study did.
type Done struct {
	Summary  string `json:"summary"`
	Revision int    `json:"revision" doc:"of the study"`
}

// done answers an edit of a study.
func (s *server) done(ctx context.Context, study int64, summary string, err error) (*body[Done], error) {
	if err != nil {
		return nil, problem(err)
	}
	now, err := s.desk.Study(ctx, study)
	if err != nil {
		return nil, problem(err)
	}
	return &body[Done]{Done{summary, now.Revision}}, nil
}

func (s *server) editStudy(ctx context.Context, in *struct {
	StudyInput
	Body struct {
		Revision int            `json:"revision" doc:"the revision of the study that the edit is made on"`
		Edit     desk.SetupEdit `json:"edit"`
	}
}) (*body[Done], error) {
	summary, err := s.desk.EditStudy(ctx, in.Study, in.Body.Revision, in.Body.Edit)
	return s.done(ctx, in.Study, summary, err)
}

func (s *server) tryDerived(ctx context.Context, in *struct {
	StudyInput
	Body survey.Derived
}) (*body[desk.Making], error) {
	study, err := s.desk.Study(ctx, in.Study)
	if err != nil {
		return nil, problem(err)
	}
	return &body[desk.Making]{study.TryDerived(in.Body)}, nil
}

// Addition is a further file on its way to a study.
type Addition struct {
	Upload   string        `json:"upload"`
	Recipe   *files.Recipe `json:"recipe,omitempty"`
	Revision int           `json:"revision" doc:"the revision of the study that it is added to"`
}

type rowsInput struct {
	StudyInput
	Body struct {
		Addition
		Further *desk.Further `json:"further,omitempty" doc:"as it is guessed if left out"`
	}
}

// TriedRows is what adding the rows of a file would bring.
type TriedRows struct {
	Further desk.Further `json:"further" doc:"how the columns were matched"`
	desk.FurtherReport
	Problem string `json:"problem,omitempty" doc:"why it can't be done so"`
}

func (s *server) tryRows(ctx context.Context, in *rowsInput) (*body[TriedRows], error) {
	study, from, err := s.addition(ctx, in.Study, in.Body.Addition)
	if err != nil {
		return nil, problem(err)
	}
	var out TriedRows
	if in.Body.Further == nil {
		t, err := from.Table(ctx, guessFrom)
		if err != nil {
			return nil, problem(err)
		}
		out.Further = study.GuessFurther(guesses(t))
	} else {
		out.Further = *in.Body.Further
	}
	out.FurtherReport, err = s.desk.TryFurther(ctx, study, from, out.Further)
	if errors.Is(err, desk.ErrRequest) || errors.Is(err, survey.ErrSetup) {
		out.Problem, err = sentence(err.Error()), nil
	}
	return &body[TriedRows]{out}, problem(err)
}

func (s *server) addRows(ctx context.Context, in *rowsInput) (*body[Done], error) {
	_, from, err := s.addition(ctx, in.Study, in.Body.Addition)
	if err == nil && in.Body.Further == nil {
		err = fmt.Errorf("%w: say where the columns go", desk.ErrRequest)
	}
	if err != nil {
		return nil, problem(err)
	}
	summary, err := s.desk.AddRows(ctx, in.Study, in.Body.Revision, from, *in.Body.Further)
	if err == nil {
		s.uploads.drop(in.Body.Upload)
	}
	return s.done(ctx, in.Study, summary, err)
}

type columnsInput struct {
	StudyInput
	Body struct {
		Addition
		Join desk.Join `json:"join"`
	}
}

func (s *server) tryColumns(ctx context.Context, in *columnsInput) (*body[desk.JoinReport], error) {
	study, from, err := s.addition(ctx, in.Study, in.Body.Addition)
	if err != nil {
		return nil, problem(err)
	}
	out, err := s.desk.TryJoin(ctx, study, from, in.Body.Join)
	return &body[desk.JoinReport]{out}, problem(err)
}

func (s *server) addColumns(ctx context.Context, in *columnsInput) (*body[Done], error) {
	_, from, err := s.addition(ctx, in.Study, in.Body.Addition)
	if err != nil {
		return nil, problem(err)
	}
	summary, err := s.desk.AddColumns(ctx, in.Study, in.Body.Revision, from, in.Body.Join)
	if err == nil {
		s.uploads.drop(in.Body.Upload)
	}
	return s.done(ctx, in.Study, summary, err)
}

// addition gives the study and the file of an addition.
func (s *server) addition(ctx context.Context, id int64, a Addition) (*desk.Study, desk.Source, error) {
	study, err := s.desk.Study(ctx, id)
	if err != nil {
		return nil, desk.Source{}, err
	}
	from, err := s.uploads.source(a.Upload, a.Recipe)
	return study, from, err
}
