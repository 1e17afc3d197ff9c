package api

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"aftermath/core/survey"
	"aftermath/core/text"
	"aftermath/internal/accounts"
	"aftermath/internal/desk"
	"aftermath/internal/desk/cells"
	"aftermath/internal/desk/intake"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/view"
)

// StudyInfo is a study with its questions.
type StudyInfo struct {
	ID          int64            `json:"id"`
	Name        string           `json:"name"`
	Revision    int              `json:"revision"`
	Respondents int              `json:"respondents"`
	Created     time.Time        `json:"created"`
	Changed     time.Time        `json:"changed" doc:"when it, or one of its questions, was last edited"`
	Until       *time.Time       `json:"until,omitempty" doc:"of a deleted one: when it goes for good"`
	Columns     []survey.Spec    `json:"columns"`
	Derived     []survey.Derived `json:"derived"`
	Under       []string         `json:"under" doc:"names of the columns and variables that stand under an answer; none: the usual ones"`
	Questions   []QuestionInfo   `json:"questions"`
	Role        string           `json:"role,omitempty" enum:"reader,analyst,owner" doc:"what who asks may do with it, where there are accounts"`
	NoExports   bool             `json:"noExports,omitempty" doc:"who asks may take nothing out of it"`
}

// QuestionInfo names a question and says how far its coding is.
type QuestionInfo struct {
	ID      int64      `json:"id"`
	Name    string     `json:"name"`
	Changed *time.Time `json:"changed,omitempty" doc:"when it was last edited"`
	Coding  *CodedOf   `json:"coding,omitempty" doc:"left out where it was not worked out since the study was changed"`
}

// CodedOf counts the answers of a question.
type CodedOf struct {
	Answered int `json:"answered" doc:"answers that say something"`
	Coded    int `json:"coded" doc:"those of them that a category has"`
}

// infoFor describes a study to who asks.
func infoFor(ctx context.Context, r desk.Record) StudyInfo {
	i := StudyInfo{ID: r.ID, Name: r.Name, Revision: r.Revision, Respondents: r.Rows.Len(), Created: r.Created, Changed: r.Changed, Until: r.Until,
		Columns: r.Columns, Derived: append([]survey.Derived{}, r.Derived...), Under: append([]string{}, r.Under...), Questions: []QuestionInfo{}}
	if w := whoAsks(ctx); w.on {
		rights := w.access.To(r.ID)
		i.Role, i.NoExports = string(rights.Role), !rights.Exports
	}
	for _, q := range r.Questions {
		one := QuestionInfo{ID: q.ID, Name: q.Name, Changed: q.Changed}
		if q.Figures != nil {
			one.Coding = &CodedOf{q.Figures.Answered, q.Figures.Coded}
		}
		i.Questions = append(i.Questions, one)
	}
	return i
}

func (s *server) studies(ctx context.Context, _ *struct{}) (*body[[]StudyInfo], error) {
	return s.listed(ctx, false)
}

func (s *server) deletedStudies(ctx context.Context, _ *struct{}) (*body[[]StudyInfo], error) {
	return s.listed(ctx, true)
}

func (s *server) listed(ctx context.Context, deleted bool) (*body[[]StudyInfo], error) {
	all, err := s.desk.Studies(ctx, deleted)
	role := accounts.Reader
	if deleted { // they are there to be restored
		role = accounts.Owner
	}
	out := []StudyInfo{}
	for _, r := range all {
		if whoAsks(ctx).may(r.ID, role) {
			out = append(out, infoFor(ctx, r))
		}
	}
	return replied(out, err)
}

// theirs gives a study that who asks has made, and owns now.
func (s *server) theirs(ctx context.Context, r desk.Record, err error) (*body[StudyInfo], error) {
	if err == nil {
		noted(ctx, r.Name)
		err = s.own(ctx, r.ID)
	}
	return replied(infoFor(ctx, r), err)
}

func (s *server) copyStudy(ctx context.Context, in *StudyInput) (*body[StudyInfo], error) {
	r, err := s.desk.CopyStudy(ctx, in.Study)
	return s.theirs(ctx, r, err)
}

func (s *server) restoreStudy(ctx context.Context, in *StudyInput) (*body[StudyInfo], error) {
	r, err := s.desk.RestoreStudy(ctx, in.Study)
	return replied(infoFor(ctx, r), err)
}

func (s *server) purgeStudy(ctx context.Context, in *StudyInput) (*struct{}, error) {
	return nil, problem(s.desk.PurgeStudy(ctx, in.Study))
}

func (s *server) loadDemo(ctx context.Context, _ *struct{}) (*body[StudyInfo], error) {
	r, err := s.kept.LoadDemo(ctx)
	return s.theirs(ctx, r, err)
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
	made, err := s.theirs(ctx, study, nil)
	if err != nil {
		return nil, err
	}
	return &body[LoadedStudy]{LoadedStudy{made.Body, notes}}, nil
}

type StudyInput struct {
	Study int64 `path:"study"`
}

func (s *server) study(ctx context.Context, in *StudyInput) (*body[StudyInfo], error) {
	r, err := s.desk.Record(ctx, in.Study)
	return replied(infoFor(ctx, r), err)
}

func (s *server) deleteStudy(ctx context.Context, in *StudyInput) (*struct{}, error) {
	return nil, problem(s.desk.DeleteStudy(ctx, in.Study))
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
	state.Making
}

type sheetInput struct {
	StudyInput
	Offset int `query:"offset" minimum:"0" maximum:"2147483647"`
	Limit  int `query:"limit" minimum:"0" maximum:"200" default:"50"`
}

func (s *server) sheet(ctx context.Context, in *sheetInput) (*body[Sheet], error) {
	study, err := s.desk.Study(ctx, in.Study)
	if err != nil {
		return nil, problem(err)
	}
	out := Sheet{
		Total:   study.Respondents(),
		Rows:    [][]string{},
		Columns: make([]survey.Profile, len(study.Columns)),
		Derived: []MadeVariable{},
	}
	failed := make([]error, len(study.Columns))
	err = view.Each(ctx, len(study.Columns), func(i int) { out.Columns[i], failed[i] = study.Profile(ctx, i) })
	if err := errors.Join(append(failed, err)...); err != nil {
		return nil, problem(err)
	}
	for _, d := range study.Derived {
		out.Derived = append(out.Derived, MadeVariable{d, study.TryDerived(d)})
	}
	for r := in.Offset; r < min(in.Offset+in.Limit, out.Total); r++ {
		row := make([]string, len(study.Columns))
		for i := range row {
			row[i] = study.Cells.Shown(i)[r]
		}
		out.Rows = append(out.Rows, row)
	}
	if m := study.Cells.Masking().Masker(); m != nil {
		out.mask(*m)
	}
	return replied(out, nil)
}

// mask masks personal data in the profiles of numbers and dates, which are made of the cells as they came.
func (s *Sheet) mask(m text.Masker) {
	for i := range s.Columns {
		p := &s.Columns[i]
		// What is kept is not masked.
		p.Samples, p.Top, p.Points = slices.Clone(p.Samples), slices.Clone(p.Top), slices.Clone(p.Points)
		for j := range p.Samples {
			p.Samples[j] = m.Mask(p.Samples[j])
		}
		for j := range p.Top {
			p.Top[j].Value = m.Mask(p.Top[j].Value)
		}
		for j := range p.Points {
			p.Points[j].Values = slices.Clone(p.Points[j].Values)
			for k := range p.Points[j].Values {
				p.Points[j].Values[k] = m.Mask(p.Points[j].Values[k])
			}
		}
	}
}

// Done says what an edit of a study did.
type Done struct {
	Summary  string `json:"summary"`
	Revision int    `json:"revision" doc:"of the study"`
	Edit     int64  `json:"edit" doc:"what undo is told to take it back"`
}

// done answers an edit of a study.
func done(e desk.StudyEffect, err error) (*body[Done], error) {
	return replied(Done{e.Summary, e.Revision, e.Edit}, err)
}

func (s *server) editStudy(ctx context.Context, in *struct {
	StudyInput
	Body struct {
		Revision int               `json:"revision" doc:"the revision of the study that the edit is made on"`
		Edit     desk.AnySetupEdit `json:"edit"`
	}
}) (*body[Done], error) {
	noted(ctx, in.Body.Edit.Kind())
	return done(s.desk.EditStudy(ctx, in.Study, in.Body.Revision, in.Body.Edit.SetupEdit))
}

// tryColumn is the profile that a column would have, and the one that it has.
func (s *server) tryColumn(ctx context.Context, in *struct {
	StudyInput
	Body survey.Spec
}) (*body[ColumnTried], error) {
	study, err := s.desk.Study(ctx, in.Study)
	if err != nil {
		return nil, problem(err)
	}
	at := slices.IndexFunc(study.Columns, func(c survey.Spec) bool { return c.Name == in.Body.Name })
	if at < 0 {
		return nil, problem(fmt.Errorf("%w: there is no column %q", state.ErrRequest, in.Body.Name))
	}
	then, err := survey.NewProfile(ctx, in.Body, study.Cells.Shown(at))
	if err != nil {
		return nil, problem(err)
	}
	out := ColumnTried{Filled: then.Filled, Values: then.Distinct, Figures: then.Figures}
	if v, err := survey.NewVariable(in.Body, study.Cells.AsCame(at, cells.ToCount)); err != nil {
		out.Problem = sentence(err.Error())
	} else {
		out.Odd, out.Filled = v.Odd, int(v.Filled().GetCardinality())
	}
	return replied(out, nil)
}

// ColumnTried is what a column would be if it were read otherwise.
type ColumnTried struct {
	Filled  int             `json:"filled" doc:"respondents with a value"`
	Odd     int             `json:"odd" doc:"filled cells that can't be read so; they would count as missing"`
	Values  int             `json:"values" doc:"different ones"`
	Figures *survey.Figures `json:"figures,omitempty"`
	Problem string          `json:"problem,omitempty" doc:"why it can't be read so"`
}

func (s *server) tryDerived(ctx context.Context, in *struct {
	StudyInput
	Body survey.Derived
}) (*body[state.Making], error) {
	study, err := s.desk.Study(ctx, in.Study)
	if err != nil {
		return nil, problem(err)
	}
	return &body[state.Making]{study.TryDerived(in.Body)}, nil
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
		Further *intake.Further `json:"further,omitempty" doc:"as it is guessed if left out"`
	}
}

// TriedRows is what adding the rows of a file would bring.
type TriedRows struct {
	Further intake.Further `json:"further" doc:"how the columns were matched"`
	intake.FurtherReport
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
		out.Further = intake.GuessFurther(study, intake.Guesses(t))
	} else {
		out.Further = *in.Body.Further
	}
	out.FurtherReport, err = s.desk.TryRows(ctx, study, from, out.Further)
	if errors.Is(err, state.ErrRequest) || errors.Is(err, survey.ErrSetup) {
		out.Problem, err = sentence(err.Error()), nil
	}
	return &body[TriedRows]{out}, problem(err)
}

func (s *server) addRows(ctx context.Context, in *rowsInput) (*body[Done], error) {
	_, from, err := s.addition(ctx, in.Study, in.Body.Addition)
	if err == nil && in.Body.Further == nil {
		err = fmt.Errorf("%w: say where the columns go", state.ErrRequest)
	}
	if err != nil {
		return nil, problem(err)
	}
	kept, err := s.desk.AddRows(ctx, in.Study, in.Body.Revision, from, *in.Body.Further)
	if err == nil {
		s.uploads.drop(in.Body.Upload)
	}
	return done(kept, err)
}

func (s *server) tryDivide(ctx context.Context, in *struct {
	StudyInput
	Body files.Split
}) (*body[intake.Divided], error) {
	study, err := s.desk.Study(ctx, in.Study)
	if err != nil {
		return nil, problem(err)
	}
	out, err := s.desk.TryDivide(ctx, study, in.Body)
	if err != nil {
		return nil, problem(err)
	}
	if m := study.Cells.Masking().Masker(); m != nil {
		for _, sample := range out.Samples {
			for i := range sample.Parts {
				sample.Parts[i] = m.Mask(sample.Parts[i])
			}
		}
	}
	return &body[intake.Divided]{out}, nil
}

type columnsInput struct {
	StudyInput
	Body struct {
		Addition
		Join intake.Join `json:"join"`
	}
}

func (s *server) tryColumns(ctx context.Context, in *columnsInput) (*body[intake.JoinReport], error) {
	study, from, err := s.addition(ctx, in.Study, in.Body.Addition)
	if err != nil {
		return nil, problem(err)
	}
	out, err := s.desk.TryColumns(ctx, study, from, in.Body.Join)
	return &body[intake.JoinReport]{out}, problem(err)
}

func (s *server) addColumns(ctx context.Context, in *columnsInput) (*body[Done], error) {
	_, from, err := s.addition(ctx, in.Study, in.Body.Addition)
	if err != nil {
		return nil, problem(err)
	}
	kept, err := s.desk.AddColumns(ctx, in.Study, in.Body.Revision, from, in.Body.Join)
	if err == nil {
		s.uploads.drop(in.Body.Upload)
	}
	return done(kept, err)
}

// addition gives the study and the file of an addition.
func (s *server) addition(ctx context.Context, id int64, a Addition) (*state.Study, intake.Source, error) {
	study, err := s.desk.Study(ctx, id)
	if err != nil {
		return nil, intake.Source{}, err
	}
	from, err := s.uploads.source(a.Upload, a.Recipe)
	return study, from, err
}
