package main

import (
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"aftermath/core/playbook"
	"aftermath/internal/accounts"
	"aftermath/internal/api"
	"aftermath/internal/desk/focus"
	"aftermath/internal/files"
)

// limitsCommand writes docs/limits.md: all that is bounded, from where it is bounded.
func limitsCommand() *cobra.Command {
	return &cobra.Command{
		Use: "limits", Short: "Print the table of all limits", Args: cobra.NoArgs, Hidden: true,
		RunE: func(c *cobra.Command, _ []string) error { return writeLimits(c.OutOrStdout()) },
	}
}

func writeLimits(to io.Writer) error {
	doc, err := api.Document()
	if err != nil {
		return err
	}
	var b strings.Builder
	b.WriteString("# Limits\n\nWritten by `make types` from the program; whatever goes beyond one is refused with its name, its place and the limit, " +
		"and nothing is changed.\n\n## What comes in\n\n| what | at most |\n|---|---|\n")
	row := func(what, most string) { fmt.Fprintf(&b, "| %s | %s |\n", what, most) }
	for _, l := range files.Limits() {
		row(l.Of, l.Most)
	}
	row("files of one sender that wait to be loaded; an older one makes room", fmt.Sprint(api.KeptUploads))
	row("conditions of a focus", fmt.Sprint(focus.MaxConditions))
	row("password", fmt.Sprintf("at least %d letters", accounts.ShortestPassword))
	b.WriteString("\n## A scheme: cleaning, lexicon and code frame\n\n| what | at most |\n|---|---|\n")
	for _, l := range playbook.Limits() {
		row(l.Of, fmt.Sprintf("%d %s", l.Most, l.Unit))
	}
	b.WriteString("\n## Fields of the API\n\n| field | at most |\n|---|---|\n")
	fields, err := apiLimits(doc)
	if err != nil {
		return err
	}
	for _, name := range slices.Sorted(maps.Keys(fields)) {
		row("`"+name+"`", fields[name])
	}
	_, err = io.WriteString(to, b.String())
	return err
}

// bounds are the limits that a schema has.
type bounds struct {
	MaxLength *int     `json:"maxLength"`
	MaxItems  *int     `json:"maxItems"`
	Maximum   *float64 `json:"maximum"`
}

func (b bounds) String() string {
	var all []string
	if b.MaxLength != nil {
		all = append(all, fmt.Sprintf("%d letters", *b.MaxLength))
	}
	if b.MaxItems != nil {
		all = append(all, fmt.Sprintf("%d entries", *b.MaxItems))
	}
	if b.Maximum != nil {
		all = append(all, fmt.Sprintf("%.0f", *b.Maximum))
	}
	return strings.Join(all, ", ")
}

// apiLimits are the limits of fields and parameters, by their names.
func apiLimits(doc []byte) (map[string]string, error) {
	var of struct {
		Paths map[string]map[string]struct {
			OperationID string
			Parameters  []struct {
				Name   string
				Schema bounds
			}
		}
		Components struct {
			Schemas map[string]struct{ Properties map[string]bounds }
		}
	}
	if err := json.Unmarshal(doc, &of); err != nil {
		return nil, err
	}
	out := map[string]string{}
	for name, schema := range of.Components.Schemas {
		for field, b := range schema.Properties {
			if said := b.String(); said != "" {
				out[name+"."+field] = said
			}
		}
	}
	for _, methods := range of.Paths {
		for _, op := range methods {
			for _, p := range op.Parameters {
				if said := p.Schema.String(); said != "" {
					out[op.OperationID+"?"+p.Name] = said
				}
			}
		}
	}
	return out, nil
}
