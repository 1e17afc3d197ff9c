package rule

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestReplace(t *testing.T) {
	for _, c := range []struct{ src, find, with, want string }{
		{"wifi", "wifi", "wifi / internet", "wifi / internet"},
		{"free wifi + slow", "wifi", "wifi / internet", "free (wifi / internet) + slow"},
		{"wifi / internet / web", "wifi", "internet", "internet / web"},
		{"long queue", "queue", "line up", "long line up"},
		{"very long queue now", "long queue", "wait", "very wait now"},
		{"queue # on foot", "queue", "wait", "wait # on foot"},
		{"late -3w not", "not", "@negators", "late -3w @negators"},
		{"late + {Crew}", "{Crew}", "{Staff}", "late + {Staff}"},
		{"a + (b - c)", "b - c", "d", "a + d"},
		{"queues", "queue", "wait", "queues"},
		{"((", "queue", "wait", "(("},
		{"queue", "((", "wait", "queue"},
		{"2 of (rude / kind / slow)", "kind", "nice / good", "2 of (rude / nice / good / slow)"},
		{`"wifi" / =wifi`, "wifi", "x", `"wifi" / =wifi`},
	} {
		got, times := Replace(c.src, c.find, c.with)
		assert.Equal(t, c.want, got, c.src)
		assert.Equal(t, c.want != c.src, times > 0, c.src)
	}
}

func TestNotes(t *testing.T) {
	for src, want := range map[string][2]string{
		"queue / wait # on foot only": {"queue / wait", "on foot only"},
		"queue #":                     {"queue", ""},
		"#ferry":                      {"#ferry", ""},
		`"# no" # yes # and`:          {`"# no"`, "yes # and"},
		`re"a # b"`:                   {`re"a # b"`, ""},
		"{A # b} # c":                 {"{A # b}", "c"},
		"# only a note":               {"", "only a note"},
	} {
		rule, note := Note(src)
		assert.Equal(t, want, [2]string{rule, note}, src)
	}
	_, problems := Parse("# only a note")
	assert.NotEmpty(t, problems)
	n, problems := Parse("queue / wait # a (b")
	assert.Empty(t, problems)
	assert.Equal(t, "queue / wait", n.String())
}
