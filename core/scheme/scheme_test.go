package scheme_test

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"reflect"
	"runtime"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/oneof"
	"aftermath/core/oneof/oneoftest"
	"aftermath/core/playbook"
	. "aftermath/core/scheme"
	"aftermath/core/scheme/schemetest"
	"aftermath/core/survey"
	"aftermath/core/text"
)

var answersGiven = []string{
	"The queue was long", "queues, late boat", "tailback at the pier", "cold tea, didn't like it", "n/a", "", "late",
	"crew was rude, tea was cold",
}

// situation is what the edits of a scheme find: the scheme applied to a few answers of respondents whose numbers have gaps.
func situation(t require.TestingT, s Scheme) Situation {
	rows := survey.Rows{{From: 0, To: 5}, {From: 9, To: 12}}
	reading, err := s.Read(context.Background(), answersGiven, runtime.GOMAXPROCS(0), nil)
	require.NoError(t, err)
	v := s.View(reading)
	c, err := s.Code(context.Background(), v, answersGiven, nil, s.Decisions.In(rows), nil)
	require.NoError(t, err)
	return Situation{View: v, Coding: c, Rows: rows,
		Question: func(int64) (Scheme, error) {
			other := New(playbook.New("de"), Decisions{})
			other.Lexicon.Merges = []lexicon.Merge{{Term: "tea", Variants: []string{"cold tea"}}}
			other.Frame = frame.Frame{{ID: "c1", Name: "Waiting", Rules: []string{"pier"}}, {ID: "c2", Name: "Other"}}
			return other, nil
		},
		State: func(ref string) (Scheme, string, error) {
			return Scheme{
				Playbook:  playbook.New("en"),
				Decisions: Decisions{}.With([]Marks{{Category: "", To: On, Respondents: []survey.Respondent{1, 11}}}),
			}, "“" + ref + "”", nil
		}}
}

func field(name string, of frame.FieldType) frame.Field {
	return frame.Field{FieldName: frame.FieldName{Name: name}, FieldType: of}
}

func begin() Scheme {
	p := playbook.New("en")
	p.Frame = frame.Frame{
		{Name: "Waiting", Rules: []string{"queue"}},
		{
			Name:     "People",
			Children: []frame.Category{{Name: "Crew", Rules: []string{"crew"}}, {Name: `The "Swan" / bar`, Rules: []string{"tea"}}},
		},
		{Name: "Both", Rules: []string{`{People / "The ""Swan"" / bar"} + cold`}},
		{Name: "Nothing", Alone: true, Rules: []string{"*"}},
	}
	p.Fields = frame.Fields{
		field("Priority", frame.ListField{Choices: []string{"high", "low"}}), field("Owner", frame.TextField{}),
	}
	p.Frame[0].Fields = map[string]string{"Priority": "high", "Owner": "the pier"}
	p.Frame[1].Children[0].Fields = map[string]string{"Priority": "low"}
	p.Frame.Complete(nil, 0)
	p.Lexicon.Merges = []lexicon.Merge{{Term: "long", Variants: []string{"tailback"}}}
	p.Lexicon.Lists = []lexicon.List{{Name: "x", Entries: []string{"pier"}}}
	return New(
		p,
		Decisions{}.With(
			[]Marks{{Category: "c1", To: On, Respondents: []survey.Respondent{3}}, {Category: "c1", To: Off, Respondents: []survey.Respondent{0}}, {Category: "", To: On, Respondents: []survey.Respondent{10}}},
		),
	)
}

func written(t require.TestingT, s Scheme) string {
	data, err := json.Marshal([]any{s.Playbook, s.Decisions.All()})
	require.NoError(t, err)
	return string(data)
}

// Whatever edits are made, each is taken back to the last byte by its undo and made again by its redo, both as the store keeps
// them; what it says to touch is what differs; no key of a category is given out twice; and the scheme that an edit began with
// stays as it was.
func TestEditsAreTakenBackWhole(t *testing.T) {
	made := map[string]int{}
	walk := func(t *rapid.T) {
		s := begin()
		given := map[string]bool{} // keys, ever
		for p := range s.Frame.All() {
			given[p.ID] = true
		}
		for range rapid.IntRange(1, 5).Draw(t, "edits") {
			e, before := schemetest.AnyEdit(t, s.Frame), written(t, s)
			c, err := Apply(context.Background(), s, e, situation(t, s))
			require.Equal(t, before, written(t, s), "%s changed what it began with", e.Kind())
			if err != nil {
				require.ErrorIs(t, err, ErrEdit, "%T", e)
				continue
			}
			made[e.Kind()]++
			require.NotEmpty(t, c.Summary)
			after := written(t, c.Scheme)
			require.Equal(t, before, written(t, c.Scheme.Patched(stored(t, c.Undo))), "%#v", e)
			require.Equal(t, after, written(t, s.Patched(stored(t, c.Redo))), "%#v", e)
			require.Equal(t, before != after, !reflect.DeepEqual(c.Redo, Patch{}))
			touched := c.Redo.Touches()
			same := func(part func(Scheme) any) bool {
				a, _ := json.Marshal(part(s))
				b, _ := json.Marshal(part(c.Scheme))
				return string(a) == string(b)
			}
			require.Equal(t, Touched{
				Text: !same(func(s Scheme) any {
					passed := append([]string{}, s.NotPersonal...) // no list and an empty one are the same
					return []any{s.Language, s.Cleaning, s.NoAnswers, s.Mask, passed}
				}),
				Lexicon:   !same(func(s Scheme) any { return s.Lexicon }),
				Frame:     !same(func(s Scheme) any { return []any{s.Frame, s.Single} }),
				Decisions: !same(func(s Scheme) any { return s.Decisions.All() }),
			}, touched, "%#v", e)
			was := map[string]bool{}
			for p := range s.Frame.All() {
				was[p.ID] = true
			}
			for p := range c.Scheme.Frame.All() {
				require.True(t, was[p.ID] || !given[p.ID] || e.Kind() == "go back", "%q had the key %s before", p.PathName(), p.ID)
				given[p.ID] = true
			}
			if rapid.IntRange(0, 2).Draw(t, "undone") == 0 {
				s = c.Scheme.Patched(stored(t, c.Undo))
			} else {
				s = c.Scheme
			}
		}
	}
	for range 30 {
		if rapid.Check(t, walk); t.Failed() || len(made) == len(Kinds) {
			break
		}
	}
	for _, k := range Kinds {
		assert.Positive(t, made[k.Kind()], "%q was never made", k.Kind())
	}
}

// stored is a patch as the store gives it back.
func stored(t require.TestingT, p Patch) (out Patch) {
	data, err := json.Marshal(p)
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(data, &out))
	return out
}

// What takes an edit back is about as large as the edit, not as large as the scheme.
func TestUndoHoldsWhatWasTouched(t *testing.T) {
	s := begin()
	for i := range 500 {
		s.Frame = append(s.Frame, frame.Category{Name: fmt.Sprint("Category ", i), Rules: []string{"queue / tea / late"}})
		s.Lexicon.Merges = append(s.Lexicon.Merges, lexicon.Merge{Term: fmt.Sprint("term", i), Variants: []string{"a", "b"}})
	}
	s.LastKey = s.Frame.Complete(nil, s.LastKey)
	for _, e := range []Edit{WriteRule{Category: "c9", Rule: "boat"}, ChangeCategory{Category: "c100", Name: oneof.Given("Else")}, Hide{Terms: []string{"boat"}}, MergeTerms{Label: "term7", Terms: []string{"boat"}}, RemoveCategory{Category: "c50"}} {
		c, err := Apply(context.Background(), s, e, situation(t, s))
		require.NoError(t, err)
		data, err := json.Marshal(c.Undo)
		require.NoError(t, err)
		assert.Less(t, len(data), 400, e.Kind())
	}
}

func TestEditsAsJSON(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		e := schemetest.AnyEdit(t, begin().Frame)
		data, err := json.Marshal(Any{e})
		require.NoError(t, err)
		var back Any
		require.NoError(t, json.Unmarshal(data, &back), "%s", data)
		again, err := json.Marshal(back)
		require.NoError(t, err)
		require.JSONEq(t, string(data), string(again))
		require.IsType(t, e, back.Edit)
	})
	for data, says := range map[string]string{
		`{"kind":"cleaning","terms":["x"]}`:           `lacks "steps"`,
		`{"kind":"cleaning","steps":null}`:            `lacks "steps"`,
		`{"kind":"cleaning","steps":[],"terms":[]}`:   `has no "terms"`,
		`{"kind":"mask"}`:                             `lacks "on"`,
		`{"kind":"inflections"}`:                      `lacks "on"`,
		`{"kind":"restore","playbook":{}}`:            `no edit "restore"`,
		`{"kind":"hide","terms":"x"}`:                 `can't be read`,
		`{"terms":["x"]}`:                             `no edit ""`,
		`["hide"]`:                                    `object with a kind`,
		`{"kind":"decide","category":"c1","to":"on"}`: `lacks "answers"`,
	} {
		var a Any
		err := json.Unmarshal([]byte(data), &a)
		require.ErrorIs(t, err, ErrEdit, data)
		assert.ErrorContains(t, err, says, data)
	}
}

// Cases that a random walk comes by too seldom.
func TestEdits(t *testing.T) {
	names := func(s Scheme) (out []string) {
		for p := range s.Frame.All() {
			out = append(out, p.PathName())
		}
		return out
	}
	rulesOf := func(s Scheme, key string) []string {
		p, _ := s.Frame.Find(key)
		return p.Rules
	}
	for _, c := range []struct {
		name  string
		edit  Edit
		check func(t *testing.T, s Scheme)
		fails string
	}{
		{"a rename is followed by rules that name it, quotes and all", ChangeCategory{Category: "c4", Name: oneof.Given(`"Gull" / bar`)}, func(t *testing.T, s Scheme) {
			assert.Equal(t, []string{`{People / """Gull"" / bar"} + cold`}, rulesOf(s, "c5"))
		}, ""},
		{"a renamed net, too", ChangeCategory{Category: "c2", Name: oneof.Given(`O"Shea`)}, func(t *testing.T, s Scheme) {
			assert.Equal(t, []string{`{"O""Shea" / "The ""Swan"" / bar"} + cold`}, rulesOf(s, "c5"))
		}, ""},
		{"a move changes the path", MoveCategory{Category: "c4"}, func(t *testing.T, s Scheme) {
			assert.Equal(t, []string{`{"The ""Swan"" / bar"} + cold`}, rulesOf(s, "c5"))
		}, ""},
		{"what has decisions becomes no net", AddCategory{Parent: "c1", Name: "x"}, nil, "has one answer by hand"},
		{"nor by a move", MoveCategory{Category: "c5", Parent: "c1"}, nil, "has one answer by hand"},
		{"a category does not move into itself", MoveCategory{Category: "c2", Parent: "c3"}, nil, "can't stand in itself"},
		{"names stay different", AddCategory{Name: "waiting"}, nil, "two categories are called"},
		{"decisions go with their category", RemoveCategory{Category: "c1"}, func(t *testing.T, s Scheme) {
			assert.Equal(t, []Marks{{Category: "", To: On, Respondents: []survey.Respondent{10}}}, s.Decisions.All())
		}, ""},
		{"nets have none of their own", Decide{Category: "c2", Answers: []survey.Respondent{1}, To: On}, nil, "is a net"},
		{"an answer may be named twice", Decide{Category: "c3", Answers: []survey.Respondent{1, 1}, To: On}, func(t *testing.T, s Scheme) {
			assert.Equal(t, []survey.Respondent{1}, s.Decisions.On["c3"].List())
		}, ""},
		{"who is not there decides nothing", Decide{Category: "c3", Answers: []survey.Respondent{5}, To: On}, nil, "respondent 5"},
		{"a frame that takes the place of another keeps keys by path", BringFrame{Frame: frame.Frame{{ID: "c9", Name: "WAITING"}, {ID: "c1", Name: "Fresh"}}}, func(t *testing.T, s Scheme) {
			assert.Equal(t, []string{"c1", "c7"}, []string{s.Frame[0].ID, s.Frame[1].ID})
			assert.True(t, s.Decisions.On["c1"].Has(3))
		}, ""},
		{"one that comes after gets names of its own", BringFrame{Frame: frame.Frame{{Name: "Both", Rules: []string{"{Both} + a"}}}, After: true}, func(t *testing.T, s Scheme) {
			assert.Equal(t, "Both 2", names(s)[6])
			assert.Equal(t, []string{`{Both 2} + a`}, s.Frame[4].Rules)
		}, ""},
		{"rules have a length", WriteRule{Category: "c1", Rule: strings.Repeat("a ", 10_001)}, nil, "at most 20000"},
		{"null characters are refused", ChangeCategory{Category: "c1", Name: oneof.Given("a\x00b")}, nil, "null character"},
		{"a word that goes from keep to hide is hidden", Hide{Terms: []string{"queue"}}, func(t *testing.T, s Scheme) {
			assert.Equal(t, []string{"queue"}, s.Lexicon.StopWords.Add)
		}, ""},
		{"a base list must be there", SetBaseStopWords{Language: "xx"}, nil, "no base stop list"},
		{"so must a language", SetLanguage{Language: "xx"}, nil, "not known"},
		{"the base and the refusals follow the language", SetLanguage{Language: "de"}, func(t *testing.T, s Scheme) {
			assert.Equal(t, "de", s.Lexicon.StopWords.Base)
			assert.Equal(t, text.DefaultNoAnswers("de"), s.NoAnswers)
		}, ""},
		{"a moved place must be there", MoveCategory{Category: "c1", Before: "c3"}, nil, "no longer there"},
		{"a choice that is renamed takes its values along", ChangeField{Field: "Priority", To: field("Urgency", frame.ListField{Choices: []string{"now", "low"}}), Renamed: map[string]string{"high": "now"}}, func(t *testing.T, s Scheme) {
			assert.Equal(t, map[string]string{"Urgency": "now", "Owner": "the pier"}, s.Frame[0].Fields)
			assert.Equal(t, map[string]string{"Urgency": "low"}, s.Frame[1].Children[0].Fields)
		}, ""},
		{"choices that change places keep their values", ChangeField{Field: "Priority", To: field("Priority", frame.ListField{Choices: []string{"low", "high"}}), Renamed: map[string]string{"high": "low", "low": "high"}}, func(t *testing.T, s Scheme) {
			assert.Equal(t, "low", s.Frame[0].Fields["Priority"])
			assert.Equal(t, "high", s.Frame[1].Children[0].Fields["Priority"])
		}, ""},
		{"a choice that is in use is not taken away", ChangeField{Field: "Priority", To: field("Priority", frame.ListField{Choices: []string{"high"}})}, nil, `"low" is none of its choices: high; it is so of People / Crew`},
		{"text in use becomes no number", ChangeField{Field: "Owner", To: field("Owner", frame.NumberField{})}, nil, `"the pier" is no number`},
		{"a field goes with its values", RemoveField{Field: "Priority"}, func(t *testing.T, s Scheme) {
			assert.Equal(t, map[string]string{"Owner": "the pier"}, s.Frame[0].Fields)
			assert.Nil(t, s.Frame[1].Children[0].Fields)
		}, ""},
		{"two fields of a name are refused", AddField{Field: field("owner", frame.YesNoField{})}, nil, "two fields are called"},
		{"a value is one of its field", ChangeCategory{Category: "c1", Fields: map[string]*string{"Priority": new("medium")}}, nil, "none of its choices"},
		{"null takes a value away, and what is left out stays", ChangeCategory{Category: "c1", Fields: map[string]*string{"Priority": nil}}, func(t *testing.T, s Scheme) {
			assert.Equal(t, map[string]string{"Owner": "the pier"}, s.Frame[0].Fields)
		}, ""},
		{"what is merged in gives the values that are missing", MergeCategories{Category: "c1", Into: "c3"}, func(t *testing.T, s Scheme) {
			assert.Equal(t, map[string]string{"Priority": "low", "Owner": "the pier"}, s.Frame[0].Children[0].Fields)
		}, ""},
		{"a frame brings fields along, and what it says is held to those there are", BringFrame{
			Frame:  frame.Frame{{Name: "Fresh", Fields: map[string]string{"priority": "HIGH", "Cost": "1e1"}}},
			Fields: frame.Fields{field("priority", frame.TextField{}), field("Cost", frame.NumberField{})},
		}, func(t *testing.T, s Scheme) {
			assert.Equal(t, map[string]string{"Priority": "high", "Cost": "10"}, s.Frame[0].Fields)
			assert.Len(t, s.Fields, 3)
		}, ""},
		{"a value that the field can't hold is not brought", BringFrame{
			Frame: frame.Frame{{Name: "Fresh", Fields: map[string]string{"Priority": "so-so"}}}, Fields: frame.Fields{field("Priority", frame.TextField{})},
		}, nil, "which Fresh brings"},
		{"a copied part must be one", CopyFrom{Question: 2, Parts: []Part{"x"}}, nil, "no part"},
		{"too many steps", SetCleaning{Steps: slices.Repeat([]text.Step{{StepKind: text.ReplaceStep{Rules: []text.Replacement{{Find: "a"}}}}}, 65)}, nil, "64"},
	} {
		t.Run(c.name, func(t *testing.T) {
			s := begin()
			got, err := Apply(context.Background(), s, c.edit, situation(t, s))
			if c.fails != "" {
				require.ErrorIs(t, err, ErrEdit)
				require.ErrorContains(t, err, c.fails)
				return
			}
			require.NoError(t, err)
			c.check(t, got.Scheme)
		})
	}
}

// Decisions, held against a plain map of what is decided on whom.
func TestDecisionsAgainstAMap(t *testing.T) {
	type on struct {
		category string
		who      survey.Respondent
	}
	rapid.Check(t, func(t *rapid.T) {
		type said struct {
			to   Mark
			from Origin
		}
		draw := func() (Decisions, map[on]said) {
			d, plain := Decisions{}, map[on]said{}
			for range rapid.IntRange(0, 6).Draw(t, "marks") {
				m := Marks{
					Category: rapid.SampledFrom([]string{"", "a", "b"}).Draw(t, "category"),
					To:       rapid.SampledFrom([]Mark{On, Off, ByRules}).Draw(t, "to"),
					Origin: rapid.SampledFrom([]Origin{
						{}, {By: "Ann"}, {By: "Ben", Day: "2026-01-02"}, {Suggested: true}, {By: "Ann", Note: "odd"},
					}).Draw(t, "from"),
					Respondents: rapid.SliceOfN(
						rapid.Custom(func(t *rapid.T) survey.Respondent { return survey.Respondent(rapid.IntRange(0, 4).Draw(t, "who")) }), 1, 3,
					).Draw(t, "whom"),
				}
				if m.Category == "" && m.To == Off {
					m.To = ByRules
				}
				d = d.With([]Marks{m})
				for _, p := range m.Respondents {
					if plain[on{m.Category, p}] = (said{m.To, m.Origin}); m.To == ByRules {
						delete(plain, on{m.Category, p})
					}
				}
			}
			return d, plain
		}
		check := func(d Decisions, plain map[on]said) {
			for _, category := range []string{"", "a", "b"} {
				for p := range survey.Respondent(5) {
					want, ok := plain[on{category, p}]
					if !ok {
						want.to = ByRules
					}
					require.Equal(t, want, said{d.Mark(p, category), d.Origin(p, category)})
					require.Equal(t, want.from.Suggested, d.Suggested(category).Has(p))
				}
			}
			for _, sets := range append(slices.Collect(maps.Values(d.From)), d.On, d.Off) {
				for _, set := range sets {
					require.Positive(t, set.Len(), "a category without decisions has no entry")
				}
			}
		}
		a, plainA := draw()
		b, plainB := draw()
		check(a, plainA)
		check(b, plainB)
		check(a.With(a.To(b)), plainB)
		check(a, plainA) // and is as it was
		check(Decisions{}.With(a.All()), plainA)
		rows := survey.Rows{{From: 1, To: 2}, {From: 3, To: 5}}
		in := a.In(rows)
		for row, p := range []survey.Respondent{1, 3, 4} {
			require.Equal(t, plainA[on{"", p}].to == On, in.Settled.Contains(uint32(row)))
			set := in.On["a"]
			require.Equal(t, plainA[on{"a", p}].to == On, set != nil && set.Contains(uint32(row)))
		}
	})
}

func ExampleApply() {
	s := New(playbook.New("en"), Decisions{})
	c, err := Apply(context.Background(), s, AddCategory{Name: "Waiting", Rules: []string{"queue"}}, Situation{})
	fmt.Println(c.Summary, err)
	fmt.Println(len(c.Scheme.Frame), len(c.Scheme.Patched(c.Undo).Frame))
	// Output:
	// Added the category Waiting <nil>
	// 1 0
}

func ExampleAny() {
	data, _ := json.Marshal(Any{Hide{Terms: []string{"ferry"}}})
	fmt.Println(string(data))
	var a Any
	fmt.Println(json.Unmarshal([]byte(`{"kind": "mask"}`), &a))
	// Output:
	// {"kind":"hide","terms":["ferry"]}
	// this can't be done: the edit "mask" lacks "on"
}

// Whatever is sent as an edit: it is refused as one, or its undo takes it back to the last byte.
func FuzzEdit(f *testing.F) {
	for _, e := range Kinds {
		data, err := json.Marshal(Any{e})
		require.NoError(f, err)
		f.Add(data)
	}
	f.Add([]byte(`{"kind":"add category","name":"Late","rules":["late / (tea - cold) +3w boat"],"on":[1]}`))
	f.Add([]byte(`{"kind":"replace","find":"late","with":"re\"(a+)+\""}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		var e Any
		if json.Unmarshal(data, &e) != nil || e.Edit == nil {
			return
		}
		s := begin()
		before := written(t, s)
		c, err := Apply(t.Context(), s, e.Edit, situation(t, s))
		require.Equal(t, before, written(t, s))
		if err != nil {
			require.ErrorIs(t, err, ErrEdit)
			return
		}
		require.Equal(t, before, written(t, c.Scheme.Patched(stored(t, c.Undo))))
	})
}

func TestKindsOfEdits(t *testing.T) { oneoftest.Complete(t, Kinds) }
