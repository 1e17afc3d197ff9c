package naming

import (
	"fmt"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestPathsAreReadAsPeopleWriteThem(t *testing.T) {
	for text, want := range map[string][]string{
		`People / Friendly crew`:     {"People", "Friendly crew"},
		`"Food / drink"/ Café `:      {"Food / drink", "Café"},
		`The ""Swan""`:               {`The ""Swan""`}, // quotes count at the beginning of a name only
		`"The ""Swan"""`:             {`The "Swan"`},
		`„The ““Swan”” deck“ / “ x”`: {`The “Swan” deck`, " x"},
		`5" cable`:                   {`5" cable`},
		"":                           nil,
		"a / / b":                    nil,
		`"a`:                         nil,
		`"a" b`:                      nil,
		`a / "b""`:                   nil,
	} {
		names, ok := ParsePath(text)
		assert.Equal(t, want != nil, ok, text)
		if ok {
			assert.Equal(t, want, names, text)
		}
	}
}

// What is written is read back, whatever the names and whichever signs are special.
func inverse(t require.TestingT, names []string, special string) {
	is := func(c rune) bool { return strings.ContainsRune(special, c) }
	got, end, ok := ReadPath([]rune(PathOf(names, is)+special), 0, special)
	require.True(t, ok)
	require.Equal(t, names, got)
	require.Equal(t, len([]rune(PathOf(names, is))), end)
	read, ok := ParsePath(Path(names))
	require.True(t, ok)
	require.Equal(t, names, read)
}

func TestPathsAreReadBack(t *testing.T) {
	name := rapid.StringOfN(rapid.SampledFrom([]rune("ab /\"“”«}=]\t'")), 1, 6, -1)
	rapid.Check(t, func(t *rapid.T) {
		inverse(t, rapid.SliceOfN(name, 1, 3).Draw(t, "names"), rapid.SampledFrom([]string{"", "}", "]=<>!"}).Draw(t, "special"))
	})
}

func FuzzPath(f *testing.F) {
	f.Add("a", `"`)
	f.Add("The “Swan”", " / ")
	f.Fuzz(func(t *testing.T, a, b string) {
		if a != "" && b != "" && utf8.ValidString(a) && utf8.ValidString(b) {
			inverse(t, []string{a, b}, "}")
		}
	})
}

func ExamplePath() {
	fmt.Println(Path([]string{"People", "Food / drink", `The "Swan"`}))
	// Output: People / "Food / drink" / "The ""Swan"""
}
