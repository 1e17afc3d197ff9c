package api

import (
	"maps"
	"path"
	"reflect"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"aftermath/core/oneof"
	"aftermath/core/scheme"
	"aftermath/internal/desk"
	"aftermath/internal/desk/focus"
	"aftermath/internal/kept"
	"aftermath/internal/view/chart"
	"aftermath/internal/view/report"
)

// aliases describe what is one of many for the OpenAPI document. The packages that hold the types know no HTTP, so each type is
// described by another one here.
func aliases(r huma.Registry) {
	r.RegisterTypeAlias(reflect.TypeFor[oneof.Optional[string]](), reflect.TypeFor[*string]())
	r.RegisterTypeAlias(reflect.TypeFor[oneof.Optional[int]](), reflect.TypeFor[*int]())
	r.RegisterTypeAlias(reflect.TypeFor[oneof.Optional[bool]](), reflect.TypeFor[*bool]())
	r.RegisterTypeAlias(reflect.TypeFor[scheme.Any](), reflect.TypeFor[editSchema]())
	r.RegisterTypeAlias(reflect.TypeFor[focus.Condition](), reflect.TypeFor[conditionSchema]())
	r.RegisterTypeAlias(reflect.TypeFor[chart.Design](), reflect.TypeFor[designSchema]())
	r.RegisterTypeAlias(reflect.TypeFor[chart.AnyFigures](), reflect.TypeFor[figuresSchema]())
	r.RegisterTypeAlias(reflect.TypeFor[report.Block](), reflect.TypeFor[blockSchema]())
	r.RegisterTypeAlias(reflect.TypeFor[report.Section](), reflect.TypeFor[sectionSchema]())
	r.RegisterTypeAlias(reflect.TypeFor[desk.AnySetupEdit](), reflect.TypeFor[setupEditSchema]())
	r.RegisterTypeAlias(reflect.TypeFor[kept.ReportChange](), reflect.TypeFor[reportChangeSchema]())
}

type editSchema struct{}

func (editSchema) Schema(r huma.Registry) *huma.Schema {
	return oneOf(r, "Edit", "An edit of a question's scheme.", scheme.Kinds)
}

type conditionSchema struct{}

func (conditionSchema) Schema(r huma.Registry) *huma.Schema {
	return oneOf(r, "Condition", "One piece of a focus: what its answers have in common.", focus.Kinds, focus.Inversion{})
}

type designSchema struct{}

func (designSchema) Schema(r huma.Registry) *huma.Schema {
	return oneOf(r, "Design", "What a chart is made of, and how it is drawn.", chart.Plans, chart.Look{})
}

type figuresSchema struct{}

func (figuresSchema) Schema(r huma.Registry) *huma.Schema {
	return oneOf(r, "ChartFigures", "The figures of a chart.", chart.FigureKinds)
}

type blockSchema struct{}

func (blockSchema) Schema(r huma.Registry) *huma.Schema {
	return oneOf(r, "Block", "A part of a report, as it is kept.", report.Parts, report.BlockID{})
}

type sectionSchema struct{}

func (sectionSchema) Schema(r huma.Registry) *huma.Schema {
	return oneOf(r, "Section", "A part of a report with what it says.", report.Contents, report.SectionHead{})
}

type setupEditSchema struct{}

func (setupEditSchema) Schema(r huma.Registry) *huma.Schema {
	return oneOf(r, "SetupEdit", "An edit of what a study's columns are.", desk.SetupEdits)
}

type reportChangeSchema struct{}

func (reportChangeSchema) Schema(r huma.Registry) *huma.Schema {
	return oneOf(r, "ReportChange", "A change of a report.", kept.ReportEdits, kept.ReportSeen{})
}

// oneOf describes objects that are one of several types, under a name: each kind by a schema of its own, with the fields of shared
// structs in all of them. A kind's schema is called by its type and the name, as in WordsCondition.
func oneOf[T oneof.Kinded](r huma.Registry, name, description string, kinds []T, shared ...any) *huma.Schema {
	ref := &huma.Schema{Ref: "#/components/schemas/" + name}
	if there := r.Map()[name]; there != nil {
		if there.Discriminator == nil {
			panic("a type and what is one of many are both called " + name)
		}
		return ref
	}
	all := &huma.Schema{
		Description:   description,
		Discriminator: &huma.Discriminator{PropertyName: "kind", Mapping: map[string]string{}},
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
		kind.Properties["kind"] = &huma.Schema{Type: huma.TypeString, Enum: []any{k.Kind()}}
		kind.Required = append([]string{"kind"}, kind.Required...)
		kind.PrecomputeMessages()
		at := path.Join(path.Dir(ref.Ref), of.Name()+name)
		r.Map()[path.Base(at)] = &kind
		all.OneOf = append(all.OneOf, &huma.Schema{Ref: at})
		all.Discriminator.Mapping[k.Kind()] = at
	}
	return ref
}
