package api

import (
	"maps"
	"path"
	"reflect"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/core/frame"
	"aftermath/core/oneof"
	"aftermath/core/scheme"
	"aftermath/core/text"
	"aftermath/internal/desk"
	"aftermath/internal/desk/focus"
	"aftermath/internal/kept"
	"aftermath/internal/view/chart"
	"aftermath/internal/view/clean"
	"aftermath/internal/view/report"
	"aftermath/internal/view/review"
	"aftermath/internal/view/termview"
)

// aliases describe what is one of many for the OpenAPI document. The packages that hold the types know no HTTP, so each type is
// described here, by a type that stands for it.
func aliases(r huma.Registry) {
	for _, describe := range []func(huma.Registry){
		alias[oneof.Optional[string], *string], alias[oneof.Optional[int], *int], alias[oneof.Optional[bool], *bool],
		alias[scheme.Any, described[scheme.Any]],
		alias[text.Step, described[text.Step]], alias[clean.StepFigure, described[clean.StepFigure]],
		alias[report.StepDone, described[report.StepDone]],
		alias[termview.Suggestion, described[termview.Suggestion]],
		alias[frame.Field, described[frame.Field]], alias[review.AnswerGroup, described[review.AnswerGroup]],
		alias[focus.Condition, described[focus.Condition]],
		alias[chart.Design, described[chart.Design]],
		alias[chart.AnyFigures, described[chart.AnyFigures]],
		alias[report.Block, described[report.Block]],
		alias[report.Section, described[report.Section]],
		alias[desk.AnySetupEdit, described[desk.AnySetupEdit]],
		alias[kept.ReportChange, described[kept.ReportChange]],
	} {
		describe(r)
	}
}

// alias has a type described as another one.
func alias[T, As any](r huma.Registry) {
	r.RegisterTypeAlias(reflect.TypeFor[T](), reflect.TypeFor[As]())
}

// described stands for a type that is one of many.
type described[T any] struct{}

// Schema describes each kind of the type.
func (described[T]) Schema(r huma.Registry) *huma.Schema {
	var of T
	switch any(of).(type) {
	case scheme.Any:
		return oneOf(r, "Edit", "An edit of a question's scheme.", scheme.Kinds)
	case text.Step:
		return oneOfBy(r, text.StepKey, "Step", "A cleaning step with its settings.", text.StepKinds)
	case clean.StepFigure:
		return oneOfBy(r, text.StepKey, "StepFigure", "A cleaning step with its figures.", text.StepKinds, clean.StepCount{})
	case report.StepDone:
		return oneOfBy(r, text.StepKey, "StepDone", "A cleaning step, and how many answers it touched.", text.StepKinds, report.StepTouched{})
	case termview.Suggestion:
		return oneOf(r, "Suggestion", "Terms that may be one.", termview.SuggestionKinds, termview.SuggestedMerge{})
	case review.AnswerGroup:
		return oneOf(r, "AnswerGroup", "Answers that are left and have something in common.", review.GroupKinds, review.GroupAnswers{})
	case frame.Field:
		return oneOf(r, "Field", "A property that categories have.", frame.FieldTypes, frame.FieldName{})
	case focus.Condition:
		return oneOf(r, "Condition", "One piece of a focus: what its answers have in common.", focus.Kinds, focus.Inversion{})
	case chart.Design:
		return oneOf(r, "Design", "What a chart is made of, and how it is drawn.", chart.Plans, chart.Look{})
	case chart.AnyFigures:
		return oneOf(r, "ChartFigures", "The figures of a chart.", chart.FigureKinds)
	case report.Block:
		return oneOf(r, "Block", "A part of a report, as it is kept.", report.Parts, report.BlockID{})
	case report.Section:
		return oneOf(r, "Section", "A part of a report with what it says.", report.Contents, report.SectionHead{})
	case desk.AnySetupEdit:
		return oneOf(r, "SetupEdit", "An edit of what a study's columns are.", desk.SetupEdits)
	case kept.ReportChange:
		return oneOf(r, "ReportChange", "A change of a report.", kept.ReportEdits, kept.ReportSeen{})
	}
	panic("a type that is one of many is not described: " + reflect.TypeFor[T]().String())
}

// oneOf describes objects that are one of several types, under a name: each kind by a schema of its own, with the fields of shared
// structs in all of them. A kind's schema is called by its type and the name, as in WordsCondition.
func oneOf[T oneof.Kinded](r huma.Registry, name, description string, kinds []T, shared ...any) *huma.Schema {
	return oneOfBy(r, "kind", name, description, kinds, shared...)
}

// oneOfBy is oneOf with another field than kind.
func oneOfBy[T oneof.Kinded](r huma.Registry, key, name, description string, kinds []T, shared ...any) *huma.Schema {
	ref := &huma.Schema{Ref: "#/components/schemas/" + name}
	if there := r.Map()[name]; there != nil {
		if there.Discriminator == nil {
			panic("a type and what is one of many are both called " + name)
		}
		return ref
	}
	all := &huma.Schema{
		Description:   description,
		Discriminator: &huma.Discriminator{PropertyName: key, Mapping: map[string]string{}},
	}
	r.Map()[name] = all // before its kinds are described: they may hold others of the kind
	for _, k := range kinds {
		of := reflect.TypeOf(k)
		kind := *huma.SchemaFromType(r, of)
		kind.Properties, kind.Required = maps.Clone(kind.Properties), slices.Clone(kind.Required)
		if kind.Properties == nil {
			kind.Properties = map[string]*huma.Schema{}
		}
		for _, s := range shared {
			more := huma.SchemaFromType(r, reflect.TypeOf(s))
			maps.Copy(kind.Properties, more.Properties)
			kind.Required = append(kind.Required, more.Required...)
		}
		kind.Properties[key] = &huma.Schema{Type: huma.TypeString, Enum: []any{k.Kind()}}
		kind.Required = append([]string{key}, kind.Required...)
		kind.PrecomputeMessages()
		at := path.Join(path.Dir(ref.Ref), strings.TrimSuffix(of.Name(), name)+name)
		r.Map()[path.Base(at)] = &kind
		all.OneOf = append(all.OneOf, &huma.Schema{Ref: at})
		all.Discriminator.Mapping[k.Kind()] = at
	}
	return ref
}
