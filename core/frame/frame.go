// Package frame holds the code frame and codes answers by it: rules, then decisions by hand, then nets, then the
// categories that stand alone.
package frame

import (
	"errors"
	"fmt"
	"iter"
	"slices"
	"strconv"
	"strings"
	"unicode"
)

// Category is one place in a code frame. With children it is a net.
type Category struct {
	ID       string     `json:"id,omitempty" doc:"key within the study; playbook files leave it out"`
	Name     string     `json:"name"`
	Code     int        `json:"code,omitempty"`
	Short    string     `json:"short,omitempty" doc:"what is typed to give it by hand"`
	Note     string     `json:"note,omitempty"`
	Rules    []string   `json:"rules,omitempty" doc:"alternatives"`
	Unless   []string   `json:"unless,omitempty" doc:"rules that take away"`
	Resting  []string   `json:"resting,omitempty" doc:"rules that are kept but not used"`
	Colour   int        `json:"colour,omitempty" doc:"of a top category: which of the eight colours, from 1; 0 for the one of its place"`
	Alone    bool       `json:"alone,omitempty" doc:"only where no other category applies"`
	Off      bool       `json:"off,omitempty" doc:"its rules rest"`
	Children []Category `json:"children,omitempty"`
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

// Name is the path as people write it: People / Friendly crew.
func (p Place) PathName() string { return strings.Join(p.Path, " / ") }

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
		out[i].Rules, out[i].Unless, out[i].Resting = slices.Clone(out[i].Rules), slices.Clone(out[i].Unless), slices.Clone(out[i].Resting)
		out[i].Children = Frame(out[i].Children).Clone()
	}
	return out
}

// ErrFrame is behind every error about a code frame.
var ErrFrame = errors.New("code frame")

// Check says what is wrong with a frame: a category without a name, or two of one name in one place.
func (f Frame) Check() error {
	seen := map[string]bool{}
	for p := range f.All() {
		key := strings.ToLower(p.PathName())
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
// frame has under the same path keep its key, so that decisions by hand stay with them.
func (f Frame) Complete(earlier Frame) {
	ids, codes, shorts := map[string]bool{}, map[int]bool{}, map[string]bool{}
	for p := range earlier.All() {
		ids[p.ID] = true
	}
	for p := range f.All() {
		codes[p.Code] = true
		shorts[strings.ToLower(p.Short)] = true
	}
	for p := range f.All() {
		if p.ID == "" {
			if old, ok := earlier.ByPath(p.Path); ok && !f.has(old.ID) {
				p.ID = old.ID
			} else {
				p.ID = fresh(ids)
			}
		}
		ids[p.ID] = true
	}
	for i := range f {
		top := &f[i]
		number := topNumber(top, i, shorts)
		for p := range (Frame{*top}).All() {
			c, _ := f.Find(p.ID)
			if c.Code == 0 {
				for c.Code = 1; codes[c.Code]; c.Code++ {
				}
				codes[c.Code] = true
			}
			if c.Short == "" {
				c.Short = shortCode(number, p, shorts)
				shorts[c.Short] = true
			}
		}
	}
}

func (f Frame) has(id string) bool { _, ok := f.Find(id); return ok }

func fresh(taken map[string]bool) string {
	for i := 1; ; i++ {
		if id := "c" + strconv.Itoa(i); !taken[id] {
			return id
		}
	}
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

// shortCode is the top category's number, and for a child the first letter of its name that is free.
func shortCode(number string, p Place, taken map[string]bool) string {
	if len(p.Path) == 1 && !taken[number] {
		return number
	}
	letters := strings.ToLower(p.Name) + "abcdefghijklmnopqrstuvwxyz"
	for _, c := range letters {
		if c >= 'a' && c <= 'z' && !taken[number+string(c)] {
			return number + string(c)
		}
	}
	for n := 1; ; n++ {
		if s := number + "z" + strconv.Itoa(n); !taken[s] {
			return s
		}
	}
}
