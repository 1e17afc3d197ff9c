// Package frame holds the code frame and codes answers by it: rules, then decisions by hand, then nets, then the
// categories that stand alone.
package frame

import (
	"errors"
	"fmt"
	"iter"
	"maps"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"aftermath/core/naming"
	"aftermath/core/survey"
)

// Category is one place in a code frame. With children it is a net.
type Category struct {
	ID       string            `json:"id,omitempty" doc:"key within the study; playbook files leave it out"`
	Name     string            `json:"name"`
	Code     int               `json:"code,omitempty"`
	Short    string            `json:"short,omitempty" doc:"what is typed to give it by hand"`
	Note     string            `json:"note,omitempty"`
	Fields   map[string]string `json:"fields,omitempty" doc:"values of the fields of the frame, by their names"`
	Rules    []string          `json:"rules,omitempty" doc:"alternatives"`
	Unless   []string          `json:"unless,omitempty" doc:"rules that take away"`
	Resting  []string          `json:"resting,omitempty" doc:"rules that are kept but not used"`
	Colour   int               `json:"colour,omitempty" doc:"of a top category: which of the eight colours, from 1; 0 for the one of its place"`
	Alone    bool              `json:"alone,omitempty" doc:"only where no other category applies"`
	Off      bool              `json:"off,omitempty" doc:"its rules rest"`
	Checks   []Check           `json:"checks,omitempty" doc:"what was found when it, or a rule of it, was looked over; playbook files leave it out"`
	Children []Category        `json:"children,omitempty"`
}

// Check is what was found when a random sample of the answers that a rule catches was looked over.
type Check struct {
	Rule    string              `json:"rule" doc:"its text; empty for the category as a whole"`
	Matches int                 `json:"matches" doc:"answers that it caught, of which the sample was drawn"`
	Right   []survey.Respondent `json:"right" doc:"respondents whose answers belong there"`
	Wrong   []survey.Respondent `json:"wrong" doc:"those whose answers don't"`
}

// Standing are the checks of a category that still say something of it: of rules that it has and, if its rules are what they
// were, of the whole of it.
func (c Category) Standing(same bool) (out []Check) {
	for _, x := range c.Checks {
		if x.Rule == "" && same || x.Rule != "" && (slices.Contains(c.Rules, x.Rule) || slices.Contains(c.Resting, x.Rule)) {
			out = append(out, x)
		}
	}
	return out
}

// Frame is a code frame in its order.
type Frame []Category

// Colours are the eight that top categories take, one after the other; they can be told apart by the colour-blind. What
// stands below one has its colour, and all have a short code, so that colour is never the only sign.
var Colours = [8]string{"#3E5C3A", "#A0441F", "#3D5F70", "#74518A", "#8A6412", "#1F6B66", "#98385A", "#4D4A43"}

// Place is a category with where it stands.
type Place struct {
	*Category
	Path []string
}

// PathName is the path as people write it: People / Friendly crew.
func (p Place) PathName() string { return naming.Path(p.Path) }

// key tells paths apart, case aside.
func (p Place) key() string { return strings.ToLower(p.PathName()) }

// All walks the frame in order, each net before its children.
func (f Frame) All() iter.Seq[Place] {
	return func(yield func(Place) bool) { walk(f, nil, yield) }
}

func walk(cs []Category, above []string, yield func(Place) bool) bool {
	for i := range cs {
		path := append(slices.Clone(above), cs[i].Name)
		if !yield(Place{&cs[i], path}) || !walk(cs[i].Children, path, yield) {
			return false
		}
	}
	return true
}

// Len is the number of categories, nets and all.
func (f Frame) Len() (n int) {
	for range f.All() {
		n++
	}
	return n
}

// Find gives the category with that key.
func (f Frame) Find(id string) (Place, bool) {
	for p := range f.All() {
		if p.ID == id {
			return p, true
		}
	}
	return Place{}, false
}

// ByPath gives the category with that path, case-blind.
func (f Frame) ByPath(path []string) (Place, bool) {
	for p := range f.All() {
		if slices.EqualFunc(p.Path, path, strings.EqualFold) {
			return p, true
		}
	}
	return Place{}, false
}

// Clone copies the frame with all it holds.
func (f Frame) Clone() Frame {
	out := slices.Clone(f)
	for i := range out {
		c := &out[i]
		c.Rules, c.Unless, c.Resting = slices.Clone(c.Rules), slices.Clone(c.Unless), slices.Clone(c.Resting)
		c.Checks, c.Fields = slices.Clone(c.Checks), maps.Clone(c.Fields)
		c.Children = Frame(c.Children).Clone()
	}
	return out
}

// ErrFrame is behind every error about a code frame.
var ErrFrame = errors.New("code frame")

// Check says what is wrong with a frame: a category without a name, or two of one name in one place.
func (f Frame) Check() error {
	seen := map[string]bool{}
	for p := range f.All() {
		key := p.key()
		switch {
		case strings.TrimSpace(p.Name) == "":
			return fmt.Errorf("%w: a category has no name", ErrFrame)
		case seen[key]:
			return fmt.Errorf("%w: two categories are called %q", ErrFrame, p.PathName())
		case p.Colour < 0 || p.Colour > len(Colours):
			return fmt.Errorf("%w: %q asks for colour %d; there are %d", ErrFrame, p.PathName(), p.Colour, len(Colours))
		}
		seen[key] = true
	}
	return nil
}

// Complete gives keys, code numbers and short codes to the categories that have none. Categories that the earlier
// frame has under the same path keep its key, so that decisions by hand stay with them; the others get keys that were never
// given out: last is the number of the newest key so far, and what is returned is the newest then.
func (f Frame) Complete(earlier Frame, last int) int {
	known := map[string]string{} // keys of the earlier frame, by path
	for p := range earlier.All() {
		known[p.key()] = p.ID
		last = max(last, keyNumber(p.ID))
	}
	ids, codes, shorts := map[string]bool{}, map[int]bool{}, map[string]bool{}
	for p := range f.All() {
		ids[p.ID], codes[p.Code], shorts[strings.ToLower(p.Short)] = true, true, true
		last = max(last, keyNumber(p.ID))
	}
	code, further := 1, map[string]int{}
	for i := range f {
		top := &f[i]
		number := topNumber(top, i, shorts)
		for p := range f[i : i+1].All() {
			if old, ok := known[p.key()]; p.ID == "" && ok && !ids[old] {
				p.ID = old
			} else if p.ID == "" {
				last++
				p.ID = Key(last)
			}
			ids[p.ID] = true
			if p.Code == 0 {
				for ; codes[code]; code++ {
				}
				p.Code = code
				codes[code] = true
			}
			if p.Short == "" {
				p.Short = shortCode(number, p, shorts, further)
				shorts[p.Short] = true
			}
		}
	}
	return last
}

// Key is the key with a number.
func Key(number int) string { return "c" + strconv.Itoa(number) }

// keyNumber is the number of a key that Complete gave out, 0 for any other.
func keyNumber(key string) int {
	digits, ok := strings.CutPrefix(key, "c")
	n, err := strconv.Atoi(digits)
	if !ok || err != nil || n > 1<<30 {
		return 0
	}
	return n
}

// LastKey is the number of the newest key of a frame.
func (f Frame) LastKey() (last int) {
	for p := range f.All() {
		last = max(last, keyNumber(p.ID))
	}
	return last
}

// topNumber is the digit that a top category and all below it begin their short codes with.
func topNumber(top *Category, i int, taken map[string]bool) string {
	if digits := strings.TrimRightFunc(top.Short, func(c rune) bool { return !unicode.IsDigit(c) }); digits != "" {
		return digits
	}
	n := i + 1
	for taken[strconv.Itoa(n)] {
		n++
	}
	return strconv.Itoa(n)
}

// shortCode is the top category's number, and for a child the first letter of its name that is free; further counts those
// that found no letter.
func shortCode(number string, p Place, taken map[string]bool, further map[string]int) string {
	if len(p.Path) == 1 && !taken[number] {
		return number
	}
	letters := strings.ToLower(p.Name) + "abcdefghijklmnopqrstuvwxyz"
	for _, c := range letters {
		if c >= 'a' && c <= 'z' && !taken[number+string(c)] {
			return number + string(c)
		}
	}
	for {
		further[number]++
		if s := number + "z" + strconv.Itoa(further[number]); !taken[s] {
			return s
		}
	}
}
