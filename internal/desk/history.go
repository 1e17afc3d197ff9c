package desk

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"time"

	"aftermath/internal/store"
)

// History is what undo and redo would do. They go through the edits of the question and of its study as one list, in the
// order of time.
type History struct {
	Undo      string `json:"undo,omitempty" doc:"what undo would take back"`
	Redo      string `json:"redo,omitempty"`
	Revisions int    `json:"revisions" doc:"edits of the question and its study that stand"`
}

// turn is the next step of undo or redo.
type turn struct {
	summary string
	study   bool // an edit of the study's setup; else of the question
	none    bool
}

// next finds what undo, or redo, would do next.
func (q *Question) next(ctx context.Context, again bool) (turn, error) {
	s := q.desk.Store
	mine, errMine := s.Undoable(ctx, q.ID)
	theirs, errTheirs := s.StudyUndoable(ctx, q.StudyID)
	none := func(err error) bool { return errors.Is(err, store.ErrNotFound) }
	if err := failed(errMine, errTheirs); err != nil {
		return turn{}, err
	}
	if !again {
		t := turn{summary: mine.Summary}
		switch {
		case none(errMine) && none(errTheirs):
			t.none = true
		case none(errMine) || !none(errTheirs) && theirs.At.After(mine.At):
			t.summary, t.study = theirs.Summary, true
		}
		return t, nil
	}
	var newest time.Time // of what stands
	if !none(errMine) {
		newest = mine.At
	}
	if !none(errTheirs) && theirs.At.After(newest) {
		newest = theirs.At
	}
	mine, errMine = s.Redoable(ctx, q.ID)
	theirs, errTheirs = s.StudyRedoable(ctx, q.StudyID)
	if err := failed(errMine, errTheirs); err != nil {
		return turn{}, err
	}
	// An edit that was made after something was undone ends the way back to that.
	canMine, canTheirs := errMine == nil && mine.At.After(newest), errTheirs == nil && theirs.At.After(newest)
	switch {
	case canMine && (!canTheirs || mine.At.Before(theirs.At)):
		return turn{summary: mine.Summary}, nil
	case canTheirs:
		return turn{summary: theirs.Summary, study: true}, nil
	}
	return turn{none: true}, nil
}

// failed gives the first error that is not about something that is not there.
func failed(errs ...error) error {
	for _, err := range errs {
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
	}
	return nil
}

// History gives what undo and redo would do.
func (q *Question) History(ctx context.Context) (History, error) {
	back, err := q.next(ctx, false)
	if err != nil {
		return History{}, err
	}
	on, err := q.next(ctx, true)
	if err != nil {
		return History{}, err
	}
	standing, err := q.desk.Store.Standing(ctx, q.ID, q.StudyID)
	return History{Undo: back.summary, Redo: on.summary, Revisions: standing}, err
}

// Undo takes the newest edit of the question or of its study back; with again, the one that was undone last is done again.
// ErrNothing if there is none.
func (q *Question) Undo(ctx context.Context, again bool) (Effect, error) {
	next, err := q.next(ctx, again)
	if err != nil {
		return Effect{}, err
	}
	if next.none {
		return Effect{}, ErrNothing
	}
	if !next.study {
		return q.undo(ctx, again)
	}
	before := q.State()
	summary, err := q.desk.undoStudy(ctx, q.StudyID, again)
	if err != nil {
		return Effect{}, err
	}
	now, err := q.desk.Question(ctx, q.ID) // it may have been opened anew
	if err != nil {
		return Effect{}, err
	}
	return effect(before, now.State(), summary), nil
}

// RevisionInfo is an edit that was kept.
type RevisionInfo struct {
	Number  int       `json:"number"`
	Summary string    `json:"summary"`
	Study   bool      `json:"study,omitempty" doc:"of the study's columns"`
	Undone  bool      `json:"undone,omitempty"`
	At      time.Time `json:"at"`
}

// Revisions lists the newest edits of the question and of its study, the newest first.
func (q *Question) Revisions(ctx context.Context, limit int) ([]RevisionInfo, error) {
	mine, err := q.desk.Store.Revisions(ctx, q.ID, limit)
	if err != nil {
		return nil, err
	}
	theirs, err := q.desk.Store.StudyEdits(ctx, q.StudyID, limit)
	if err != nil {
		return nil, err
	}
	out := []RevisionInfo{}
	for _, r := range mine {
		out = append(out, RevisionInfo{r.Number, r.Summary, false, r.Undone, r.At})
	}
	for _, e := range theirs {
		out = append(out, RevisionInfo{e.Number, e.Summary, true, e.Undone, e.At})
	}
	slices.SortStableFunc(out, func(a, b RevisionInfo) int { return cmp.Or(b.At.Compare(a.At), b.Number-a.Number) })
	return out[:min(limit, len(out))], nil
}
