package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"sync/atomic"
	"time"

	"golang.org/x/sync/semaphore"

	"aftermath/core/scheme"
	"aftermath/internal/desk/earlier"
	"aftermath/internal/desk/state"
	"aftermath/internal/store"
	"aftermath/internal/view/effect"
)

// Question is an open question.
type Question struct {
	ID      int64
	StudyID int64

	desk   *Desk
	edit   *semaphore.Weighted // held by the edit that is being made
	closed bool                // opened anew elsewhere, or not open any more: no more edits here; guarded by edit
	used   time.Time           // guarded by the desk
	state  atomic.Pointer[state.State]
}

// errClosed is behind the refusal of an edit by a question that is not open any more: it is to be opened anew.
var errClosed = errors.New("the question is not open any more")

// State gives the current state.
func (q *Question) State() *state.State { return q.state.Load() }

func (q *Question) links() state.Links {
	return state.Links{Earlier: q.earlier, EarlierText: q.earlierText, Sibling: q.sibling, Progress: func(what string) func(done int) {
		return func(done int) {
			total := 0
			if s := q.State(); s != nil {
				total = len(s.Answers)
			}
			q.desk.Events.Send(Event{Kind: "progress", Question: q.ID, What: what, Done: done, Total: max(total, done)})
		}
	}}
}

// sibling is the state of another question of the study, by its name.
func (q *Question) sibling(ctx context.Context, name string) (*state.State, error) {
	all, err := q.desk.store.Questions(ctx, q.StudyID)
	if err != nil {
		return nil, err
	}
	study, err := q.desk.Study(ctx, q.StudyID)
	if err != nil {
		return nil, err
	}
	for _, other := range all {
		if other.Column < len(study.Columns) && study.Columns[other.Column].Named(name) {
			one, err := q.desk.Question(ctx, other.ID)
			if err != nil {
				return nil, err
			}
			return one.State(), nil
		}
	}
	return nil, fmt.Errorf("%w: the study has no question %q any more", state.ErrRequest, name)
}

func schemeOf(r store.Question, d scheme.Decisions) scheme.Scheme {
	return scheme.Scheme{Playbook: r.Scheme, Decisions: d, LastKey: r.LastKey}
}

// close ends edits here, when the one that is being made is over, and lets the question be opened anew.
func (q *Question) close() {
	_ = q.edit.Acquire(context.Background(), 1) // that never ends
	defer q.edit.Release(1)
	q.closeLocked()
}

// tryClose is close, unless an edit is being made.
func (q *Question) tryClose() bool {
	if !q.edit.TryAcquire(1) {
		return false
	}
	defer q.edit.Release(1)
	q.closeLocked()
	return true
}

func (q *Question) closeLocked() {
	q.closed = true
	q.desk.forget(q)
	q.State().LetGo(nil)
}

// nextKey names a next state by the patch that leads to it.
type nextKey struct{ patch string }

// Most: a next state may hold a second reading of all answers.
func (nextKey) Most() int { return 1 }

// work works an edit out on a state. What a preview has worked out of the same change is used again.
func (q *Question) work(ctx context.Context, before *state.State, e scheme.Edit) (scheme.Change, *state.State, error) {
	c, err := scheme.Apply(ctx, before.Scheme, e, q.situation(ctx, before))
	if err != nil {
		return c, nil, err
	}
	next, err := q.next(ctx, before, c.Scheme, c.Redo)
	return c, next, err
}

// next gives the state under another scheme that a patch leads to.
func (q *Question) next(ctx context.Context, before *state.State, to scheme.Scheme, patch scheme.Patch) (*state.State, error) {
	masking, err := q.maskingUnder(ctx, before, to)
	if err != nil {
		return nil, err
	}
	key, err := json.Marshal(patch)
	if err != nil {
		return nil, err
	}
	return state.Remember(ctx, before.Memo, nextKey{string(key)}, func(ctx context.Context) (*state.State, error) {
		return before.WithMasking(ctx, masking, to, patch.Touches())
	})
}

// situation is what an edit may ask about the question, and about others.
func (q *Question) situation(ctx context.Context, s *state.State) scheme.Situation {
	return scheme.Situation{View: s.View, Coding: s.Coding, Rows: s.Study.Rows, By: Maker(ctx), Day: time.Now().Format(time.DateOnly),
		Question: func(id int64) (scheme.Scheme, error) {
			other, err := q.desk.Question(ctx, id)
			if err != nil {
				return scheme.Scheme{}, err
			}
			return other.State().Scheme, nil
		},
		State: func(ref string) (scheme.Scheme, string, error) {
			then, err := q.past(ctx, s, ref)
			return then.scheme, then.name, err
		}}
}

// Preview works out an edit without keeping it: the effect is what keeping it now would have.
func (d *Desk) Preview(ctx context.Context, question int64, e scheme.Edit) (effect.Effect, error) {
	q, err := d.Question(ctx, question)
	if err != nil {
		return effect.Effect{}, err
	}
	before := q.State()
	c, next, err := q.work(ctx, before, e)
	if err != nil {
		return effect.Effect{}, err
	}
	return effect.Of(ctx, before, next, c.Summary)
}

// onOpen does something with an open question. One that was let go of in the meantime is opened again.
func onOpen[T any](ctx context.Context, d *Desk, question int64, do func(q *Question) (T, error)) (T, error) {
	for {
		q, err := d.Question(ctx, question)
		if err != nil {
			var none T
			return none, err
		}
		out, err := do(q)
		if !errors.Is(err, errClosed) {
			return out, err
		}
	}
}

// Edit makes an edit on the revision that the caller has seen, and keeps it. It fails with ErrConflict if the question is at
// another revision by now.
func (d *Desk) Edit(ctx context.Context, question int64, revision int, e scheme.Edit) (effect.Effect, error) {
	return onOpen(ctx, d, question, func(q *Question) (effect.Effect, error) {
		out, err := q.make(ctx, revision, e)
		if err == nil {
			err = d.settle(ctx, q)
		}
		return out, err
	})
}

func (q *Question) make(ctx context.Context, revision int, e scheme.Edit) (effect.Effect, error) {
	if err := q.edit.Acquire(ctx, 1); err != nil {
		return effect.Effect{}, err
	}
	defer q.edit.Release(1)
	before := q.State()
	switch {
	case q.closed:
		return effect.Effect{}, errClosed
	case revision != before.Revision:
		return effect.Effect{}, ErrConflict
	}
	c, next, err := q.work(ctx, before, e)
	if err != nil {
		return effect.Effect{}, err
	}
	out, err := effect.Of(ctx, before, next, c.Summary)
	if err != nil {
		return out, err
	}
	entry := &store.Entry{StudyID: q.StudyID, Summary: c.Summary, By: Maker(ctx)}
	var errs [3]error
	entry.Edit, errs[0] = json.Marshal(scheme.Any{Edit: e})
	entry.Undo, errs[1] = json.Marshal(c.Undo)
	entry.Redo, errs[2] = json.Marshal(c.Redo)
	if err := errors.Join(errs[:]...); err != nil {
		return out, err
	}
	if err := q.keep(ctx, before, next, store.Change{Entry: entry, Marks: c.Redo.Decisions}); err != nil {
		return out, err
	}
	out.Revision, out.Edit = q.State().Revision, entry.ID
	out.History, err = q.desk.History(ctx, q)
	return out, err
}

// mark undoes an edit of the question, or does it again.
func (q *Question) mark(ctx context.Context, e store.Entry, undone bool) (effect.Effect, error) {
	if err := q.edit.Acquire(ctx, 1); err != nil {
		return effect.Effect{}, err
	}
	defer q.edit.Release(1)
	if q.closed {
		return effect.Effect{}, errClosed
	}
	// From here on no other edit comes in between, so the patch leads from or to the present state.
	if _, err := q.desk.isNext(ctx, q, e.ID, undone); err != nil {
		return effect.Effect{}, err
	}
	before := q.State()
	data := e.Redo
	if undone {
		data = e.Undo
	}
	patch, err := earlier.Patch(data)
	if err != nil {
		return effect.Effect{}, fmt.Errorf("edit %d: %w", e.ID, err)
	}
	to := before.Scheme.Patched(patch)
	next, err := q.next(ctx, before, to, patch)
	if err != nil {
		return effect.Effect{}, err
	}
	out, err := effect.Of(ctx, before, next, marked(e, undone))
	if err != nil {
		return out, err
	}
	m := &store.Mark{Entry: e, Question: q.ID, Undone: undone}
	if undone && e.Redo == nil {
		if m.Redo, err = json.Marshal(scheme.Diff(to, before.Scheme)); err != nil {
			return out, err
		}
	}
	if err := q.keep(ctx, before, next, store.Change{Mark: m, Marks: patch.Decisions}); err != nil {
		return out, err
	}
	out.Revision, out.Edit = q.State().Revision, e.ID
	return out, nil
}

// keep stores what leads from one state to the next, and makes that the current one.
func (q *Question) keep(ctx context.Context, before, next *state.State, write store.Change) error {
	write.Question = store.Question{
		ID: q.ID, Revision: before.Revision, Scheme: next.Scheme.Playbook, LastKey: next.Scheme.LastKey, Figures: figures(next),
	}
	// Once begun, storing is not given up half-way. If what the database holds is another thing than what is here, or nobody
	// knows whether it is, the question is opened anew from there.
	revision, err := q.desk.store.Keep(context.WithoutCancel(ctx), write)
	if err != nil {
		if errors.Is(err, store.ErrUncertain) || errors.Is(err, store.ErrConflict) || ProblemOf(err) == NotThere {
			q.closeLocked()
		}
		return err
	}
	q.put(next.At(revision))
	q.desk.Events.Send(Event{Kind: "edit", Question: q.ID, Revision: revision})
	return nil
}

// put makes a state the current one, and lets go of what was worked out in the background of the one before.
func (q *Question) put(next *state.State) {
	q.state.Swap(next).LetGo(next)
}
