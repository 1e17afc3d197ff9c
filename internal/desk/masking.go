package desk

import (
	"context"
	"fmt"

	"aftermath/core/scheme"
	"aftermath/internal/desk/cells"
	"aftermath/internal/desk/state"
)

type unmaskKey struct{}

// MayUnmask says whether who asks under a context may see personal data that the study masks. Where nobody says, they may.
func MayUnmask(ctx context.Context, may bool) context.Context {
	return context.WithValue(ctx, unmaskKey{}, may)
}

func mayUnmask(ctx context.Context) bool {
	may, said := ctx.Value(unmaskKey{}).(bool)
	return may || !said
}

// Masking is what a study masks, as the store has it: also for questions whose column is open-ended no longer.
func (d *Desk) Masking(ctx context.Context, study int64) (cells.Masking, error) {
	questions, err := d.store.Questions(ctx, study)
	m := cells.Masking{}
	for _, q := range questions {
		m = m.With(q.ID, q.Scheme.Mask, q.Scheme.NotPersonal)
	}
	return m, err
}

// Masks says whether a study masks personal data.
func (d *Desk) Masks(ctx context.Context, study int64) (bool, error) {
	m, err := d.Masking(ctx, study)
	return len(m) > 0, err
}

// maskingUnder is what the study of a state masks once its question has another scheme. Who may not see what is masked can't have it
// shown by an edit.
func (q *Question) maskingUnder(ctx context.Context, s *state.State, to scheme.Scheme) (cells.Masking, error) {
	now := s.Study.Cells.Masking()
	next := now.With(q.ID, to.Mask, to.NotPersonal)
	if !next.Hides(now) && !mayUnmask(ctx) {
		return nil, fmt.Errorf("%w: this study masks personal data, and this would show some; its owner can let you see it", state.ErrRequest)
	}
	return next, nil
}

// settle has everything that is open of a study mask what its questions ask for, after an edit of one of them.
func (d *Desk) settle(ctx context.Context, q *Question) error {
	made := q.State().Study
	if d.openedStudy(q.StudyID) == made {
		return nil
	}
	ctx = context.WithoutCancel(ctx)
	mu := d.setup(q.StudyID)
	if err := mu.Acquire(ctx, 1); err != nil {
		return err
	}
	defer mu.Release(1)
	open := d.openedStudy(q.StudyID)
	if open == nil || open == q.State().Study {
		return nil
	}
	masking, err := d.Masking(ctx, q.StudyID)
	if err != nil {
		d.forgetStudy(q.StudyID)
		return err
	}
	next := made
	if made.Revision != open.Revision || !masking.Equal(made.Cells.Masking()) {
		if next, err = open.Masked(masking); err != nil {
			d.forgetStudy(q.StudyID)
			return err
		}
	}
	return d.replace(ctx, next)
}
