package api

import (
	"context"
	"encoding/json"
	"maps"
	"path"
	"reflect"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/internal/accounts"
	"aftermath/internal/desk/report/effect"
	"aftermath/internal/store"
)

// Edit is an edit of a question's scheme: an object told apart by its kind.
type Edit struct{ scheme.Any }

// Schema describes one of many: each kind by its own schema.
func (Edit) Schema(r huma.Registry) *huma.Schema {
	const name = "Edit"
	if r.Map()[name] == nil {
		all := &huma.Schema{
			Description:   "An edit of a question's scheme.",
			Discriminator: &huma.Discriminator{PropertyName: "kind", Mapping: map[string]string{}},
		}
		nested := map[reflect.Type]bool{} // in an edit that is several
		for _, field := range reflect.VisibleFields(reflect.TypeOf(scheme.Several{})) {
			if field.Type.Kind() == reflect.Slice {
				nested[field.Type.Elem()] = true
			}
		}
		for _, e := range scheme.Kinds {
			// What tells kinds apart is no part of an edit that stands in another.
			bare := r.Schema(reflect.TypeOf(e), true, "")
			told := *r.SchemaFromRef(bare.Ref)
			told.Properties = maps.Clone(told.Properties)
			told.Properties["kind"] = &huma.Schema{Type: huma.TypeString, Enum: []any{e.Kind()}}
			told.Required = append([]string{"kind"}, told.Required...)
			told.PrecomputeMessages()
			ref := bare.Ref + "Edit"
			r.Map()[path.Base(ref)] = &told
			if !nested[reflect.TypeOf(e)] {
				delete(r.Map(), path.Base(bare.Ref))
			}
			all.OneOf = append(all.OneOf, &huma.Schema{Ref: ref})
			all.Discriminator.Mapping[e.Kind()] = ref
		}
		r.Map()[name] = all
	}
	return &huma.Schema{Ref: "#/components/schemas/" + name}
}

// UnmarshalJSON reads an edit, after huma has held it against its schema.
func (e *Edit) UnmarshalJSON(data []byte) error { return e.Any.UnmarshalJSON(data) }

func (s *server) preview(ctx context.Context, in *struct {
	QuestionInput
	Body Edit
}) (*body[effect.Effect], error) {
	if err := s.mayRead(ctx, in.Body.Edit); err != nil {
		return nil, problem(err)
	}
	return replied(s.desk.Preview(ctx, in.Question, in.Body.Edit))
}

func (s *server) edit(ctx context.Context, in *struct {
	QuestionInput
	Body struct {
		Revision int  `json:"revision" doc:"the revision that the edit is made on"`
		Edit     Edit `json:"edit"`
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
