package playbook

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"
)

// Version is the newest version of the file format. Files of every version are read; testdata holds one of each.
//
// A version is added where a file could say something that an older program would have to leave out. What changes then: Version;
// migrations, if the form of something changed; and File, which writes the oldest version that can say all that a playbook says, so
// that a file without anything new is read by older programs too.
const Version = 2

// migrations turn a file into the next version: migrations[0] turns version 1 into version 2.
var migrations = []func(file map[string]any){
	func(file map[string]any) { OwnSettings(file["cleaning"]) }, // version 2 has fields of categories
}

// ReadKept reads a playbook as a store keeps it, perhaps written by an earlier version of this program. Nothing is checked.
func ReadKept(data []byte) (p Playbook, err error) {
	if err = json.Unmarshal(data, &p); err == nil {
		return p, nil
	}
	var file map[string]any
	d := json.NewDecoder(bytes.NewReader(data))
	d.UseNumber()
	if d.Decode(&file) != nil {
		return p, err
	}
	OwnSettings(file["cleaning"])
	if data, err = json.Marshal(file); err != nil {
		return p, err
	}
	p = Playbook{}
	return p, json.Unmarshal(data, &p)
}

// settings are those that each cleaning step of version 1 has.
var settings = map[string][]string{"links": {"mode", "phones", "bare"}, "replace": {"rules"}, "letters": {"letters"}, "emoji": {"mode"}}

// OwnSettings leaves each cleaning step of a list, as JSON is decoded, the settings that it has: in version 1 a step could hold those of
// others, which said nothing.
func OwnSettings(steps any) {
	list, _ := steps.([]any)
	for _, one := range list {
		step, _ := one.(map[string]any)
		name, _ := step["step"].(string)
		for _, setting := range []string{"rules", "letters", "mode", "phones", "bare"} {
			if !slices.Contains(settings[name], setting) {
				delete(step, setting)
			}
		}
	}
}

// oldestVersion is the oldest version that can say all that the playbook says.
func (p Playbook) oldestVersion() int {
	if len(p.Fields) > 0 {
		return 2
	}
	return 1
}

// current gives a file in the form of the newest version. An error names what a file of a newer program says that this one does not
// know.
func current(data []byte, version int) ([]byte, error) {
	switch {
	case version < 1:
		return nil, fmt.Errorf(`%w: "aftermath" is %d, which is no version of the format; this program reads versions 1 to %d`, ErrPlaybook, version, Version)
	case version > Version:
		return nil, tooNew(data, version)
	case version == Version:
		return data, nil
	}
	var file map[string]any
	d := json.NewDecoder(bytes.NewReader(data))
	d.UseNumber()
	if err := d.Decode(&file); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrPlaybook, err)
	}
	for _, migrate := range migrations[version-1:] {
		migrate(file)
	}
	file["aftermath"] = Version
	return json.Marshal(file)
}

// tooNew says of a file of a newer version what this program does not know of it.
func tooNew(data []byte, version int) error {
	var file any
	if err := json.Unmarshal(data, &file); err != nil {
		return fmt.Errorf("%w: %w", ErrPlaybook, err)
	}
	unknown := unknownKeys(file, reflect.TypeFor[Playbook](), "")
	slices.Sort(unknown)
	unknown = slices.Compact(unknown)
	says := "this program knows all that it names, but may read it otherwise than is meant"
	if len(unknown) > 0 {
		says = fmt.Sprintf("this program does not know %s, which version %d does", list(unknown), version)
	}
	return fmt.Errorf(
		"%w: the file is of version %d, and this program reads versions 1 to %d; %s. Nothing was taken from it; read it with a program "+
			"of that version", ErrPlaybook, version, Version, says,
	)
}

// list names things, the first few of many.
func list(names []string) string {
	const named = 5
	more := ""
	if len(names) > named {
		more = fmt.Sprintf(" and %d more", len(names)-named)
	}
	return strings.Join(names[:min(len(names), named)], ", ") + more
}

// unknownKeys are the keys of a JSON value that a type does not have, each with its path, as frame.rules. What a type can't read that
// reads itself is named with the reason.
func unknownKeys(value any, of reflect.Type, path string) (out []string) {
	for of.Kind() == reflect.Pointer {
		of = of.Elem()
	}
	if reflect.PointerTo(of).Implements(reflect.TypeFor[json.Unmarshaler]()) {
		data, _ := json.Marshal(value) // it came from JSON
		if err := json.Unmarshal(data, reflect.New(of).Interface()); err != nil {
			return []string{fmt.Sprintf("%s (%s)", path, err)}
		}
		return nil
	}
	switch v := value.(type) {
	case []any:
		if of.Kind() == reflect.Slice || of.Kind() == reflect.Array {
			for _, x := range v {
				out = append(out, unknownKeys(x, of.Elem(), path)...)
			}
		}
	case map[string]any:
		if of.Kind() != reflect.Struct {
			return nil
		}
		fields := map[string]reflect.Type{}
		for _, f := range reflect.VisibleFields(of) {
			name, _, _ := strings.Cut(f.Tag.Get("json"), ",")
			fields[name] = f.Type
		}
		for key, x := range v {
			at := strings.TrimPrefix(path+"."+key, ".")
			if field, known := fields[key]; known {
				out = append(out, unknownKeys(x, field, at)...)
			} else {
				out = append(out, at)
			}
		}
	}
	return out
}
