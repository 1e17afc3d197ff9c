package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"aftermath/internal/desk/state"
	"aftermath/internal/store"
	"aftermath/internal/view/effect"
)

// History gives what undo and redo would do on the line of a question.
func (d *Desk) History(ctx context.Context, q *Question) (effect.History, error) {
	var out effect.History
	back, ok, err := d.store.NextUndo(ctx, q.StudyID, q.ID)
	if err != nil {
		return out, err
	}
	if ok {
		warning, err := d.builtOn(ctx, q, back)
		if err != nil {
			return out, err
		}
		out.Undo = &effect.HistoryStep{Edit: back.ID, Summary: back.Summary, Warning: warning}
	}
	on, ok, err := d.store.NextRedo(ctx, q.StudyID, q.ID)
	if err != nil {
		return out, err
	}
	if ok {
		out.Redo = &effect.HistoryStep{Edit: on.ID, Summary: on.Summary}
	}
	standing, err := d.store.Standing(ctx, q.StudyID, q.ID)
	out.Revisions = int(standing)
	return out, err
}

// builtOn says in words what undoing an edit of a study would take along from its other questions; nothing if there is none.
func (d *Desk) builtOn(ctx context.Context, q *Question, e store.Entry) (string, error) {
	if e.QuestionID != nil {
		return "", nil
	}
	ids, err := d.store.BuiltOn(ctx, e, q.ID)
	if err != nil || len(ids) == 0 {
		return "", err
	}
	all, err := d.store.Questions(ctx, q.StudyID)
	if err != nil {
		return "", err
	}
	var names []string
	columns := q.State().Study.Columns
	for _, other := range all {
		for _, id := range ids {
			if other.ID == id && other.Column < len(columns) {
				names = append(names, fmt.Sprintf("“%s”", columns[other.Column].Name))
			}
		}
	}
	return fmt.Sprintf(
		"%s was edited since. What was decided there on what goes away goes with it, and comes back if you redo this.",
		strings.Join(names, ", "),
	), nil
}

// Undo takes an edit back that is the newest of the question's line; if it is not, the error wraps ErrNewer. Where other
// questions have built on it, it has to be confirmed; the error wraps ErrBuiltOn.
func (d *Desk) Undo(ctx context.Context, question, edit int64, confirmed bool) (effect.Effect, error) {
	return onOpen(ctx, d, question, func(q *Question) (effect.Effect, error) {
		next, err := d.isNext(ctx, q, edit, true)
		if err != nil {
			return effect.Effect{}, err
		}
		warning, err := d.builtOn(ctx, q, next)
		if err == nil && warning != "" && !confirmed {
			err = fmt.Errorf("%w: %s", ErrBuiltOn, warning)
		}
		if err != nil {
			return effect.Effect{}, err
		}
		return d.mark(ctx, q, next, true)
	})
}

// Redo does an edit again that was undone last on the question's line; if another one was, the error wraps ErrNewer.
func (d *Desk) Redo(ctx context.Context, question, edit int64) (effect.Effect, error) {
	return onOpen(ctx, d, question, func(q *Question) (effect.Effect, error) {
		next, err := d.isNext(ctx, q, edit, false)
		if err != nil {
			return effect.Effect{}, err
		}
		return d.mark(ctx, q, next, false)
	})
}

// isNext gives the edit that was named, if it is the next one of its line to be undone or done again.
func (d *Desk) isNext(ctx context.Context, q *Question, named int64, undone bool) (store.Entry, error) {
	find, what := d.store.NextRedo, "done again"
	if undone {
		find, what = d.store.NextUndo, "undone"
	}
	next, ok, err := find(ctx, q.StudyID, q.ID)
	switch {
	case err != nil:
	case !ok:
		err = ErrNothing
	case next.ID != named:
		err = fmt.Errorf("%w: “%s” is to be %s first", ErrNewer, next.Summary, what)
	}
	return next, err
}

// mark undoes an edit of a line, or does it again.
func (d *Desk) mark(ctx context.Context, q *Question, e store.Entry, undone bool) (effect.Effect, error) {
	out, err := q.markAny(ctx, e, undone)
	if errors.Is(err, store.ErrNotNext) {
		err = fmt.Errorf("%w: another window was faster", ErrNewer)
	}
	if err != nil {
		return out, err
	}
	out.History, err = d.History(ctx, q)
	return out, err
}

// marked says in words what was done to an edit.
func marked(e store.Entry, undone bool) string {
	if undone {
		return "Undone: " + e.Summary
	}
	return "Done again: " + e.Summary
}

func (q *Question) markAny(ctx context.Context, e store.Entry, undone bool) (effect.Effect, error) {
	if e.QuestionID != nil {
		out, err := q.mark(ctx, e, undone)
		if err == nil {
			err = q.desk.settle(ctx, q)
		}
		return out, err
	}
	before := q.State()
	revision, err := q.desk.markStudy(ctx, q, e, undone)
	if err != nil {
		return effect.Effect{}, err
	}
	now, err := q.desk.Question(ctx, q.ID) // it may have been opened anew
	summary := marked(e, undone)
	if errors.Is(err, ErrNotFound) { // its column went with the edit
		return effect.Effect{Edit: e.ID, Summary: summary, StudyRevision: revision}, nil
	}
	if err != nil {
		return effect.Effect{}, err
	}
	out, err := effect.Of(ctx, before, now.State(), summary)
	out.Edit, out.StudyRevision = e.ID, revision
	return out, err
}

// markStudy undoes an edit of a study's setup, or does it again, and gives the revision of the study then.
func (d *Desk) markStudy(ctx context.Context, q *Question, e store.Entry, undone bool) (int, error) {
	mu := d.setup(q.StudyID)
	if err := mu.Acquire(ctx, 1); err != nil {
		return 0, err
	}
	defer mu.Release(1)
	data := e.Redo
	if undone {
		data = e.Undo
	}
	var to store.Setup
	if err := json.Unmarshal(data, &to); err != nil {
		return 0, fmt.Errorf("edit %d: %w", e.ID, err)
	}
	record, err := d.store.Study(ctx, q.StudyID)
	if err != nil {
		return 0, err
	}
	kept, err := d.store.MarkStudyEdit(context.WithoutCancel(ctx), record, store.Mark{Entry: e, Question: q.ID, Undone: undone}, to)
	if err != nil {
		d.forgetStudy(q.StudyID)
		return 0, err
	}
	return kept.Revision, d.renew(ctx, kept)
}

// RevisionInfo is an edit that was kept.
type RevisionInfo struct {
	Edit    int64     `json:"edit" doc:"its number in the history"`
	Number  int       `json:"number" doc:"of the revision, of the question or the study, that it made"`
	Summary string    `json:"summary"`
	By      string    `json:"by,omitempty" doc:"who made it, as they called themselves"`
	Study   bool      `json:"study,omitempty" doc:"of the study's columns"`
	Undone  bool      `json:"undone,omitempty"`
	Ended   bool      `json:"ended,omitempty" doc:"undone for good: a later edit has ended the way back to it"`
	At      time.Time `json:"at"`
}

// Revisions lists the newest edits of the question and of its study, the newest first.
func (d *Desk) Revisions(ctx context.Context, q *Question, limit int) ([]RevisionInfo, error) {
	entries, err := d.store.Line(ctx, q.StudyID, q.ID, limit)
	out := []RevisionInfo{}
	for _, e := range entries {
		out = append(out, RevisionInfo{e.ID, e.Number, e.Summary, e.By, e.QuestionID == nil, e.Undone != nil, e.Ended, e.At})
	}
	return out, err
}

// fromStore is a study as the store has it; cells are read again only where there are others.
func (d *Desk) fromStore(ctx context.Context, kept store.Study, before *state.Study) (*state.Study, error) {
	if before != nil && slices.Equal(kept.Rows, before.Rows) && len(kept.Columns) <= len(before.Columns) {
		return before.With(setupOf(kept))
	}
	cells, err := d.store.Columns(context.WithoutCancel(ctx), kept)
	if err != nil {
		return nil, err
	}
	masking, err := d.Masking(ctx, kept.ID)
	if err != nil {
		return nil, err
	}
	return state.NewStudy(setupOf(kept), cells, masking, before)
}
