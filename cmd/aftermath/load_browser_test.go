package main

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"

	"aftermath/core/survey"
	"aftermath/internal/api"
)

// Numbers that can be read in two ways are asked about before a row is stored, and stand as they were said to; five
// pasted answers are a study, down to a chart.
func TestWhatIsAskedOfAFile(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	var text strings.Builder
	text.WriteString("id\tratio\tsailed\tWhat should we change?\n")
	for i := range 30 {
		fmt.Fprintf(&text, "P%d\t%d,%03d\t%02d/0%d/2026\tthe queue was long on day %d\n", i, 1+i%7, 100+i, 1+i%12, 1+i%9, i)
	}
	w.do(chromedp.SetUploadFiles(`input[type=file]`, []string{file(t, t.TempDir(), "asked.tsv", text.String())}, chromedp.ByQuery))
	w.until(`document.querySelectorAll('[data-part=ask]').length === 2`)
	load := `[...document.querySelectorAll('button')].find(b => b.innerText.startsWith('Load 30 rows'))`
	assert.Equal(t, "true", w.get("%s.disabled", load))
	assert.Contains(t, w.get("document.body.innerText"), "To be decided above: ratio, sailed.")
	w.axe("what is asked of a file")
	w.press("1.1, a fraction")
	w.press("1 April 2026")
	w.until(`!document.querySelector('[data-part=ask]') && !%s.disabled`, load)
	w.press("Load 30 rows")
	w.until(`location.pathname.endsWith('/data')`)
	w.strip("ratio")
	w.until(`document.querySelector('[data-part=histogram]')?.innerText.includes('1.1')`)

	// A quote that is never closed is said, with its row, and the other reading is one press away.
	w.do(chromedp.Navigate(w.base))
	w.do(chromedp.SetUploadFiles(`input[type=file]`,
		[]string{file(t, t.TempDir(), "quote.csv", "id,answer\nP1,fine crossing\nP2,\"late again\nP3,a gap of 12\"\nP4,cold tea\n")}, chromedp.ByQuery))
	w.until(`document.querySelector('[data-part=odd]')?.innerText.includes('In row 3 a quote opens')`)
	w.press("Read each line as a row")
	w.press("Load 4 rows")
	w.until(`location.pathname.endsWith('/data')`)

	w.do(chromedp.Navigate(w.base))
	w.press("Paste answers or a table")
	w.click(`document.getElementById('given')`)
	w.do(input.InsertText("too slow\nlong queue\ncold tea\ntoo slow again\nnice view"))
	w.press("See how it is read")
	w.press("Load 5 rows")
	w.until(`location.pathname.endsWith('/data')`)
	w.view("Chart")
	w.until(`[...document.querySelectorAll('[data-part=bars]')].some(e => e.innerText.includes('5'))`)
}

// A column that a rule names is renamed, values and all: the rule goes on finding its answers, charts have the new
// names, one undo takes it back.
func TestARenamedColumnIsFound(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	rows := [][]string{{"id", "route", "answer"}}
	for i := range 40 {
		rows = append(rows, []string{fmt.Sprintf("P%d", i), []string{"North", "South"}[i%2], "the boat was late"})
	}
	w.loadStudy(rows)
	ask[any](t, "POST", w.base+"/api/v1/questions/1/edits", `{"revision":0,"edit":{"kind":"add category","name":"Late","rules":["late + [route = North]"]}}`)
	w.do(chromedp.Navigate(w.base + "/q/1/data"))
	w.strip("route")
	w.press("Rename…")
	w.choose("Name of the column", "Crossing")
	w.choose("North is called", "Northern line")
	w.axe("renaming a column")
	w.press("Rename")
	w.until(`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Renamed route to Crossing') &&
		!document.querySelector('[role=dialog]')`)
	w.view("Chart")
	w.until(`document.querySelector('figure')?.innerText.includes('Northern line') && document.querySelector('figure').innerText.includes('by Crossing')`)
	line := `[...document.querySelectorAll('figure tr')].find(r => r.innerText.includes('Late'))?.innerText.replace(/\s+/g, ' ')`
	w.until("%s.includes('100')", line)
	w.press("Undo")
	w.until(`document.querySelector('figure')?.innerText.includes('by route')`)
	w.until("%s.includes('100')", line)
}

// Rows take the place of those with their identifiers, and answers are cut into parts after loading; undo brings all of it back.
func TestRowsAreReplacedAndAnswersCut(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	rows := [][]string{{"id", "route", "answer"}}
	for i := range 40 {
		rows = append(rows, []string{fmt.Sprintf("P%d", i), []string{"North", "South"}[i%2], "the boat was late; the tea was cold"})
	}
	w.loadStudy(rows)
	w.do(chromedp.Navigate(w.base + "/q/1/data"))
	w.until(`document.querySelector('main')?.innerText.includes('40 respondents, 3 columns')`)
	again := file(t, t.TempDir(), "again.csv", "id,answer\nP1,all was well\nP2,the boat was late; the tea was cold\nX1,a new one\n")
	w.do(chromedp.SetUploadFiles(`main input[type=file]`, []string{again}, chromedp.ByQuery))
	w.until(`document.querySelector('[data-part=report]')?.innerText.includes('3 respondents would be added')`)
	w.press("Replace what is there")
	w.until(`document.querySelector('[data-part=report]').innerText.includes('one answer to answer says something else')`)
	w.axe("replacing rows")
	w.press("Add one respondent, replace 2")
	w.until(
		`['41 respondents, 3 columns', 'Replaced 2 respondents, added 1'].every(t => document.querySelector('main')?.innerText.includes(t))`,
	)

	w.strip("answer")
	w.press("Cut into parts…")
	w.choose("cut at", "a character or word")
	w.choose("what separates the answers", ";")
	w.until(`document.querySelector('[role=dialog]').innerText.includes('39 answers would be cut into 78 parts')`)
	w.axe("cutting answers")
	w.press("Cut them")
	w.until(`document.querySelector('main')?.innerText.includes('80 respondents, 6 columns') && !document.querySelector('[role=dialog]')`)
	w.keys("z")
	w.until(`document.querySelector('main')?.innerText.includes('41 respondents, 3 columns')`)
	w.keys("z")
	w.until(`document.querySelector('main')?.innerText.includes('40 respondents, 3 columns')`)
}

// A file of 300 columns is set in under ten presses, at load and after; the sheet of rows keeps who they are of in sight.
func TestManyColumnsAtOnce(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	var text strings.Builder
	text.WriteString("id,comment")
	for i := range 298 {
		fmt.Fprintf(&text, ",agree %d", i)
	}
	for row := range 30 {
		fmt.Fprintf(&text, "\nP%d,the boat was late on day %d", row, row)
		for i := range 298 {
			fmt.Fprintf(&text, ",%d", []int{1, 2, 3, 4, 5, 99}[(row+i)%6])
		}
	}
	w.do(chromedp.SetUploadFiles(`input[type=file]`, []string{file(t, t.TempDir(), "wide.csv", text.String())}, chromedp.ByQuery))
	w.until(`document.querySelector('[data-part=columns]')`)
	assert.Equal(t, "50", w.get(`document.querySelectorAll('[data-part=columns] tbody tr').length`), "no more are drawn")
	presses := 0
	press := func(do func()) { presses++; do() }
	button := func(words string) func() {
		return func() {
			w.click(`[...([...document.querySelectorAll('[role=dialog]')].at(-1) ?? document).querySelectorAll('button')].find(e => e.innerText.includes(%s) && !e.disabled)`, quote(words))
		}
	}
	press(button("Set several columns at once"))
	w.axe("several columns at load")
	press(button("Tick 298 columns with the same values"))
	press(func() { w.choose("role of the ticked columns", "segment") })
	press(button("Set them"))
	w.until(`[...document.querySelectorAll('[data-part=columns] tbody tr')].slice(2).every(r => r.innerText.includes('segment'))`)
	press(button("Load 30 rows"))
	w.until(`location.pathname.endsWith('/data')`)

	press(button("Set several at once"))
	press(button("Tick 298 columns"))
	w.axe("several columns in Data")
	press(func() { w.choose("what counts as missing in the ticked columns", "5") })
	press(button("Set them"))
	assert.Less(t, presses, 10)
	w.until(`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Changed how 298 columns are read')`)
	missing := func() int {
		return len(slices.DeleteFunc(ask[[]api.StudyInfo](t, "GET", w.base+"/api/v1/studies", "")[0].Columns, func(c survey.Spec) bool { return !slices.Contains(c.Missing, "5") }))
	}
	assert.Equal(t, 298, missing())
	w.press("Undo")
	w.until(`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Undone')`)
	assert.Zero(t, missing())

	w.press("Rows as they came")
	w.until(`document.querySelector('section[aria-label=Rows] tbody td')?.innerText === 'P0'`)
	w.do(chromedp.Evaluate(`document.querySelector('section[aria-label=Rows]').scrollLeft = 5000`, nil))
	w.until(`(r => document.querySelector('section[aria-label=Rows]').getBoundingClientRect().left === r.left)(document.querySelector('section[aria-label=Rows] tbody td').getBoundingClientRect())`)
	w.axe("rows as they came")
}
