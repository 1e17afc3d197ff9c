package desk

import (
	"context"

	"golang.org/x/sync/semaphore"

	"aftermath/internal/desk/state"
	"aftermath/internal/store"
)

// What tests look at besides what everybody may.

func (d *Desk) Store() *store.Store                  { return d.store }
func (d *Desk) Opened(question int64) *Question      { return d.opened(question) }
func (d *Desk) OpenedStudy(study int64) *state.Study { return d.openedStudy(study) }
func (q *Question) EditLock() *semaphore.Weighted    { return q.edit }

func Together[T any](ctx context.Context, d *Desk, key string, open func(ctx context.Context) (T, error)) (T, error) {
	return together(ctx, d, key, open)
}
