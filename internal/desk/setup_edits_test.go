package desk_test

import (
	"testing"

	"aftermath/core/oneof/oneoftest"
	. "aftermath/internal/desk"
)

func TestKindsOfSetupEdits(t *testing.T) { oneoftest.Complete(t, SetupEdits) }
