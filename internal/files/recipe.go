package files

import "aftermath/core/text"

// Format is how a file holds its table.
type Format string

// The formats that can be read.
const (
	Delimited Format = "delimited" // cells separated by a sign: CSV, TSV and their kin
	Sheet     Format = "sheet"     // a workbook (XLSX, ODS)
	JSON      Format = "json"      // an array of objects, arrays or texts, alone or inside an object
	NDJSON    Format = "ndjson"    // a JSON value per line
	Lines     Format = "lines"     // plain text, an answer per line
	Blocks    Format = "blocks"    // plain text, answers separated by blank lines
	Page      Format = "page"      // a web page, an answer per block of text
)

// Recipe says how a file is read as a table. Settings that do not belong to its format are passed over.
type Recipe struct {
	Format    Format `json:"format" enum:"delimited,sheet,json,ndjson,lines,blocks,page"`
	Encoding  string `json:"encoding,omitempty" doc:"of text: one of the names in encodings"`
	Delimiter string `json:"delimiter,omitempty" doc:"delimited: one sign"`
	Quotes    string `json:"quotes,omitempty" enum:"strict,lax,lines,none" doc:"delimited: strict, a cell may stand in double quotes, a quote in it is doubled; lax, stray quotes are kept as they are; lines, each line is a row, and a quote that is not closed on it is kept as it is; none, quotes are signs like any other"`
	Sheet     string `json:"sheet,omitempty" doc:"sheet: its name"`
	Skip      int    `json:"skip,omitempty" minimum:"0" maximum:"100" doc:"delimited, sheet: rows above the header that are no part of the table"`
	Headers   int    `json:"headers" minimum:"0" maximum:"3" doc:"delimited, sheet, lines: rows that name the columns"`
	Split     *Split `json:"split,omitempty" doc:"cut the texts of a column into several answers"`
}

// Split cuts the texts of one column into answers: a row becomes as many rows as its text has parts.
type Split struct {
	text.Division
	Column string `json:"column"`
}

// Recognised is how a file seems to be read, with the reason for each setting, by its name in JSON.
type Recognised struct {
	Recipe
	Because map[string]string `json:"because"`
	Sheets  []string          `json:"sheets,omitempty" doc:"sheet: those that the workbook has"`
}

// Notes say what reading a table met that is not as one would expect. Nothing of a cell is ever lost: cells too many are
// joined to the last one, cells too few are blank.
type Notes struct {
	Rows    int      `json:"rows"`
	Short   int      `json:"short" doc:"rows with fewer cells than columns; the missing ones are blank"`
	Long    int      `json:"long" doc:"rows with more cells than columns; the last cell holds the rest"`
	Places  []int    `json:"places,omitempty" doc:"the first of the short and long rows, by number, the first row being 1, blank ones counted"`
	Blank   int      `json:"blank" doc:"blank rows or lines that were passed over"`
	Renamed []string `json:"renamed,omitempty" doc:"columns that got a name because they had none or shared one"`

	Swallowed   int      `json:"swallowed,omitempty" doc:"rows in which a quote is closed on a later line only, past what looks like rows of their own"`
	SwallowedAt []int    `json:"swallowedAt,omitempty" doc:"the first of them, by number"`
	Unvalued    int      `json:"unvalued,omitempty" doc:"sheet: formulas without a stored value; they are blank here"`
	UnvaluedAt  []string `json:"unvaluedAt,omitempty" doc:"the first of them, as C7"`
}

// maxPlaces is how many places notes name.
const maxPlaces = 20

func (n *Notes) place(row int) {
	if len(n.Places) < maxPlaces {
		n.Places = append(n.Places, row)
	}
}

// Sink takes a table as it is read: its columns once, then row by row. Rows may be kept. An error ends the reading.
type Sink struct {
	Columns func(names []string) error
	Row     func(cells []string) error
}
