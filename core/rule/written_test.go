package rule

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// marked writes the spans of a rule into it, as ‹joint:/›.
func marked(src string) string {
	var out strings.Builder
	runes, at := []rune(src), 0
	for _, s := range Read(src).Spans {
		out.WriteString(string(runes[at:s.Start]) + "‹" + s.Kind + ":" + string(runes[s.Start:s.End]) + "›")
		at = s.End
	}
	return out.String() + string(runes[at:])
}

func TestHowARuleIsWritten(t *testing.T) {
	for src, want := range map[string]string{
		"queue / wait - train":               "queue ‹joint:/› wait ‹joint:-› train",
		"@crew +6w kind -<3w @negators":      "‹list:@crew› ‹joint:+6w› kind ‹joint:-<3w› ‹list:@negators›",
		"check-in":                           "check-in",
		`{People / Crew} + re"\d+" # no tea`: `‹name:{People / Crew}› ‹joint:+› ‹quote:re"\d+"› ‹note:# no tea›`,
		`2 of (x / "y z") [ticket = Day]`:    `‹joint:2 of ›‹bracket:(›x ‹joint:/› ‹quote:"y z"›‹bracket:)› ‹name:[ticket = Day]›`,
		`"long queue`:                        `‹quote:"long queue›`,
		"“late”–":                            "‹quote:“late”›–",
		"":                                   "",
	} {
		assert.Equal(t, want, marked(src), src)
	}
}

func TestNamesAndAlternatives(t *testing.T) {
	for _, c := range []struct{ src, name, alternative string }{
		{"queue / wait", "Queue wait", "queue / wait"},
		{"slow +1s boat", "Slow boat", "(slow +1s boat)"},
		{"2 of (seats / sockets)", "Seats sockets", "2 of (seats / sockets)"},
		{`"no staff about"`, "No staff about", `"no staff about"`},
		{"late - train # by rail", "Late train", "(late - train)"},
		{"check-in", "Check-in", "check-in"},
		{"free wifi / (bus + tram)", "Free wifi bus", "free wifi / (bus + tram)"},
		{"@crew", "", "@crew"},
		{"(a", "A", "((a)"},
		{"", "", ""},
	} {
		w := Read(c.src)
		assert.Equal(t, c.name, w.Name, c.src)
		assert.Equal(t, c.alternative, w.Alternative, c.src)
	}
	long := strings.Repeat("a / ", MaxLength)
	assert.Equal(t, Written{Spans: []Span{}, Terms: []string{}, Rule: long, Alternative: "(" + long + ")"}, Read(long))
	assert.Equal(t, []string{"queue", "long wait", `"a/b"`}, Read(`queue / long wait / "a/b"`).Terms)
	for _, src := range []string{"queue + wait", "@crew", "=late", "(queue / wait)", "queue /", ""} {
		assert.Empty(t, Read(src).Terms, src)
	}
}

// Whatever is written: spans are ascending, inside the source and hold all that is no word; and a rule that can be parsed finds the same
// as one of several alternatives.
func TestAnyRuleIsRead(t *testing.T) {
	piece := rapid.SampledFrom([]string{
		"queue", "wait", "/", "+", "-", "+3w", "->2s", "(", ")", `"a b"`, "@crew", "{A / B}", "[x = y]", `re"a"`, "2 of (a / b)", "=late", "*", "#", " ", "é“", "–",
	})
	rapid.Check(t, func(t *rapid.T) {
		src := strings.Join(rapid.SliceOfN(piece, 0, 9).Draw(t, "pieces"), rapid.SampledFrom([]string{" ", ""}).Draw(t, "between"))
		w := Read(src)
		at, runes := 0, []rune(src)
		for _, s := range w.Spans {
			require.True(t, at <= s.Start && s.Start < s.End && s.End <= len(runes), "%q: %v", src, w.Spans)
			at = s.End
		}
		n, problems := Parse(src)
		if len(problems) > 0 {
			return
		}
		other, _ := Parse("other")
		want := AnyOf(n, other).String()
		got, problems := Parse(w.Alternative + " / other")
		require.Empty(t, problems, w.Alternative)
		require.Equal(t, want, got.String(), src)
		if len(w.Terms) > 0 {
			require.Equal(t, n.String(), strings.Join(w.Terms, " / "))
		}
	})
}
