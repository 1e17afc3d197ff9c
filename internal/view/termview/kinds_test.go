package termview

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"aftermath/core/oneof/oneoftest"
	"aftermath/core/terms"
)

// Whatever is looked for can be said.
func TestKindsOfSuggestions(t *testing.T) {
	oneoftest.Complete(t, SuggestionKinds)
	for _, k := range terms.Kinds {
		assert.Equal(t, string(k), kindOf(terms.Suggestion{Kind: k}).Kind())
	}
}
