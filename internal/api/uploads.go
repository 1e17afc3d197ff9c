package api

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"io"
	"os"
	"strconv"
	"sync"
	"syscall"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"golang.org/x/sync/semaphore"

	"aftermath/core/survey"
	"aftermath/internal/desk/intake"
	"aftermath/internal/desk/state"
	"aftermath/internal/files"
	"aftermath/internal/pg"
)

// uploads holds the files that were brought in and are not loaded yet, on disk. A file is known by a name that nobody can
// guess, and makes room only for newer ones of who sent it.
type uploads struct {
	dir     string // the folder for temporary files if empty
	reading *semaphore.Weighted
	// free is how many bytes are left on the disk of the folder.
	free func() (uint64, error)

	mu    sync.Mutex
	files map[string]*heldFile
}

type heldFile struct {
	path  string
	size  int64
	owner string
	since time.Time
	guess files.Recognised
}

// KeptUploads is how many files of one sender wait to be loaded: the newest.
const KeptUploads = 6

// Limits of what waits to be loaded.
const (
	allUploads = 16 << 30       // bytes of all together
	uploadsFor = 24 * time.Hour // how long they are kept
	readAtOnce = 4              // files that are looked into at the same time; others wait
	readWithin = 2 * time.Minute
)

func newUploads(dir string, free func() (uint64, error)) *uploads {
	if free == nil {
		free = func() (uint64, error) { return pg.FreeIn(cmp.Or(dir, os.TempDir())) }
	}
	return &uploads{dir: dir, reading: semaphore.NewWeighted(readAtOnce), free: free, files: map[string]*heldFile{}}
}

// What arrives leaves so much of the disk free, and is looked after whenever so much more has come.
const (
	spaceLeft  = 256 << 20
	spaceAsked = 8 << 20
)

// fits fails where so many bytes more, or with 0 any, would fill the disk.
func (u *uploads) fits(size int64) error {
	free, err := u.free()
	if err != nil {
		return err
	}
	if free < uint64(max(size, 0))+spaceLeft {
		return fmt.Errorf("%w: %d MB are left for files that come in, and %d MB stay free", syscall.ENOSPC, free>>20, spaceLeft>>20)
	}
	return nil
}

// receive makes a file of what arrives, as long as there is room for it; size is how much it is said to be, 0 or less where nobody
// said. A file that does not arrive whole is deleted.
func (u *uploads) receive(size int64, write func(to io.Writer) error) (path string, received int64, err error) {
	if err := u.fits(size); err != nil {
		return "", 0, err
	}
	f, err := os.CreateTemp(u.dir, "upload-")
	if err != nil {
		return "", 0, err
	}
	to := &spaced{to: f, fits: u.fits}
	if err = errors.Join(write(to), f.Close()); err != nil {
		return "", 0, errors.Join(err, os.Remove(f.Name()))
	}
	return f.Name(), to.received, nil
}

// spaced writes as long as there is room.
type spaced struct {
	to                 io.Writer
	fits               func(size int64) error
	received, askedFor int64
}

func (s *spaced) Write(p []byte) (int, error) {
	if s.received-s.askedFor >= spaceAsked {
		if err := s.fits(0); err != nil {
			return 0, err
		}
		s.askedFor = s.received
	}
	n, err := s.to.Write(p)
	s.received += int64(n)
	return n, err
}

// read looks into a file when its turn comes, for a bounded time.
func (u *uploads) read(ctx context.Context, look func(ctx context.Context) error) error {
	if err := u.reading.Acquire(ctx, 1); err != nil {
		return err
	}
	defer u.reading.Release(1)
	within, cancel := context.WithTimeout(ctx, readWithin)
	defer cancel()
	err := look(within)
	if within.Err() != nil && ctx.Err() == nil {
		return fmt.Errorf("%w: looking into it takes longer than %v; save it as CSV, or cut it into several", files.ErrFile, readWithin)
	}
	return err
}

// hold writes a file to disk and guesses how it is read. Write gives its name and media type.
func (u *uploads) hold(
	ctx context.Context, owner string, size int64, write func(to io.Writer) (name, kind string, err error),
) (out Upload, err error) {
	if err := u.room(); err != nil {
		return Upload{}, err
	}
	var name, kind string
	path, received, err := u.receive(size, func(to io.Writer) (err error) {
		name, kind, err = write(to)
		return err
	})
	if err != nil {
		return Upload{}, err
	}
	held := &heldFile{path: path, size: received, owner: owner, since: time.Now()}
	err = u.read(ctx, func(ctx context.Context) (err error) {
		held.guess, err = files.Recognise(ctx, path, name, kind)
		return err
	})
	if err != nil {
		return Upload{}, errors.Join(err, os.Remove(path))
	}
	return Upload{ID: u.put(held), Name: name, Bytes: held.size, Guess: held.guess, Encodings: files.Encodings()}, nil
}

// room lets go of the files that were kept long enough, and refuses another one where all together are too large.
func (u *uploads) room() error {
	u.mu.Lock()
	defer u.mu.Unlock()
	all := int64(0)
	for id, f := range u.files {
		if time.Since(f.since) > uploadsFor {
			u.remove(id)
			continue
		}
		all += f.size
	}
	if all > allUploads {
		return fmt.Errorf(
			"%w: files of %d GiB wait to be loaded already; nothing was taken; load or leave some of them, or try again tomorrow",
			state.ErrRequest, all>>30,
		)
	}
	return nil
}

// put takes a file in, in the place of the oldest of its sender where there are too many, and gives its name.
func (u *uploads) put(f *heldFile) string {
	u.mu.Lock()
	defer u.mu.Unlock()
	id := rand.Text()
	u.files[id] = f
	oldest, n := "", 0
	for id, other := range u.files {
		if other.owner != f.owner {
			continue
		}
		if n++; oldest == "" || other.since.Before(u.files[oldest].since) {
			oldest = id
		}
	}
	if n > KeptUploads {
		u.remove(oldest)
	}
	return id
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
}

// Upload is a file that was brought in, with how it seems to be read.
type Upload struct {
	ID        string           `json:"id"`
	Name      string           `json:"name"`
	Bytes     int64            `json:"bytes"`
	Guess     files.Recognised `json:"guess"`
	Encodings []string         `json:"encodings" doc:"those that text can be read in"`
}

// sender is who sends a file: an account, or, where there are none, what they call themselves and from where.
type sender struct{ from string }

// Resolve keeps it for the handler.
func (s *sender) Resolve(ctx huma.Context) []error {
	if w := whoAsks(ctx.Context()); w.on {
		s.from = fmt.Sprint("account ", w.ID())
		return nil
	}
	s.from = fmt.Sprintf("%s at %s", ctx.Header(MadeByHeader), clientOf(ctx))
	return nil
}

// uploadInput takes the body as a stream, past huma's own limits.
type uploadInput struct {
	Name string `query:"name" doc:"what the file is called; its ending helps to tell what it is"`
	body io.Reader
	kind string
	size int64 // as the sender says; 0 where they do not
	sent sender
}

// Resolve keeps the body for the handler.
func (i *uploadInput) Resolve(ctx huma.Context) []error {
	_ = i.sent.Resolve(ctx)
	i.body, i.kind = arriving{ctx.BodyReader(), ctx.SetReadDeadline}, ctx.Header("Content-Type")
	i.size, _ = strconv.ParseInt(ctx.Header("Content-Length"), 10, 64)
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
	u, err := s.uploads.hold(ctx, in.sent.from, in.size, func(to io.Writer) (string, string, error) {
		n, err := io.Copy(to, io.LimitReader(in.body, files.MaxFile+1))
		if err == nil && n > files.MaxFile {
			err = fmt.Errorf("%w: it is larger than %d GiB; cut it into several", files.ErrFile, files.MaxFile>>30)
		}
		return in.Name, in.kind, err
	})
	return &body[Upload]{u}, problem(err)
}

type linkInput struct {
	sent sender
	Body struct {
		Link string `json:"link" minLength:"1" maxLength:"4000"`
	}
}

// Resolve keeps who sends it for the handler.
func (i *linkInput) Resolve(ctx huma.Context) []error { return i.sent.Resolve(ctx) }

func (s *server) uploadLink(ctx context.Context, in *linkInput) (*body[Upload], error) {
	u, err := s.uploads.hold(
		ctx, in.sent.from, 0, func(to io.Writer) (string, string, error) { return files.Fetch(ctx, in.Body.Link, s.privateFetch, to) },
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
	var t *files.Table
	err = s.uploads.read(ctx, func(ctx context.Context) (err error) {
		t, err = from.Table(ctx, guessFrom)
		return err
	})
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
