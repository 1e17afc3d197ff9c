package frame

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"aftermath/core/oneof"
)

// Field is a property that the analyst gives the categories of a frame: a priority, an owner, an action.
type Field struct {
	FieldName
	FieldType
}

// FieldName is what a field is called: one of its own in the frame, case aside.
type FieldName struct {
	Name string `json:"name" minLength:"1" maxLength:"500"`
}

// FieldType is what the values of a field are. A value is kept as text in one form per type; the empty text is no value. FieldTypes
// lists the types.
type FieldType interface {
	oneof.Kinded
	// read gives a value, typed without spaces around it and not empty, in the form that is kept.
	read(typed string) (string, error)
	// compare orders two values that are kept.
	compare(a, b string) int
	// check says what is wrong with the type itself.
	check() error
}

// FieldTypes are all types there are, each with nothing in it.
var FieldTypes = []FieldType{TextField{}, NumberField{}, ListField{}, YesNoField{}}

// TextField holds any text.
type TextField struct{}

// NumberField holds a finite number, kept as 12.5: with a point, and without an exponent.
type NumberField struct{}

// ListField holds one of a list of choices. They are ordered as in the list.
type ListField struct {
	Choices []string `json:"choices" minItems:"1" maxItems:"100" doc:"in their order"`
}

// YesNoField holds yes or no.
type YesNoField struct{}

// Kind is text.
func (TextField) Kind() string { return "text" }

// Kind is number.
func (NumberField) Kind() string { return "number" }

// Kind is list.
func (ListField) Kind() string { return "list" }

// Kind is yes or no.
func (YesNoField) Kind() string { return "yes or no" }

func (TextField) read(typed string) (string, error) { return typed, nil }

func (NumberField) read(typed string) (string, error) {
	x, err := strconv.ParseFloat(typed, 64)
	if err != nil || math.IsInf(x, 0) || math.IsNaN(x) {
		return "", fmt.Errorf("%q is no number; write it as 12.5", typed)
	}
	return strconv.FormatFloat(x, 'f', -1, 64), nil
}

func (f ListField) read(typed string) (string, error) {
	for _, choice := range f.Choices {
		if strings.EqualFold(choice, typed) {
			return choice, nil
		}
	}
	return "", fmt.Errorf("%q is none of its choices: %s", typed, strings.Join(f.Choices, ", "))
}

func (YesNoField) read(typed string) (string, error) {
	switch strings.ToLower(typed) {
	case "yes", "true":
		return "yes", nil
	case "no", "false":
		return "no", nil
	}
	return "", fmt.Errorf("%q is neither yes nor no", typed)
}

func (TextField) compare(a, b string) int {
	return cmp.Or(strings.Compare(strings.ToLower(a), strings.ToLower(b)), strings.Compare(a, b))
}

func (NumberField) compare(a, b string) int {
	x, _ := strconv.ParseFloat(a, 64)
	y, _ := strconv.ParseFloat(b, 64)
	return cmp.Compare(x, y)
}

func (f ListField) compare(a, b string) int {
	return cmp.Compare(slices.Index(f.Choices, a), slices.Index(f.Choices, b))
}

func (YesNoField) compare(a, b string) int { return strings.Compare(b, a) } // yes first

func (TextField) check() error   { return nil }
func (NumberField) check() error { return nil }
func (YesNoField) check() error  { return nil }

func (f ListField) check() error {
	if len(f.Choices) == 0 {
		return fmt.Errorf("has no choices")
	}
	seen := map[string]bool{}
	for _, c := range f.Choices {
		key := strings.ToLower(c)
		if c == "" || c != strings.TrimSpace(c) {
			return fmt.Errorf("has the choice %q, which is empty or has spaces around it", c)
		}
		if seen[key] {
			return fmt.Errorf("has the choice %q twice", c)
		}
		seen[key] = true
	}
	return nil
}

// MarshalJSON writes the field with the kind of its type; a field without a type is none.
func (f Field) MarshalJSON() ([]byte, error) {
	if f.FieldType == nil {
		return []byte("null"), nil
	}
	return oneof.Encode(f.FieldType, f.FieldName)
}

// UnmarshalJSON reads a field. What its type does not know is an error, and so is what it lacks.
func (f *Field) UnmarshalJSON(data []byte) (err error) {
	f.FieldName = FieldName{}
	f.FieldType, err = oneof.Decode("field", FieldTypes, data, &f.FieldName)
	return err
}

// Read gives a value in the form that is kept, from one as it is typed; the empty text stands for none. An error wraps ErrFrame
// and names the field.
func (f Field) Read(typed string) (string, error) {
	typed = strings.TrimSpace(typed)
	switch {
	case f.FieldType == nil:
		return "", fmt.Errorf("%w: the field %q has no type", ErrFrame, f.Name)
	case typed == "":
		return "", nil
	}
	value, err := f.read(typed)
	if err != nil {
		return "", fmt.Errorf("%w: %s: %w", ErrFrame, f.Name, err)
	}
	return value, nil
}

// Compare orders categories by their values of the field; those without one come last.
func (f Field) Compare(a, b *Category) int {
	x, y := a.Fields[f.Name], b.Fields[f.Name]
	if x == "" || y == "" {
		return cmp.Compare(len(y), len(x)) // one of them, or both, are without
	}
	return f.compare(x, y)
}

// Fields are those of the categories of a frame, in the order in which they are shown.
type Fields []Field

// Find gives the field of a name, case aside.
func (fs Fields) Find(name string) (Field, bool) {
	i := fs.index(name)
	if i < 0 {
		return Field{}, false
	}
	return fs[i], true
}

func (fs Fields) index(name string) int {
	return slices.IndexFunc(fs, func(f Field) bool { return strings.EqualFold(f.Name, strings.TrimSpace(name)) })
}

// Check says what is wrong with the fields, or with the values that a frame's categories have of them.
func (fs Fields) Check(f Frame) error {
	seen := map[string]bool{}
	for _, field := range fs {
		key := strings.ToLower(field.Name)
		switch {
		case field.FieldType == nil:
			return fmt.Errorf("%w: the field %q has no type", ErrFrame, field.Name)
		case field.Name == "" || field.Name != strings.TrimSpace(field.Name):
			return fmt.Errorf("%w: a field is called %q, which is empty or has spaces around it", ErrFrame, field.Name)
		case seen[key]:
			return fmt.Errorf("%w: two fields are called %q", ErrFrame, field.Name)
		}
		seen[key] = true
		if err := field.check(); err != nil {
			return fmt.Errorf("%w: the field %q %w", ErrFrame, field.Name, err)
		}
	}
	for p := range f.All() {
		for _, name := range slices.Sorted(maps.Keys(p.Fields)) {
			i := fs.index(name)
			if i < 0 || fs[i].Name != name {
				return fmt.Errorf("%w: %q has a value of the field %q, which the frame does not have", ErrFrame, p.PathName(), name)
			}
			if value, err := fs[i].Read(p.Fields[name]); err != nil {
				return fmt.Errorf("%w (of %q)", err, p.PathName())
			} else if value == "" || value != p.Fields[name] {
				return fmt.Errorf("%w: %q has the value %q of the field %q, which is kept as %q", ErrFrame, p.PathName(), p.Fields[name], name, value)
			}
		}
	}
	return nil
}

// Clone copies the fields with all they hold.
func (fs Fields) Clone() Fields {
	out := slices.Clone(fs)
	for i := range out {
		if list, is := out[i].FieldType.(ListField); is {
			out[i].FieldType = ListField{slices.Clone(list.Choices)}
		}
	}
	return out
}

// Set gives a category a value of a field, as it is typed; the empty text takes it away.
func (c *Category) Set(f Field, typed string) error {
	value, err := f.Read(typed)
	if err != nil {
		return err
	}
	fields := maps.Clone(c.Fields) // it may be shared with the frame before
	if fields == nil {
		fields = map[string]string{}
	}
	if fields[f.Name] = value; value == "" {
		delete(fields, f.Name)
	}
	if c.Fields = fields; len(fields) == 0 {
		c.Fields = nil
	}
	return nil
}
