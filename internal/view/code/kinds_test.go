package code

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"aftermath/core/rule"
)

// Every part and joint of a rule is said in words.
func TestEveryKindHasAName(t *testing.T) {
	for _, k := range rule.Kinds() {
		assert.NotEmpty(t, kindNames[k], "kind %d", k)
	}
}
