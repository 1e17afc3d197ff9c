// Package desk opens studies and questions, each once, and takes edits of them: one after the other, each kept before it is
// shown, each to be undone. What views ask for is worked out by the report packages on one unchanging state.
package desk

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"sync/atomic"
	"time"

	"golang.org/x/sync/semaphore"
	"golang.org/x/sync/singleflight"

	"aftermath/core/parallel"
	"aftermath/internal/desk/state"
	"aftermath/internal/store"
)

// Desk opens studies and questions.
type Desk struct {
	Events *Hub
	// Free says how many bytes are left on the disk of the database; nil where that is not known.
	Free func() (uint64, error)

	// MostAnswers is how many answers the open questions may hold together before those used longest ago are let go of.
	MostAnswers int
	// MostRestored is how many bytes a back-up may unpack to; 0: as many as are free on the disk of the database.
	MostRestored int64
	// KeptAside is how long a deleted study can be restored.
	KeptAside time.Duration

	store    *store.Store
	trouble  atomic.Pointer[Trouble]
	backedUp atomic.Pointer[BackedUp]

	opening   singleflight.Group
	mu        sync.Mutex // held for moments only
	studies   map[int64]*openStudy
	questions map[int64]*Question
	setups    map[int64]*semaphore.Weighted // by study: held by the edit of its setup that is being made
}

// openStudy is a study in memory.
type openStudy struct {
	*state.Study
	used time.Time
}

// New makes a desk on a store.
func New(s *store.Store) *Desk {
	return &Desk{
		Events:      NewHub(),
		MostAnswers: 2_500_000,
		KeptAside:   30 * 24 * time.Hour,
		store:       s,
		studies:     map[int64]*openStudy{},
		questions:   map[int64]*Question{},
		setups:      map[int64]*semaphore.Weighted{},
	}
}

// Errors that callers branch on.
var (
	ErrNotFound = store.ErrNotFound
	ErrConflict = store.ErrConflict
	ErrNothing  = errors.New("there is nothing to undo or redo")
	ErrNewer    = errors.New("something else comes first")
	ErrBuiltOn  = errors.New("other questions have built on this")
)

// Problem says what kind of trouble with the database an error means.
type Problem int

// The kinds.
const (
	Other    Problem = iota
	Away             // it can't be reached
	Full             // the disk it is on is full
	ReadOnly         // it takes no writes
	Unstorable
	NotThere
)

// ProblemOf tells what kind of trouble with the database an error means.
func ProblemOf(err error) Problem {
	switch {
	case store.Full(err):
		return Full
	case store.Away(err):
		return Away
	case store.ReadOnly(err):
		return ReadOnly
	case store.Unstorable(err):
		return Unstorable
	case store.NotThere(err):
		return NotThere
	}
	return Other
}

// together opens something once for all who ask at the same time. Each waits for as long as it wants to; opening goes on for the
// others.
func together[T any](ctx context.Context, d *Desk, key string, open func(ctx context.Context) (T, error)) (T, error) {
	done := d.opening.DoChan(key, func() (out any, err error) {
		if p := parallel.Caught(func() { out, err = open(context.WithoutCancel(ctx)) }); p != nil {
			return nil, p
		}
		return out, err
	})
	var none T
	select {
	case r := <-done:
		if r.Err != nil {
			return none, r.Err
		}
		return r.Val.(T), nil
	case <-ctx.Done():
		return none, ctx.Err()
	}
}

// Study opens a study.
func (d *Desk) Study(ctx context.Context, id int64) (*state.Study, error) {
	if s := d.openedStudy(id); s != nil {
		return s, nil
	}
	return together(ctx, d, fmt.Sprint("study ", id), func(ctx context.Context) (*state.Study, error) {
		if s := d.openedStudy(id); s != nil {
			return s, nil
		}
		record, err := d.store.Study(ctx, id)
		if err != nil {
			return nil, err
		}
		cells, err := d.store.Columns(ctx, record)
		if err != nil {
			return nil, err
		}
		masking, err := d.Masking(ctx, id)
		if err != nil {
			return nil, err
		}
		study, err := state.NewStudy(setupOf(record), cells, masking, nil)
		if err != nil {
			return nil, err
		}
		d.mu.Lock()
		defer d.mu.Unlock()
		if d.studies[id] == nil {
			d.studies[id] = &openStudy{study, time.Now()}
		}
		return d.studies[id].Study, nil
	})
}

func (d *Desk) openedStudy(id int64) *state.Study {
	d.mu.Lock()
	defer d.mu.Unlock()
	s := d.studies[id]
	if s == nil {
		return nil
	}
	s.used = time.Now()
	return s.Study
}

func setupOf(r store.Study) state.Setup {
	return state.Setup{ID: r.ID, Name: r.Name, Revision: r.Revision, Rows: r.Rows, Columns: r.Columns, Derived: r.Derived, Under: r.Under}
}

// Question opens a question: reads its answers, applies its lexicon and codes it.
func (d *Desk) Question(ctx context.Context, id int64) (*Question, error) {
	if q := d.opened(id); q != nil {
		return q, nil
	}
	return together(ctx, d, fmt.Sprint("question ", id), func(ctx context.Context) (*Question, error) {
		for {
			if q := d.opened(id); q != nil {
				return q, nil
			}
			q, study, err := d.read(ctx, id)
			if err != nil {
				return nil, err
			}
			if d.take(q, study) {
				d.makeRoom(q)
				return q, nil
			}
		}
	})
}

// read reads a question from the store.
func (d *Desk) read(ctx context.Context, id int64) (*Question, *state.Study, error) {
	record, err := d.store.Question(ctx, id)
	if err != nil {
		return nil, nil, err
	}
	study, err := d.Study(ctx, record.StudyID)
	if err != nil {
		return nil, nil, err
	}
	if record.Column >= len(study.Columns) { // it came with a file whose addition was undone
		return nil, nil, ErrNotFound
	}
	made, err := d.store.Decisions(ctx, id)
	if err != nil {
		return nil, nil, err
	}
	q := &Question{ID: id, StudyID: study.ID, desk: d, edit: semaphore.NewWeighted(1)}
	of := state.Question{ID: id, Name: study.Columns[record.Column].Name, Column: record.Column}
	begun, err := state.Begin(ctx, of, study, record.Revision, schemeOf(record, made), q.links())
	if err != nil {
		return nil, nil, err
	}
	q.state.Store(begun)
	if f := figures(begun); record.Figures == nil || *record.Figures != *f {
		d.keepFigures(ctx, id, *f)
	}
	return q, study, nil
}

// keepFigures keeps the figures of a question for lists. Who only reads needs no database that takes writes: lists do without them then.
func (d *Desk) keepFigures(ctx context.Context, question int64, f store.Figures) {
	if err := d.store.KeepFigures(context.WithoutCancel(ctx), question, f); err != nil {
		slog.Warn("figures for lists were not kept", "question", question, "error", err)
	}
}

// take puts a question among the open ones. It refuses one that was read of a study which has changed in the meantime.
func (d *Desk) take(q *Question, study *state.Study) bool {
	d.mu.Lock()
	defer d.mu.Unlock()
	if s := d.studies[study.ID]; s == nil || s.Study != study {
		return false
	}
	q.used = time.Now()
	d.questions[q.ID] = q
	return true
}

// InMemory counts the questions that are open, and their answers.
func (d *Desk) InMemory() (questions, answers int) {
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, q := range d.questions {
		answers += len(q.State().Answers)
	}
	return len(d.questions), answers
}

// opened gives a question if it is open.
func (d *Desk) opened(id int64) *Question {
	d.mu.Lock()
	defer d.mu.Unlock()
	q := d.questions[id]
	if q != nil {
		q.used = time.Now()
	}
	return q
}

// openQuestions lists the open questions of a study.
func (d *Desk) openQuestions(study int64) (out []*Question) {
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, q := range d.questions {
		if q.StudyID == study {
			out = append(out, q)
		}
	}
	return out
}

// forget lets a question be opened anew. It must not be open for edits any more.
func (d *Desk) forget(q *Question) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.questions[q.ID] == q {
		delete(d.questions, q.ID)
	}
}

// forgetStudy lets a study and its questions be opened anew.
func (d *Desk) forgetStudy(id int64) {
	for _, q := range d.openQuestions(id) {
		q.close()
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	delete(d.studies, id)
}

// AnswerSize is about how much memory an answer of a usual length takes with its index, in bytes.
const AnswerSize = 1300

// makeRoom lets go of questions that were used longest ago, where the open ones are too many together with a new one.
func (d *Desk) makeRoom(but *Question) {
	for {
		d.mu.Lock()
		total := 0
		var oldest *Question
		for _, q := range d.questions {
			total += len(q.State().Answers)
			if q != but && (oldest == nil || q.used.Before(oldest.used)) {
				oldest = q
			}
		}
		d.mu.Unlock()
		if total <= d.MostAnswers || oldest == nil || !oldest.tryClose() {
			return
		}
	}
}

// LetGo lets go of the questions and studies that nobody has used for so long. They are opened again when they are asked for.
func (d *Desk) LetGo(idle time.Duration) {
	before := time.Now().Add(-idle)
	d.mu.Lock()
	var old []*Question
	for _, q := range d.questions {
		if q.used.Before(before) {
			old = append(old, q)
		}
	}
	d.mu.Unlock()
	for _, q := range old {
		q.tryClose()
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	used := map[int64]bool{}
	for _, q := range d.questions {
		used[q.StudyID] = true
	}
	for id, s := range d.studies {
		if !used[id] && s.used.Before(before) {
			delete(d.studies, id)
		}
	}
}

// setup is the lock of a study's setup.
func (d *Desk) setup(study int64) *semaphore.Weighted {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.setups[study] == nil {
		d.setups[study] = semaphore.NewWeighted(1)
	}
	return d.setups[study]
}
