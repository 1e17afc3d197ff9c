package text

import (
	"errors"
	"fmt"
	"regexp"
	"strings"
	"unicode"
)

// Division says how a long text is cut into parts.
type Division struct {
	By string `json:"by" enum:"paragraph,line,sentence,parts,delimiter,pattern" doc:"paragraph: at blank lines; parts: n parts of about as many words each; pattern: at what a regular expression (RE2) matches"`
	N  int    `json:"n,omitempty" minimum:"0" maximum:"1000" doc:"parts: how many"`
	At string `json:"at,omitempty" doc:"delimiter: the text that parts; pattern: the expression"`
}

// ErrDivision is behind every error about how to cut a text.
var ErrDivision = errors.New("division")

var blankLines = regexp.MustCompile(`\r?\n[ \t]*(?:\r?\n[ \t]*)+`)

// NewDivider makes a function that cuts a text into its parts, without the white space around them and without what
// parts them. A text of white space has no parts.
func NewDivider(d Division) (func(text string) []string, error) {
	var cut func(string) []string
	switch d.By {
	case "paragraph":
		cut = func(s string) []string { return blankLines.Split(s, -1) }
	case "line":
		cut = func(s string) []string { return strings.Split(s, "\n") }
	case "sentence":
		cut = sentencesOf
	case "parts":
		if d.N < 2 || d.N > 1000 {
			return nil, fmt.Errorf("%w: a text is cut into 2 to 1,000 equal parts, not %d", ErrDivision, d.N)
		}
		cut = func(s string) []string { return equalParts(s, d.N) }
	case "delimiter":
		if d.At == "" {
			return nil, fmt.Errorf("%w: say what separates the texts", ErrDivision)
		}
		cut = func(s string) []string { return strings.Split(s, d.At) }
	case "pattern":
		find, err := regexp.Compile(d.At)
		if err != nil {
			return nil, fmt.Errorf("%w: %w", ErrDivision, err)
		}
		if find.MatchString("") {
			return nil, fmt.Errorf("%w: %q matches nothing at all, so it would cut everywhere", ErrDivision, d.At)
		}
		cut = func(s string) []string { return find.Split(s, -1) }
	default:
		return nil, fmt.Errorf("%w: there is no way %q to cut a text", ErrDivision, d.By)
	}
	return func(s string) (parts []string) {
		if d.By == "paragraph" || d.By == "line" {
			s = broken(s, d.By == "paragraph")
		}
		for _, p := range cut(s) {
			if p = strings.TrimSpace(p); p != "" {
				parts = append(parts, p)
			}
		}
		return parts
	}, nil
}

var (
	breakTag     = regexp.MustCompile(`(?i)<br ?/?>`)
	paragraphTag = regexp.MustCompile(`(?i)</?(?:p|div|li|h[1-6]|blockquote|tr)(?:\s[^<>]{0,300})?>`)
)

// broken has line breaks where tags break lines, and blank lines where they end paragraphs; two breaks in a row end one, too.
func broken(s string, paragraphs bool) string {
	if !strings.Contains(s, "<") {
		return s
	}
	end := "\n"
	if paragraphs {
		end = "\n\n"
	}
	return paragraphTag.ReplaceAllString(breakTag.ReplaceAllString(s, "\n"), end)
}

// sentencesOf cuts after each sentence, as answers are read.
func sentencesOf(s string) []string {
	r := &reading{original: s, text: s}
	var out []string
	at := 0
	ws := split(r, "en", nil, new([]piece))
	for i := 1; i < len(ws); i++ {
		if ws[i].Sentence == ws[i-1].Sentence {
			continue
		}
		// Opening quotes and brackets belong to the sentence that they open: cut at the last white space between the two, or
		// after the full stop where there is none.
		gap := s[ws[i-1].End:ws[i].Start]
		cut := strings.LastIndexFunc(gap, unicode.IsSpace)
		if cut < 0 {
			cut = len(gap) - 1
		}
		cut += ws[i-1].End + len(string(firstRune(s[ws[i-1].End+cut:])))
		out = append(out, s[at:cut])
		at = cut
	}
	return append(out, s[at:])
}

// equalParts cuts at white space into n parts of as many words each, to within one word. A text of fewer words has fewer parts.
func equalParts(s string, n int) []string {
	var starts []int
	in := false
	for i, c := range s {
		if space := unicode.IsSpace(c); !space && !in {
			starts = append(starts, i)
			in = true
		} else if space {
			in = false
		}
	}
	n = min(n, len(starts))
	var out []string
	for i := range n {
		end := len(s)
		if i+1 < n {
			end = starts[(i+1)*len(starts)/n]
		}
		out = append(out, s[starts[i*len(starts)/n]:end])
	}
	return out
}
