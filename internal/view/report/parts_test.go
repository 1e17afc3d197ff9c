package report

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"aftermath/core/oneof/oneoftest"
)

// Every kind of part has a content of its kind, also where it can't be worked out, which gives the part back.
func TestKindsOfParts(t *testing.T) {
	oneoftest.Complete(t, Parts, Contents)
	for i, p := range Parts {
		assert.Equal(t, p.Kind(), Contents[i].Kind())
		assert.Equal(t, p.Kind(), p.bare().Kind())
		assert.Equal(t, p, p.bare().Part())
	}
}
