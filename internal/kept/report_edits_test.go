package kept

import (
	"testing"

	"aftermath/core/oneof/oneoftest"
)

func TestKindsOfReportEdits(t *testing.T) { oneoftest.Complete(t, ReportEdits) }
