package api

import (
	"context"
	"errors"
	"io"
	"net/http"
	"os"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/internal/desk"
)

// registerBackup adds the routes of back-ups.
func registerBackup(a huma.API, s *server, op func(method, path, id, summary string) huma.Operation) {
	huma.Register(a, op(http.MethodGet, "/studies/{study}/backup", "back-up-study", "A back-up of a study, with all that belongs to it"), s.backUpStudy)
	huma.Register(a, op(http.MethodGet, "/backup", "back-up", "A back-up of all studies that are not deleted"), s.backUp)
	huma.Register(a, op(http.MethodGet, "/backup/last", "backed-up", "How the last back-up went that was made on schedule"), s.backedUp)
	restore := op(http.MethodPost, "/restore", "restore", "Bring in the studies of a back-up, beside those that there are: all or none")
	restore.RequestBody = &huma.RequestBody{
		Required: true,
		Content:  map[string]*huma.MediaType{"application/zip": {Schema: &huma.Schema{Type: "string", Format: "binary"}}},
	}
	restore.BodyReadTimeout = -1
	huma.Register(a, restore, s.restore)
}

func backupName() string { return "aftermath-" + time.Now().Format("2006-01-02") + ".aftermath.zip" }

func (s *server) backUpStudy(ctx context.Context, in *StudyInput) (*huma.StreamResponse, error) {
	if _, err := s.desk.Record(ctx, in.Study); err != nil {
		return nil, problem(err)
	}
	return download(backupName(), "application/zip", func(w io.Writer) error { return s.desk.Backup(ctx, in.Study, w) }), nil
}

func (s *server) backUp(ctx context.Context, _ *struct{}) (*huma.StreamResponse, error) {
	return download(backupName(), "application/zip", func(w io.Writer) error { return s.desk.Backup(ctx, 0, w) }), nil
}

func (s *server) backedUp(context.Context, *struct{}) (*body[desk.BackedUp], error) {
	return &body[desk.BackedUp]{s.desk.BackedUp()}, nil
}

// restore takes a back-up in whole before it is looked into: its list of parts stands at its end.
func (s *server) restore(ctx context.Context, in *uploadInput) (*body[[]StudyInfo], error) {
	f, err := os.CreateTemp(s.uploads.dir, "back-up-")
	if err != nil {
		return nil, problem(err)
	}
	defer os.Remove(f.Name())
	_, err = io.Copy(f, in.body)
	if err = errors.Join(err, f.Close()); err != nil {
		return nil, problem(err)
	}
	restored, err := s.desk.Restore(ctx, f.Name())
	out := &body[[]StudyInfo]{[]StudyInfo{}}
	for _, r := range restored {
		made, err := s.theirs(ctx, r, nil)
		if err != nil {
			return nil, err
		}
		out.Body = append(out.Body, made.Body)
	}
	return out, problem(err)
}
