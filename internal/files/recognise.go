package files

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"path/filepath"
	"slices"
	"strings"

	"golang.org/x/net/html/charset"
)

// loneCR says whether the lines of a text end in a carriage return alone.
func loneCR(sample []byte) bool {
	return bytes.IndexByte(sample, '\r') >= 0 && bytes.IndexByte(sample, '\n') < 0
}

// foreign are files that are no table, by how they begin, with what to do.
var foreign = []struct{ begins, says string }{
	{"\xd0\xcf\x11\xe0", "this is a workbook in the old format (XLS) or with a password; save it as XLSX without one"},
	{"%PDF", "this is a PDF; its text must be taken out first"},
	{"\x89PNG", "this is a picture"}, {"\xff\xd8\xff", "this is a picture"}, {"GIF8", "this is a picture"},
	{"\x1f\x8b", "this file is packed (gzip); unpack it first"},
	{"{\\rtf", "this is a word processor's document (RTF); save it as plain text"},
	{"$FL2", "this is a data file of a statistics package (SAV); export it as CSV or XLSX"},
	{"$FL3", "this is a data file of a statistics package (SAV); export it as CSV or XLSX"},
	{"PAR1", "this is a Parquet file; export it as CSV"}, {"SQLite format 3", "this is a database (SQLite); export a table as CSV"},
	{"7z\xbc\xaf", "this file is packed (7z); unpack it first"}, {"Rar!", "this file is packed (RAR); unpack it first"},
	{"BZh", "this file is packed (bzip2); unpack it first"}, {"\xfd7zXZ", "this file is packed (XZ); unpack it first"},
	{"\x28\xb5\x2f\xfd", "this file is packed (Zstandard); unpack it first"},
}

// binary says whether a file is no text in any encoding: many of its bytes are signs that steer a machine. UTF-16 has
// zeros in every other place.
func binary(sample []byte) bool {
	if bytes.HasPrefix(sample, []byte("PK\x03\x04")) || bytes.HasPrefix(sample, []byte{0xff, 0xfe}) || bytes.HasPrefix(sample, []byte{0xfe, 0xff}) {
		return false
	}
	var zeros [2]int
	steering := 0
	for i, b := range sample {
		switch {
		case b == 0:
			zeros[i%2]++
		case b < ' ' && b != '\t' && b != '\n' && b != '\r' && b != '\f' && b != '\v' && b != 0x1a:
			steering++
		}
	}
	if wide := max(zeros[0], zeros[1]); wide*5 > len(sample)*2 && min(zeros[0], zeros[1])*20 < wide {
		zeros = [2]int{} // UTF-16 without its mark
	}
	found := steering + zeros[0] + zeros[1]
	return found > 4 && found*100 > len(sample)
}

// Recognise guesses how the file at path is read. Name is what it was called, for its ending; kind is its media type as
// somebody gave it, or empty.
func Recognise(ctx context.Context, path, name, kind string) (Recognised, error) {
	sample, whole, err := head(path)
	if err != nil {
		return Recognised{}, err
	}
	if len(bytes.TrimSpace(bytes.TrimPrefix(sample, []byte("\ufeff")))) == 0 && whole {
		return Recognised{}, fmt.Errorf("%w: it is empty", ErrFile)
	}
	for _, f := range foreign {
		if bytes.HasPrefix(sample, []byte(f.begins)) {
			return Recognised{}, fmt.Errorf("%w: %s", ErrFile, f.says)
		}
	}
	g := Recognised{Because: map[string]string{}}
	if binary(sample) {
		return g, fmt.Errorf("%w: this is no text: it holds bytes that no text has; save the answers as CSV, XLSX or plain text", ErrFile)
	}
	if bytes.HasPrefix(sample, []byte("PK\x03\x04")) {
		return g, g.recogniseBook(ctx, path)
	}
	var because string
	if g.Encoding, because, err = guessEncoding(path, sample); err != nil {
		return g, err
	}
	g.Because["encoding"] = because
	text, err := g.text(sample, whole)
	if err != nil {
		return g, err
	}
	ending := strings.ToLower(filepath.Ext(name))
	begins := strings.TrimSpace(text[:min(len(text), 4096)])
	low := strings.ToLower(begins)
	set := func(f Format, because string) { g.Format, g.Because["format"] = f, because }
	switch {
	case strings.HasPrefix(low, "<!doctype html"),
		strings.HasPrefix(low, "<html"),
		strings.HasPrefix(kind, "text/html"),
		(ending == ".html" || ending == ".htm") && strings.HasPrefix(begins, "<"):
		set(Page, "it is a web page")
		if _, name, _ := charset.DetermineEncoding(sample, kind); g.Encoding != UTF8 && slices.Contains(Encodings(), name) {
			g.Encoding, g.Because["encoding"] = name, "the page says so"
		}
	case strings.HasPrefix(begins, "[") || strings.HasPrefix(begins, "{"):
		if format, because := jsonFormat(text); format != "" {
			set(format, because)
			g.Headers = 1 // of arrays in an array
		}
	}
	if g.Format == "" {
		g.recognisePlain(ctx, text, ending)
	}
	return g, nil
}

// text decodes the sample; a sample that is not the whole file is cut at its last line break.
func (g *Recognised) text(sample []byte, whole bool) (string, error) {
	if !whole {
		if end := bytes.LastIndexAny(sample, "\r\n"); end > 0 {
			sample = sample[:end+1]
		}
		if strings.HasPrefix(g.Encoding, "utf-16") && len(sample)%2 == 1 {
			sample = sample[:len(sample)-1]
		}
	}
	from, err := decoded(bytes.NewReader(sample), g.Encoding, loneCR(sample))
	if err != nil {
		return "", err
	}
	text, err := io.ReadAll(from)
	return string(text), err
}

func (g *Recognised) recogniseBook(ctx context.Context, path string) error {
	f, err := openBook(ctx, path)
	if err != nil {
		return err
	}
	defer f.Close()
	g.Format, g.Because["format"] = Sheet, "it is a workbook"
	g.Sheets = f.sheets()
	most := -1
	for _, name := range g.Sheets {
		var rows [][]string
		filled := 0
		err := f.eachRow(name, func(cells []string) error {
			if len(rows) == heldRows {
				return errEnough
			}
			rows = append(rows, cells)
			for _, c := range cells {
				if c != "" {
					filled++
				}
			}
			return nil
		})
		if err != nil && !errors.Is(err, errEnough) {
			return err
		}
		if filled > most {
			most = filled
			g.Sheet = name
			g.recogniseHeader(rows)
		}
	}
	if most <= 0 {
		return fmt.Errorf("%w: every sheet of the workbook is empty", ErrFile)
	}
	g.Because["sheet"] = "it is the only one"
	if len(g.Sheets) > 1 {
		g.Because["sheet"] = fmt.Sprintf("of %d, its first rows hold the most", len(g.Sheets))
	}
	return nil
}

// jsonFormat tells an array from a value per line.
func jsonFormat(text string) (Format, string) {
	d := json.NewDecoder(strings.NewReader(text))
	t, err := d.Token()
	if err != nil {
		return "", ""
	}
	if t == json.Delim('[') {
		if _, err := d.Token(); err != nil && len(text) < 1000 {
			return "", ""
		}
		// "[1, 2]" on each line is a value per line too.
		lines := strings.SplitN(strings.TrimSpace(text), "\n", 3)
		if len(lines) > 1 && json.Valid([]byte(lines[0])) && json.Valid([]byte(strings.TrimSpace(lines[1]))) {
			return NDJSON, "each line is JSON by itself"
		}
		return JSON, "it begins as a JSON array"
	}
	first, rest, more := strings.Cut(strings.TrimSpace(text), "\n")
	if wrapped := strings.ReplaceAll(first, " ", ""); !more && strings.Contains(wrapped, ":[{") {
		return JSON, "it is one JSON object with an array of objects in it"
	}
	if json.Valid([]byte(first)) && (!more || strings.HasPrefix(strings.TrimSpace(rest), "{")) {
		return NDJSON, "each line is a JSON object"
	}
	if t, err := d.Token(); err == nil {
		if _, named := t.(string); named {
			return JSON, "it begins as a JSON object"
		}
	}
	return "", ""
}

// delimiters are the signs that may part cells, with their names.
var delimiters = []struct{ sign, name string }{
	{"\t", "tabs"}, {",", "commas"}, {";", "semicolons"}, {"|", "bars"}, {"^", "carets"},
}

// trial is a way to read delimited text, and how evenly it parts the first rows.
type trial struct {
	Recipe
	rows  [][]string
	share float64 // of the rows that have the usual number of cells
	width int
	says  string
}

// weight is higher for a sign that parts rows more evenly, and into more cells.
func (t trial) weight() float64 { return t.share * math.Sqrt(float64(min(t.width, 9))) }

func try(ctx context.Context, text, encoding, sign, quotes string) (t trial, readable bool) {
	t.Recipe = Recipe{Format: Delimited, Encoding: encoding, Delimiter: sign, Quotes: quotes}
	err := eachRow(ctx, strings.NewReader(text), t.Recipe, &Notes{}, func(cells []string) error {
		if t.rows = append(t.rows, cells); len(t.rows) == heldRows {
			return errEnough
		}
		return nil
	})
	t.width = usualWidth(t.rows)
	for _, row := range t.rows {
		if len(row) == t.width {
			t.share += 1 / float64(len(t.rows))
		}
	}
	t.share = min(1, math.Round(t.share*1e9)/1e9)
	return t, err == nil || err == errEnough
}

// inBlocks says whether blank lines part answers of several lines: most lines before another one do not end a sentence.
func inBlocks(text string) bool {
	inner, ended, blank, before := 0, 0, 0, ""
	for line := range strings.SplitSeq(strings.TrimSpace(text), "\n") {
		line = strings.TrimSpace(line)
		switch {
		case line == "":
			blank++
		case before != "":
			inner++
			if strings.ContainsAny(before[len(before)-1:], ".!?") {
				ended++
			}
		}
		before = line
	}
	return blank > 0 && inner > 0 && inner >= 2*ended
}

// recognisePlain tells delimited text from answers in lines or blocks.
func (g *Recognised) recognisePlain(ctx context.Context, text, ending string) {
	var best trial
	for _, d := range delimiters {
		strict, ok := try(ctx, text, g.Encoding, d.sign, "strict")
		if !ok {
			// Signs that do not pair up swallow rows: then quotes are no more than signs.
			strict, _ = try(ctx, text, g.Encoding, d.sign, "lax")
			if none, _ := try(ctx, text, g.Encoding, d.sign, "none"); none.share >= strict.share && len(none.rows) > len(strict.rows) {
				strict = none
			}
			if lines, _ := try(ctx, text, g.Encoding, d.sign, "lines"); lines.share > strict.share && len(lines.rows) >= len(strict.rows) {
				strict = lines
			}
		}
		if strict.says = d.name; strict.weight() > best.weight()+1e-9 {
			best = strict
		}
	}
	table := ending == ".csv" || ending == ".tsv" || ending == ".tab"
	switch {
	case best.width > 1 && (best.share >= 0.85 || table && best.share >= 0.5) && (len(best.rows) > 1 || table):
		g.Recipe = best.Recipe
		g.Because["format"] = fmt.Sprintf("%s separate each row into %d cells", best.says, best.width)
		g.Because["delimiter"] = fmt.Sprintf("%.0f %% of the first rows have %d cells so", 100*best.share, best.width)
		g.Because["quotes"] = map[string]string{"strict": "every quote in the first rows opens or closes a cell", "lax": "some quotes stand inside cells", "none": "quotes do not pair up", "lines": "some quotes are not closed on their line"}[best.Quotes]
		g.recogniseHeader(best.rows)
	case g.ragged(ctx, text, table):
	case table && len(best.rows) > 0 && best.share == 1:
		g.Recipe = best.Recipe
		g.Because["format"] = "its name ends in " + ending + ", and no character separates its cells: one column"
		g.recogniseHeader(best.rows)
	case table:
		g.Format, g.Headers = Lines, 1
		g.Because["format"] = "its name ends in " + ending + ", but no character separates its cells evenly: one column"
		g.Because["headers"] = "its name says that it is a table"
	case inBlocks(text):
		g.Format, g.Because["format"] = Blocks, "no character separates its cells evenly, and sentences go on from line to line between blank lines"
	default:
		g.Format, g.Because["format"] = Lines, "no character separates its cells evenly"
	}
}

// ragged recognises a table of uneven rows by its first one: a row of names, separated by a sign that nearly every row
// has. A comma parts sentences, too: it counts only where the file's name says that it is a table.
func (g *Recognised) ragged(ctx context.Context, text string, table bool) bool {
	var best trial
	for _, d := range delimiters {
		if d.sign == "," && !table {
			continue
		}
		t, _ := try(ctx, text, g.Encoding, d.sign, "lines")
		if len(t.rows) < 3 || !names(t.rows[0]) || len(t.rows[0]) <= len(best.header()) {
			continue
		}
		with := 0
		for _, row := range t.rows {
			if len(row) > 1 {
				with++
			}
		}
		if with*10 >= len(t.rows)*9 {
			t.says = d.name
			best = t
		}
	}
	if best.rows == nil {
		return false
	}
	g.Recipe = best.Recipe
	g.Headers = 1
	g.Because["format"] = fmt.Sprintf("the first row names %d columns, separated by %s; not every row has as many cells", len(best.rows[0]), best.says)
	g.Because["delimiter"] = "nearly every row has it"
	g.Because["quotes"] = "each line is a row"
	g.Because["headers"] = "each cell of the first row is a name"
	return true
}
