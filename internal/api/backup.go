package api

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"os"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/internal/backup"
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

// maxBackup is how large a back-up may be that comes by HTTP, in bytes.
const maxBackup = 16 << 30

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

func (s *server) backedUp(ctx context.Context, _ *struct{}) (*body[desk.BackedUp], error) {
	if w := whoAsks(ctx); w.on && !w.Admin() { // folders of the server are for who runs it
		return &body[desk.BackedUp]{}, nil
	}
	return &body[desk.BackedUp]{s.desk.BackedUp()}, nil
}

// restore takes a back-up in whole before it is looked into: its list of parts stands at its end.
func (s *server) restore(ctx context.Context, in *uploadInput) (*body[[]StudyInfo], error) {
	path, _, err := s.uploads.receive(in.size, func(to io.Writer) error {
		n, err := io.Copy(to, io.LimitReader(in.body, maxBackup+1))
		if err == nil && n > maxBackup {
			err = fmt.Errorf("%w: it is larger than %d GiB; restore it with the command line", backup.ErrBackup, maxBackup>>30)
		}
		return err
	})
	if err != nil {
		return nil, problem(err)
	}
	defer os.Remove(path)
	restored, err := s.desk.Restore(ctx, path)
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
