package export

import (
	"fmt"
	"io"
	"iter"
	"strconv"

	"github.com/xuri/excelize/v2"

	"aftermath/internal/files"
)

// Sheet writes rows of texts and numbers as CSV or XLSX. Numbers are written in full. Texts that a spreadsheet would run
// as a formula are made plain.
func Sheet(w io.Writer, format, name string, rows iter.Seq[[]any]) error {
	if format == "xlsx" {
		return workbook(w, name, rows)
	}
	out := files.NewWriter(w)
	var cells []string
	for row := range rows {
		cells = cells[:0]
		for _, c := range row {
			cells = append(cells, plainCell(c))
		}
		if err := out.Write(cells); err != nil {
			return err
		}
	}
	return out.Flush()
}

func workbook(w io.Writer, name string, rows iter.Seq[[]any]) error {
	f := excelize.NewFile()
	defer f.Close()
	if err := f.SetSheetName("Sheet1", name); err != nil {
		return err
	}
	out, err := f.NewStreamWriter(name)
	if err != nil {
		return err
	}
	n := 0
	for row := range rows {
		if n++; n > excelize.TotalRows {
			return fmt.Errorf("a sheet holds %d rows; write CSV instead", excelize.TotalRows)
		}
		if err := out.SetRow("A"+strconv.Itoa(n), row); err != nil {
			return err
		}
	}
	if err := out.Flush(); err != nil {
		return err
	}
	_, err = f.WriteTo(w)
	return err
}
