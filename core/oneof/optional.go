package oneof

import "encoding/json"

// Optional is a field of a change: left out, what there is stays as it is; null clears it; a value takes its place. Its tag in a
// struct says omitzero.
type Optional[T any] struct {
	value T
	given bool
}

// Given is a field that is given.
func Given[T any](value T) Optional[T] { return Optional[T]{value, true} }

// IsZero says whether the field was left out.
func (o Optional[T]) IsZero() bool { return !o.given }

// Or is what the field is after the change, where it was something before.
func (o Optional[T]) Or(before T) T {
	if o.given {
		return o.value
	}
	return before
}

// MarshalJSON writes the value. What was cleared is written as the zero value, which says the same.
func (o Optional[T]) MarshalJSON() ([]byte, error) { return json.Marshal(o.value) }

// UnmarshalJSON reads a value, or null.
func (o *Optional[T]) UnmarshalJSON(data []byte) error {
	*o = Optional[T]{given: true}
	if string(data) == "null" {
		return nil
	}
	return json.Unmarshal(data, &o.value)
}

func (Optional[T]) takesNull() {}

// optional is any Optional, and nothing else that can be zero, as a time can.
type optional interface{ takesNull() }
