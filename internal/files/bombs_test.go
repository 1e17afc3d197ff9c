package files

import (
	"archive/zip"
	"compress/flate"
	"context"
	"fmt"
	"io"
	"math"
	"net/netip"
	"os"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"
)

// repeated reads a text again and again, so many bytes of it.
func repeated(text string, bytes int64) io.Reader {
	return io.LimitReader(&again{text: text}, bytes/int64(len(text))*int64(len(text)))
}

type again struct {
	text string
	at   int
}

func (a *again) Read(p []byte) (n int, err error) {
	for n < len(p) {
		c := copy(p[n:], a.text[a.at:])
		n += c
		a.at = (a.at + c) % len(a.text)
	}
	return n, nil
}

const (
	bookList = `<workbook xmlns:r="r"><sheets><sheet name="S" sheetId="1" r:id="rId1"/></sheets></workbook>`
	bookRels = `<Relationships><Relationship Id="rId1" Type="x/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`
	oneCell  = `<worksheet><sheetData><row r="1"><c r="A1" t="s"><v>0</v></c></row><row r="2"><c r="A2" t="s"><v>0</v></c></row></sheetData></worksheet>`
)

// bookOf packs a workbook whose parts are read from streams.
func bookOf(t *testing.T, parts map[string]io.Reader) string {
	path := filepath.Join(t.TempDir(), "x.xlsx")
	f, err := os.Create(path)
	require.NoError(t, err)
	defer f.Close()
	z := zip.NewWriter(f)
	z.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) { return flate.NewWriter(w, flate.BestCompression) })
	for name, text := range map[string]string{"xl/workbook.xml": bookList, "xl/_rels/workbook.xml.rels": bookRels, "xl/worksheets/sheet1.xml": oneCell} {
		if parts[name] == nil {
			parts[name] = strings.NewReader(text)
		}
	}
	for name, text := range parts {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = io.Copy(w, text)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return path
}

// peak runs something and gives how much more memory was in use on the way than before, in bytes.
func peak(work func()) uint64 {
	defer debug.SetGCPercent(debug.SetGCPercent(50))
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	before, most := m.HeapAlloc, m.HeapAlloc
	done, stopped := make(chan struct{}), make(chan struct{})
	go func() {
		defer close(stopped)
		for {
			select {
			case <-done:
				return
			case <-time.After(2 * time.Millisecond):
				runtime.ReadMemStats(&m)
				most = max(most, m.HeapAlloc)
			}
		}
	}()
	work()
	close(done)
	<-stopped
	return most - before
}

// A small file that unpacks to far more is read, or refused with a reason, within 64 MB.
func TestFilesThatUnpackToFarMore(t *testing.T) {
	text := func(all ...string) io.Reader {
		var parts []io.Reader
		for _, s := range all {
			parts = append(parts, strings.NewReader(s))
		}
		return io.MultiReader(parts...)
	}
	texts := func() io.Reader { return text("<sst><si><t>late</t></si></sst>") }
	const huge = 40 << 20
	for name, c := range map[string]struct {
		parts map[string]io.Reader
		says  string // empty: it is read
	}{
		"pictures":     {map[string]io.Reader{"xl/sharedStrings.xml": texts(), "xl/media/image1.png": repeated("\x00", huge)}, ""},
		"styles":       {map[string]io.Reader{"xl/sharedStrings.xml": texts(), "xl/styles.xml": io.MultiReader(text("<styleSheet><cellXfs>"), repeated(`<xf numFmtId="14"/>`, 8<<20), text("</cellXfs></styleSheet>"))}, ""},
		"more texts":   {map[string]io.Reader{"xl/sharedStrings.xml": io.MultiReader(text("<sst><si><t>late</t></si>"), repeated("<si><t>x</t></si>", huge), text("</sst>"))}, ""},
		"texts needed": {map[string]io.Reader{"xl/sharedStrings.xml": io.MultiReader(text("<sst>"), repeated("<si><t>x</t></si>", 8<<20), text("</sst>")), "xl/worksheets/sheet1.xml": text(strings.Replace(oneCell, ">0<", ">3999999<", 1))}, "names text 3999999"},
		"one text":     {map[string]io.Reader{"xl/sharedStrings.xml": io.MultiReader(text("<sst><si><t>"), repeated("late ", huge), text("</t></si></sst>"))}, "larger than 2 MiB"},
		"runs":         {map[string]io.Reader{"xl/sharedStrings.xml": io.MultiReader(text("<sst><si>"), repeated("<r><t>late again, and again</t></r>", huge), text("</si></sst>"))}, "larger than 16 MiB"},
		"one tag":      {map[string]io.Reader{"xl/worksheets/sheet1.xml": io.MultiReader(text("<worksheet "), repeated(`a="b" `, huge), text("/>"))}, "larger than 2 MiB"},
		"blank cells":  {map[string]io.Reader{"xl/worksheets/sheet1.xml": io.MultiReader(text("<worksheet><sheetData><row>"), repeated(`<c s="1"/>`, huge), text("</row></sheetData></worksheet>"))}, "far larger unpacked"},
		"far cell":     {map[string]io.Reader{"xl/worksheets/sheet1.xml": text(`<worksheet><row r="2000001"><c><v>1</v></c></row></worksheet>`)}, "at most 2000000"},
		"wide cell":    {map[string]io.Reader{"xl/worksheets/sheet1.xml": text(`<worksheet><row><c r="ZZZ1"><v>1</v></c></row></worksheet>`)}, "more than 2000 cells"},
	} {
		t.Run(name, func(t *testing.T) {
			path := bookOf(t, c.parts)
			var err error
			used := peak(func() {
				ctx, cancel := context.WithTimeout(t.Context(), time.Minute)
				defer cancel()
				var g Recognised
				if g, err = Recognise(ctx, path, "x.xlsx", ""); err == nil {
					_, err = ReadTable(ctx, path, g.Recipe, 0)
				}
			})
			if c.says == "" {
				require.NoError(t, err)
			} else {
				require.ErrorIs(t, err, ErrFile)
				require.ErrorContains(t, err, c.says)
			}
			assert.Less(t, used>>20, uint64(64), "MB")
		})
	}
}

// Texts without an end are refused, whatever they are read as, and nothing that stands behind is lost in silence.
func TestTextsWithoutEnd(t *testing.T) {
	path := filepath.Join(t.TempDir(), "x")
	var marks strings.Builder
	for i := range maxElements + 1 {
		fmt.Fprintf(&marks, " a%d", i)
	}
	for name, c := range map[string]struct {
		begins string
		then   io.Reader
		recipe Recipe
		says   string
	}{
		"quote":   {"id,answer\n1,late\n2,\"", repeated("cold, ", 60<<20), Recipe{Format: Delimited, Delimiter: ",", Quotes: "strict", Headers: 1}, "never closed"},
		"line":    {"", repeated("cold, ", 60<<20), Recipe{Format: Lines}, "longer than"},
		"value":   {`[{"a":1},{"a":"`, repeated("cold ", 60<<20), Recipe{Format: JSON}, "larger than 4 MiB (row 2)"},
		"blanks":  {`{"a":1}`, repeated(" ", 60<<20), Recipe{Format: NDJSON}, "larger than 4 MiB"},
		"bracket": {"{\"a\":1}\n]\n{\"a\":2}\n", strings.NewReader(""), Recipe{Format: NDJSON}, "row 2"},
		"page":    {"<html>", repeated("<b>", 3<<20), Recipe{Format: Page}, "elements"},
		"marks":   {"<p", strings.NewReader(marks.String() + ">x"), Recipe{Format: Page}, "attributes"},
	} {
		f, err := os.Create(path)
		require.NoError(t, err)
		_, err = io.Copy(f, io.MultiReader(strings.NewReader(c.begins), c.then))
		require.NoError(t, err)
		require.NoError(t, f.Close())
		used := peak(func() { _, err = ReadTable(t.Context(), path, c.recipe, 0) })
		require.ErrorIs(t, err, ErrFile, name)
		assert.ErrorContains(t, err, c.says, name)
		assert.Less(t, used>>20, uint64(96), "%s: MB", name)
	}
}

// Who leaves ends the reading of a workbook, also within a row that never ends.
func TestReadingStopsWhenTheCallerLeaves(t *testing.T) {
	path := bookOf(t, map[string]io.Reader{"xl/worksheets/sheet1.xml": io.MultiReader(
		strings.NewReader("<worksheet><sheetData><row>"), repeated(`<c s="1"/>`, 60<<20), strings.NewReader("</row></sheetData></worksheet>"))})
	ctx, cancel := context.WithTimeout(t.Context(), 50*time.Millisecond)
	defer cancel()
	begun := time.Now()
	_, err := ReadTable(ctx, path, Recipe{Format: Sheet, Headers: 1}, 0)
	require.ErrorIs(t, err, context.DeadlineExceeded)
	assert.Less(t, time.Since(begun), 5*time.Second)
}

// Whatever kind of value was put into a workbook, by either way in which they are written, is read as what it means.
func TestWorkbookValuesComeBack(t *testing.T) {
	path := filepath.Join(t.TempDir(), "x.xlsx")
	rapid.Check(t, func(rt *rapid.T) {
		f := excelize.NewFile()
		style := func(code string) int {
			id, err := f.NewStyle(&excelize.Style{CustomNumFmt: &code})
			require.NoError(rt, err)
			return id
		}
		day, moment, clock := style("d mmmm yyyy"), style("dd/mm/yy h:mm"), style("h:mm AM/PM")
		var want [][]string
		var cells [][]any
		moments := rapid.Int64Range(0, 250*365*86400)
		for range rapid.IntRange(1, 8).Draw(rt, "rows") {
			row, texts := []any{}, []string{}
			for range 4 {
				at := time.Date(1901, 1, 1, 0, 0, 0, 0, time.UTC).Add(time.Duration(moments.Draw(rt, "moment")) * time.Second)
				days := float64(at.Unix()-time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC).Unix()) / 86400
				switch rapid.IntRange(0, 7).Draw(rt, "kind") {
				case 0:
					text := rapid.StringMatching(`[a-z _é☃&<>"\n]{1,12}`).Draw(rt, "text")
					row, texts = append(row, text), append(texts, text)
				case 1:
					n := rapid.Int64Range(-1e15, 1e15).Draw(rt, "n")
					row, texts = append(row, n), append(texts, fmt.Sprint(n))
				case 2:
					n := math.Round(rapid.Float64Range(-1e6, 1e6).Draw(rt, "x")*1e6) / 1e6
					if n == 0 {
						n = 0.5
					}
					row, texts = append(row, n), append(texts, plain(n))
				case 3:
					row, texts = append(row, true), append(texts, "TRUE")
				case 4:
					row, texts = append(row, excelize.Cell{StyleID: day, Value: math.Floor(days)}), append(texts, at.Format("2006-01-02"))
				case 5:
					row = append(row, excelize.Cell{StyleID: moment, Value: days})
					texts = append(texts, strings.TrimSuffix(at.Format("2006-01-02 15:04:05"), " 00:00:00"))
				case 6:
					row = append(row, excelize.Cell{StyleID: clock, Value: days - math.Floor(days)})
					texts = append(texts, at.Format("15:04:05"))
				default:
					row, texts = append(row, nil), append(texts, "")
				}
			}
			row[0], texts[0] = "x", "x" // a row with nothing in it is no row of a workbook
			row[3], texts[3] = "y", "y" // and one that is longer than most has its end put together
			cells, want = append(cells, row), append(want, texts)
		}
		if rapid.Bool().Draw(rt, "streamed") {
			w, err := f.NewStreamWriter("Sheet1")
			require.NoError(rt, err)
			for i, row := range cells {
				require.NoError(rt, w.SetRow(fmt.Sprint("A", i+1), row))
			}
			require.NoError(rt, w.Flush())
		} else {
			for i, row := range cells {
				for j, value := range row {
					name, err := excelize.CoordinatesToCellName(j+1, i+1)
					require.NoError(rt, err)
					if c, styled := value.(excelize.Cell); styled {
						require.NoError(rt, f.SetCellStyle("Sheet1", name, name, c.StyleID))
						value = c.Value
					}
					require.NoError(rt, f.SetCellValue("Sheet1", name, value))
				}
			}
		}
		require.NoError(rt, f.SaveAs(path))
		got, err := ReadTable(context.Background(), path, Recipe{Format: Sheet}, 0)
		require.NoError(rt, err)
		for i, row := range want {
			require.Equal(rt, strings.TrimRight(strings.Join(row, "|"), "|"), strings.TrimRight(strings.Join(got.Rows[i], "|"), "|"))
		}
	})
}

func plain(n float64) string {
	return strings.TrimSuffix(strings.TrimRight(fmt.Sprintf("%.6f", n), "0"), ".")
}

// Texts beyond those that are held in memory come back from disk, in whatever order they are asked for.
func TestSharedTextsOnDisk(t *testing.T) {
	const n = 4000
	text := func(i int) string { return strings.Repeat(fmt.Sprint(i, " "), 1+i%2000) }
	var b strings.Builder
	b.WriteString("<sst>")
	for i := range n {
		fmt.Fprintf(&b, `<si><r><t>%s</t></r><rPh><t>no</t></rPh></si>`, text(i))
	}
	b.WriteString("</sst>")
	require.Greater(t, b.Len(), heldTexts*2)
	a, err := openArchive(bookOf(t, map[string]io.Reader{"xl/sharedStrings.xml": strings.NewReader(b.String())}))
	require.NoError(t, err)
	defer a.Close()
	s, err := openTexts(t.Context(), a)
	require.NoError(t, err)
	rapid.Check(t, func(rt *rapid.T) {
		i := rapid.IntRange(0, n-1).Draw(rt, "i")
		got, err := s.at(fmt.Sprint(i))
		require.NoError(rt, err)
		require.Equal(rt, text(i), got)
	})
	_, err = s.at(fmt.Sprint(n))
	require.ErrorContains(t, err, "has 4000")
	left := s.rest.Name()
	require.NoError(t, s.Close())
	assert.NoFileExists(t, left)
}

// Dates before and around the day that never was, from 1904, and hours beyond a day.
func TestWorkbookDates(t *testing.T) {
	for _, c := range []struct {
		raw, shows string
		from04     bool
		want       string
	}{
		{"1", asDate, false, "1900-01-01"}, {"59", asDate, false, "1900-02-28"}, {"61", asDate, false, "1900-03-01"},
		{"46095", asDate, false, "2026-03-14"}, {"44633", asDate, true, "2026-03-14"}, {"46095.999999", asMoment, false, "2026-03-15"},
		{"0.75", asTime, false, "18:00:00"}, {"1.5", asDuration, false, "36:00:00"}, {"-1", asDate, false, "-1"},
		{"0.30000000000000004", "", false, "0.3"}, {"1E-3", "", false, "0.001"}, {"12345678901234567", "", false, "12345678901234600"},
	} {
		x := xlsx{from04: c.from04}
		assert.Equal(t, c.want, x.number(c.raw, c.shows), c.raw)
	}
	assert.Equal(t, asDuration, dateFormat(0, "[h]:mm:ss"))
	assert.Equal(t, []string{"A", "Z", "AA", "XFD"}, []string{letters(0), letters(25), letters(26), letters(16383)})
	assert.Equal(t, "a_x0041_\n\u00e9 _x", unescaped("a_x005F_x0041__x000D_\n_x00e9_ _x"))
	for i := range 16384 {
		require.Equal(t, i, columnOf(letters(i)+"7", -1))
	}
}

// No link leads to an address inside a machine or network, in whichever dress.
func TestAddressesThatAreNotReached(t *testing.T) {
	for address, want := range map[string]bool{
		"93.184.215.14": true, "2606:2800:21f:cb07::1": true, "::ffff:93.184.215.14": true,
		"127.0.0.1": false, "10.1.2.3": false, "169.254.169.254": false, "100.64.0.1": false, "192.0.2.1": false, "198.18.0.1": false,
		"198.51.100.7": false, "203.0.113.9": false, "192.88.99.1": false, "224.0.0.1": false, "255.255.255.255": false, "0.0.0.0": false,
		"::1": false, "::": false, "::127.0.0.1": false, "::ffff:127.0.0.1": false, "64:ff9b::7f00:1": false, "64:ff9b:1::7f00:1": false,
		"2001:0:7f00:1::": false, "2002:7f00:1::": false, "fec0::1": false, "fe80::1": false, "fd00::1": false, "2001:db8::1": false,
		"3fff::1": false, "100::1": false, "ff02::1": false,
	} {
		assert.Equal(t, want, public(netip.MustParseAddr(address)), address)
	}
}

// Whatever the parts of a workbook hold: it is refused as a file, or every row is as long as the header.
func FuzzWorkbook(f *testing.F) {
	f.Add(oneCell, "<sst><si><t>late</t></si></sst>", `<styleSheet><cellXfs><xf numFmtId="14"/></cellXfs></styleSheet>`)
	f.Add(`<worksheet><row r="3"><c r="B3" s="0"><v>46095</v></c><c t="inlineStr"><is><r><t>a</t></r></is></c><c t="b"><v>1</v></c></row></worksheet>`, "", "")
	f.Add(`<worksheet><row><c><f>1+1</f></c></row><row r="2"><c r="A2" t="d"><v>2026-03-14T00:00:00</v></c></row></worksheet>`, "<sst/>", "<styleSheet/>")
	f.Fuzz(func(t *testing.T, sheet, texts, styles string) {
		path := bookOf(t, map[string]io.Reader{"xl/worksheets/sheet1.xml": strings.NewReader(sheet), "xl/sharedStrings.xml": strings.NewReader(texts),
			"xl/styles.xml": strings.NewReader(styles)})
		got, err := ReadTable(t.Context(), path, Recipe{Format: Sheet, Headers: 1}, 0)
		if err != nil {
			require.ErrorIs(t, err, ErrFile)
			return
		}
		for _, row := range got.Rows {
			require.Len(t, row, len(got.Columns))
		}
	})
}

// Whatever is given as a document of tables.
func FuzzOpenDocument(f *testing.F) {
	f.Add(odsOf([][]string{{"id", "answer"}, {"1", "late  again"}, {"1", "late  again"}}))
	f.Add(`<t:table t:name="x"><t:table-row t:number-rows-repeated="3"><t:table-cell t:number-columns-repeated="2" o:value-type="float" o:value="1"/></t:table-row></t:table>`)
	path := filepath.Join(f.TempDir(), "x.ods")
	f.Fuzz(func(t *testing.T, document string) {
		pack(t, path, map[string]string{"content.xml": document})
		got, err := ReadTable(t.Context(), path, Recipe{Format: Sheet, Headers: 1}, 1000)
		if err != nil {
			require.ErrorIs(t, err, ErrFile)
			return
		}
		for _, row := range got.Rows {
			require.Len(t, row, len(got.Columns))
		}
	})
}
