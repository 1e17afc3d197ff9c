package text

import (
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// MaxSteps is how many steps there may be: each has a bit in Cleaned.Touched.
const MaxSteps = 64

// Pipeline cleans texts by its steps in their order. It is safe for use by several goroutines.
type Pipeline struct {
	language string
	steps    []Step
	run      []func(*reading)
}

// NewPipeline checks the steps and makes them ready. Language is a code such as "en"; it sets the contractions and
// abbreviations. Errors wrap ErrStep.
func NewPipeline(language string, steps []Step) (*Pipeline, error) {
	p := &Pipeline{language: language, steps: slices.Clone(steps)}
	if len(steps) > MaxSteps {
		return nil, fmt.Errorf("%w: there are %d of them; a question has up to %d", ErrStep, len(steps), MaxSteps)
	}
	seen := map[string]bool{}
	for i, s := range steps {
		if s.StepKind == nil {
			return nil, fmt.Errorf("%w %d says not what it does", ErrStep, i+1)
		}
		if _, several := s.StepKind.(ReplaceStep); seen[s.Kind()] && !several {
			return nil, fmt.Errorf("%w %q stands twice; only replace may", ErrStep, s.Kind())
		}
		seen[s.Kind()] = true
		run, err := s.prepare(language)
		if err != nil {
			return nil, fmt.Errorf("%w %d (%s): %w", ErrStep, i+1, s.Kind(), err)
		}
		p.run = append(p.run, run)
	}
	return p, nil
}

// Steps are the pipeline's steps in order.
func (p *Pipeline) Steps() []Step { return slices.Clone(p.steps) }

func oneOf(mode string, allowed ...string) error {
	if slices.Contains(allowed, mode) {
		return nil
	}
	return fmt.Errorf("mode %q is not known; it may be %s", mode, strings.Join(allowed[1:], " or "))
}

// Cleaned is an answer as it is read.
type Cleaned struct {
	Text    string // after all steps, case kept
	Words   []Word
	Touched uint64 // bit i: step i changed something
	reading reading
	pieces  []piece
}

// Marks lists what the steps changed, on the original.
func (c *Cleaned) Marks() []Mark { return c.reading.marks() }

// Clean reads one answer. The original may hold any bytes.
func (p *Pipeline) Clean(original string) Cleaned {
	var c Cleaned
	p.CleanInto(&c, original)
	return c
}

// CleanInto is Clean with the room of an earlier answer, whose words are gone then.
func (p *Pipeline) CleanInto(c *Cleaned, original string) {
	c.reading.start(original)
	c.Touched = 0
	r := &c.reading
	for i, run := range p.run {
		run(r)
		if r.apply() {
			c.Touched |= 1 << i
		}
	}
	c.Text = r.text
	c.Words = split(r, p.language, c.Words[:0], &c.pieces)
}

// Surfaces are the words that a typed text becomes: what a rule, a variant or a stop word is compared by.
func (p *Pipeline) Surfaces(typed string) []string {
	var out []string
	for _, w := range p.Clean(typed).Words {
		out = append(out, w.Surface)
	}
	return out
}

func replacements(rules []Replacement) (func(*reading), error) {
	type compiled struct {
		find        *regexp.Regexp
		with        string
		plain       bool
		left, right bool // the found text begins, ends with a letter or digit: nothing may be glued to it
	}
	var all []compiled
	for i, rule := range rules {
		expr := rule.Find
		if !rule.Regex {
			expr = "(?i)" + regexp.QuoteMeta(rule.Find)
		}
		find, err := regexp.Compile(expr)
		if err != nil {
			return nil, fmt.Errorf("rule %d: %w", i+1, err)
		}
		if find.MatchString("") {
			return nil, fmt.Errorf(
				"rule %d (%q) matches nothing at all, so it would match everywhere; write what it should find", i+1, rule.Find,
			)
		}
		if rule.Regex {
			if err := checkGroups(find, rule.With); err != nil {
				return nil, fmt.Errorf("rule %d: %w", i+1, err)
			}
		}
		c := compiled{find: find, with: rule.With, plain: !rule.Regex}
		runes := []rune(rule.Find)
		c.left, c.right = wordRune(runes[0]), wordRune(runes[len(runes)-1])
		all = append(all, c)
	}
	return func(r *reading) {
		for i, c := range all {
			for _, m := range c.find.FindAllStringSubmatchIndex(r.text, -1) {
				switch {
				case m[0] == m[1]:
				case !c.plain:
					r.replace(m[0], m[1], string(c.find.ExpandString(nil, c.with, r.text, m)))
				case c.left && wordRune(lastRune(r.text[:m[0]])), c.right && wordRune(firstRune(r.text[m[1]:])):
				default:
					r.replace(m[0], m[1], c.with)
				}
			}
			if i < len(all)-1 {
				// Each rule reads what the one before it left; the last one's edits are applied by the caller. The
				// step as a whole counts as having touched the answer if any rule did.
				if r.apply() {
					r.edits = append(r.edits, edit{0, 0, ""})
				}
			}
		}
	}, nil
}

// group is a group that a replacement names: $1, ${1}, $name, ${name}; $$ is a dollar sign.
var group = regexp.MustCompile(`\$(?:\$|(\w+)|\{(\w+)\})`)

// checkGroups refuses a replacement that names a group which the expression does not have: it would put nothing there.
func checkGroups(find *regexp.Regexp, with string) error {
	for _, m := range group.FindAllStringSubmatchIndex(with, -1) {
		name, from := "", 0
		for i := 2; i < len(m); i += 2 {
			if m[i] >= 0 {
				name, from = with[m[i]:m[i+1]], m[0]
			}
		}
		n, err := strconv.Atoi(name)
		if name == "" || err == nil && n <= find.NumSubexp() || slices.Contains(find.SubexpNames(), name) {
			continue
		}
		digits := len(name) - len(strings.TrimLeft(name, "0123456789"))
		if digits > 0 && digits < len(name) {
			return fmt.Errorf("%q at sign %d names the group %q, which is not there; write ${%s}%s", with[from:m[1]], utf8.RuneCountInString(with[:from])+1, name, name[:digits], name[digits:])
		}
		return fmt.Errorf("%q at sign %d names a group that is not there; the expression has %d", with[from:m[1]], utf8.RuneCountInString(with[:from])+1, find.NumSubexp())
	}
	return nil
}

func letterSwaps(letters map[string]string) (func(*reading), error) {
	swap := map[rune]rune{}
	for a, b := range letters {
		x, y := []rune(a), []rune(b)
		if len(x) != 1 || len(y) != 1 {
			return nil, fmt.Errorf("%q to %q: one letter to one letter", a, b)
		}
		swap[x[0]] = y[0]
	}
	// A capital goes the way of its small letter, unless it is given itself. Two small letters may have one capital ("i" and the
	// dotless one): the first by the alphabet has it, whatever the order in which a map is walked.
	for _, small := range slices.Sorted(maps.Keys(swap)) {
		capital := unicode.ToUpper(small)
		if _, given := swap[capital]; !given {
			swap[capital] = unicode.ToUpper(swap[small])
		}
	}
	return func(r *reading) {
		for i, c := range r.text {
			if to, ok := swap[c]; ok && c != utf8.RuneError {
				r.replace(i, i+utf8.RuneLen(c), string(to))
			}
		}
	}, nil
}
