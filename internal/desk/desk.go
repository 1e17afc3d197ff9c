// Package desk keeps the live state of open questions: corpus, lexicon and coding, kept current by edits. Readers get
// one unchanging State; an edit makes the next.
package desk

import (
	"context"
	"errors"
	"runtime"
	"sync"
	"sync/atomic"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/core/terms"
	"aftermath/internal/store"
)

// Desk opens studies and questions, each once.
type Desk struct {
	Store  *store.Store
	Events *Hub

	setup     sync.Mutex // held by the edit of a study's setup that is being made
	mu        sync.Mutex
	studies   map[int64]*opening[*Study]
	questions map[int64]*opening[*Question]
}

// New makes a desk on a store.
func New(s *store.Store) *Desk {
	return &Desk{Store: s, Events: NewHub(), studies: map[int64]*opening[*Study]{}, questions: map[int64]*opening[*Question]{}}
}

// opening lets several callers wait for one opening; a failed one may be tried again.
type opening[T any] struct {
	mu    sync.Mutex
	done  bool
	value T
}

func (o *opening[T]) get(open func() (T, error)) (T, error) {
	o.mu.Lock()
	defer o.mu.Unlock()
	if o.done {
		return o.value, nil
	}
	value, err := open()
	if err == nil {
		o.value, o.done = value, true
	}
	return value, err
}

// put sets the value, for those who come after.
func (o *opening[T]) put(value T) {
	o.mu.Lock()
	defer o.mu.Unlock()
	o.value, o.done = value, true
}

// opened gives the value if it is there.
func (o *opening[T]) opened() (value T, ok bool) {
	o.mu.Lock()
	defer o.mu.Unlock()
	return o.value, o.done
}

func slot[T any](d *Desk, in map[int64]*opening[T], id int64) *opening[T] {
	d.mu.Lock()
	defer d.mu.Unlock()
	if in[id] == nil {
		in[id] = &opening[T]{}
	}
	return in[id]
}

// Errors that callers branch on.
var (
	ErrRequest = errors.New("this can't be done")
	ErrNothing = errors.New("there is nothing to undo or redo")
)

// DeleteStudy deletes a study and forgets it.
func (d *Desk) DeleteStudy(ctx context.Context, id int64) error {
	questions, err := d.Store.Questions(ctx, id)
	if err != nil {
		return err
	}
	if err := d.Store.DeleteStudy(ctx, id); err != nil {
		return err
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	delete(d.studies, id)
	for _, q := range questions {
		delete(d.questions, q.ID)
	}
	return nil
}

// forget lets a question be opened anew.
func (d *Desk) forget(question int64) {
	d.mu.Lock()
	defer d.mu.Unlock()
	delete(d.questions, question)
}

// Question is an open question.
type Question struct {
	ID      int64
	StudyID int64
	Name    string   // the question's own words: its column's name
	Answers []string // the originals, by respondent

	desk   *Desk
	column int
	edit   sync.Mutex // held by the edit that is being made
	closed bool       // opened anew elsewhere: no more edits here; guarded by edit
	state  atomic.Pointer[State]
	cache  focusCache
	tables countedCache
	places placesCache
	tried  trial
	past   pastCache
}

// State is a question at one revision. It does not change once made.
type State struct {
	Revision  int
	Study     *Study
	Playbook  playbook.Playbook
	Reading   playbook.Reading
	View      *lexicon.View
	Counter   *terms.Counter
	Coding    *frame.Coding
	Decisions frame.Decisions

	kept *kept // what was worked out of the reading, for as long as it stands
}

// State gives the current state.
func (q *Question) State() *State { return q.state.Load() }

// Answered is the number of answers that say something.
func (s *State) Answered() int { return int(s.Reading.Index.Answered().GetCardinality()) }

// Question opens a question: reads its answers, applies its lexicon and codes it.
func (d *Desk) Question(ctx context.Context, id int64) (*Question, error) {
	return slot(d, d.questions, id).get(func() (*Question, error) {
		// Once begun, opening goes on for whoever waits next, even if this caller goes away.
		ctx := context.WithoutCancel(ctx)
		record, err := d.Store.Question(ctx, id)
		if err != nil {
			return nil, err
		}
		study, err := d.Study(ctx, record.StudyID)
		if err != nil {
			return nil, err
		}
		if record.Column >= len(study.Columns) { // it came with a file whose addition was undone
			return nil, store.ErrNotFound
		}
		made, err := d.Store.Decisions(ctx, id)
		if err != nil {
			return nil, err
		}
		q := &Question{ID: id, StudyID: study.ID, desk: d, column: record.Column, Name: study.Columns[record.Column].Name, Answers: study.Cells[record.Column]}
		state := &State{Revision: record.Revision, Study: study, kept: &kept{}, Playbook: record.Scheme, Decisions: decisionsOf(made)}
		return q, q.begin(ctx, state)
	})
}

// Unstored opens a question of columns that are in memory and in no store: it can be asked, not edited. The playbook's own
// variables are not looked at.
func Unstored(ctx context.Context, columns []survey.Spec, cells [][]string, column int, p playbook.Playbook) (*Question, error) {
	record := store.Study{Setup: store.Setup{Columns: columns, Derived: p.Derived, Respondents: len(cells[column])}}
	study, err := newStudy(record, cells, nil)
	if err != nil {
		return nil, err
	}
	q := &Question{Name: columns[column].Name, Answers: cells[column], column: column}
	return q, q.begin(ctx, &State{Study: study, kept: &kept{}, Playbook: p, Decisions: frame.NewDecisions()})
}

// begin reads the answers, applies the lexicon and codes them.
func (q *Question) begin(ctx context.Context, s *State) (err error) {
	if s.Reading, err = s.Playbook.Read(ctx, q.Answers, runtime.GOMAXPROCS(0), q.progress("opening")); err != nil {
		return err
	}
	s.View = s.Playbook.View(s.Reading)
	s.Counter = terms.NewCounter(s.View, nil)
	s.Coding = s.Playbook.Code(s.View, q.Answers, s.Study.Variables, s.Decisions, nil)
	q.state.Store(s)
	return nil
}

// progress tells all windows how far long work on the question is.
func (q *Question) progress(what string) func(done int) {
	if len(q.Answers) < 20_000 || q.desk == nil {
		return nil
	}
	return func(done int) {
		q.desk.Events.Send(Event{Kind: "progress", Question: q.ID, What: what, Done: done, Total: len(q.Answers)})
	}
}

func decisionsOf(made []store.Decision) frame.Decisions {
	d := frame.NewDecisions()
	for _, x := range made {
		switch {
		case x.Category == "":
			d.Settled.Add(uint32(x.Number))
		case x.On:
			add(d.On, x.Category, x.Number)
		default:
			add(d.Off, x.Category, x.Number)
		}
	}
	return d
}

func add(to map[string]*roaring.Bitmap, category string, number int) {
	if to[category] == nil {
		to[category] = roaring.New()
	}
	to[category].Add(uint32(number))
}

// countWithout is the number of answers in a that are not in b.
func countWithout(a, b *roaring.Bitmap) int {
	return int(a.GetCardinality() - a.AndCardinality(b))
}
