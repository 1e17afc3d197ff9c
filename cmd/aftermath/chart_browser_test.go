package main

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net/url"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/browser"
	"aftermath/internal/demo"
	"aftermath/internal/view/report"
)

// Tables by several segments, what differs and means, by keys and mouse: what is drawn is what counting the rows gives, and what is
// pressed shows its answers.
func TestChartInTheBrowser(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	rows := demo.Make(3, 2000).Rows
	w.loadStudy(append([][]string{demo.Columns}, rows...))
	loadPlaybook(t, w)
	column := func(name string) int { return slices.Index(demo.Columns, name) }
	w.do(chromedp.Navigate(w.base + "/q/1/chart?by=passenger+type"))
	w.until(`document.querySelector('[data-part=bars] [data-cell]')`)
	// What the mouse lies on must not speak in between.
	aside := func() { w.do(chromedp.MouseEvent(input.MouseMoved, 2, 2), browser.Still()) }
	pane := func(n string) {
		w.until(`document.querySelector('[data-part=pane] h2').innerText.replaceAll(',', '').startsWith('%s answer')`, n)
	}
	counted := func(label string) string { // the answers that a cell's name says
		part := label[:strings.LastIndex(label, " answers")]
		return strings.ReplaceAll(part[strings.LastIndex(part, " ")+1:], ",", "")
	}

	// One segment beside it, then another nested in that.
	w.choose("segment beside", "wave")
	w.until(`[...document.querySelectorAll('[data-part=bars] thead th')].some(h => h.innerText.startsWith('Spring 2026'))`)
	w.press("wave ▾")
	w.until(`document.querySelector('[aria-label="This segment"]')`)
	w.choose("nest in it", "route")
	const heads = `[...document.querySelectorAll('[data-part=bars] thead th')].map(h => h.innerText.replace(/\s+/g, ' ').trim())`
	w.until(`%s.filter(h => h.startsWith('Northern')).length === 2 && !document.querySelector('[aria-label="This segment"]')`, heads)
	assert.Equal(t, "All,passenger type,wave / route", w.get(
		`[%s.find(h => h.startsWith('All')), %s.find(h => h === 'passenger type'), %s.find(h => h === 'wave / route')]`, heads, heads, heads,
	))
	spring := 0
	for _, r := range rows {
		if r[column("wave")] == "Spring 2026" && r[column("route")] == "Northern" {
			spring++
		}
	}
	require.Positive(t, spring)
	w.choose("as a share of", "all respondents")
	w.until(`[...document.querySelectorAll('[data-part=bars] thead tr:last-child td')].some(d => d.innerText.replaceAll(',', '') === '%d')`, spring)
	w.choose("as a share of", "the answered")

	// What the columns are made of is kept under a name, and comes back.
	w.press("kept columns ▾")
	w.until(`document.querySelector('[role=dialog] input, [aria-label="Kept columns"] input')`)
	w.axe("kept columns")
	w.choose("Name for these columns", "Who and when")
	w.press("Keep these columns")
	w.until(`document.querySelector('[data-part=notice]')?.innerText.includes('Kept the columns as Who and when')`)
	w.press("total only")
	w.until(`%s.length === 2`, heads)
	w.press("kept columns ▾")
	w.press("Who and when")
	w.until(`%s.filter(h => h.startsWith('Northern')).length === 2`, heads)

	// The table holds more; its heads put the rows in order, by keys too.
	w.press("Table")
	w.until(`document.querySelector('[data-part=figures] [data-cell]')`)
	w.axe("a table of two segments, one nested")
	w.press("Cells and tests")
	w.until(`document.querySelector('[aria-label^="What cells hold"]')`)
	w.axe("cells and tests")
	w.press("tests of the row")
	w.until(`document.querySelector('[data-part=figures] tbody').innerText.includes('chi-square')`)
	w.do(chromedp.KeyEvent(kb.Escape))
	w.until(`!document.querySelector('[aria-label^="What cells hold"]')`)
	w.choose("rows", "categories only")
	const shares = `[...document.querySelectorAll('[data-part=figures] tbody tr[data-row=category] [data-cell$=" 2"] b')].map(b => parseFloat(b.innerText))`
	w.click(`[...document.querySelectorAll('[data-part=figures] thead button')].find(b => b.innerText.startsWith('Freight'))`)
	w.until(`document.querySelector('[data-part=figures] th[aria-sort=descending]')?.innerText.startsWith('Freight')`)
	w.until(`(s => s.length === 14 && s.every((x, i) => i === 0 || x <= s[i - 1]))(%s)`, shares)
	aside()
	w.do(chromedp.KeyEvent(kb.ArrowDown))
	w.until(`document.activeElement.dataset.cell?.endsWith(' 2') && document.querySelector('[data-part=says]').innerText.includes('Freight')`)
	top := w.get(`document.activeElement.innerText`)
	assert.Regexp(t, `^[^\n]*, Freight:`, top)
	said := w.get(`document.querySelector('[data-part=says]').innerText`)
	assert.Contains(t, said, "95 % interval")
	w.do(chromedp.KeyEvent(kb.Enter))
	w.until(`document.activeElement.getAttribute('aria-pressed') === 'true'`)
	pane(strings.ReplaceAll(strings.Fields(said[strings.Index(said, "(")+1:])[0], ",", ""))

	// Rows with few answers stand together, and open.
	w.press("Cells and tests")
	w.choose("Show rows together that have fewer answers than", "100")
	w.until(`[...document.querySelectorAll('[data-row=others] th')].length === 1 && !document.querySelector('[data-row=hidden]')`)
	w.do(chromedp.KeyEvent(kb.Escape))
	w.until(`!document.querySelector('[aria-label^="What cells hold"]')`)
	w.press("Bars")
	w.until(`document.querySelector('[data-part=bars] [data-row=others]')`)
	hidden := w.get(`document.querySelector('[data-row=others] th').innerText.match(/\d+/)[0]`)
	w.click(`document.querySelector('[data-row=others] [data-cell]')`)
	pane(counted(w.get(`document.querySelector('[data-row=others] [data-cell]').getAttribute('aria-label')`)))
	w.press("and " + hidden + " more")
	w.until(`document.querySelectorAll('[data-row=hidden]').length === %s`, hidden)

	// Drawings: their marks are gone to by arrows, say what the table says, and show their answers.
	for _, as := range []string{"Dots", "Heat"} {
		w.press(as)
		w.until(`document.querySelector('svg[data-drawing=chart] path')`)
		aside()
		w.do(chromedp.Focus(`[data-part=drawing]`, chromedp.ByQuery), chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.ArrowDown))
		w.until(`document.querySelector('[data-part=says]').innerText.includes('95 %% interval')`)
		says := w.get(`document.querySelector('[data-part=says]').innerText`)
		w.do(chromedp.KeyEvent(kb.Enter))
		pane(strings.ReplaceAll(strings.Fields(says[strings.Index(says, "(")+1:])[0], ",", ""))
		w.axe(as)
	}
	w.press("Lines")
	w.until(`document.querySelector('#main [data-part=empty]')?.innerText.includes('in an order of their own')`)
	w.do(chromedp.Navigate(w.base + "/q/1/chart?by=wave&as=lines"))
	w.until(`document.querySelector('svg[data-drawing=chart] text')`)
	drawn := w.get(`[...document.querySelectorAll('svg[data-drawing=chart] text')].map(t => t.textContent).join('|')`)
	assert.Less(t, strings.Index(drawn, "Spring 2026"), strings.Index(drawn, "Autumn 2026"), "by their dates, not by the alphabet: %s", drawn)
	w.choose("nest in it", "route") // the outer is wave now: lines go along what stands in an order
	w.press("Small lines")
	w.until(`document.querySelector('#main [data-part=empty]')?.innerText.includes('in an order of their own')`)
	w.do(chromedp.Navigate(w.base + "/q/1/chart?as=multiples&rows=categories&by=" + url.QueryEscape(`[["route","wave"]]`)))
	w.until(`[...document.querySelectorAll('svg[data-drawing=chart] text')].some(t => t.textContent === 'Northern')`)
	w.axe("small lines")
	aside()
	w.do(chromedp.Focus(`[data-part=drawing]`, chromedp.ByQuery), chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.ArrowDown))
	w.until(`document.querySelector('[data-part=says]').innerText.includes('Northern, Autumn 2026: ')`)
	told := w.get(`document.querySelector('[data-part=says]').innerText`)
	w.do(chromedp.KeyEvent(kb.Enter))
	pane(strings.ReplaceAll(strings.Fields(told[strings.Index(told, "(")+1:])[0], ",", ""))
	w.do(chromedp.Navigate(w.base + "/q/1/chart?by=passenger+type"))
	w.until(`document.querySelector('[data-part=bars] [data-cell]')`)

	// What differs: a finding shows its answers, and the table that it is of.
	w.tab("What differs")
	w.until(`document.querySelector('[data-part=finding]')`)
	w.axe("what differs")
	w.click(`document.querySelector('[data-part=finding]')`)
	w.until(`document.querySelector('[data-part=finding]').getAttribute('aria-pressed') === 'true'`)
	type finding struct {
		Path, Variable, Value string
		Answers               int
	}
	var found struct{ Findings []finding }
	require.NoError(t, json.Unmarshal([]byte(ask[string](t, "GET", w.base+"/api/v1/questions/1/findings", "")), &found))
	first := found.Findings[0]
	pane(fmt.Sprint(first.Answers))
	w.press("show by " + first.Variable)
	w.until(
		`document.querySelector('[data-part=bars] [data-cell][aria-pressed=true]')?.getAttribute('aria-label').startsWith(%s)`,
		quote(first.Path+", "+first.Value),
	)

	// Means: of those with a category, whose answers are opened, and in bands of one's own.
	w.tab("Means")
	w.until(`document.querySelector('[aria-label=Means] tbody tr')`)
	w.axe("means")
	w.click(`document.querySelector('[aria-label=Means] tbody button')`)
	pane(w.get(`document.querySelector('[aria-label=Means] tbody button small').innerText.replaceAll(',', '')`))
	w.choose("bands begin at", "5")
	w.do(chromedp.KeyEvent(kb.Enter))
	w.until(`[...document.querySelectorAll('[aria-label=Means] thead th')].some(h => h.innerText === '0–4')`)

	w.press("How often against mean")
	w.until(`document.querySelector('svg[data-drawing=chart] text')`)
	aside()
	w.do(chromedp.Focus(`[data-part=drawing]`, chromedp.ByQuery), chromedp.KeyEvent(kb.ArrowRight), chromedp.KeyEvent(kb.Enter))
	w.until(`document.querySelector('[data-part=says]').innerText.includes(' answers); mean recommend ')`)
	pane(w.get(`document.querySelector('[data-part=says]').innerText.match(/\(([\d,]+) answers/)[1].replaceAll(',', '')`))
	w.axe("how often against mean")

	// A chart is kept, follows what changes, and opens as it was made up.
	w.do(chromedp.Navigate(w.base + "/q/1/chart?by=ticket&as=heat&least=30"))
	w.until(`document.querySelector('svg[data-drawing=chart] text')`)
	w.press("Keep this chart")
	w.until(`document.querySelector('[role=dialog] input')`)
	w.axe("keeping a chart")
	w.choose("Name", "Tickets")
	w.press("Keep it")
	w.until(`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Kept as Tickets')`)
	w.tab("Kept")
	w.until(`document.querySelectorAll('[data-part=kept]').length === 1`)
	w.axe("kept charts")
	assert.NotContains(t, w.get(`document.querySelector('[data-part=kept]').innerText`), "changed since")
	revision := ask[figures](t, "GET", w.base+"/api/v1/questions/1", "").Revision
	ask[any](t, "POST", w.base+"/api/v1/questions/1/edits", fmt.Sprintf(`{"revision":%d,"edit":{"kind":"add category","name":"Boats","rules":["boat"]}}`, revision))
	w.until(`document.querySelector('[data-part=kept]').innerText.includes('figures changed since')`)
	w.press("I have seen the change")
	w.until(`!document.querySelector('[data-part=kept]').innerText.includes('figures changed since')`)
	w.press("delete")
	w.until(`!document.querySelector('[data-part=kept]') && document.body.innerText.includes('bring back Tickets')`)
	w.press("bring back Tickets")
	w.until(`document.querySelector('[data-part=kept]')`)
	w.press("Tickets")
	w.until(`document.querySelector('svg[data-drawing=chart] text') && decodeURIComponent(location.search).includes('ticket') && location.search.includes('least=30')`)
	w.press("Bars")

	// Coded data as it was set up.
	w.tab("By segment")
	w.until(`document.querySelector('[aria-label=Download]')`)
	// Every file that is offered is there, and holds something.
	w.until(`(window.files ??= [], [...document.querySelectorAll('[aria-label=Download] a')].forEach((a, i) => window.files[i] ??=
		(fetch(a.href).then(r => r.ok ? r.blob() : new Blob()).then(b => { window.files[i] = b.size }), -1)),
		window.files.length === 3 && window.files.every(size => size > 500))`)
	w.press("coded data…")
	w.choose("categories", "numbers of categories")
	w.choose("file", "NDJSON")
	w.choose("answers", "left out")
	w.axe("coded data")
	href := w.get(`[...document.querySelectorAll('[role=dialog] a')].find(a => a.innerText === 'Download').getAttribute('href')`)
	lines := strings.Split(strings.TrimSpace(ask[string](t, "GET", w.base+href, "")), "\n")
	assert.Len(t, lines, len(rows))
	assert.Contains(t, lines[0], `"mention 1":`)
	assert.NotContains(t, lines[0], demo.Columns[10])
}

// What comes together, stacked columns and the house style: what is pressed opens its very answers, and a style is everybody's.
func TestPicturesInTheBrowser(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	w.loadStudy(append([][]string{demo.Columns}, demo.Make(3, 2000).Rows...))
	loadPlaybook(t, w)
	pane := func(n string) {
		w.until(`document.querySelector('[data-part=pane] h2').innerText.replaceAll(',', '').startsWith('%s answer')`, n)
	}
	says := func(part string) {
		w.until(`document.querySelector('[data-part=says]').innerText.includes(%s)`, quote(part))
	}
	w.do(chromedp.Navigate(w.base + "/q/1/chart?tab=together"))
	w.until(`document.querySelector('[data-part=drawing] svg')`)
	w.axe("a matrix")
	w.do(chromedp.Focus(`[data-part=drawing]`, chromedp.ByQuery), chromedp.KeyEvent(kb.ArrowDown))
	says("with both")
	both := w.get(`document.querySelector('[data-part=says]').innerText.match(/: ([\d,]+|one) answers? with both/)[1].replace(',', '')`)
	if both == "0" {
		both = "no answer" // the pane says so otherwise
	}
	w.do(chromedp.KeyEvent(kb.Enter))
	if both != "no answer" {
		pane(strings.ReplaceAll(both, "one", "1"))
	}
	w.choose("with", "values of passenger type")
	w.until(`[...document.querySelectorAll('[data-part=drawing] text')].some(t => t.textContent === 'Freight')`)
	w.press("Network")
	w.until(`document.querySelectorAll('[data-part=drawing] text').length > 3`)
	w.axe("a network")
	w.press("Table")
	w.until(`document.querySelector('[data-part=pair]')`)
	w.axe("pairs")
	w.click(`document.querySelectorAll('[data-part=pair]')[0]`)
	pane(w.get(`document.querySelectorAll('[aria-label=Pairs] tbody tr')[0].cells[1].innerText.replaceAll(',', '')`))

	// A title is written in place, belongs to what it was written for, and goes along into what is kept and the report.
	w.press("title and note")
	w.until(`document.activeElement.getAttribute('aria-label') === 'Title'`)
	w.axe("writing a title")
	w.choose("Title", "Who says what with whom")
	w.choose("Note", "Mind the freight.")
	w.press("Keep it")
	const head = `document.querySelector('#main figure h1').innerText`
	w.until(`%s === 'Who says what with whom' && document.querySelector('#main figure').innerText.includes('Mind the freight.')`, head)
	w.choose("with", "one another")
	w.until(`%s === 'What comes together'`, head)
	w.choose("with", "values of passenger type")
	w.until(`%s === 'Who says what with whom'`, head)
	w.press("Keep this chart…")
	w.until(`document.querySelector('[role=dialog] textarea')?.value === 'Mind the freight.'`)
	w.press("Keep it")
	w.press("into the report")
	w.until(`document.querySelector('[data-part=notice]')?.innerText.includes('into the report')`)
	w.tab("Kept")
	w.until(`document.querySelector('[data-part=kept] [data-part=drawing] svg')`)
	assert.Contains(t, w.get(`document.querySelector('[data-part=kept]').innerText`), "table of what comes together with passenger type")
	w.press("Who says what with whom")
	w.until(`document.querySelector('[data-part=pair]') && %s === 'Who says what with whom'`, head)
	w.do(chromedp.Navigate(w.base + "/q/1/report"))
	w.until(`document.querySelector('[data-part=block] table')?.innerText.includes('Jaccard')`)
	assert.Contains(t, w.get(`document.querySelector('[data-part=block]').innerText`), "Mind the freight.")

	// Stacked to 100 where that is right only.
	w.do(chromedp.Navigate(w.base + "/q/1/chart?by=wave&as=stack"))
	w.until(`document.querySelector('[data-part=empty]')?.innerText.includes('overlap')`)
	w.choose("as a share of", "all mentions")
	w.choose("rows", "top level only")
	w.until(`document.querySelector('[data-part=drawing] svg')`)
	w.axe("stacked")
	w.do(chromedp.Focus(`[data-part=drawing]`, chromedp.ByQuery), chromedp.KeyEvent(kb.ArrowDown))
	says(" mentions")

	// A house style is kept for all studies, and taken back.
	w.press("House style…")
	w.until(`document.querySelector('[role=dialog] input[type=color]')`)
	w.axe("the house style")
	w.do(
		chromedp.Focus(`[role=dialog] input[max="3"]`, chromedp.ByQuery), chromedp.KeyEvent("a", chromedp.KeyModifiers(2)),
		chromedp.KeyEvent("0"),
	)
	w.do(chromedp.Evaluate(`(e => {
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(e, '#112233');
		e.dispatchEvent(new Event('input', {bubbles: true}));
	})(document.querySelector('[aria-label="Colour 1"]'))`, nil))
	w.press("Set it")
	w.until(`getComputedStyle(document.querySelector('[data-part=drawing]')).getPropertyValue('--color-c0') === '#112233'`)
	style := ask[report.Style](t, "GET", w.base+"/api/v1/house-style", "")
	require.Equal(t, []any{"#112233", 0}, []any{style.Colours[0], style.Decimals})
	w.click(`[...document.querySelectorAll('button')].filter(b => b.innerText === 'Undo').at(-1)`) // of what was just said
	w.until(`getComputedStyle(document.querySelector('[data-part=drawing]')).getPropertyValue('--color-c0') !== '#112233'`)
}

// Questions side by side: a cell opens the answers of its own question; what was said to one is no focus of the others.
func TestQuestionsInTheBrowser(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	w.loadStudy(append([][]string{demo.Columns}, demo.Make(3, 900).Rows...))
	loadPlaybook(t, w)
	ask[any](t, "POST", w.base+"/api/v1/questions/2/edits", `{"revision":0,"edit":{"kind":"add category","name":"Sea","rules":["sea / dolphin*"]}}`)
	w.do(chromedp.Navigate(w.base + "/q/1/chart?tab=questions"))
	w.until(`document.querySelector('[data-part=questions] tbody button')`)
	w.axe("questions side by side")
	w.choose("each by", "wave (2)")
	w.until(`document.querySelectorAll('[data-part=questions] thead tr:last-child th').length === 6`)
	const cell = `[...document.querySelectorAll('[data-part=questions] button')].find(b => b.getAttribute('aria-label')?.startsWith(%s))`
	pressed := func(label string) {
		at := fmt.Sprintf(cell, quote(label))
		n := w.get(`%s.getAttribute('aria-label').match(/([\d,]+) answers/)[1].replaceAll(',', '')`, at)
		require.NotEqual(t, "0", n)
		w.click("%s", at)
		w.until(`document.querySelector('[data-part=pane] h2')?.innerText.replaceAll(',', '').startsWith('%s answer')`, n)
		w.until(`%s?.getAttribute('aria-pressed') === 'true'`, at)
	}
	pressed("Timetable, " + demo.Change + ", Spring 2026")
	pressed("Sea, " + demo.Enjoy + ", Autumn 2026")
	w.until(`location.pathname.startsWith('/q/2/')`)
	w.do(browser.Still()) // one goes on from the cell when its page is there
	w.do(chromedp.Focus(`[data-part=questions] [aria-pressed=true]`, chromedp.ByQuery))
	w.do(chromedp.KeyEvent(kb.ArrowLeft), chromedp.KeyEvent(kb.ArrowLeft), chromedp.KeyEvent(kb.ArrowLeft))
	w.until(`document.activeElement.innerText === %s`, quote(demo.Change+" has no category Sea"))
	w.press("Keep this chart…")
	w.until(`document.querySelector('[role=dialog] input')`)
	w.press("Keep it")
	w.tab("Kept")
	w.until(`document.querySelector('[data-part=kept]')?.innerText.includes('questions side by side, by wave')`)
	w.do(chromedp.Navigate(w.base + `/q/1/chart?tab=questions&focus=` + url.QueryEscape(`[{"kind":"words","text":"boat"},{"kind":"variable","name":"wave","op":"=","values":["Spring 2026"]}]`)))
	w.press("Keep only variables in the focus")
	w.until(`document.querySelector('[data-part=questions] tbody button') && !document.body.innerText.includes('“boat”')`)
}

// Several bars or marks are chosen together, by mouse and keys: the pane shows the answers that any of them counts.
func TestBrushingInTheBrowser(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	w.loadStudy(append([][]string{demo.Columns}, demo.Make(3, 900).Rows...))
	loadPlaybook(t, w)
	coded, err := csv.NewReader(strings.NewReader(ask[string](t, "GET", w.base+"/api/v1/questions/1/coded?shape=wide", ""))).ReadAll()
	require.NoError(t, err)
	any := func(routes []string, categories ...string) string {
		n := 0
		column := func(name string) int { return slices.Index(coded[0], name) }
		for _, r := range coded[1:] {
			if slices.Contains(routes, r[column("route")]) && slices.ContainsFunc(categories, func(c string) bool { return r[column(c)] == "1" }) {
				n++
			}
		}
		require.Positive(t, n)
		return fmt.Sprint(n)
	}
	pane := func(n string) {
		w.until(`document.querySelector('[data-part=pane] h2').innerText.replaceAll(',', '').startsWith('%s answer')`, n)
	}
	w.do(chromedp.Navigate(w.base + "/q/1/chart?by=route&rows=nets"))
	w.until(`document.querySelector('[data-part=bars] [data-cell]')`)
	// The columns are All, then the routes.
	require.Contains(t, w.get(`document.querySelectorAll('[data-part=bars] thead button')[1].innerText`), "Northern")
	const cell = `document.querySelector('[data-part=bars] [data-cell="%d %d"]')`
	at := func(row, column int) string { return fmt.Sprintf(cell, row, column) }
	w.drag(at(0, 1), at(1, 2), 0.5)
	two := []string{"Northern", "Sound"}
	pane(any(two, "Boarding", "Timetable"))
	w.until(`document.querySelectorAll('[data-part=bars] [aria-pressed=true]').length === 4`)
	assert.Contains(t, w.get(`document.querySelector('[data-part=says]').innerText`), "2 categories in 2 columns")
	w.axe("several bars")

	// By keys, in the table too.
	w.press("Table")
	w.until(`document.querySelector('[data-part=figures] [data-cell]')`)
	w.click(`document.querySelector('[data-part=figures] [data-cell="0 2"]')`)
	pane(any([]string{"Sound"}, "Boarding"))
	w.do(chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.ArrowDown))
	w.until(`document.activeElement.dataset.cell === '2 2'`)
	w.do(chromedp.KeyEvent(kb.Enter, chromedp.KeyModifiers(input.ModifierShift)))
	pane(any([]string{"Sound"}, "Boarding", "Timetable", "On board"))
	w.until(`document.querySelectorAll('[data-part=figures] [aria-pressed=true]').length === 3`)

	// In a drawing.
	w.press("Heat")
	w.until(`document.querySelector('svg[data-drawing=chart] path')`)
	w.do(browser.Still())
	const figure = `[...document.querySelectorAll('svg[data-drawing=chart] text')].filter(t => /^[0-9]+[.][0-9]( [▲▼])?$/.test(t.textContent))[%d]`
	w.drag(fmt.Sprintf(figure, 1), fmt.Sprintf(figure, 4+2), 0.5) // four columns a row
	w.until(`document.querySelector('[data-part=says]').innerText.startsWith('2 categories in 2 columns')`)
	pane(any(two, "Boarding", "Timetable"))
	w.do(chromedp.Navigate(w.base + "/q/1/chart?by=route&rows=nets&as=heat"))
	w.until(`document.querySelector('svg[data-drawing=chart] path')`)
	w.do(input.DispatchMouseEvent(input.MouseMoved, 2, 2), browser.Still())
	w.do(chromedp.Focus(`[data-part=drawing]`, chromedp.ByQuery), chromedp.KeyEvent(kb.ArrowDown))
	w.until(`document.querySelector('[data-part=says]').innerText.startsWith('Boarding, All')`)
	for range 2 {
		w.do(chromedp.KeyEvent(kb.ArrowRight))
	}
	w.until(`document.querySelector('[data-part=says]').innerText.startsWith('Boarding, Sound')`)
	w.do(chromedp.KeyEvent(kb.ArrowRight, chromedp.KeyModifiers(input.ModifierShift)))
	w.until(`document.querySelector('[data-part=says]').innerText.startsWith('Boarding in 2 columns')`)
	w.do(chromedp.KeyEvent(kb.Enter))
	pane(any([]string{"Sound", "Southern"}, "Boarding"))
}

// What the same people said at two times: a band is as many people as are behind it, in the table too.
func TestSamePeopleInTheBrowser(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	rows := demo.Make(3, 1200).Rows
	wave := slices.Index(demo.Columns, "wave")
	seen := map[string]int{}
	for _, r := range rows {
		r[0] = fmt.Sprint("P", seen[r[wave]]) // each number once in a wave
		seen[r[wave]]++
	}
	w.loadStudy(append([][]string{demo.Columns}, rows...))
	w.do(chromedp.Navigate(w.base + "/q/1/chart?tab=people"))
	w.until(`document.querySelector('#main [data-part=empty]')?.innerText.includes('identifiers')`)
	w.axe("nobody twice")
	ask[any](t, "POST", w.base+"/api/v1/studies/1/edits", `{"revision":0,"edit":{"kind":"column","column":{"name":"respondent","role":"identifier"}}}`)
	loadPlaybook(t, w)
	w.do(chromedp.Navigate(w.base + "/q/1/chart?tab=people"))
	w.until(`document.querySelector('[data-part=drawing] svg')`)
	w.axe("a flow")
	w.do(chromedp.Focus(`[data-part=drawing]`, chromedp.ByQuery), chromedp.KeyEvent(kb.ArrowDown))
	const says = `document.querySelector('[data-part=says]').innerText`
	w.until(`%s.includes('Boarding')`, says)
	before := w.get(`%s.match(/Boarding: ([\d,]+) people/)[1]`, says)
	w.do(chromedp.KeyEvent(kb.Enter))
	// Each of them answered once in each wave.
	w.until(`Number(document.querySelector('[data-part=pane] h2').innerText.replaceAll(',', '').split(' ')[0]) === 2 * %s`, before)
	w.press("Table")
	w.until(`document.querySelector('[aria-label="The same people"] tbody tr')?.cells[1].innerText === '%s'`, before)
	w.choose("rows", "categories only")
	w.until(`[...document.querySelectorAll('[aria-label="The same people"] tbody tr')].some(r => r.cells[0].innerText === 'Late running')`)
	w.choose("rows", "top level only")
	w.choose("from", "Autumn 2026")
	w.until(`document.querySelector('[aria-label="The same people"] tbody tr')?.cells[2].innerText === '%s'`, before)
	w.axe("who changed")
}
