package ui

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/frame"
)

// The colours that a codebook carries are those on the screen, on light paper.
func TestColoursAreThoseOfTheFrame(t *testing.T) {
	styles, err := os.ReadFile("src/app/tokens.css")
	require.NoError(t, err)
	light, _, _ := strings.Cut(string(styles), "}")
	for i, colour := range frame.Colours {
		assert.Contains(t, light, fmt.Sprintf("--color-c%d: %s;", i, strings.ToLower(colour)))
	}
}
