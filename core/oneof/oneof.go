// Package oneof reads and writes JSON objects that are one of several types, told apart by their "kind". Each type holds what its
// kind needs and nothing else, so an object that names another field, or lacks one, is refused instead of being read as something
// that nobody meant.
package oneof

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
)

// Kinded is a value of one of several types.
type Kinded interface {
	// Kind is the name of the type in JSON. It does not depend on the value.
	Kind() string
}

// kindKey is the field that tells types apart.
const kindKey = "kind"

// Encode writes a value with its kind first. Shared values are structs whose fields stand in the same object; their names differ
// from those of the type.
func Encode(of Kinded, shared ...any) ([]byte, error) { return EncodeBy(kindKey, of, shared...) }

// EncodeBy is Encode with another field than kind.
func EncodeBy(key string, of Kinded, shared ...any) ([]byte, error) {
	kind, err := json.Marshal(map[string]string{key: of.Kind()})
	if err != nil {
		return nil, err
	}
	out := bytes.TrimSuffix(kind, []byte("}"))
	for _, part := range append(shared, of) {
		data, err := json.Marshal(part)
		if err != nil {
			return nil, err
		}
		if fields := bytes.TrimSuffix(data[1:], []byte("}")); len(fields) > 0 {
			out = append(append(out, ','), fields...)
		}
	}
	return append(out, '}'), nil
}

// Decode reads an object as the type among kinds that its kind names, and the fields of shared structs, which are given as
// pointers. What, as in "edit", is what errors call the object. A kind that is not there, a field that neither the type nor a shared
// struct has, and a required field (one without omitempty) that is missing or null are errors.
func Decode[T Kinded](what string, kinds []T, data []byte, shared ...any) (of T, err error) {
	return DecodeBy(kindKey, what, kinds, data, shared...)
}

// DecodeBy is Decode with another field than kind.
func DecodeBy[T Kinded](key, what string, kinds []T, data []byte, shared ...any) (of T, err error) {
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(data, &fields); err != nil || fields == nil {
		return of, fmt.Errorf("%s %s is an object with a %s", article(what), what, key)
	}
	var kind string
	_ = json.Unmarshal(fields[key], &kind)
	delete(fields, key)
	at := slices.IndexFunc(kinds, func(k T) bool { return k.Kind() == kind })
	if at < 0 {
		return of, fmt.Errorf("there is no %s %q", what, kind)
	}
	named := fmt.Sprintf("the %s %q", what, kind)
	for _, part := range shared {
		if err := take(named, fields, reflect.ValueOf(part).Elem()); err != nil {
			return of, err
		}
	}
	made := reflect.New(reflect.TypeOf(kinds[at])).Elem()
	if err := take(named, fields, made); err != nil {
		return of, err
	}
	for name := range fields {
		return of, fmt.Errorf("%s has no %q", named, name)
	}
	return made.Interface().(T), nil
}

// DecodeKept is Decode for what a program of another version may have written: fields that are not known are passed over, and those
// that are missing stay zero. A kind that is not there is an error.
func DecodeKept[T Kinded](what string, kinds []T, data []byte, shared ...any) (of T, err error) {
	return DecodeKeptBy(kindKey, what, kinds, data, shared...)
}

// DecodeKeptBy is DecodeKept with another field than kind.
func DecodeKeptBy[T Kinded](key, what string, kinds []T, data []byte, shared ...any) (of T, err error) {
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(data, &fields); err != nil {
		return of, err
	}
	var kind string
	_ = json.Unmarshal(fields[key], &kind)
	at := slices.IndexFunc(kinds, func(k T) bool { return k.Kind() == kind })
	if at < 0 {
		return of, fmt.Errorf("there is no %s %q", what, kind)
	}
	made := reflect.New(reflect.TypeOf(kinds[at]))
	for _, into := range append(shared, made.Interface()) {
		if err := json.Unmarshal(data, into); err != nil {
			return of, fmt.Errorf("the %s %q can't be read: %w", what, kind, err)
		}
	}
	return made.Elem().Interface().(T), nil
}

// take fills a struct with its fields and takes them out of fields.
func take(named string, fields map[string]json.RawMessage, into reflect.Value) error {
	for i := range into.NumField() {
		if field := into.Type().Field(i); field.Anonymous && field.Tag.Get("json") == "" {
			if err := take(named, fields, into.Field(i)); err != nil {
				return err
			}
			continue
		}
		name, options, _ := strings.Cut(into.Type().Field(i).Tag.Get("json"), ",")
		value, there := fields[name]
		delete(fields, name)
		_, clears := into.Field(i).Interface().(optional) // null is a value of it
		if !there || string(value) == "null" && !clears {
			if options != "omitempty" && options != "omitzero" {
				return fmt.Errorf("%s lacks %q", named, name)
			}
			continue
		}
		d := json.NewDecoder(bytes.NewReader(value))
		d.DisallowUnknownFields()
		if err := d.Decode(into.Field(i).Addr().Interface()); err != nil {
			return fmt.Errorf("%s can't be read: %s", named, reason(name, err))
		}
	}
	return nil
}

// reason is why a field can't be read, without words of the decoder.
func reason(name string, err error) string {
	var typed *json.UnmarshalTypeError
	if errors.As(err, &typed) && typed.Field == "" {
		return fmt.Sprintf("%q is a %s, where a value of type %s is needed", name, typed.Value, typed.Type)
	}
	return fmt.Sprintf("%q: %s", name, strings.TrimPrefix(err.Error(), "json: "))
}

func article(of string) string {
	if strings.ContainsAny(of[:1], "aeiou") {
		return "an"
	}
	return "a"
}
