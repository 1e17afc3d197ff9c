// Package schemetest draws edits for property tests.
package schemetest

import (
	"fmt"
	"slices"

	"aftermath/core/frame"
	"aftermath/core/lexicon"
	"aftermath/core/oneof"
	"aftermath/core/playbook"
	"aftermath/core/scheme"
	"aftermath/core/survey"
	"aftermath/core/text"

	"pgregory.net/rapid"
)

// Elsewhere is the question that is copied from.
const Elsewhere = 2

// States are the earlier states that are gone back to.
var States = []string{"=draft", "0"}

// Respondents are those of whom decisions are drawn.
var Respondents = []survey.Respondent{0, 1, 3, 4, 9, 10, 11, 5}

// AnyEdit draws an edit of any kind, of a frame; what it speaks of may be there or not.
func AnyEdit(t *rapid.T, f frame.Frame) scheme.Edit {
	word := rapid.SampledFrom([]string{"late", "boat", "tea", "queue", "queues", "tailback", "cold tea", "long", "pier", "!"})
	some := func(label string) []string { return rapid.SliceOfN(word, 1, 3).Draw(t, label) }
	keys := []string{"c1", "c99", ""}
	for p := range f.All() {
		keys = append(keys, p.ID)
	}
	key := func(label string) string { return rapid.SampledFrom(keys).Draw(t, label) }
	respondents := rapid.SliceOfN(rapid.SampledFrom(Respondents), 1, 4)
	rules := []string{"late / tea", "queue"}
	for p := range f.All() {
		rules = append(rules, p.Rules...)
	}
	aRule := func(label string) string {
		return rapid.SampledFrom(append(rules, "", "((", "boat - late")).Draw(t, label)
	}
	fieldName := rapid.SampledFrom([]string{"Priority", "Owner", "owner", " Due "})
	aField := func(label string) string { return fieldName.Draw(t, label) }
	newField := func(label string) frame.Field {
		of := rapid.SampledFrom([]frame.FieldType{
			frame.TextField{}, frame.TextField{}, frame.NumberField{}, frame.YesNoField{},
			frame.ListField{Choices: []string{"urgent", "high", "low"}}, frame.ListField{Choices: []string{"high", "High"}},
		}).Draw(t, label)
		return frame.Field{FieldName: frame.FieldName{Name: aField(label)}, FieldType: of}
	}
	yes := rapid.Bool().Draw(t, "yes")
	name := rapid.SampledFrom([]string{"Late", "Waiting", "Crew", `A "b" / c`, "  ", "Tea room"}).Draw(t, "name")
	frames := []frame.Frame{
		{},
		{
			{Name: "Waiting", Rules: []string{"late"}},
			{Name: "Net", Children: []frame.Category{{Name: "Tea", Rules: []string{"tea", "{Waiting}"}}}},
		},
	}
	kinds := append(slices.Clone(scheme.Kinds), scheme.Decide{}, scheme.Decide{}, scheme.Decide{}) // they meet every other edit
	switch kind := rapid.SampledFrom(kinds).Draw(t, "kind").(type) {
	case scheme.Hide:
		return scheme.Hide{Terms: some("terms")}
	case scheme.Show:
		return scheme.Show{Terms: some("terms")}
	case scheme.MergeTerms:
		return scheme.MergeTerms{Label: word.Draw(t, "label"), Terms: some("terms")}
	case scheme.SplitMerge:
		return scheme.SplitMerge{Label: word.Draw(t, "label"), Variants: rapid.SliceOfN(word, 0, 2).Draw(t, "variants")}
	case scheme.PartWords:
		return scheme.PartWords{Words: some("words"), From: "", Together: yes}
	case scheme.JoinWords:
		return scheme.JoinWords{Words: some("words")}
	case scheme.PutOnList:
		return scheme.PutOnList{List: "x", Entries: some("entries")}
	case scheme.TakeOffList:
		return scheme.TakeOffList{List: "x", Entries: rapid.SliceOfN(word, 0, 2).Draw(t, "entries")}
	case scheme.RenameMerge:
		return scheme.RenameMerge{Label: word.Draw(t, "label"), Name: word.Draw(t, "to")}
	case scheme.RenameList:
		return scheme.RenameList{List: "x", Name: name}
	case scheme.KeepApart:
		return scheme.KeepApart{Label: word.Draw(t, "label"), Terms: some("terms")}
	case scheme.SuggestAgain:
		return scheme.SuggestAgain{Label: word.Draw(t, "label"), Terms: some("terms")}
	case scheme.JoinComparatives:
		return scheme.JoinComparatives{On: yes}
	case scheme.JoinInflections:
		return scheme.JoinInflections{On: yes}
	case scheme.SetBaseStopWords:
		return scheme.SetBaseStopWords{Language: rapid.SampledFrom([]string{"", "en", "de", "xx"}).Draw(t, "base")}
	case scheme.SetLanguage:
		return scheme.SetLanguage{Language: rapid.SampledFrom([]string{"en", "de", "und", "xx"}).Draw(t, "language")}
	case scheme.AddLexiconRows:
		return scheme.AddLexiconRows{Part: rapid.SampledFrom([]lexicon.Part{lexicon.StopWordsPart, lexicon.MergesPart, lexicon.ListsPart, "x"}).Draw(t, "part"), Rows: [][]string{{"boat", ""}, some("row")}}
	case scheme.SetCleaning:
		return scheme.SetCleaning{Steps: rapid.SampledFrom([][]text.Step{{}, {{StepKind: text.RepeatsStep{}}}, text.DefaultSteps(), {{}}}).Draw(t, "steps")}
	case scheme.SetNoAnswers:
		return scheme.SetNoAnswers{Phrases: rapid.SampledFrom([][]string{{}, {"late"}}).Draw(t, "phrases")}
	case scheme.PutAside:
		return scheme.PutAside{Warnings: some("warnings"), Back: yes}
	case scheme.PassPersonal:
		return scheme.PassPersonal{Texts: some("texts"), Not: yes}
	case scheme.MaskPersonalData:
		return scheme.MaskPersonalData{On: yes}
	case scheme.AddCategory:
		add := scheme.AddCategory{Parent: key("parent"), Name: name, Rules: []string{aRule("rule")}, Alone: yes}
		if yes {
			add.On = respondents.Draw(t, "on")
		}
		return add
	case scheme.ChangeCategory:
		change := scheme.ChangeCategory{Category: key("category"), Note: oneof.Given("a note"), Colour: oneof.Given(3), Alone: oneof.Given(yes)}
		if rapid.Bool().Draw(t, "renames") {
			change.Name = oneof.Given(name)
		}
		if value := rapid.SampledFrom([]string{"", "high", "HIGH ", "12.50", "yes", "?"}).Draw(t, "value"); value != "?" {
			change.Fields = map[string]*string{aField("of"): &value}
		} else {
			change.Fields = map[string]*string{aField("of"): nil}
		}
		return change
	case scheme.MoveCategory:
		return scheme.MoveCategory{Category: key("category"), Parent: key("parent"), Before: key("before")}
	case scheme.RemoveCategory:
		return scheme.RemoveCategory{Category: key("category")}
	case scheme.DuplicateCategory:
		return scheme.DuplicateCategory{Category: key("category")}
	case scheme.SplitCategory:
		return scheme.SplitCategory{Category: key("category"), Name: name, Rules: []string{aRule("rule")}}
	case scheme.MergeCategories:
		merge := scheme.MergeCategories{Category: key("category"), Into: key("into")}
		if yes {
			merge.Also = []string{key("also")}
		}
		return merge
	case scheme.ReplaceInRules:
		return scheme.ReplaceInRules{Find: word.Draw(t, "find"), With: aRule("with")}
	case scheme.CheckRule:
		return scheme.CheckRule{Category: key("category"), Rule: aRule("rule"), Matches: 9, Right: respondents.Draw(t, "right"), Wrong: []survey.Respondent{}}
	case scheme.SetSingle:
		return scheme.SetSingle{On: yes}
	case scheme.Several:
		return scheme.Several{
			Summary: "Two at once", Rules: []scheme.WriteRule{{Category: key("first"), Rule: aRule("rule")}},
			Decide: []scheme.Decide{{Category: key("second"), Answers: respondents.Draw(t, "answers"), To: scheme.On}},
		}
	case scheme.WriteRule:
		return scheme.WriteRule{Category: key("category"), Rule: aRule("rule"), Was: aRule("was"), Unless: yes}
	case scheme.RestRule:
		rest := scheme.RestRule{Category: key("category"), Rule: aRule("rule"), On: yes}
		for p := range f.All() { // a rule that is there would be met too seldom
			if len(p.Rules)+len(p.Resting) > 0 && rapid.Bool().Draw(t, "there") {
				rest.Category, rest.Rule, rest.On = p.ID, append(slices.Clone(p.Rules), p.Resting...)[0], len(p.Rules) > 0
			}
		}
		return rest
	case scheme.AddField:
		return scheme.AddField{Field: newField("field")}
	case scheme.ChangeField:
		return scheme.ChangeField{Field: aField("field"), To: newField("to"), Renamed: map[string]string{"high": "urgent"}}
	case scheme.RemoveField:
		return scheme.RemoveField{Field: aField("field")}
	case scheme.BringFrame:
		brought := rapid.SampledFrom(frames).Draw(t, "frame").Clone()
		with := newField("with")
		if len(brought) > 0 && yes {
			brought[0].Fields = map[string]string{with.Name: "high"}
		}
		return scheme.BringFrame{Frame: brought, After: yes, Fields: frame.Fields{with}}
	case scheme.RefuseDraft:
		return scheme.RefuseDraft{Rule: aRule("draft")}
	case scheme.ProposeAgain:
		return scheme.ProposeAgain{}
	case scheme.TakePlaybook:
		p := playbook.New("en")
		p.Frame = rapid.SampledFrom(frames).Draw(t, "frame").Clone()
		return scheme.TakePlaybook{Playbook: p}
	case scheme.CopyFrom:
		return scheme.CopyFrom{Question: Elsewhere, Parts: rapid.SliceOfN(rapid.SampledFrom([]scheme.Part{scheme.CleaningPart, scheme.LexiconPart, scheme.FramePart}), 1, 3).Draw(t, "parts")}
	case scheme.GoBack:
		return scheme.GoBack{State: rapid.SampledFrom(States).Draw(t, "state")}
	case scheme.Decide:
		return scheme.Decide{Category: key("category"), Answers: respondents.Draw(t, "answers"), To: rapid.SampledFrom([]scheme.Mark{scheme.On, scheme.Off, scheme.ByRules, "x"}).Draw(t, "to")}
	case scheme.TakeOver:
		from := respondents.Draw(t, "from")
		to := rapid.SliceOfN(rapid.SampledFrom(Respondents), len(from), len(from)).Draw(t, "to")
		return scheme.TakeOver{From: from, To: to}
	case scheme.Settle:
		return scheme.Settle{Answers: respondents.Draw(t, "answers"), On: yes}
	default:
		panic(fmt.Sprintf("no edit of kind %q is drawn", kind.Kind()))
	}
}
