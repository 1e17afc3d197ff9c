package frame

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// fields are those of the frames that are drawn.
var fields = Fields{
	{FieldName{"Priority"}, ListField{[]string{"high", "low"}}}, {FieldName{"Owner"}, TextField{}}, {FieldName{"Cost"}, NumberField{}},
	{FieldName{"Name"}, YesNoField{}}, // as a column is called
}

// decorated draws a frame with all that a file can hold: odd names, notes, colours, resting rules.
func decorated(t *rapid.T) Frame {
	f := anyFrame(t)
	odd := rapid.SampledFrom([]string{"", " / bar", ` "quiet"`, " é, & <b>", "\u2019s", ` "a / b"`})
	for p := range f.All() {
		p.Name += odd.Draw(t, "odd")
		p.Note = rapid.SampledFrom([]string{"", "What belongs here.\nAnd what does not.", "=SUM(A1)", "<i>&amp;"}).Draw(t, "note")
		if len(p.Path) == 1 {
			p.Colour = rapid.IntRange(0, len(Colours)).Draw(t, "colour")
		}
		for i, values := range [][]string{{"", "high", "low"}, {"", "the pier", "a, \"b\"\n/ c"}, {"", "12.5", "-3"}, {"", "yes", "no"}} {
			require.NoError(t, p.Set(fields[i], rapid.SampledFrom(values).Draw(t, "value")))
		}
		if rapid.Bool().Draw(t, "rests") {
			p.Resting = []string{"tea / coffee", "re\"\\d,\""}
		}
	}
	return f
}

// A frame that goes out as a table comes back the same, but for the keys inside the program.
func TestTableAndBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := decorated(t)
		again, with, err := FromTable(f.Table(fields), fields)
		require.NoError(t, err)
		require.Equal(t, fields, with)
		require.NoError(t, fields.Check(again))
		for p := range f.All() {
			p.ID = ""
		}
		require.Equal(t, f, again)
	})
}

// A codebook comes back with its nets, names, notes and colours, and holds to the schema.
func TestCodebookAndBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := decorated(t)
		data, err := f.Codebook("study")
		require.NoError(t, err)
		again, notes, err := FromCodebook(data)
		require.NoError(t, err, string(data))
		require.Empty(t, notes)
		once, err := f.Codebook("study")
		require.NoError(t, err)
		require.Equal(t, data, once, "the same identifiers each time")
		var want, got []string
		colour := func(f Frame, p Place) int { // that a category is shown in
			i := slices.IndexFunc(f, func(top Category) bool { return top.Name == p.Path[0] })
			if f[i].Colour > 0 {
				return f[i].Colour
			}
			return i%len(Colours) + 1
		}
		for p := range f.All() {
			want = append(want, fmt.Sprint(p.PathName(), p.Note, colour(f, p)))
		}
		for p := range again.All() {
			got = append(got, fmt.Sprint(p.PathName(), p.Note, colour(again, p)))
		}
		require.Equal(t, want, got)
	})
}

func TestCodebookAsWritten(t *testing.T) {
	f := Frame{{Name: "People", Note: "Who was met", Children: []Category{{Name: "Friendly crew"}}}}
	f.Complete(nil, 0)
	data, err := f.Codebook("study")
	require.NoError(t, err)
	text := string(data)
	for _, want := range []string{`<?xml version="1.0" encoding="UTF-8"?>`, `<CodeBook xmlns="urn:QDA-XML:codebook:1.0" origin="Aftermath">`, `isCodable="false" color="#3E5C3A"`,
		`<Description>Who was met</Description>`, `name="Friendly crew" isCodable="true"`} {
		assert.Contains(t, text, want)
	}
	_, err = Frame{}.Codebook("study")
	require.ErrorIs(t, err, ErrFrame, "a codebook must hold a code")
	assert.Less(
		t, strings.Index(text, "<Description>"), strings.Index(text, "Friendly crew"),
		"the description comes before the codes inside",
	)
}

const aGUID = "9f0c8a52-6f1f-4c12-8d2b-0a6f6a0e5b11"

func codebook(inside string) []byte {
	return []byte(`<CodeBook xmlns="urn:QDA-XML:codebook:1.0">` + inside + `</CodeBook>`)
}

func TestCodebookOfAnother(t *testing.T) {
	f, notes, err := FromCodebook(
		codebook(
			`<Codes><Code guid="` + aGUID + `" name="Food" isCodable="true" color="#a1441e"><Description>Eating</Description></Code></Codes>
		<Sets><Set guid="` + aGUID + `" name="S"><MemberCode guid="` + aGUID + `"/></Set></Sets>`,
		),
	)
	require.NoError(t, err)
	assert.Equal(t, Frame{{Name: "Food", Note: "Eating", Colour: 2}}, f)
	assert.Len(t, notes, 2, "the colour became the nearest, sets are left out")
}

func TestCodebooksThatAreRefused(t *testing.T) {
	code := func(attributes, inside string) string {
		return `<Codes><Code ` + attributes + `>` + inside + `</Code></Codes>`
	}
	good := `guid="` + aGUID + `" name="A" isCodable="true"`
	for name, c := range map[string]struct{ data, want string }{
		"not XML":          {"{}", "it has no CodeBook"},
		"another document": {`<Project xmlns="urn:QDA-XML:project:1.0"/>`, `there is no "Project"`},
		"no namespace":     {`<CodeBook><Codes/></CodeBook>`, `there is no "CodeBook"`},
		"no codes":         {string(codebook(``)), "CodeBook lacks Codes"},
		"empty codes":      {string(codebook(`<Codes/>`)), "Codes lacks Code"},
		"no name":          {string(codebook(code(`guid="`+aGUID+`" isCodable="true"`, ""))), `lacks its attribute "name"`},
		"no guid":          {string(codebook(code(`guid="x" name="A" isCodable="true"`, ""))), "no identifier"},
		"not codable":      {string(codebook(code(`guid="`+aGUID+`" name="A" isCodable="maybe"`, ""))), "true or false"},
		"no colour":        {string(codebook(code(good+` color="red"`, ""))), "no colour"},
		"an attribute":     {string(codebook(code(good+` weight="1"`, ""))), `no attribute "weight"`},
		"the order":        {string(codebook(code(good, `<Code guid="`+strings.Replace(aGUID, "9", "8", 1)+`" name="B" isCodable="true"/><Description/>`))), "must stand before"},
		"two alike":        {string(codebook(code(good, `<Code `+good+`/>`))), "two codes have the identifier"},
		"another name":     {string(codebook(`<Codes><Note/></Codes>`)), `there is no "Note"`},
		"two names":        {string(codebook(`<Codes><Code ` + good + `/><Code guid="` + strings.Replace(aGUID, "9", "8", 1) + `" name="a" isCodable="true"/></Codes>`)), "two categories are called"},
		"cut off":          {string(codebook(code(good, "")))[:80], "no XML"},
	} {
		_, _, err := FromCodebook([]byte(c.data))
		require.ErrorIs(t, err, ErrFrame, name)
		assert.Contains(t, err.Error(), c.want, name)
	}
}

func TestTablesThatAreRefused(t *testing.T) {
	for want, rows := range map[string][][]string{
		"the table is empty":              nil,
		`there is no column "weight"`:     {{"name", "weight"}},
		`the column "name" is missing`:    {{"net", "rules"}},
		"row 3: the category has no name": {{"name", "note"}, {"Food", ""}, {"", "a note"}},
		`"x" is no whole number for code`: {{"name", "code"}, {"Food", "x"}},
		"alone is yes or no":              {{"name", "alone"}, {"Food", "maybe"}},
		`"Food / Tea" stands there twice`: {{"name", "net"}, {"Tea", "Food"}, {"tea", "Food"}},
		"asks for colour 9":               {{"name", "colour"}, {"Food", "9"}},
		`"dear" is no number`:             {{"name", "field: cost"}, {"Food", "dear"}},
		`two fields are called "Owner"`:   {{"name", "field: owner", "Field: OWNER"}, {"Food", "a", "b"}},
		`a field is called ""`:            {{"name", "field:"}, {"Food", "a"}},
	} {
		_, _, err := FromTable(rows, fields)
		require.ErrorIs(t, err, ErrFrame, want)
		assert.Contains(t, strings.ToLower(err.Error()), strings.ToLower(want))
	}
	// Nets without a row of their own are made; blank rows are passed over.
	f, with, err := FromTable([][]string{{"name", "net", "rules", "field: Action"}, {}, {"Tea", "On board / Food", "tea\ncup of *", " brew "}}, nil)
	require.NoError(t, err)
	assert.Equal(
		t,
		Frame{
			{
				Name:     "On board",
				Children: []Category{{Name: "Food", Children: []Category{{Name: "Tea", Rules: []string{"tea", "cup of *"}, Fields: map[string]string{"Action": "brew"}}}}},
			},
		},
		f,
	)
	assert.Equal(t, Fields{{FieldName{"Action"}, TextField{}}}, with, "a field that is not known holds text")
}

func FuzzFromCodebook(f *testing.F) {
	data, _ := sample().Codebook("study")
	f.Add(data)
	f.Add(codebook(`<Codes><Code guid="` + aGUID + `" name="Food" isCodable="true" color="#abc"/></Codes>`))
	f.Fuzz(func(t *testing.T, data []byte) {
		frame, _, err := FromCodebook(data)
		if err != nil {
			require.ErrorIs(t, err, ErrFrame)
			return
		}
		frame.Complete(nil, 0)
		again, err := frame.Codebook("study")
		require.NoError(t, err)
		_, _, err = FromCodebook(again)
		require.NoError(t, err, "what was read can be written and read again")
	})
}
