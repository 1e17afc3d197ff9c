// Package kept keeps what stands beside the scheme of a question: charts, focuses, reports, samples, sets of columns, and the house
// style. It is all kept in one way: checked, written under a name, deleted so that it can be brought back, and worked out anew on
// the question as it is now whenever it is shown.
package kept

import (
	"aftermath/internal/desk"
	"aftermath/internal/store"
)

// Keeper keeps what stands beside the questions of a desk.
type Keeper struct {
	desk  *desk.Desk
	store *store.Store
}

// New keeps in a store what stands beside the questions of its desk.
func New(d *desk.Desk, s *store.Store) *Keeper { return &Keeper{d, s} }
