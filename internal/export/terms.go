package export

import (
	"iter"

	"aftermath/internal/desk"
)

// Terms gives the term table as rows: a header, then a line for each term.
func Terms(t desk.TermTable) iter.Seq[[]any] {
	return func(yield func([]any) bool) {
		if !yield([]any{"term", "answers", "share of answers", "occurrences", "share of words", "uncoded answers", "uncoded share", "distinctiveness", "members"}) {
			return
		}
		for _, x := range t.Terms {
			members := ""
			for i, m := range x.Members {
				if i > 0 {
					members += ", "
				}
				members += m.Word
			}
			uncoded := 0.0
			if x.Answers > 0 {
				uncoded = float64(x.Uncoded) / float64(x.Answers)
			}
			if !yield([]any{x.Label, x.Answers, x.Share, x.Times, x.OfWords, x.Uncoded, uncoded, x.Distinct, members}) {
				return
			}
		}
	}
}

// Context gives lines of a subject in context as rows.
func Context(p desk.ContextPage, id func(answer int) string) iter.Seq[[]any] {
	return func(yield func([]any) bool) {
		if !yield([]any{"respondent", "before", "found", "after", "who"}) {
			return
		}
		for _, l := range p.Lines {
			if !yield([]any{id(l.Answer), l.Before, l.Hit, l.After, l.Who}) {
				return
			}
		}
	}
}

// Compared gives a comparison as rows.
func Compared(c desk.Comparison) iter.Seq[[]any] {
	return func(yield func([]any) bool) {
		a, b := c.A.Name, c.B.Name
		if !yield([]any{"term", a + ": answers", a + ": share of answers", a + ": occurrences", b + ": answers", b + ": share of answers", b + ": occurrences", "G2", "log2 ratio"}) ||
			!yield([]any{"answers", c.A.Answers, "", "", c.B.Answers, "", "", "", ""}) ||
			!yield([]any{"words", "", "", c.A.Words, "", "", c.B.Words, "", ""}) {
			return
		}
		for _, t := range c.Terms {
			if !yield([]any{t.Label, t.A, t.AShare, t.ATimes, t.B, t.BShare, t.BTimes, t.G2, t.Ratio}) {
				return
			}
		}
	}
}
