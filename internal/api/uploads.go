package api

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strconv"
	"sync"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/core/survey"
	"aftermath/internal/desk/intake"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
)

// uploads holds the files that were brought in and are not loaded yet, the newest few, on disk.
type uploads struct {
	dir   string // the folder for temporary files if empty
	mu    sync.Mutex
	next  int
	files map[string]heldFile
	order []string
}

type heldFile struct {
	path  string
	size  int64
	guess files.Recognised
}

const keptUploads = 6

// hold writes a file to disk and guesses how it is read. Write gives its name and media type.
func (u *uploads) hold(ctx context.Context, write func(to io.Writer) (name, kind string, err error)) (Upload, error) {
	f, err := os.CreateTemp(u.dir, "upload-")
	if err != nil {
		return Upload{}, err
	}
	name, kind, err := write(f)
	if err = errors.Join(err, f.Close()); err != nil {
		return Upload{}, errors.Join(err, os.Remove(f.Name()))
	}
	held := heldFile{path: f.Name()}
	if info, err := os.Stat(f.Name()); err == nil {
		held.size = info.Size()
	}
	if held.guess, err = files.Recognise(ctx, f.Name(), name, kind); err != nil {
		return Upload{}, errors.Join(err, os.Remove(f.Name()))
	}
	u.mu.Lock()
	defer u.mu.Unlock()
	u.next++
	id := strconv.Itoa(u.next)
	if u.files == nil {
		u.files = map[string]heldFile{}
	}
	u.files[id] = held
	if u.order = append(u.order, id); len(u.order) > keptUploads {
		u.remove(u.order[0])
	}
	return Upload{ID: id, Name: name, Bytes: held.size, Guess: held.guess, Encodings: files.Encodings()}, nil
}

// source gives a held file, read by a recipe, or as it was guessed.
func (u *uploads) source(id string, recipe *files.Recipe) (intake.Source, error) {
	u.mu.Lock()
	defer u.mu.Unlock()
	held, ok := u.files[id]
	if !ok {
		return intake.Source{}, fmt.Errorf("%w: the file that was brought in is no longer held; choose it again", state.ErrRequest)
	}
	if recipe == nil {
		recipe = &held.guess.Recipe
	}
	return intake.Source{Path: held.path, Size: held.size, Recipe: *recipe}, nil
}

func (u *uploads) drop(id string) {
	u.mu.Lock()
	defer u.mu.Unlock()
	u.remove(id)
}

func (u *uploads) remove(id string) {
	if held, ok := u.files[id]; ok {
		_ = os.Remove(held.path)
	}
	delete(u.files, id)
	u.order = slices.DeleteFunc(u.order, func(x string) bool { return x == id })
}

// Upload is a file that was brought in, with how it seems to be read.
type Upload struct {
	ID        string           `json:"id"`
	Name      string           `json:"name"`
	Bytes     int64            `json:"bytes"`
	Guess     files.Recognised `json:"guess"`
	Encodings []string         `json:"encodings" doc:"those that text can be read in"`
}

// uploadInput takes the body as a stream, past huma's own limits.
type uploadInput struct {
	Name string `query:"name" doc:"what the file is called; its ending helps to tell what it is"`
	body io.Reader
	kind string
}

// Resolve keeps the body for the handler.
func (i *uploadInput) Resolve(ctx huma.Context) []error {
	i.body, i.kind = arriving{ctx.BodyReader(), ctx.SetReadDeadline}, ctx.Header("Content-Type")
	return nil
}

// longestWait is how long nothing may come of an upload that is not at its end.
const longestWait = 30 * time.Second

// errBroken is behind errors of a body that can't be read to its end: that is the sender's doing.
var errBroken = errors.New("what was sent broke off")

// arriving tells errors of the body from those of where it goes. A body may take its time as long as something comes.
type arriving struct {
	body  io.Reader
	until func(time.Time) error
}

func (a arriving) Read(p []byte) (int, error) {
	if err := a.until(time.Now().Add(longestWait)); err != nil {
		return 0, err
	}
	n, err := a.body.Read(p)
	if err != nil && !errors.Is(err, io.EOF) {
		err = fmt.Errorf("%w: %w", errBroken, err)
	}
	return n, err
}

func (s *server) upload(ctx context.Context, in *uploadInput) (*body[Upload], error) {
	u, err := s.uploads.hold(ctx, func(to io.Writer) (string, string, error) {
		n, err := io.Copy(to, io.LimitReader(in.body, files.MaxFile+1))
		if err == nil && n > files.MaxFile {
			err = fmt.Errorf("%w: it is larger than %d GiB; cut it into several", files.ErrFile, files.MaxFile>>30)
		}
		return in.Name, in.kind, err
	})
	return &body[Upload]{u}, problem(err)
}

func (s *server) uploadLink(ctx context.Context, in *struct {
	Body struct {
		Link string `json:"link" minLength:"1" maxLength:"4000"`
	}
}) (*body[Upload], error) {
	u, err := s.uploads.hold(
		ctx, func(to io.Writer) (string, string, error) { return files.Fetch(ctx, in.Body.Link, s.privateFetch, to) },
	)
	return &body[Upload]{u}, problem(err)
}

// Preview is the beginning of a file as a recipe reads it, with what its columns seem to be.
type Preview struct {
	Columns []survey.Guess `json:"columns"`
	Head    [][]string     `json:"head" doc:"the first rows"`
	Rows    int            `json:"rows" doc:"rows looked at"`
	Whole   bool           `json:"whole" doc:"these are all rows"`
	Notes   files.Notes    `json:"notes" doc:"of the rows looked at"`
	Problem string         `json:"problem,omitempty" doc:"why it can't be read so"`
}

// How much of a file a preview looks at.
const (
	guessFrom = 5000
	headRows  = 8
)

func (s *server) previewUpload(ctx context.Context, in *struct {
	Upload string `path:"upload"`
	Body   files.Recipe
}) (*body[Preview], error) {
	from, err := s.uploads.source(in.Upload, &in.Body)
	if err != nil {
		return nil, problem(err)
	}
	p := Preview{Columns: []survey.Guess{}, Head: [][]string{}}
	t, err := from.Table(ctx, guessFrom)
	switch {
	case errors.Is(err, files.ErrFile): // a setting that does not fit is said where it is made
		p.Problem = sentence(err.Error())
	case err != nil:
		return nil, problem(err)
	case len(t.Rows) == 0:
		p.Problem = "There are no rows below the header."
	default:
		p.Columns, p.Notes = intake.Guesses(t), t.Notes
		p.Head, p.Rows, p.Whole = t.Rows[:min(headRows, len(t.Rows))], len(t.Rows), len(t.Rows) < guessFrom
	}
	return &body[Preview]{p}, nil
}
