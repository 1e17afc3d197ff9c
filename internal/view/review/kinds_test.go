package review

import (
	"testing"

	"aftermath/core/oneof/oneoftest"
)

func TestKindsOfGroups(t *testing.T) { oneoftest.Complete(t, GroupKinds) }
