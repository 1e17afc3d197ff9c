package playbook

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/survey"
	"aftermath/core/text"
)

// As much as a limit says is kept, and no more: the message says where, how much there is, and how much there may be.
func TestLimits(t *testing.T) {
	word := func(n int) string { return strings.Repeat("é", n) }
	many := func(n int) []string { return make([]string, n) }
	of := map[Limit]func(n int) Playbook{
		MostCategories: func(n int) Playbook { return Playbook{Frame: make(frame.Frame, n)} },
		DeepestFrame: func(n int) Playbook {
			f := frame.Frame{{Name: "deepest"}}
			for range n - 1 {
				f = frame.Frame{{Name: "net", Children: f}}
			}
			return Playbook{Frame: f}
		},
		LongestName: func(n int) Playbook { return Playbook{Frame: frame.Frame{{Name: word(n)}}} },
		LongestNote: func(n int) Playbook { return Playbook{Frame: frame.Frame{{Name: "x", Note: word(n)}}} },
		MostRules: func(n int) Playbook {
			return Playbook{Frame: frame.Frame{{Rules: many(n - 2), Unless: many(1), Resting: many(1)}}}
		},
		LongestRule: func(n int) Playbook {
			return Playbook{Frame: frame.Frame{{Children: frame.Frame{{Resting: []string{word(n)}}}}}}
		},
		MostInFrame: func(n int) Playbook {
			f := make(frame.Frame, 40)
			for i := range n {
				f[i%40].Rules = append(f[i%40].Rules, "x")
			}
			return Playbook{Frame: f}
		},
		MostTerms: func(n int) Playbook { return Playbook{Lexicon: lexicon.Lexicon{Parted: many(n)}} },
		MostEntries: func(n int) Playbook {
			return Playbook{Lexicon: lexicon.Lexicon{Lists: []lexicon.List{{Entries: many(n - 3)}}, Merges: make([]lexicon.Merge, 2)}}
		},
		LongestTerm: func(n int) Playbook { return Playbook{Lexicon: lexicon.Lexicon{Parted: []string{word(n)}}} },
		MostSteps:   func(n int) Playbook { return Playbook{Cleaning: make([]text.Step, n)} },
		MostReplaced: func(n int) Playbook {
			return Playbook{Cleaning: text.Steps(text.ReplaceStep{Rules: make([]text.Replacement, n)})}
		},
		LongestPhrase: func(n int) Playbook { return Playbook{NoAnswers: []string{word(n)}} },
		MostPhrases:   func(n int) Playbook { return Playbook{NotPersonal: many(n)} },
		MostFields:    func(n int) Playbook { return Playbook{Fields: make(frame.Fields, n)} },
		MostChoices: func(n int) Playbook {
			return Playbook{Fields: frame.Fields{{FieldType: frame.ListField{Choices: many(n)}}}}
		},
		LongestValue: func(n int) Playbook {
			return Playbook{Frame: frame.Frame{{Fields: map[string]string{"x": word(n)}}}}
		},
		MostDerived: func(n int) Playbook { return Playbook{Derived: make([]survey.Derived, n)} },
	}
	for _, l := range Limits() {
		require.Contains(t, of, l)
		require.NoError(t, of[l](l.Most).CheckLimits(), l.Of)
		err := of[l](l.Most + 1).CheckLimits()
		require.ErrorIs(t, err, ErrPlaybook, l.Of)
		assert.ErrorContains(t, err, l.Unit+"; at most", l.Of)
		assert.Less(t, len(err.Error()), 300, l.Of)
	}
}
