package chart

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"aftermath/core/oneof/oneoftest"
	"aftermath/internal/desk/focus"
)

// Every kind of chart has figures of its kind, in the same place of the lists, and can be drawn in a way that the document lists.
func TestKindsOfCharts(t *testing.T) {
	oneoftest.Complete(t, Plans, FigureKinds)
	for i, p := range Plans {
		assert.Equal(t, p.Kind(), FigureKinds[i].Kind())
		for _, as := range p.Forms() {
			assert.NoError(t, Design{p, Look{As: as}}.Check(), p.Kind())
		}
		assert.Error(t, Design{p, Look{As: "nothing"}}.Check())
		assert.Error(t, Design{p, Look{Focus: make(focus.Focus, focus.MaxConditions+1)}}.Check())
	}
	assert.Error(t, Design{}.Check())
}
