package files

import "fmt"

// Limit bounds something of a file.
type Limit struct{ Of, Most string }

// Limits are all limits of files.
func Limits() []Limit {
	mib := func(n int64) string { return fmt.Sprintf("%d MiB", n>>20) }
	gib := func(n int64) string { return fmt.Sprintf("%d GiB", n>>30) }
	n := func(n int) string { return fmt.Sprint(n) }
	return []Limit{
		{"file that is brought in", gib(MaxFile)},
		{"file that is fetched by a link", mib(maxFetched)},
		{"links that lead on to others", n(maxRedirects)},
		{"time to fetch a link", fetchTime.String()},
		{"rows of a table", n(MaxRows)},
		{"columns of a table", n(MaxColumns)},
		{"cell", mib(MaxCell)},
		{"row, or line of text", mib(maxLine)},
		{"text of all cells of a table", gib(maxText)},
		{"part of a workbook, unpacked", gib(maxUnpacked)},
		{"part of a workbook, unpacked, to its packed size", fmt.Sprintf("%d times, beyond %s", maxInflation, mib(freeUnpacked))},
		{"tag or cell of a workbook", mib(maxToken)},
		{"sheets of a workbook", n(maxSheets)},
		{"different texts of a workbook", n(maxTexts)},
		{"element of a JSON array, or value on a line", mib(maxValue)},
		{"name of a column in JSON", fmt.Sprintf("%d bytes", maxName)},
		{"web page", mib(maxPage)},
		{"elements, and attributes, of a web page", n(maxElements)},
	}
}
