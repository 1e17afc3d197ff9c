// Package lexicontest makes lexicon views of a few answers, for tests.
package lexicontest

import (
	"context"
	"fmt"

	"github.com/stretchr/testify/require"

	"aftermath/core/corpus"
	"aftermath/core/lexicon"
	"aftermath/core/text"
)

// View reads answers in a language with the default cleaning and phrases of refusal, and applies a lexicon.
func View(t require.TestingT, language string, l lexicon.Lexicon, answers ...string) *lexicon.View {
	p, err := text.NewPipeline(language, text.DefaultSteps())
	require.NoError(t, err)
	ix, err := corpus.Build(context.Background(), p, text.NewNoAnswers(p, text.DefaultNoAnswers(language)), answers, 1, nil)
	require.NoError(t, err)
	return lexicon.NewView(lexicon.NewStems(language, ix), p, l)
}

// Example stands for the test that a runnable example does not have.
type Example struct{}

// Errorf panics with the message.
func (Example) Errorf(format string, args ...any) { panic(fmt.Sprintf(format, args...)) }

// FailNow does nothing: Errorf has panicked before.
func (Example) FailNow() {}
