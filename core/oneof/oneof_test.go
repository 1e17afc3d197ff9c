package oneof_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/oneof"
)

type shape interface {
	oneof.Kinded
	area() float64
}

type square struct {
	Side float64 `json:"side"`
}

type polygon struct {
	Corners []corner `json:"corners"`
	named
}

type named struct {
	Label string `json:"label,omitempty"`
}

type corner struct {
	X int `json:"x"`
}

type point struct{}

type change struct {
	Name oneof.Optional[string] `json:"name,omitzero"`
	Size oneof.Optional[int]    `json:"size,omitzero"`
}

func (change) Kind() string  { return "change" }
func (change) area() float64 { return 0 }

func (square) Kind() string    { return "square" }
func (s square) area() float64 { return s.Side * s.Side }
func (polygon) Kind() string   { return "polygon" }
func (polygon) area() float64  { return 0 }
func (point) Kind() string     { return "point" }
func (point) area() float64    { return 0 }

var shapes = []shape{square{}, polygon{}, point{}}

type turned struct {
	Turned bool `json:"turned,omitempty"`
}

func ExampleDecode() {
	s, err := oneof.Decode("shape", shapes, []byte(`{"kind": "square", "side": 3}`))
	fmt.Println(s.area(), err)
	_, err = oneof.Decode("shape", shapes, []byte(`{"kind": "square", "sied": 3}`))
	fmt.Println(err)
	// Output:
	// 9 <nil>
	// the shape "square" lacks "side"
}

func TestRefused(t *testing.T) {
	for data, says := range map[string]string{
		`7`:                                `a shape is an object with a kind`,
		`null`:                             `a shape is an object with a kind`,
		`{`:                                `a shape is an object with a kind`,
		`{"side": 3}`:                      `there is no shape ""`,
		`{"kind": "circle", "side": 3}`:    `there is no shape "circle"`,
		`{"kind": "Square", "side": 3}`:    `there is no shape "Square"`,
		`{"kind": "square"}`:               `the shape "square" lacks "side"`,
		`{"kind": "square", "side": null}`: `the shape "square" lacks "side"`,
		`{"kind": "square", "side": 3, "sied": 3}`:           `the shape "square" has no "sied"`,
		`{"kind": "square", "side": 3, "Side": 4}`:           `the shape "square" has no "Side"`,
		`{"kind": "square", "side": "3"}`:                    `the shape "square" can't be read: "side" is a string, where a value of type float64 is needed`,
		`{"kind": "point", "side": 3}`:                       `the shape "point" has no "side"`,
		`{"kind": "polygon", "corners": [{"x": 1, "y": 2}]}`: `the shape "polygon" can't be read: "corners": unknown field "y"`,
		`{"kind": "point", "turned": true, "not": true}`:     `the shape "point" has no "not"`,
		`{"kind": "point", "turned": "yes"}`:                 `the shape "point" can't be read: "turned" is a string, where a value of type bool is needed`,
	} {
		_, err := oneof.Decode("shape", shapes, []byte(data), &turned{})
		assert.EqualError(t, err, says, data)
	}
}

// What is written is read as what it was, shared fields included, and is one JSON object.
func TestEncodeDecode(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		was := []shape{
			square{float64(rapid.Int().Draw(t, "side"))},
			polygon{Corners: []corner{{1}}, named: named{rapid.String().Draw(t, "label")}},
			point{},
		}[rapid.IntRange(0, 2).Draw(t, "kind")]
		shared := turned{rapid.Bool().Draw(t, "turned")}
		data, err := oneof.Encode(was, shared)
		require.NoError(t, err)
		require.True(t, json.Valid(data), string(data))
		var read turned
		got, err := oneof.Decode("shape", shapes, data, &read)
		require.NoError(t, err)
		assert.Equal(t, was, got)
		assert.Equal(t, shared, read)
	})
}

// What is left out stays, what is null is cleared, what is given takes its place; and it is the same after it was written and read.
func TestOptional(t *testing.T) {
	for data, want := range map[string][2]any{
		`{"kind":"change"}`:                        {"was", 7},
		`{"kind":"change","name":null,"size":3}`:   {"", 3},
		`{"kind":"change","name":"x","size":null}`: {"x", 0},
		`{"kind":"change","size":0}`:               {"was", 0},
	} {
		for range 2 {
			read, err := oneof.Decode("change", []shape{change{}}, []byte(data))
			require.NoError(t, err, data)
			c := read.(change)
			assert.Equal(t, want, [2]any{c.Name.Or("was"), c.Size.Or(7)}, data)
			written, err := oneof.Encode(c)
			require.NoError(t, err)
			data = string(written)
		}
	}
	_, err := oneof.Decode("change", []shape{change{}}, []byte(`{"kind":"change","size":"x"}`))
	assert.ErrorContains(t, err, `"size"`)
}
