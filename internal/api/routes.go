package api

import (
	"context"
	"io"
	"log/slog"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"aftermath/core/survey"
	"aftermath/internal/accounts"
	"aftermath/internal/desk"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/kept"
	"aftermath/internal/view/answers"
	"aftermath/internal/view/clean"
	"aftermath/internal/view/data"
	"aftermath/internal/view/effect"
)

// body wraps what a route answers.
type body[T any] struct{ Body T }

const prefix = "/api/v1"

func register(a huma.API, s *server) {
	a.UseMiddleware(s.access(a))
	op := func(method, path, id, summary string) huma.Operation {
		return huma.Operation{Method: method, Path: prefix + path, OperationID: id, Summary: summary}
	}
	up := op(http.MethodPost, "/uploads", "upload", "Bring in a file and guess how it is read")
	up.RequestBody = &huma.RequestBody{
		Required: true,
		Content:  map[string]*huma.MediaType{"application/octet-stream": {Schema: &huma.Schema{Type: "string", Format: "binary"}}},
	}
	up.BodyReadTimeout = -1
	huma.Register(a, up, s.upload)
	link := op(http.MethodPost, "/uploads/link", "upload-link", "Bring in a file or web page by its link")
	link.BodyReadTimeout = -1
	huma.Register(a, link, s.uploadLink)
	huma.Register(
		a, op(http.MethodPost, "/uploads/{upload}/try", "preview-upload", "The beginning of a file as a recipe reads it"),
		s.previewUpload,
	)
	huma.Register(a, op(http.MethodGet, "/studies", "studies", "All studies, the newest first"), s.studies)
	huma.Register(a, op(http.MethodPost, "/studies", "load", "Store an uploaded file as a study"), s.load)
	huma.Register(a, op(http.MethodGet, "/studies/{study}", "study", "A study and its questions"), s.study)
	huma.Register(
		a, op(http.MethodDelete, "/studies/{study}", "delete-study", "Delete a study; it can be restored for a while"), s.deleteStudy,
	)
	huma.Register(
		a, op(http.MethodPost, "/studies/{study}/copy", "copy-study", "Make a second study of all that belongs to one"), s.copyStudy,
	)
	huma.Register(a, op(http.MethodPost, "/studies/demo", "load-demo", "Load the demo study anew"), s.loadDemo)
	huma.Register(a, op(http.MethodGet, "/deleted-studies", "deleted-studies", "Studies that can be restored"), s.deletedStudies)
	huma.Register(
		a, op(http.MethodPost, "/deleted-studies/{study}/restore", "restore-study", "Bring back a deleted study"), s.restoreStudy,
	)
	huma.Register(
		a, op(http.MethodDelete, "/deleted-studies/{study}", "purge-study", "Delete a deleted study for good, with all of it"),
		s.purgeStudy,
	)
	registerBackup(a, s, op)
	registerAccounts(a, s, op)
	huma.Register(a, op(http.MethodGet, "/studies/{study}/sheet", "sheet", "Columns at a glance, and rows as they came"), s.sheet)
	huma.Register(
		a, op(http.MethodPost, "/studies/{study}/edits", "edit-study", "Change how a column is read, or make a variable of others"),
		s.editStudy,
	)
	huma.Register(
		a, op(http.MethodPost, "/studies/{study}/column/try", "try-column", "What a column would be if it were read otherwise"), s.tryColumn,
	)
	huma.Register(
		a, op(http.MethodPost, "/studies/{study}/derived/try", "try-derived", "What a variable made of others would be"), s.tryDerived,
	)
	huma.Register(
		a, op(http.MethodPost, "/studies/{study}/rows/try", "try-rows", "What adding the rows of a file would bring"), s.tryRows,
	)
	huma.Register(a, op(http.MethodPost, "/studies/{study}/rows", "add-rows", "Add the rows of a file as respondents"), s.addRows)
	huma.Register(
		a, op(http.MethodPost, "/studies/{study}/divide/try", "try-divide", "What cutting the answers of a column would do"), s.tryDivide,
	)
	huma.Register(
		a, op(http.MethodPost, "/studies/{study}/columns/try", "try-columns", "What adding the columns of a file would bring"),
		s.tryColumns,
	)
	huma.Register(
		a, op(http.MethodPost, "/studies/{study}/columns", "add-columns", "Add the columns of a file to respondents by a key"),
		s.addColumns,
	)

	const q = "/questions/{question}"
	huma.Register(a, op(http.MethodGet, q, "question", "A question's state in figures"), s.question)
	huma.Register(a, op(http.MethodGet, q+"/answers", "answers", "Answers in a focus"), s.answers)
	registerTerms(a, s, op)
	registerCode(a, s, op)
	registerReview(a, s, op)
	registerChart(a, s, op)
	registerReport(a, s, op)
	registerCoded(a, s, op)
	huma.Register(a, op(http.MethodGet, q+"/cleaning", "cleaning", "Cleaning steps, and answers before and after"), s.cleaning)
	huma.Register(
		a, op(http.MethodGet, q+"/checks", "checks", "Orders of cleaning steps that spoil something, and left-overs"), s.checks,
	)
	huma.Register(a, op(http.MethodGet, q+"/personal", "personal", "Personal data in the answers, by kind"), s.personal)
	huma.Register(a, op(http.MethodGet, q+"/near", "near", "Answers that are nearly alike"), s.near)
	huma.Register(a, op(http.MethodPost, q+"/text/try", "try", "How a text would be read and coded"), s.try)
	huma.Register(a, op(http.MethodPost, q+"/edits/try", "preview", "What an edit would change"), s.preview)
	huma.Register(a, op(http.MethodPost, q+"/edits", "edit", "Make an edit"), s.edit)
	huma.Register(a, op(http.MethodPost, q+"/undo", "undo", "Take the newest edit back"), s.undo)
	huma.Register(a, op(http.MethodPost, q+"/redo", "redo", "Do the edit again that was undone last"), s.redo)
	huma.Register(a, op(http.MethodGet, q+"/playbook", "playbook", "Cleaning, lexicon and code frame as a file"), s.playbook)
	put := op(http.MethodPut, q+"/playbook", "load-playbook", "Take a playbook file in place of what the question has")
	put.MaxBodyBytes = 64 << 20
	huma.Register(a, put, s.loadPlaybook)
	huma.Register(a, op(http.MethodPost, q+"/focuses", "keep-focus", "Keep a focus under a name"), s.keepFocus)
	huma.Register(a, op(http.MethodDelete, q+"/focuses", "drop-focus", "Forget a kept focus"), s.dropFocus)
	sse.Register(
		a, op(http.MethodGet, "/events", "events", "What happens, as it happens"),
		map[string]any{"message": desk.Event{}, "beat": beat{}}, s.events,
	)
}

type QuestionInput struct {
	Question int64 `path:"question"`
}

type FocusInput struct {
	QuestionInput
	Focus string `query:"focus" doc:"JSON list of conditions; empty for all that is answered"`
}

// open gives a question's state, and the focus asked for.
func (s *server) open(ctx context.Context, in FocusInput) (*state.State, focus.Focus, error) {
	q, err := s.desk.Question(ctx, in.Question)
	if err != nil {
		return nil, nil, err
	}
	f, err := focus.Parse(in.Focus)
	return q.State(), f, err
}

// reply asks a state for something in a focus.
func reply[T any](
	ctx context.Context, s *server, in FocusInput, ask func(context.Context, *state.State, focus.Focus) (T, error),
) (*body[T], error) {
	st, f, err := s.open(ctx, in)
	if err != nil {
		return nil, problem(err)
	}
	return replied(ask(ctx, st, f))
}

// QuestionState is a question's figures with its names.
type QuestionState struct {
	data.Overview
	ID         int64            `json:"id"`
	Name       string           `json:"name"`
	Study      StudyInfo        `json:"study"`
	Variables  []VariableInfo   `json:"variables" doc:"what a focus may narrow by"`
	Conditions focus.Focus      `json:"conditions" doc:"the focus that was given, as it was understood"`
	Kept       []kept.KeptFocus `json:"kept" doc:"focuses kept under a name"`
	effect.History
}

func (s *server) keepFocus(ctx context.Context, in *struct {
	QuestionInput
	Body kept.KeptFocus
}) (*struct{}, error) {
	return nil, problem(s.kept.KeepFocus(ctx, in.Question, in.Body))
}

func (s *server) dropFocus(ctx context.Context, in *struct {
	QuestionInput
	Name string `query:"name" required:"true"`
}) (*struct{}, error) {
	return nil, problem(s.kept.DropFocus(ctx, in.Question, in.Name))
}

// VariableInfo is a variable and its values.
type VariableInfo struct {
	Name   string   `json:"name"`
	Role   string   `json:"role"`
	Values []string `json:"values" doc:"none for dates and for weights"`
}

func (s *server) question(ctx context.Context, in *FocusInput) (*body[QuestionState], error) {
	q, err := s.desk.Question(ctx, in.Question)
	if err != nil {
		return nil, problem(err)
	}
	return reply(ctx, s, *in, func(ctx context.Context, st *state.State, f focus.Focus) (QuestionState, error) {
		o, err := data.OverviewOf(ctx, st, f)
		if err != nil {
			return QuestionState{}, err
		}
		out := QuestionState{
			Overview:   o,
			ID:         st.ID,
			Name:       st.Name,
			Variables:  []VariableInfo{},
			Conditions: append(focus.Focus{}, f...),
		}
		record, err := s.desk.Record(ctx, q.StudyID)
		if err != nil {
			return out, err
		}
		out.Study = infoFor(ctx, record)
		for _, v := range st.Study.Variables {
			out.Variables = append(out.Variables, VariableInfo{v.Name, string(v.Role), append([]string{}, v.Values...)})
		}
		if out.Kept, err = s.kept.KeptFocuses(ctx, q.ID); err != nil {
			return out, err
		}
		out.History, err = s.desk.History(ctx, q)
		return out, err
	})
}

type ListInput struct {
	FocusInput
	Offset int `query:"offset" minimum:"0" maximum:"2147483647"`
	Limit  int `query:"limit" minimum:"0" maximum:"500" default:"50"`
}

func (s *server) answers(ctx context.Context, in *struct {
	FocusInput
	At     survey.Respondent `query:"at" doc:"number of a respondent: offset counts from that answer, or from the next one in the focus"`
	Offset int               `query:"offset" minimum:"-2147483647" maximum:"2147483647" doc:"negative only with at"`
	Limit  int               `query:"limit" minimum:"0" maximum:"500" default:"50"`
}) (*body[answers.Page], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (answers.Page, error) {
		return answers.List(ctx, st, f, in.At, in.Offset, in.Limit)
	})
}

func (s *server) cleaning(ctx context.Context, in *struct {
	FocusInput
	Limit int `query:"limit" minimum:"1" maximum:"100" default:"14"`
	Short int `query:"short" minimum:"1" maximum:"100" default:"3" doc:"count the answers with fewer words"`
}) (*body[clean.Cleaning], error) {
	return reply(ctx, s, in.FocusInput, func(ctx context.Context, st *state.State, f focus.Focus) (clean.Cleaning, error) {
		return clean.CleaningOf(ctx, st, f, in.Limit, in.Short)
	})
}

func (s *server) near(ctx context.Context, in *struct {
	QuestionInput
	Percent int `query:"percent" minimum:"60" maximum:"100" default:"80" doc:"how much two answers have in common"`
}) (*body[clean.Near], error) {
	return reply(ctx, s, FocusInput{QuestionInput: in.QuestionInput}, func(ctx context.Context, st *state.State, _ focus.Focus) (clean.Near, error) {
		return clean.NearOf(ctx, st, in.Percent)
	})
}

func (s *server) personal(ctx context.Context, in *QuestionInput) (*body[clean.PersonalData], error) {
	return reply(ctx, s, FocusInput{QuestionInput: *in}, func(ctx context.Context, st *state.State, _ focus.Focus) (clean.PersonalData, error) {
		// Readers never see the texts: whether anything is to be masked is not theirs to say.
		w := whoAsks(ctx)
		seen := w.may(st.Study.ID, accounts.Analyst) && (w.seesPersonal(st.Study.ID) || len(st.Study.Cells.Masking()) == 0)
		return clean.PersonalOf(ctx, st, seen)
	})
}

func (s *server) checks(ctx context.Context, in *QuestionInput) (*body[clean.Checks], error) {
	return reply(
		ctx,
		s,
		FocusInput{QuestionInput: *in},
		func(ctx context.Context, st *state.State, f focus.Focus) (clean.Checks, error) {
			return clean.ChecksOf(ctx, st)
		},
	)
}

func (s *server) try(ctx context.Context, in *struct {
	QuestionInput
	Body struct {
		Text string `json:"text" maxLength:"100000"`
	}
}) (*body[clean.Trying], error) {
	return reply(
		ctx,
		s,
		FocusInput{QuestionInput: in.QuestionInput},
		func(ctx context.Context, st *state.State, f focus.Focus) (clean.Trying, error) {
			return clean.Try(ctx, st, in.Body.Text)
		},
	)
}

// download answers with a file.
func download(name, kind string, write func(w io.Writer) error) *huma.StreamResponse {
	return &huma.StreamResponse{Body: func(ctx huma.Context) {
		ctx.SetHeader("Content-Type", kind)
		ctx.SetHeader("Content-Disposition", `attachment; filename="`+name+`"`)
		if err := write(ctx.BodyWriter()); err != nil {
			slog.Error("a download broke off", "file", name, "error", err)
			panic(http.ErrAbortHandler) // the connection is cut: whoever reads it knows that the file is not whole
		}
	}}
}

func (s *server) playbook(ctx context.Context, in *QuestionInput) (*huma.StreamResponse, error) {
	st, _, err := s.open(ctx, FocusInput{QuestionInput: *in})
	if err != nil {
		return nil, problem(err)
	}
	p := st.Scheme.Playbook
	p.Variables, p.Derived = st.Study.Columns, st.Study.Derived
	file, err := p.File()
	if err != nil {
		return nil, problem(err)
	}
	return download("playbook.json", "application/json", func(w io.Writer) error { _, err := w.Write(file); return err }), nil
}

// beat keeps an idle stream open.
type beat struct {
	At time.Time `json:"at"`
}

// beatEvery is how often somebody who listens is told that the server is there, and is looked up again: what let them in may have
// ended in another program.
const beatEvery = 10 * time.Second

func (s *server) events(ctx context.Context, in *Credentials, send sse.Sender) {
	events, stop := s.desk.Events.Listen()
	defer stop()
	w := whoAsks(ctx)
	ended, leave := s.accounts.Ended(w.ID())
	defer leave()
	tick := time.NewTicker(beatEvery)
	defer tick.Stop()
	if send.Data(beat{time.Now()}) != nil {
		return
	}
	if trouble, any := s.desk.Trouble(); any && send.Data(trouble) != nil {
		return
	}
	for {
		beats := false
		select {
		case <-ctx.Done():
			return
		case e := <-events:
			if s.concerns(ctx, w, e) && send.Data(e) != nil {
				return
			}
			continue
		case <-ended:
		case <-tick.C:
			beats = true
		}
		now, err := s.identify(ctx, in.Credentials, false)
		if err == nil && now.on && (!now.Known() || now.ID() != w.ID()) {
			return // who was signed out hears no more
		}
		if err == nil { // while the database is away nobody's rights change
			w = now
		}
		if beats && send.Data(beat{time.Now()}) != nil {
			return
		}
	}
}

// concerns says whether who listens may know of an event.
func (s *server) concerns(ctx context.Context, w *who, e desk.Event) bool {
	study := e.Study
	if e.Question != 0 {
		var err error
		if study, err = s.studyOf(ctx, e.Question); err != nil {
			return false
		}
	}
	return study == 0 || w.may(study, accounts.Reader)
}
