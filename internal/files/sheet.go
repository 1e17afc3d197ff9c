package files

import (
	"fmt"
	"strings"

	"github.com/xuri/excelize/v2"
)

// maxUnpacked is how large a workbook may become when it is unpacked, in bytes.
const maxUnpacked = 2 << 30

// xlsx is a workbook as ECMA-376 has it.
type xlsx struct{ *excelize.File }

// openXLSX opens a workbook so that its dates are read as ISO dates and its other numbers as they are, however the
// workbook shows them.
func openXLSX(path string) (*xlsx, error) {
	f, err := excelize.OpenFile(path, excelize.Options{UnzipSizeLimit: maxUnpacked, UnzipXMLSizeLimit: 64 << 20})
	if err != nil {
		return nil, fmt.Errorf(
			"%w: this workbook can't be read (it must be XLSX without a password, of at most 2 GiB unpacked): %w", ErrFile, err,
		)
	}
	if err := plainFormats(f); err != nil {
		_ = f.Close()
		return nil, fmt.Errorf("%w: the workbook's formats can't be read: %w", ErrFile, err)
	}
	return &xlsx{f}, nil
}

func (x *xlsx) sheets() []string { return x.GetSheetList() }

// plainFormats gives every cell style one of our own formats: ISO for dates and times, none for all else.
func plainFormats(f *excelize.File) error {
	if _, err := f.GetStyle(0); err != nil {
		return nil // a workbook without styles has no dates
	}
	before := len(f.Styles.CellXfs.Xf)
	codes := map[int]string{}
	if f.Styles.NumFmts != nil {
		for _, n := range f.Styles.NumFmts.NumFmt {
			codes[n.NumFmtID] = n.FormatCode
		}
	}
	ours := map[string]int{}
	for _, code := range []string{"yyyy-mm-dd", "yyyy-mm-dd hh:mm:ss", "hh:mm:ss"} {
		style, err := f.NewStyle(&excelize.Style{CustomNumFmt: &code})
		if err != nil {
			return err
		}
		ours[code] = *f.Styles.CellXfs.Xf[style].NumFmtID
	}
	for i := range before {
		id := 0
		if given := f.Styles.CellXfs.Xf[i].NumFmtID; given != nil {
			id = *given
		}
		to := ours[dateFormat(id, codes[id])] // 0, the general format, for numbers
		f.Styles.CellXfs.Xf[i].NumFmtID = &to
	}
	return nil
}

// dateFormat says which of our formats a number format (ECMA-376, part 1, 18.8.30) stands for; none if it is no date.
func dateFormat(id int, code string) string {
	switch {
	case code != "":
	case id >= 14 && id <= 17, id >= 27 && id <= 31, id == 36, id >= 50 && id <= 58:
		return "yyyy-mm-dd"
	case id >= 18 && id <= 21, id >= 32 && id <= 35, id >= 45 && id <= 47:
		return "hh:mm:ss"
	case id == 22:
		return "yyyy-mm-dd hh:mm:ss"
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
		return "yyyy-mm-dd hh:mm:ss"
	case day:
		return "yyyy-mm-dd"
	case clock:
		return "hh:mm:ss"
	}
	return ""
}

func (x *xlsx) eachRow(sheet string, visit func(cells []string) error) error {
	rows, err := x.Rows(sheet)
	if err != nil {
		return fmt.Errorf("%w: sheet %q: %w", ErrFile, sheet, err)
	}
	defer rows.Close()
	for rows.Next() {
		cells, err := rows.Columns()
		if err != nil {
			return fmt.Errorf("%w: sheet %q: %w", ErrFile, sheet, err)
		}
		for i, c := range cells {
			cells[i] = strings.TrimSuffix(c, " 00:00:00")
		}
		if err := visit(cells); err != nil {
			return err
		}
	}
	return rows.Error()
}
