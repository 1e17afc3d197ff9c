package api

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"aftermath/core/frame"
	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/desk"
	"aftermath/internal/export"
	"aftermath/internal/store"
)

// body wraps what a route answers.
type body[T any] struct{ Body T }

const prefix = "/api/v1"

func register(a huma.API, s *server) {
	op := func(method, path, id, summary string) huma.Operation {
		return huma.Operation{Method: method, Path: prefix + path, OperationID: id, Summary: summary}
	}
	up := op(http.MethodPost, "/uploads", "upload", "Bring in a file and guess how it is read")
	up.RequestBody = &huma.RequestBody{Required: true, Content: map[string]*huma.MediaType{"application/octet-stream": {Schema: &huma.Schema{Type: "string", Format: "binary"}}}}
	up.BodyReadTimeout = -1
	huma.Register(a, up, s.upload)
	link := op(http.MethodPost, "/uploads/link", "upload-link", "Bring in a file or web page by its link")
	link.BodyReadTimeout = -1
	huma.Register(a, link, s.uploadLink)
	huma.Register(a, op(http.MethodPost, "/uploads/{upload}/preview", "preview-upload", "The beginning of a file as a recipe reads it"), s.previewUpload)
	huma.Register(a, op(http.MethodGet, "/studies", "studies", "All studies, the newest first"), s.studies)
	huma.Register(a, op(http.MethodPost, "/studies", "load", "Store an uploaded file as a study"), s.load)
	huma.Register(a, op(http.MethodGet, "/studies/{study}", "study", "A study and its questions"), s.study)
	huma.Register(a, op(http.MethodDelete, "/studies/{study}", "delete-study", "Delete a study with all that belongs to it"), s.deleteStudy)
	huma.Register(a, op(http.MethodGet, "/studies/{study}/sheet", "sheet", "Columns at a glance, and rows as they came"), s.sheet)
	huma.Register(a, op(http.MethodPost, "/studies/{study}/edits", "edit-study", "Change how a column is read, or make a variable of others"), s.editStudy)
	huma.Register(a, op(http.MethodPost, "/studies/{study}/derived", "try-derived", "What a variable made of others would be"), s.tryDerived)
	huma.Register(a, op(http.MethodPost, "/studies/{study}/rows/try", "try-rows", "What adding the rows of a file would bring"), s.tryRows)
	huma.Register(a, op(http.MethodPost, "/studies/{study}/rows", "add-rows", "Add the rows of a file as respondents"), s.addRows)
	huma.Register(a, op(http.MethodPost, "/studies/{study}/columns/try", "try-columns", "What adding the columns of a file would bring"), s.tryColumns)
	huma.Register(a, op(http.MethodPost, "/studies/{study}/columns", "add-columns", "Add the columns of a file to respondents by a key"), s.addColumns)

	const q = "/questions/{question}"
	huma.Register(a, op(http.MethodGet, q, "question", "A question's state in figures"), s.question)
	huma.Register(a, op(http.MethodGet, q+"/answers", "answers", "Answers in a focus"), s.answers)
	registerTerms(a, s, op)
	registerCode(a, s, op)
	huma.Register(a, op(http.MethodGet, q+"/cleaning", "cleaning", "Cleaning steps, and answers before and after"), s.cleaning)
	huma.Register(a, op(http.MethodGet, q+"/checks", "checks", "Orders of cleaning steps that spoil something, and left-overs"), s.checks)
	huma.Register(a, op(http.MethodPost, q+"/try", "try", "How a text would be read and coded"), s.try)
	huma.Register(a, op(http.MethodGet, q+"/chart", "chart", "Categories by a segment"), s.chart)
	huma.Register(a, op(http.MethodPost, q+"/preview", "preview", "What an edit would change"), s.preview)
	huma.Register(a, op(http.MethodPost, q+"/edits", "edit", "Make an edit"), s.edit)
	huma.Register(a, op(http.MethodPost, q+"/undo", "undo", "Take the newest edit back, or do it again"), s.undo)
	huma.Register(a, op(http.MethodGet, q+"/playbook", "playbook", "Cleaning, lexicon and code frame as a file"), s.playbook)
	put := op(http.MethodPut, q+"/playbook", "load-playbook", "Take a playbook file in place of what the question has")
	put.MaxBodyBytes = 64 << 20
	huma.Register(a, put, s.loadPlaybook)
	huma.Register(a, op(http.MethodGet, q+"/coded.csv", "coded", "The coded data"), s.coded)
	huma.Register(a, op(http.MethodGet, q+"/table.csv", "table", "The chart's table"), s.table)
	huma.Register(a, op(http.MethodPost, q+"/focuses", "keep-focus", "Keep a focus under a name"), s.keepFocus)
	huma.Register(a, op(http.MethodDelete, q+"/focuses", "drop-focus", "Forget a kept focus"), s.dropFocus)
	sse.Register(a, op(http.MethodGet, "/events", "events", "What happens, as it happens"), map[string]any{"message": desk.Event{}, "beat": beat{}}, s.events)
}

type QuestionInput struct {
	Question int64 `path:"question"`
}

type FocusInput struct {
	QuestionInput
	Focus string `query:"focus" doc:"JSON list of conditions; empty for all that is answered"`
}

// open gives a question, its state, and the focus asked for.
func (s *server) open(ctx context.Context, in FocusInput) (*desk.Question, *desk.State, desk.Focus, error) {
	q, err := s.desk.Question(ctx, in.Question)
	if err != nil {
		return nil, nil, nil, err
	}
	f, err := desk.ParseFocus(in.Focus)
	return q, q.State(), f, err
}

// reply asks a question for something in a focus.
func reply[T any](ctx context.Context, s *server, in FocusInput, ask func(*desk.Question, *desk.State, desk.Focus) (T, error)) (*body[T], error) {
	q, state, f, err := s.open(ctx, in)
	if err != nil {
		return nil, problem(err)
	}
	out, err := ask(q, state, f)
	if err != nil {
		return nil, problem(err)
	}
	return &body[T]{out}, nil
}

// QuestionState is a question's figures with its names.
type QuestionState struct {
	desk.Overview
	ID         int64            `json:"id"`
	Name       string           `json:"name"`
	Study      StudyInfo        `json:"study"`
	Variables  []VariableInfo   `json:"variables" doc:"what a focus may narrow by"`
	Conditions []desk.Condition `json:"conditions" doc:"the focus that was given, as it was understood"`
	Kept       []KeptFocus      `json:"kept" doc:"focuses kept under a name"`
	desk.History
}

// KeptFocus is a focus that was kept under a name.
type KeptFocus struct {
	Name       string           `json:"name" minLength:"1" maxLength:"200"`
	Conditions []desk.Condition `json:"conditions" minItems:"1"`
}

func (s *server) kept(ctx context.Context, question int64) ([]KeptFocus, error) {
	all, err := s.desk.Store.Focuses(ctx, question)
	out := []KeptFocus{}
	for _, f := range all {
		k := KeptFocus{Name: f.Name}
		if err := json.Unmarshal(f.Conditions, &k.Conditions); err != nil {
			return nil, fmt.Errorf("focus %q: %w", f.Name, err)
		}
		out = append(out, k)
	}
	return out, err
}

func (s *server) keepFocus(ctx context.Context, in *struct {
	QuestionInput
	Body KeptFocus
}) (*struct{}, error) {
	conditions, err := json.Marshal(in.Body.Conditions)
	if err != nil {
		return nil, problem(err)
	}
	return nil, problem(s.desk.Store.KeepFocus(ctx, store.Focus{QuestionID: in.Question, Name: in.Body.Name, Conditions: conditions}))
}

func (s *server) dropFocus(ctx context.Context, in *struct {
	QuestionInput
	Name string `query:"name" required:"true"`
}) (*struct{}, error) {
	return nil, problem(s.desk.Store.DropFocus(ctx, in.Question, in.Name))
}

// VariableInfo is a variable and its values.
type VariableInfo struct {
	Name   string   `json:"name"`
	Role   string   `json:"role"`
	Values []string `json:"values" doc:"none for dates and for weights"`
}

func (s *server) question(ctx context.Context, in *FocusInput) (*body[QuestionState], error) {
	return reply(ctx, s, *in, func(q *desk.Question, state *desk.State, f desk.Focus) (QuestionState, error) {
		o, err := q.Overview(state, f)
		if err != nil {
			return QuestionState{}, err
		}
		out := QuestionState{Overview: o, ID: q.ID, Name: q.Name, Variables: []VariableInfo{}, Conditions: append([]desk.Condition{}, f...)}
		if out.Study, err = s.info(ctx, state.Study.Study); err != nil {
			return out, err
		}
		for _, v := range state.Study.Variables {
			out.Variables = append(out.Variables, VariableInfo{v.Name, string(v.Role), append([]string{}, v.Values...)})
		}
		if out.Kept, err = s.kept(ctx, q.ID); err != nil {
			return out, err
		}
		out.History, err = q.History(ctx)
		return out, err
	})
}

type ListInput struct {
	FocusInput
	Offset int `query:"offset" minimum:"0"`
	Limit  int `query:"limit" minimum:"0" maximum:"500" default:"50"`
}

func (s *server) answers(ctx context.Context, in *struct {
	FocusInput
	At     int `query:"at" minimum:"0" doc:"number of an answer: offset counts from it, or from the next one in the focus"`
	Offset int `query:"offset" doc:"negative only with at"`
	Limit  int `query:"limit" minimum:"0" maximum:"500" default:"50"`
}) (*body[desk.Page], error) {
	return reply(ctx, s, in.FocusInput, func(q *desk.Question, state *desk.State, f desk.Focus) (desk.Page, error) {
		return q.List(state, f, in.At, in.Offset, in.Limit)
	})
}

func (s *server) cleaning(ctx context.Context, in *struct {
	FocusInput
	Limit int `query:"limit" minimum:"1" maximum:"100" default:"14"`
	Short int `query:"short" minimum:"1" maximum:"100" default:"3" doc:"count the answers with fewer words"`
}) (*body[desk.Cleaning], error) {
	return reply(ctx, s, in.FocusInput, func(q *desk.Question, state *desk.State, f desk.Focus) (desk.Cleaning, error) {
		return q.Cleaning(state, f, in.Limit, in.Short)
	})
}

func (s *server) checks(ctx context.Context, in *QuestionInput) (*body[desk.Checks], error) {
	return reply(ctx, s, FocusInput{QuestionInput: *in}, func(q *desk.Question, state *desk.State, _ desk.Focus) (desk.Checks, error) {
		return q.Checks(ctx, state)
	})
}

func (s *server) try(ctx context.Context, in *struct {
	QuestionInput
	Body struct {
		Text string `json:"text" maxLength:"100000"`
	}
}) (*body[desk.Trying], error) {
	return reply(ctx, s, FocusInput{QuestionInput: in.QuestionInput}, func(q *desk.Question, state *desk.State, _ desk.Focus) (desk.Trying, error) {
		return q.Try(ctx, state, in.Body.Text)
	})
}

type chartInput struct {
	FocusInput
	By       string `query:"by" doc:"the variable; the first that serves if left out"`
	Base     string `query:"base" enum:"answered,respondents,coded" default:"answered"`
	Weighted bool   `query:"weighted"`
}

func (s *server) chart(ctx context.Context, in *chartInput) (*body[desk.Chart], error) {
	return reply(ctx, s, in.FocusInput, func(q *desk.Question, state *desk.State, f desk.Focus) (desk.Chart, error) {
		return q.Chart(state, f, in.By, in.Base, in.Weighted)
	})
}

func (s *server) preview(ctx context.Context, in *struct {
	QuestionInput
	Body desk.Edit
}) (*body[desk.Effect], error) {
	return reply(ctx, s, FocusInput{QuestionInput: in.QuestionInput}, func(q *desk.Question, _ *desk.State, _ desk.Focus) (desk.Effect, error) {
		return q.Preview(ctx, in.Body)
	})
}

func (s *server) edit(ctx context.Context, in *struct {
	QuestionInput
	Body struct {
		Revision int       `json:"revision" doc:"the revision that the edit is made on"`
		Edit     desk.Edit `json:"edit"`
	}
}) (*body[desk.Effect], error) {
	return reply(ctx, s, FocusInput{QuestionInput: in.QuestionInput}, func(q *desk.Question, _ *desk.State, _ desk.Focus) (desk.Effect, error) {
		return q.Edit(ctx, in.Body.Revision, in.Body.Edit)
	})
}

func (s *server) undo(ctx context.Context, in *struct {
	QuestionInput
	Again bool `query:"again" doc:"redo"`
}) (*body[desk.Effect], error) {
	return reply(ctx, s, FocusInput{QuestionInput: in.QuestionInput}, func(q *desk.Question, _ *desk.State, _ desk.Focus) (desk.Effect, error) {
		return q.Undo(ctx, in.Again)
	})
}

// download answers with a file.
func download(name, kind string, write func(w io.Writer) error) *huma.StreamResponse {
	return &huma.StreamResponse{Body: func(ctx huma.Context) {
		ctx.SetHeader("Content-Type", kind)
		ctx.SetHeader("Content-Disposition", `attachment; filename="`+name+`"`)
		if err := write(ctx.BodyWriter()); err != nil {
			panic(http.ErrAbortHandler) // the browser then knows that the file is not whole
		}
	}}
}

func (s *server) playbook(ctx context.Context, in *QuestionInput) (*huma.StreamResponse, error) {
	_, state, _, err := s.open(ctx, FocusInput{QuestionInput: *in})
	if err != nil {
		return nil, problem(err)
	}
	p := state.Playbook
	p.Variables, p.Derived = state.Study.Columns, state.Study.Derived
	file, err := p.File()
	if err != nil {
		return nil, problem(err)
	}
	return download("playbook.json", "application/json", func(w io.Writer) error { _, err := w.Write(file); return err }), nil
}

func (s *server) loadPlaybook(ctx context.Context, in *struct {
	QuestionInput
	Revision int             `query:"revision" doc:"the revision that the edit is made on"`
	Body     json.RawMessage `contentType:"application/json"`
}) (*body[desk.Effect], error) {
	p, err := playbook.Parse(bytes.TrimSpace(in.Body))
	if err != nil {
		return nil, problem(err)
	}
	return reply(ctx, s, FocusInput{QuestionInput: in.QuestionInput}, func(q *desk.Question, _ *desk.State, _ desk.Focus) (desk.Effect, error) {
		return q.Edit(ctx, in.Revision, desk.Edit{Kind: "playbook", Playbook: &p})
	})
}

func (s *server) coded(ctx context.Context, in *struct {
	QuestionInput
	Shape string `query:"shape" enum:"wide,long" default:"wide"`
	Hand  bool   `query:"hand" default:"true" doc:"with the decisions by hand"`
}) (*huma.StreamResponse, error) {
	q, state, _, err := s.open(ctx, FocusInput{QuestionInput: in.QuestionInput})
	if err != nil {
		return nil, problem(err)
	}
	coding, with := state.Coding, "with-decisions"
	if !in.Hand {
		coding, with = state.Playbook.Code(state.View, q.Answers, state.Study.Variables, frame.NewDecisions(), state.Coding), "rules-only"
	}
	data := export.Data{ID: -1, Cell: state.Cell}
	for i, spec := range state.Study.Columns {
		data.Columns = append(data.Columns, spec.Name)
		if spec.Role == survey.Identifier && data.ID < 0 {
			data.ID = i
		}
		if spec.Name == q.Name {
			data.Text = i
		}
	}
	write := export.Wide
	if in.Shape == "long" {
		write = export.Long
	}
	return download(fmt.Sprintf("coded-%s-%s.csv", in.Shape, with), "text/csv; charset=utf-8", func(w io.Writer) error {
		return write(w, data, state.Reading.Index, coding)
	}), nil
}

func (s *server) table(ctx context.Context, in *chartInput) (*huma.StreamResponse, error) {
	q, state, f, err := s.open(ctx, in.FocusInput)
	if err != nil {
		return nil, problem(err)
	}
	c, err := q.Chart(state, f, in.By, in.Base, in.Weighted)
	if err != nil {
		return nil, problem(err)
	}
	return download("table.csv", "text/csv; charset=utf-8", func(w io.Writer) error { return export.Table(w, c) }), nil
}

// beat keeps an idle stream open.
type beat struct {
	At time.Time `json:"at"`
}

func (s *server) events(ctx context.Context, _ *struct{}, send sse.Sender) {
	events, stop := s.desk.Events.Listen()
	defer stop()
	tick := time.NewTicker(20 * time.Second)
	defer tick.Stop()
	if send.Data(beat{time.Now()}) != nil {
		return
	}
	for {
		select {
		case <-ctx.Done():
			return
		case e := <-events:
			if send.Data(e) != nil {
				return
			}
		case t := <-tick.C:
			if send.Data(beat{t}) != nil {
				return
			}
		}
	}
}
