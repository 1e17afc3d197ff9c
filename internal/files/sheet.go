package files

import (
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"math"
	"path"
	"strconv"
	"strings"
	"time"
)

// xlsx is a workbook as ECMA-376 (part 1, SpreadsheetML) has it. Of its parts only the list of sheets, the numbers of its
// formats, the sheet that is wanted and the texts that stand in it are read.
type xlsx struct {
	packedFile
	ctx    context.Context
	list   []sheetAt
	shows  []string // by style: the format in which a number is written, none if it is no date
	from04 bool     // dates are counted from 1904
	texts  *sharedTexts

	unvalued   int // formulas without a stored value, in the rows that were read last
	unvaluedAt []string
}

type sheetAt struct{ name, part string }

// Limits of a workbook's lists.
const (
	maxSheets = 2_000
	maxStyles = 1 << 16
)

func openXLSX(ctx context.Context, a packedFile) (*xlsx, error) {
	x := &xlsx{packedFile: a, ctx: ctx}
	if err := x.readList(); err != nil {
		return nil, err
	}
	if err := x.readStyles(); err != nil {
		return nil, err
	}
	var err error
	x.texts, err = openTexts(ctx, a)
	return x, err
}

func (x *xlsx) Close() error { return errors.Join(x.texts.Close(), x.packedFile.Close()) }

func (x *xlsx) sheets() []string {
	var names []string
	for _, s := range x.list {
		names = append(names, s.name)
	}
	return names
}

// starts gives the start of each element of a part; one that is not there has none.
func (x *xlsx) starts(name string, visit func(p *part, e xml.StartElement) error) error {
	p, err := x.part(x.ctx, name)
	if err != nil || p == nil {
		return err
	}
	defer p.Close()
	for {
		t, err := p.next()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		if e, ok := t.(xml.StartElement); ok {
			if err := visit(p, e); err != nil {
				return err
			}
		}
	}
}

// readList finds the sheets of rows by the workbook's list and its relations.
func (x *xlsx) readList() error {
	parts := map[string]string{}
	err := x.starts("xl/_rels/workbook.xml.rels", func(_ *part, e xml.StartElement) error {
		if e.Name.Local == "Relationship" && strings.HasSuffix(attribute(e, "Type"), "/worksheet") && len(parts) < maxSheets {
			target := strings.TrimPrefix(attribute(e, "Target"), "/")
			if !strings.HasPrefix(target, "xl/") {
				target = path.Join("xl", target)
			}
			parts[attribute(e, "Id")] = target
		}
		return nil
	})
	if err != nil {
		return err
	}
	err = x.starts("xl/workbook.xml", func(_ *part, e xml.StartElement) error {
		switch e.Name.Local {
		case "workbookPr":
			x.from04 = attribute(e, "date1904") == "1" || attribute(e, "date1904") == "true"
		case "sheet":
			for _, a := range e.Attr {
				if target := parts[a.Value]; a.Name.Local == "id" && target != "" {
					x.list = append(x.list, sheetAt{attribute(e, "name"), target})
				}
			}
		}
		return nil
	})
	if err == nil && len(x.list) == 0 {
		err = fmt.Errorf("%w: this workbook can't be read: it lists no sheet of rows", ErrFile)
	}
	return err
}

// readStyles finds which styles show numbers as dates.
func (x *xlsx) readStyles() error {
	codes := map[string]string{}
	return x.starts("xl/styles.xml", func(p *part, e xml.StartElement) error {
		switch e.Name.Local {
		case "numFmt":
			if len(codes) < maxStyles {
				codes[attribute(e, "numFmtId")] = dateFormat(0, attribute(e, "formatCode"))
			}
		case "cellXfs":
			return p.inside(func(t xml.Token) error {
				if xf, ok := t.(xml.StartElement); ok && xf.Name.Local == "xf" && len(x.shows) < maxStyles {
					id := attribute(xf, "numFmtId")
					shows, own := codes[id]
					if number, err := strconv.Atoi(id); !own && err == nil {
						shows = dateFormat(number, "")
					}
					x.shows = append(x.shows, shows)
				}
				return nil
			})
		}
		return nil
	})
}

// The formats in which dates and times are written.
const (
	asDate     = time.DateOnly
	asMoment   = time.DateTime
	asTime     = time.TimeOnly
	asDuration = "duration" // hours may be more than 24
)

// dateFormat says in which format a number format (ECMA-376, part 1, 18.8.30) has numbers written; none if it is no date.
func dateFormat(id int, code string) string {
	switch {
	case code != "":
	case id >= 14 && id <= 17, id >= 27 && id <= 31, id == 36, id >= 50 && id <= 58:
		return asDate
	case id >= 18 && id <= 21, id >= 32 && id <= 35, id >= 45 && id <= 47:
		return asTime
	case id == 22:
		return asMoment
	default:
		return ""
	}
	// Only what is neither quoted, nor escaped, nor in square brackets says what a format shows.
	var bare strings.Builder
	quoted, bracket, skip := false, false, false
	for _, c := range strings.ToLower(code) {
		switch {
		case skip:
			skip = false
		case c == '"':
			quoted = !quoted
		case quoted:
		case c == '\\' || c == '_' || c == '*':
			skip = true
		case c == '[':
			bracket = true
		case c == ']':
			bracket = false
		case !bracket:
			bare.WriteRune(c)
		}
	}
	s := strings.ReplaceAll(bare.String(), "general", "")
	day := strings.ContainsAny(s, "yd") || strings.Contains(s, "mmm")
	clock := strings.ContainsAny(s, "hs")
	switch {
	case day && clock:
		return asMoment
	case day:
		return asDate
	case clock && strings.Contains(strings.ToLower(code), "[h"):
		return asDuration
	case clock:
		return asTime
	}
	return ""
}

// eachRow gives the rows of a sheet; one that the sheet leaves out is blank.
func (x *xlsx) eachRow(sheet string, visit func(cells []string) error) error {
	x.unvalued, x.unvaluedAt = 0, nil
	name := ""
	for _, s := range x.list {
		if s.name == sheet {
			name = s.part
			break
		}
	}
	n := 0
	return x.starts(name, func(p *part, e xml.StartElement) error {
		if e.Name.Local != "row" {
			return nil
		}
		at, err := strconv.Atoi(attribute(e, "r"))
		if err != nil || at <= n {
			at = n + 1
		}
		if at > MaxRows {
			return fmt.Errorf("%w: sheet %q has a row %d; at most %d can be read", ErrFile, sheet, at, MaxRows)
		}
		for n++; n < at; n++ {
			if err := visit(nil); err != nil {
				return err
			}
		}
		cells, err := x.row(p, at)
		if err != nil {
			return fmt.Errorf("%w (sheet %q, row %d)", err, sheet, at)
		}
		return visit(cells)
	})
}

// row reads the cells of a row up to its end.
func (x *xlsx) row(p *part, row int) (cells []string, err error) {
	column, size := -1, 0
	err = p.inside(func(t xml.Token) error {
		e, ok := t.(xml.StartElement)
		if !ok || e.Name.Local != "c" {
			return nil
		}
		if column = columnOf(attribute(e, "r"), column+1); column < 0 {
			return fmt.Errorf("%w: a cell stands at %q, which is no place in a sheet", ErrFile, attribute(e, "r"))
		}
		value, err := x.cell(p, e, row, column)
		if err != nil || value == "" {
			return err
		}
		if column >= MaxColumns {
			return fmt.Errorf("%w: a row has more than %d cells", ErrFile, MaxColumns)
		}
		if size += len(value); size > maxLine {
			return fmt.Errorf("%w: a row is larger than %d MiB", ErrFile, maxLine>>20)
		}
		for len(cells) <= column {
			cells = append(cells, "")
		}
		cells[column] = value
		return nil
	})
	return cells, err
}

// columnOf is the column of a place such as "BC7", from 0; the one that comes next where no place is given; -1 if it is none.
func columnOf(place string, next int) int {
	if place == "" {
		return next
	}
	column := 0
	for _, c := range strings.TrimRight(place, "0123456789") {
		if c < 'A' || c > 'Z' || column > 16384 {
			return -1
		}
		column = column*26 + int(c-'A') + 1
	}
	return column - 1
}

// cell reads a cell up to its end.
func (x *xlsx) cell(p *part, e xml.StartElement, row, column int) (string, error) {
	var value, inline strings.Builder
	formula, phonetic, in := false, 0, ""
	err := p.inside(func(t xml.Token) error {
		switch t := t.(type) {
		case xml.StartElement:
			in = t.Name.Local
			switch in {
			case "f":
				formula = true
			case "rPh":
				phonetic++
			}
		case xml.EndElement:
			if in = ""; t.Name.Local == "rPh" {
				phonetic--
			}
		case xml.CharData:
			switch {
			case in == "v":
				value.Write(t)
			case in == "t" && phonetic == 0:
				inline.Write(t)
			}
		}
		return nil
	})
	if err != nil {
		return "", err
	}
	raw := value.String()
	if formula && raw == "" && inline.Len() == 0 {
		if x.unvalued++; len(x.unvaluedAt) < maxPlaces {
			x.unvaluedAt = append(x.unvaluedAt, letters(column)+strconv.Itoa(row))
		}
	}
	switch attribute(e, "t") {
	case "s":
		if raw == "" {
			return "", nil
		}
		return x.texts.at(raw)
	case "inlineStr":
		return unescaped(inline.String()), nil
	case "str":
		return unescaped(raw), nil
	case "b":
		return map[string]string{"1": "TRUE", "0": "FALSE"}[raw], nil
	case "d":
		return strings.TrimSuffix(strings.Replace(raw, "T", " ", 1), " 00:00:00"), nil
	case "e":
		return raw, nil
	}
	shows := ""
	if style, err := strconv.Atoi(attribute(e, "s")); err == nil && style >= 0 && style < len(x.shows) {
		shows = x.shows[style]
	}
	return x.number(raw, shows), nil
}

// letters name a column, from 0, as sheets do.
func letters(column int) string {
	name := ""
	for column++; column > 0; column = (column - 1) / 26 {
		name = string(rune('A'+(column-1)%26)) + name
	}
	return name
}

// number writes a number as it is, to the 15 digits that a workbook keeps, or as the date or time that it stands for.
func (x *xlsx) number(raw, shows string) string {
	n, err := strconv.ParseFloat(raw, 64)
	if err != nil {
		return raw
	}
	const last = 2958466 // the day after 31 December 9999
	if shows != "" && n >= 0 && n < last {
		return x.date(n, shows)
	}
	if short := strconv.FormatFloat(n, 'g', 15, 64); short != strconv.FormatFloat(n, 'g', -1, 64) {
		n, _ = strconv.ParseFloat(short, 64)
	}
	return strconv.FormatFloat(n, 'f', -1, 64)
}

// date writes a number of days (ECMA-376, part 1, 18.17.4.1). Days are counted from 31 December 1899, as if there had been a 29
// February 1900, or from 1 January 1904.
func (x *xlsx) date(n float64, shows string) string {
	seconds := int64(math.Round(n * 86400))
	days := seconds / 86400
	if shows == asDuration {
		return fmt.Sprintf("%02d:%02d:%02d", seconds/3600, seconds/60%60, seconds%60)
	}
	first := time.Date(1899, 12, 31, 0, 0, 0, 0, time.UTC)
	switch {
	case x.from04:
		first = time.Date(1904, 1, 1, 0, 0, 0, 0, time.UTC)
	case days >= 60:
		first = first.AddDate(0, 0, -1)
	}
	at := first.AddDate(0, 0, int(days)).Add(time.Duration(seconds%86400) * time.Second)
	return strings.TrimSuffix(at.Format(shows), " 00:00:00")
}
