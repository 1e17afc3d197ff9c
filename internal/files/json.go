package files

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
)

// Limits of JSON.
const (
	maxValue = 4 << 20 // bytes of an element of the array, or of a value on a line
	maxName  = 2_000   // bytes of the name of a column
	maxParts = 10_000  // values in one cell
)

// pair is a value of an object with its name; nested names are joined by full stops.
type pair struct{ name, value string }

// readJSON reads objects, arrays or texts, in two passes: the first finds the columns. Objects are taken apart
// ("place.port"), arrays of plain values are joined by "; ", null is blank.
func readJSON(ctx context.Context, open func() (io.ReadCloser, error), g *grid) error {
	var columns []string
	seen := map[string]int{}
	arrays := false
	pass := func(visit func(row []pair, list bool) error) error {
		from, err := open()
		if err != nil {
			return err
		}
		defer from.Close()
		n := 0
		return eachValue(from, g.recipe.Format == NDJSON, func(row []pair, list bool) error {
			if n++; n%1000 == 0 && ctx.Err() != nil {
				return ctx.Err()
			}
			return visit(row, list)
		})
	}
	err := pass(func(row []pair, list bool) error {
		arrays = arrays || list
		for _, p := range row {
			if _, known := seen[p.name]; !known && !list {
				seen[p.name] = len(columns)
				if len(p.name) > maxName {
					return fmt.Errorf("%w: the name %q… is longer than %d bytes", ErrFile, p.name[:40], maxName)
				}
				if columns = append(columns, p.name); len(columns) > MaxColumns {
					return fmt.Errorf("%w: it has more than %d columns", ErrFile, MaxColumns)
				}
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	if arrays {
		return pass(func(row []pair, _ bool) error {
			var cells []string
			for _, p := range row {
				cells = append(cells, p.value)
			}
			return g.add(cells)
		})
	}
	if len(columns) == 0 {
		return fmt.Errorf("%w: it holds no objects", ErrFile)
	}
	g.recipe.Skip = 0
	if err := g.only(columns...); err != nil {
		return err
	}
	return pass(func(row []pair, _ bool) error {
		cells := make([]string, len(columns))
		for _, p := range row {
			cells[seen[p.name]] = p.value
		}
		return g.add(cells)
	})
}

// eachValue gives the rows of a JSON text: the elements of its array, or the values one after the other. list says that
// a row came as an array, whose values have no names.
func eachValue(from io.Reader, lines bool, visit func(row []pair, list bool) error) error {
	pieces := newPiecewise(from, maxValue)
	d := json.NewDecoder(pieces)
	d.UseNumber()
	n := 0
	one := func() error {
		pieces.next()
		var raw json.RawMessage
		if err := d.Decode(&raw); err != nil {
			return jsonError(err, n+1)
		}
		n++
		row, list, err := flatten(raw)
		if err != nil {
			return jsonError(err, n)
		}
		return visit(row, list)
	}
	if lines {
		for d.More() {
			if err := one(); err != nil {
				return err
			}
		}
		if _, err := d.Token(); !errors.Is(err, io.EOF) { // what can't be read, or begins no value, is not the end
			return jsonError(cmp.Or(err, errors.New("a bracket closes what was never opened")), n+1)
		}
		return nil
	}
	// Find the array: the text itself, or the first one inside an object.
	for {
		pieces.next()
		t, err := d.Token()
		if errors.Is(err, io.EOF) {
			return fmt.Errorf("%w: there is no array in it", ErrFile)
		}
		if err != nil {
			return jsonError(err, 1)
		}
		if t == json.Delim('[') {
			break
		}
	}
	for d.More() {
		if err := one(); err != nil {
			return err
		}
	}
	if _, err := d.Token(); err != nil {
		return jsonError(err, n)
	}
	return nil
}

func jsonError(err error, row int) error {
	if errors.Is(err, ErrFile) {
		return fmt.Errorf("%w (row %d)", err, row)
	}
	var syntax *json.SyntaxError
	if errors.As(err, &syntax) {
		return fmt.Errorf("%w: at row %d (byte %d) the JSON can't be read: %s", ErrFile, row, syntax.Offset, syntax.Error())
	}
	if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
		return fmt.Errorf("%w: the JSON breaks off at row %d", ErrFile, row)
	}
	return fmt.Errorf("%w: row %d: %w", ErrFile, row, err)
}

// flatten takes one value apart.
func flatten(raw json.RawMessage) (row []pair, list bool, err error) {
	switch raw[0] {
	case '{':
		return row, false, flattenObject(raw, "", &row)
	case '[':
		err := eachPart(raw, func(p json.RawMessage) error {
			if len(row) == MaxColumns {
				return fmt.Errorf("%w: it has more than %d values", ErrFile, MaxColumns)
			}
			row = append(row, pair{value: plainValue(p)})
			return nil
		})
		return row, true, err
	}
	return []pair{{AnswerColumn, plainValue(raw)}}, false, nil
}

// eachPart gives the elements of an array one after the other.
func eachPart(raw json.RawMessage, visit func(p json.RawMessage) error) error {
	d := json.NewDecoder(bytes.NewReader(raw))
	if _, err := d.Token(); err != nil {
		return err
	}
	for d.More() {
		var p json.RawMessage
		if err := d.Decode(&p); err != nil {
			return err
		}
		if err := visit(p); err != nil {
			return err
		}
	}
	return nil
}

func flattenObject(raw json.RawMessage, prefix string, to *[]pair) error {
	d := json.NewDecoder(bytes.NewReader(raw))
	if _, err := d.Token(); err != nil {
		return err
	}
	for d.More() {
		t, err := d.Token()
		if err != nil {
			return err
		}
		name, _ := t.(string)
		var value json.RawMessage
		if err := d.Decode(&value); err != nil {
			return err
		}
		if value[0] == '{' && len(prefix) < 200 {
			if err := flattenObject(value, prefix+name+".", to); err != nil {
				return err
			}
			continue
		}
		if name = strings.TrimSpace(prefix + name); name == "" {
			name = "no name"
		}
		*to = append(*to, pair{name, plainValue(value)})
	}
	return nil
}

// plainValue writes a value as a cell.
func plainValue(raw json.RawMessage) string {
	switch raw[0] {
	case '"':
		var s string
		if json.Unmarshal(raw, &s) == nil {
			return s
		}
	case 'n':
		return ""
	case '[':
		var out []string
		err := eachPart(raw, func(p json.RawMessage) error {
			if p[0] == '{' || p[0] == '[' || len(out) == maxParts {
				return errEnough
			}
			out = append(out, plainValue(p))
			return nil
		})
		if err == nil {
			return strings.Join(out, "; ")
		}
	}
	return string(raw)
}
