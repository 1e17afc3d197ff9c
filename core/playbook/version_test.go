package playbook

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/text"
)

// There is a file of every version, with all that the version can say. Each is read, and says the same when it is written anew.
func TestFilesOfEachVersion(t *testing.T) {
	require.Len(t, migrations, Version-1)
	for version := 1; version <= Version; version++ {
		data, err := os.ReadFile(filepath.Join("testdata", fmt.Sprintf("version-%d.json", version)))
		require.NoError(t, err)
		p, err := Parse(data)
		require.NoError(t, err)
		file, err := p.File()
		require.NoError(t, err)
		again, err := Parse(file)
		require.NoError(t, err)
		assert.Equal(t, p, again)
		if version == Version {
			assert.Empty(t, lacking(t, data, file), "what the file says is written")
		}
	}
}

// lacking are the keys of one file that another does not have.
func lacking(t *testing.T, file, other []byte) (out []string) {
	has := map[string]bool{}
	for _, key := range keysOf(t, other) {
		has[key] = true
	}
	for _, key := range keysOf(t, file) {
		if !has[key] && key != "single" && key != "mask" && key != "frame.off" { // false is left out
			out = append(out, key)
		}
	}
	return out
}

// In version 1 a step could hold settings of others, which said nothing: they are left out, in files and in what a store keeps, and
// everything else is read as it stands.
func TestStepsOfVersionOne(t *testing.T) {
	const steps = `[{"step": "markup", "mode": "mask", "rules": []}, {"step": "links", "mode": "mask", "letters": {}}, {"step": "replace", "rules": [{"find": "a", "with": "b"}]}]`
	want := text.Steps(text.MarkupStep{}, text.LinksStep{Mode: "mask"}, text.ReplaceStep{Rules: []text.Replacement{{Find: "a", With: "b"}}})
	kept, err := ReadKept([]byte(`{"aftermath": 1, "language": "de", "cleaning": ` + steps + `}`))
	require.NoError(t, err)
	assert.Equal(t, Playbook{Aftermath: 1, Language: "de", Cleaning: want}, kept)
	file, err := Parse([]byte(`{"aftermath": 1, "cleaning": ` + steps + `}`))
	require.NoError(t, err)
	assert.Equal(t, want, file.Cleaning)
	_, err = Parse([]byte(`{"aftermath": 2, "cleaning": ` + steps + `}`))
	require.ErrorContains(t, err, `the cleaning step "markup" has no`)
	_, err = ReadKept([]byte(`{"aftermath": 1, "cleaning": [{"step": "polish"}]}`))
	require.ErrorContains(t, err, "polish")
}

// A file of a newer version is refused as a whole, and what this program does not know of it is named.
func TestNewerVersionsAreRefused(t *testing.T) {
	for data, says := range map[string]string{
		`{"aftermath": 99, "frame": [{"name": "A", "owner": "x", "children": [{"name": "B", "owner": "y", "due": 1}]}], "tone": {}}`: `does not know frame.children.due, frame.children.owner, frame.owner, tone, which version 99 does`,
		`{"aftermath": 99, "cleaning": [{"step": "markup"}, {"step": "shout", "loud": 1}]}`:                                          `cleaning (cleaning step: there is no cleaning step "shout")`,
		`{"aftermath": 99, "fields": [{"kind": "date", "name": "Due"}]}`:                                                             `fields (there is no field "date")`,
		`{"aftermath": 99}`: `knows all that it names, but may read it otherwise`,
		`{"aftermath": 99, "a":1, "b":1, "c":1, "d":1, "e":1, "f":1}`: `a, b, c, d, e and 1 more`,
		`{"aftermath": 0}`: `no version of the format`,
		`{}`:               `no version of the format`,
	} {
		_, err := Parse([]byte(data))
		require.ErrorIs(t, err, ErrPlaybook, data)
		assert.ErrorContains(t, err, says, data)
	}
}

// keysOf are all keys of a file, with their paths.
func keysOf(t *testing.T, file []byte) []string {
	var value any
	require.NoError(t, json.Unmarshal(file, &value))
	return pathsOf(value, "")
}

func pathsOf(value any, path string) (out []string) {
	switch v := value.(type) {
	case []any:
		for _, x := range v {
			out = append(out, pathsOf(x, path)...)
		}
	case map[string]any:
		for key, x := range v {
			at := strings.TrimPrefix(path+"."+key, ".")
			out = append(append(out, at), pathsOf(x, at)...)
		}
	}
	return out
}
