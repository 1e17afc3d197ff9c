package api

import (
	"context"
	"encoding/json"
	"strings"

	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/internal/accounts"
	"aftermath/internal/store"
	"aftermath/internal/view/effect"
)

func (s *server) preview(ctx context.Context, in *struct {
	QuestionInput
	Body scheme.Any
}) (*body[effect.Effect], error) {
	if err := s.mayRead(ctx, in.Body.Edit); err != nil {
		return nil, problem(err)
	}
	return replied(s.desk.Preview(ctx, in.Question, in.Body.Edit))
}

func (s *server) edit(ctx context.Context, in *struct {
	QuestionInput
	Body struct {
		Revision int        `json:"revision" doc:"the revision that the edit is made on"`
		Edit     scheme.Any `json:"edit"`
	}
}) (*body[effect.Effect], error) {
	if err := s.mayRead(ctx, in.Body.Edit.Edit); err != nil {
		return nil, problem(err)
	}
	noted(ctx, in.Body.Edit.Kind())
	return replied(s.desk.Edit(ctx, in.Question, in.Body.Revision, in.Body.Edit.Edit))
}

// mayRead refuses an edit that copies from a question which who asks may not see.
func (s *server) mayRead(ctx context.Context, e scheme.Edit) error {
	copies, is := e.(scheme.CopyFrom)
	if !is || !whoAsks(ctx).on {
		return nil
	}
	study, err := s.studyOf(ctx, copies.Question)
	if err == nil && !whoAsks(ctx).may(study, accounts.Reader) {
		err = store.ErrNotFound
	}
	return err
}

func (s *server) undo(ctx context.Context, in *struct {
	QuestionInput
	Edit      int64 `query:"edit" required:"true" doc:"the edit that is taken back; it must be the newest"`
	Confirmed bool  `query:"confirmed" doc:"what else goes with it was said, and is wanted"`
}) (*body[effect.Effect], error) {
	return replied(s.desk.Undo(ctx, in.Question, in.Edit, in.Confirmed))
}

func (s *server) redo(ctx context.Context, in *struct {
	QuestionInput
	Edit int64 `query:"edit" required:"true" doc:"the edit that is done again; it must be the one that was undone last"`
}) (*body[effect.Effect], error) {
	return replied(s.desk.Redo(ctx, in.Question, in.Edit))
}

func (s *server) loadPlaybook(ctx context.Context, in *struct {
	QuestionInput
	Revision int             `query:"revision" doc:"the revision that the edit is made on"`
	Body     json.RawMessage `contentType:"application/json"`
}) (*body[effect.Effect], error) {
	p, err := playbook.Parse([]byte(strings.TrimSpace(string(in.Body))))
	if err != nil {
		return nil, problem(err)
	}
	return replied(s.desk.Edit(ctx, in.Question, in.Revision, scheme.TakePlaybook{Playbook: p}))
}

// replied answers with what was worked out.
func replied[T any](out T, err error) (*body[T], error) {
	if err != nil {
		return nil, problem(err)
	}
	return &body[T]{out}, nil
}
