package focus

import (
	"encoding/json"
	"fmt"
	"reflect"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/oneof/oneoftest"
	"aftermath/internal/desk/state"
)

func ExampleFocus_Key() {
	a, _ := Parse(`[{"kind": "coded"}, {"kind": "variable", "name": "route", "op": "=", "values": ["North", "East"]}]`)
	b, _ := Parse(`[{"kind": "variable", "name": "route", "op": "=", "values": ["North", "East"]}, {"kind": "coded"}]`)
	c, _ := Parse(`[{"kind": "coded"}, {"kind": "variable", "name": "route", "op": "=", "values": ["North East"]}]`)
	fmt.Println(a.Key() == b.Key(), a.Key() == c.Key())
	// Output: true false
}

// What can't be meant is refused, in words, instead of narrowing to something else.
func TestRefused(t *testing.T) {
	for given, says := range map[string]string{
		`{}`:                             "the focus can't be read",
		`[7]`:                            "a condition is an object with a kind",
		`[{"kind":"codet"}]`:             `there is no condition "codet"`,
		`[{"kind":"coded","nott":true}]`: `the condition "coded" has no "nott"`,
		`[{"kind":"coded","text":"x"}]`:  `the condition "coded" has no "text"`,
		`[{"kind":"variable","name":"route","value":["North"]}]`: `the condition "variable" lacks "values"`,
		`[{"kind":"variable","name":"route","values":"North"}]`:  `"values" is a string`,
		`[{"kind":"sample","text":"random"}]`:                    `the condition "sample" lacks "n"`,
	} {
		_, err := Parse(given)
		assert.ErrorIs(t, err, state.ErrRequest, given)
		assert.ErrorContains(t, err, says, given)
	}
}

// Every kind has a name of its own, and reads as it was written.
func TestKinds(t *testing.T) {
	oneoftest.Complete(t, Kinds)
	for _, k := range Kinds {
		made := reflect.New(reflect.TypeOf(k)).Elem()
		for i := range made.NumField() {
			if f := made.Field(i); f.Kind() == reflect.Slice && made.Type().Field(i).Tag.Get("json") == "values" {
				f.Set(reflect.MakeSlice(f.Type(), 1, 1)) // a list that is not left out is never null
			}
		}
		k := made.Interface().(Test)
		data, err := json.Marshal(Focus{Not(k)})
		require.NoError(t, err)
		read, err := Parse(string(data))
		if assert.NoError(t, err, string(data)) {
			assert.Equal(t, Focus{Not(k)}, read)
		}
	}
}
