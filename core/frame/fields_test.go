package frame

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/oneof/oneoftest"
)

func TestEveryFieldTypeIsListed(t *testing.T) { oneoftest.Complete(t, FieldTypes) }

// A value is kept in one form, whatever it was typed as, and kept so again; what the field can't hold is refused.
func TestValuesOfFields(t *testing.T) {
	list := ListField{[]string{"High", "low"}}
	for _, c := range []struct {
		of          FieldType
		typed, kept string
		fails       string
	}{
		{TextField{}, "  the Pier ", "the Pier", ""}, {TextField{}, " ", "", ""},
		{NumberField{}, "012.50", "12.5", ""}, {NumberField{}, "1e21", "1000000000000000000000", ""}, {NumberField{}, "-0.1", "-0.1", ""},
		{NumberField{}, "1,5", "", "is no number"}, {NumberField{}, "NaN", "", "is no number"}, {NumberField{}, "1e999", "", "is no number"},
		{list, "HIGH", "High", ""}, {list, "middle", "", "none of its choices: High, low"},
		{YesNoField{}, "True", "yes", ""}, {YesNoField{}, "no", "no", ""}, {YesNoField{}, "maybe", "", "neither yes nor no"},
	} {
		f := Field{FieldName{"F"}, c.of}
		got, err := f.Read(c.typed)
		if c.fails != "" {
			require.ErrorIs(t, err, ErrFrame)
			require.ErrorContains(t, err, c.fails)
			continue
		}
		require.NoError(t, err)
		assert.Equal(t, c.kept, got)
		again, err := f.Read(got)
		require.NoError(t, err)
		assert.Equal(t, got, again)
	}
}

// Categories stand in the order of a field's values, those without one last; equal ones stay where they were.
func TestOrderByAField(t *testing.T) {
	for _, c := range []struct {
		of     FieldType
		values []string
		want   []string
	}{
		{TextField{}, []string{"b", "", "A", "a"}, []string{"A", "a", "b", ""}},
		{NumberField{}, []string{"10", "9", "", "-1"}, []string{"-1", "9", "10", ""}},
		{ListField{[]string{"high", "low"}}, []string{"", "low", "high"}, []string{"high", "low", ""}},
		{YesNoField{}, []string{"no", "", "yes"}, []string{"yes", "no", ""}},
	} {
		var all []*Category
		f := Field{FieldName{"F"}, c.of}
		for _, v := range c.values {
			one := &Category{}
			require.NoError(t, one.Set(f, v))
			all = append(all, one)
		}
		slices.SortStableFunc(all, f.Compare)
		var got []string
		for _, one := range all {
			got = append(got, one.Fields["F"])
		}
		assert.Equal(t, c.want, got)
	}
}

func TestFieldsThatAreRefused(t *testing.T) {
	for says, fields := range map[string]Fields{
		`two fields are called "OWNER"`: {{FieldName{"Owner"}, TextField{}}, {FieldName{"OWNER"}, TextField{}}},
		`has no choices`:                {{FieldName{"P"}, ListField{}}},
		`has the choice "High" twice`:   {{FieldName{"P"}, ListField{[]string{"high", "High"}}}},
		`has spaces around it`:          {{FieldName{"P"}, ListField{[]string{"high "}}}},
		`a field is called ""`:          {{FieldName{""}, TextField{}}},
		`has a value of the field "P"`:  {{FieldName{"p"}, TextField{}}},
		`"x" is no number`:              {{FieldName{"P"}, NumberField{}}},
	} {
		err := fields.Check(Frame{{Name: "A", Fields: map[string]string{"P": "x"}}})
		require.ErrorIs(t, err, ErrFrame, says)
		assert.ErrorContains(t, err, says)
	}
	for data, says := range map[string]string{
		`{"kind":"list","name":"P"}`:                 `lacks "choices"`,
		`{"kind":"text","name":"P","choices":["a"]}`: `has no "choices"`,
		`{"kind":"date","name":"P"}`:                 `no field "date"`,
	} {
		var f Field
		assert.ErrorContains(t, json.Unmarshal([]byte(data), &f), says)
	}
}
