package desk_test

import (
	"errors"
	"math"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"aftermath/core/playbook"
	"aftermath/core/survey"
	"aftermath/internal/backup"
	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
)

// Whatever is given as a focus: it is refused as one, or it is of answers that there are, the same ones each time.
func FuzzFocus(f *testing.F) {
	for _, s := range []string{
		`[{"kind":"variable","name":"route","op":"=","values":["North"]}]`, `[{"kind":"words","text":"late - tea"}]`, `[{"kind":"category","id":"c1","not":true}]`,
		`[{"kind":"coded"},{"kind":"sample","text":"random","n":3,"m":1}]`, `[{"kind":"answers","answers":[0,1,99]}]`, `[{"kind":"alike","n":1}]`, `[{"kind":"status","text":"any"}]`,
		`[{"kind":"step","text":"links"}]`, `[{"kind":"term","text":"queue"}]`, `[{"kind":"person","name":"route","values":["North"],"id":"c1"}]`,
	} {
		f.Add(s)
	}
	specs := []survey.Spec{{Name: "id", Role: survey.Identifier}, {Name: "route", Role: survey.Segment}, {Name: "recommend", Role: survey.Number},
		{Name: "weight", Role: survey.Weight}, {Name: "answer", Role: survey.OpenEnded}}
	cells := make([][]string, len(specs))
	for _, row := range sample {
		for i, cell := range row {
			cells[i] = append(cells[i], cell)
		}
	}
	p := playbook.New("en")
	s, err := state.Unstored(ctx, specs, cells, 4, p)
	require.NoError(f, err)
	f.Fuzz(func(t *testing.T, text string) {
		given, err := focus.Parse(text)
		if err != nil {
			return
		}
		set, err := given.Answers(t.Context(), s)
		if err != nil {
			return // in words; what must not happen is a panic
		}
		again, err := given.Answers(t.Context(), s)
		require.NoError(t, err)
		require.True(t, set.Equals(again))
		if !set.IsEmpty() {
			require.Less(t, int(set.Maximum()), len(sample))
		}
	})
}

// Whatever is given as a back-up: it is refused as one, or all that its manifest promises can be read.
func FuzzBackup(f *testing.F) {
	whole, err := os.ReadFile(filepath.Join("testdata", "format-1.aftermath.zip"))
	require.NoError(f, err)
	f.Add(whole)
	f.Add(whole[:len(whole)/2])
	f.Add([]byte("PK\x05\x06"))
	f.Fuzz(func(t *testing.T, data []byte) {
		path := filepath.Join(t.TempDir(), "x")
		require.NoError(t, os.WriteFile(path, data, 0o600))
		a, err := backup.Open(t.Context(), path, math.MaxInt64)
		if err != nil {
			require.True(t, errors.Is(err, backup.ErrBackup), "%v", err)
			return
		}
		for _, p := range a.Parts {
			n := 0
			require.NoError(t, a.Lines(t.Context(), p.Name, func([]byte) error { n++; return nil }))
			require.Equal(t, p.Lines, n)
		}
		require.NoError(t, a.Close())
	})
}
