// Package earlier reads what earlier versions of this program have kept: it rewrites JSON as they wrote it into the form of today.
// What is in the form of today already stays as it is. Back-ups and frozen reports are never rewritten where they are kept, so the
// forms that this package knows are read for good; testdata holds a file of each.
package earlier

import (
	"bytes"
	"encoding/json"
	"fmt"

	"aftermath/core/playbook"
	"aftermath/core/scheme"
)

type object = map[string]any

// Focus rewrites a list of conditions. Until 2026-12 a condition could hold fields that its kind does not know; they said nothing
// and are left out.
func Focus(data []byte) ([]byte, error) { return rewrite(data, focus) }

// Design rewrites what a chart is made of. Until 2026-12 it was an object with one field for each kind of chart.
func Design(data []byte) ([]byte, error) { return rewrite(data, design) }

// Blocks rewrites the parts of a report.
func Blocks(data []byte) ([]byte, error) {
	return rewrite(data, func(of any) {
		for _, b := range list(of) {
			block(b)
		}
	})
}

// Page rewrites a frozen report. Until 2026-12 the fields of a part stood beside what it says.
func Page(data []byte) ([]byte, error) {
	return rewrite(data, func(of any) {
		page, _ := of.(object)
		for _, s := range list(page["sections"]) {
			section(s)
		}
	})
}

// Patch reads what leads from one scheme to another. Until 2026-12 a cleaning step could hold settings of other steps.
func Patch(data []byte) (p scheme.Patch, err error) {
	if err = json.Unmarshal(data, &p); err == nil {
		return p, nil
	}
	data, rewritten := rewrite(data, func(of any) {
		patch, _ := of.(object)
		whole, _ := patch["whole"].(object)
		playbook.OwnSettings(whole["cleaning"])
		for _, splice := range list(patch["cleaning"]) {
			playbook.OwnSettings(splice["in"])
		}
	})
	if rewritten != nil {
		return p, err
	}
	p = scheme.Patch{}
	return p, json.Unmarshal(data, &p)
}

// rewrite decodes JSON without losing a digit, has it changed in place, and encodes it again.
func rewrite(data []byte, change func(of any)) ([]byte, error) {
	var of any
	d := json.NewDecoder(bytes.NewReader(data))
	d.UseNumber()
	if err := d.Decode(&of); err != nil {
		return nil, fmt.Errorf("what was kept can't be read: %w", err)
	}
	change(of)
	return json.Marshal(of)
}

func list(of any) []object {
	all, _ := of.([]any)
	var out []object
	for _, x := range all {
		if o, ok := x.(object); ok {
			out = append(out, o)
		}
	}
	return out
}

// fields are those of each kind of condition, besides kind and not.
var fields = map[string][]string{
	"words": {"text"}, "term": {"text"}, "row": {"text"}, "block": {"text"}, "branch": {"op", "text", "values", "n"},
	"variable": {"name", "op", "values"}, "person": {"name", "values", "text", "id"}, "answers": {"answers"}, "status": {"text"},
	"step": {"text"}, "short": {"n"}, "alike": {"n", "m"}, "sample": {"text", "n", "m"}, "personal": {"text"}, "hazard": {"n", "m"},
	"coded": {}, "category": {"id", "values"}, "rule": {"id", "rule"}, "decided": {"text", "name", "id"}, "settled": {},
	"changed": {"id", "text", "values"},
}

func focus(of any) {
	for _, c := range list(of) {
		kind, _ := c["kind"].(string)
		if known, ok := fields[kind]; ok {
			keep(c, append([]string{"kind", "not"}, known...))
		}
		// What is zero was left out.
		if kind == "short" && c["n"] == nil {
			c["n"] = 0
		}
		if kind == "sample" && c["text"] == nil {
			c["text"] = "random"
		}
		if (kind == "variable" || kind == "person" || kind == "branch") && c["values"] == nil {
			c["values"] = []any{}
		}
		for _, text := range []string{"words", "term", "row", "block", "branch", "status"} {
			if kind == text && c["text"] == nil {
				c["text"] = ""
			}
		}
	}
}

func keep(of object, names []string) {
	known := map[string]bool{}
	for _, n := range names {
		known[n] = true
	}
	for name := range of {
		if !known[name] {
			delete(of, name)
		}
	}
}

func design(of any) {
	d, ok := of.(object)
	if !ok {
		return
	}
	focus(d["focus"])
	if d["focus"] == nil {
		d["focus"] = []any{}
	}
	if _, now := d["kind"]; now {
		return
	}
	kind, query := "table", d["query"]
	for _, k := range []string{"means", "together", "flow", "questions"} {
		if d[k] != nil {
			kind, query = k, d[k]
		}
	}
	known := []string{"focus", "as"}
	switch kind {
	case "table":
		known = append(known, "cells")
	case "together":
		known = append(known, "measure")
	}
	// The question's own field is called as the kind was.
	keep(d, known)
	settings, _ := query.(object)
	for name, value := range settings {
		d[name] = value
	}
	d["kind"] = kind
}

// parts are the fields of each kind of part of a report, besides kind and id.
var parts = map[string][]string{
	"text":    {"text"},
	"chart":   {"question", "title", "note", "drawn", "table"},
	"finding": {"question", "title", "note", "finding"},
	"quotes":  {"question", "title", "note", "quotes", "bare"},
	"method":  {"question", "title"},
}

func block(b object) {
	kind, _ := b["kind"].(string)
	if known, ok := parts[kind]; ok {
		keep(b, append([]string{"kind", "id"}, known...))
	}
	switch kind {
	case "chart":
		design(b["drawn"])
	case "finding":
		if f, ok := b["finding"].(object); ok {
			focus(f["focus"])
			if f["focus"] == nil {
				f["focus"] = []any{}
			}
		}
	case "quotes":
		if b["quotes"] == nil {
			b["quotes"] = []any{}
		}
	}
}

func section(s object) {
	if _, now := s["block"]; now {
		return
	}
	kind, _ := s["kind"].(string)
	own := object{"kind": kind}
	for _, name := range parts[kind] {
		if value, there := s[name]; there {
			own[name] = value
		}
	}
	// The figures of a table stood in "chart", those of the other kinds in a field of their name.
	for name, figures := range map[string]string{
		"chart": "table", "means": "means", "together": "together", "flow": "flow", "questions": "questions",
	} {
		if f, ok := s[name].(object); ok && kind == "chart" {
			f["kind"] = figures
			s["figures"] = f
		}
	}
	block(own)
	delete(own, "kind")
	keep(s, []string{"kind", "id", "about", "revision", "problem", "categories", "figures", "found", "said", "method"})
	s["block"] = own
}
