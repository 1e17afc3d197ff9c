package main

import (
	"fmt"
	"net/url"
	"strconv"
	"strings"
	"testing"

	"aftermath/internal/view/termview"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/browser"
	"aftermath/internal/demo"
)

// tab goes to one of the ways to look at terms.
func (w *window) tab(name string) {
	w.t.Helper()
	w.click(`[...document.querySelectorAll('[role=tab]')].find(e => e.innerText === %s)`, quote(name))
	w.until(
		`document.querySelector('[role=tab][aria-selected=true]')?.innerText === %s && !document.querySelector('main [data-part=skeleton]')`,
		quote(name),
	)
	w.do(browser.Still())
}

func number(t *testing.T, s string) int {
	t.Helper()
	n, err := strconv.Atoi(strings.ReplaceAll(strings.TrimSpace(s), ",", ""))
	require.NoError(t, err)
	return n
}

// termsWindow is a window on the terms of a study of 1,500.
func termsWindow(t *testing.T) *window {
	w := openWindow(t)
	w.loadStudy(append([][]string{demo.Columns}, demo.Make(5, 1500).Rows...))
	w.do(chromedp.Navigate(w.base + "/q/1/terms"))
	w.until(`document.querySelector('[data-part=ledgerline] [data-part=termname]')`)
	return w
}

// What is said, from the ledger to suggestions, on the demo's answers.
func TestTermsInTheBrowser(t *testing.T) {
	t.Parallel()
	w := termsWindow(t)
	line := func(label string) string {
		return fmt.Sprintf(
			`[...document.querySelectorAll('[data-part=ledgerline]')].find(l => l.querySelector('[data-part=termname]')?.firstChild.textContent === %s)`,
			quote(label),
		)
	}
	w.until("%s", line("boat"))
	beneath := func(tab string) {
		w.click(`[...document.querySelectorAll('#beneath [role=tab]')].find(e => e.innerText === %s)`, quote(tab))
	}

	// A stop word is gone from the ledger, the cloud and the treemap at once, by one key; and back by another.
	clouds := `[...document.querySelectorAll('[data-drawing=cloud] text')].map(e => e.firstChild.textContent)`
	whole := w.base + "/q/1/terms?tab=whole&see="
	w.do(chromedp.Navigate(whole + "cloud"))
	w.until(`%s.length === 60 && %s.includes('boat')`, clouds, clouds)
	w.tab("Ledger")
	w.click(`%s.querySelector('[data-part=termname]')`, line("boat"))
	w.until(`document.querySelector('[data-part=pane] h2').innerText.includes('with boat')`)
	w.keys("h")
	w.until(`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Hid boat') && !%s`, line("boat"))
	w.do(chromedp.Navigate(whole + "cloud"))
	w.until(`%s.length === 60 && !%s.includes('boat')`, clouds, clouds)
	w.keys("z")
	w.until(`%s.length === 60 && %s.includes('boat')`, clouds, clouds)

	// Two terms become one with a variant of several words; its answers are the union; undone, they are two again.
	w.tab("Ledger")
	w.choose("Find a term", "queue")
	w.until(`document.querySelectorAll('[data-part=ledgerline]').length < 8 && %s`, line("queues"))
	before := number(t, w.get(`%s.querySelectorAll('[role=gridcell]')[1].innerText`, line("queues")))
	w.click(`%s.querySelector('[data-part=termname]')`, line("queues"))
	w.until(`%s.ariaSelected === 'true'`, line("queues"))
	w.keys("m")
	w.until(`document.querySelector('[role=dialog]')`)
	w.axe("merge")
	w.do(chromedp.SendKeys(`[role=dialog] input[placeholder]`, "tailback*, long wait", chromedp.ByQuery))
	w.until(`document.querySelector('[role=dialog] [data-part=effect]')?.innerText.includes('No category gains or loses')`)
	w.press("Merge")
	w.until(`document.querySelector('[data-part=members]')?.innerText.includes('long wait')`)
	after := number(t, w.get(`%s.querySelectorAll('[role=gridcell]')[1].innerText`, line("queues")))
	assert.Greater(t, after, before)
	w.until(`document.querySelector('[data-part=pane] h2').innerText.startsWith('%d answers')`, after)
	w.click(`document.querySelector('[data-part=members] button[aria-label^="Take long wait"]')`)
	w.until(`document.querySelector('[role=dialog] [data-part=effect]')?.innerText.includes('No category gains or loses')`)
	w.axe("part")
	w.press("Split")
	w.until(`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Took long wait out of queues')`)
	w.keys("z")
	w.keys("z")
	w.until(`%s?.querySelectorAll('[role=gridcell]')[1].innerText === '%d'`, line("queues"), before)
	w.choose("Find a term", "")

	// What stands around a term: lines aligned on it, by what comes after; a line picks its answer.
	w.until(`document.querySelector('[data-part=kwicline] mark')`)
	assert.Equal(t, strconv.Itoa(before), w.get(`document.querySelector('#beneath').innerText.match(/in (\d+) answers/)[1]`))
	assert.Equal(
		t,
		"true",
		w.get(
			`(() => { const x = [...document.querySelectorAll('[data-part=kwicline]')].map(l => l.querySelector('mark').getBoundingClientRect()).map(r => (r.left + r.right) / 2); return Math.max(...x) - Math.min(...x) < 3 })()`,
		),
		"the hits stand above one another",
	)
	w.click(`document.querySelectorAll('[data-part=kwicline]')[1]`)
	w.until(
		`document.querySelector('[data-part=pane] h2').innerText.startsWith('1 answer') && document.querySelectorAll('[data-part=answer]').length === 1`,
	)
	w.axe("ledger with context")

	// A branch narrows the focus to exactly the answers that it says.
	beneath("Branches")
	w.until(
		`document.querySelectorAll('[data-part=twig]').length > 6 && document.querySelector('[data-part="twig more"]')?.textContent.startsWith('and ')`,
	)
	w.axe("branches")
	twig := `[...document.querySelectorAll('[data-part=twig]')].find(e => /^queues for /.test(e.getAttribute('aria-label')))`
	size := number(t, w.get(`%s.getAttribute('aria-label').match(/ ([\d,]+) answers/)[1]`, twig))
	w.click("%s", twig)
	w.until(
		`document.querySelector('[data-part=focus] b').innerText === '%d' && document.querySelector('[data-part=condition]').innerText.includes('queues =for')`,
		size,
	)
	w.click(`document.querySelector('[data-part=condition] button')`)
	w.until(`!document.querySelector('[data-part=condition]')`)
	// Any rule can be looked at in context.
	w.do(chromedp.Navigate(w.base + `/q/1/terms?pick=` + url.QueryEscape(`[{"kind":"words","text":"car +4w deck"}]`)))
	w.until(
		`document.querySelector('#beneath input')?.value === 'car +4w deck' && document.querySelector('[data-part=kwicline] mark')?.innerText.toLowerCase().includes('car')`,
	)
	beneath("Said with")
	w.until(`document.querySelectorAll('[aria-label="Terms said with it"] tbody tr').length > 5`)
	w.axe("said with")
	beneath("Over time")
	w.until(`document.querySelectorAll('[data-part=period]').length > 4`)
	w.click(`document.querySelectorAll('[data-part=period]')[1]`)
	w.until(
		`document.querySelector('[data-part=pane] h2').innerText.startsWith(document.querySelectorAll('[data-part=period]')[1].getAttribute('aria-label').match(/, ([\d,]+) of/)[1] + ' answer')`,
	)

	// Rows of words; one that is hidden is listed with the hidden ones.
	w.press("Two")
	w.until("%s", line("car deck"))
	w.click(`%s.querySelector('[data-part=termname]')`, line("car deck"))
	w.until(`document.querySelector('[data-part=pane] mark')?.innerText.toLowerCase() === 'car deck'`)
	w.keys("h")
	w.until(`!%s && document.querySelector('#main').innerText.includes('1 hidden')`, line("car deck"))
	w.keys("z")
	w.until("%s", line("car deck"))

	// A suggestion is taken by a key, another refused; both are undone.
	w.tab("Suggestions")
	w.until(`document.querySelectorAll('[data-part=suggestion]').length > 10`)
	w.axe("suggestions")
	counted := func() int {
		return number(t, w.get(`document.querySelector('[aria-label="Kind of suggestion"] [data-state=on]').innerText.match(/\d+$/)[0]`))
	}
	many := counted()
	w.do(chromedp.KeyEvent(kb.ArrowDown))
	w.until(
		`document.querySelectorAll('[data-part=suggestion]')[1].ariaCurrent === 'true' && document.querySelector('[data-part=suggestion][aria-current=true] p + p').innerText.includes('No category gains') && document.querySelector('[data-part=pane] mark')`,
	)
	w.until(
		`document.querySelector('[data-part=pane] h2').innerText.match(/^[\d,]+ answers/)?.[0] === document.querySelector('[data-part=suggestion][aria-current=true] p + p').innerText.match(/^[\d,]+ answers/)[0]`,
	)
	taken := w.get(`document.querySelector('[data-part=suggestion][aria-current=true] b').innerText`)
	w.keys("t")
	w.until(
		`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('as %s') && document.querySelector('[aria-label="Kind of suggestion"] [data-state=on]').innerText.match(/\d+$/)[0] === '%d'`,
		taken,
		many-1,
	)
	w.keys("r")
	w.until(
		`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('apart from') && document.querySelector('[aria-label="Kind of suggestion"] [data-state=on]').innerText.match(/\d+$/)[0] === '%d'`,
		many-2,
	)
	w.keys("z")
	w.keys("z")
	w.until(`document.querySelector('[aria-label="Kind of suggestion"] [data-state=on]').innerText.match(/\d+$/)[0] === '%d'`, many)

}

// Paired clouds draw every word they promise, on one scale; a word opens its answers.
func TestComparedCloudsInTheBrowser(t *testing.T) {
	t.Parallel()
	w := termsWindow(t)
	w.do(chromedp.Navigate(w.base + "/q/1/terms?tab=compare&as=clouds&seg=passenger+type&a=Commuter&b=Tourist"))
	w.until(`document.querySelectorAll('[data-part=picture] section').length === 2 && document.querySelectorAll('[data-drawing=cloud] text').length > 60`)
	compared := ask[termview.Comparison](
		t, "GET", w.base+"/api/v1/questions/1/compare?by=passenger+type&a=Commuter&b=Tourist&limit=500", "",
	)
	for side, first := range []bool{true, false} {
		var want []string
		for _, x := range compared.Terms {
			if (x.AShare >= x.BShare) == first && len(want) < 54 && (first && x.A > 0 || !first && x.B > 0) {
				want = append(want, x.Label)
			}
		}
		var got []string
		w.do(
			chromedp.Evaluate(
				fmt.Sprintf(`[...document.querySelectorAll('section:nth-of-type(%d) [data-drawing=cloud] text')].map(e => e.firstChild.textContent)`, side+1), &got,
			),
		)
		assert.ElementsMatch(t, want, got)
	}
	assert.Contains(
		t, w.get(`document.querySelector('[data-part=picture] [role=status]').innerText`),
		fmt.Sprintf("All %s words are drawn", w.get(`document.querySelectorAll('[data-drawing=cloud] text').length`)),
	)
	assert.Equal(
		t,
		"true",
		w.get(
			`(() => { const sizes = {}; for (const e of document.querySelectorAll('[data-drawing=cloud] text')) { const share = e.getAttribute('aria-label').match(/, ([\d.]+) %%/)[1]; (sizes[share] ??= new Set()).add(Math.round(Number(e.getAttribute('font-size')))); } return Object.values(sizes).every(s => s.size <= 2) })()`,
		),
		"an equal share is an equal size in both",
	)
	// Letters fill about the middle two fifths of a word's box: those may not lie on one another.
	overlap := `(() => { const r = [...document.querySelectorAll('section:nth-of-type(1) [data-drawing=cloud] text')].map(e => e.getBoundingClientRect()).map(r => ({left: r.left, right: r.right, top: r.top + 0.38 * r.height, bottom: r.bottom - 0.26 * r.height}));
		let n = 0; for (let i = 0; i < r.length; i++) for (let j = 0; j < i; j++) if (Math.min(r[i].right, r[j].right) - Math.max(r[i].left, r[j].left) > 2 && Math.min(r[i].bottom, r[j].bottom) - Math.max(r[i].top, r[j].top) > 1) n++;
		return n })()`
	assert.Equal(t, "0", w.get("%s", overlap), "no word lies on another")
	w.click(`document.querySelector('section:nth-of-type(2) [data-drawing=cloud] text')`)
	w.until(
		`document.querySelector('[data-part=pane] h2').innerText.includes('passenger type is Tourist') && document.querySelector('section:nth-of-type(2) [data-drawing=cloud] text').getAttribute('aria-label').includes(document.querySelector('[data-part=pane] h2').innerText.match(/^[\d,]+/)[0] + ' answer')`,
	)
	w.axe("clouds")
	// The picture comes out with its words; as PNG too.
	w.do(chromedp.Evaluate(`window.saved = []; URL.createObjectURL = (b) => { window.saved.push(b); return 'data:,' }`, nil))
	w.press("picture ▾")
	w.axe("the picture as a file")
	w.press("SVG")
	w.until(`window.saved.length === 1`)
	w.do(chromedp.Evaluate(`window.saved[0].text().then(t => { window.svg = t })`, nil))
	w.until(
		`window.svg?.includes('@font-face') && window.svg.includes(document.querySelector('[data-drawing=cloud] text').firstChild.textContent)`,
	)
	w.press("picture ▾")
	w.press("PNG")
	w.until(`window.saved.length === 2 && window.saved[1].type === 'image/png' && window.saved[1].size > 20000`)
	w.press("Bars")
	w.until(`document.querySelectorAll('[data-part=half]').length > 40`)
	w.axe("mirrored bars")

}

// The network: a cluster becomes a term list in one step, and starts a category in another; and every other way to look at terms.
func TestNetworkAndLexiconInTheBrowser(t *testing.T) {
	t.Parallel()
	w := termsWindow(t)
	w.tab("Network")
	w.until(`document.querySelectorAll('[data-part=node]').length > 10 && document.querySelectorAll('[data-part=cluster]').length > 2`)
	w.axe("network")
	w.press("Make a list")
	w.until(`document.querySelector('[role=dialog] input')`)
	w.do(chromedp.SendKeys(`[role=dialog] input`, "together", chromedp.ByQuery))
	w.press("Make the list")
	w.until(`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('on @together')`)
	w.press("Start a category")
	w.until(`location.pathname.endsWith('/code') && document.querySelector('[role=dialog] input.font-mono')?.value.length > 8`)
	w.do(chromedp.Navigate(w.base + "/q/1/terms?tab=lexicon"))

	// The lexicon lists it, renames it, guesses the language, and takes a CSV file in.
	w.until(
		`document.querySelector('[data-part=lexicon]')?.innerText.includes('@together') && document.querySelector('[data-part=lexicon]').innerText.includes('look like English')`,
	)
	w.axe("lexicon")
	w.click(`[...document.querySelectorAll('[data-part=lexline] [data-part=title]')].find(e => e.innerText === '@together')`)
	w.do(chromedp.SendKeys(`[data-part=lexline] input[aria-label^="another name"]`, "x"+kb.Enter, chromedp.ByQuery))
	w.until(`document.querySelector('[data-part=lexicon]').innerText.includes('@togetherx')`)
	csv := file(t, t.TempDir(), "merges.csv", "term,variant\nhound,dog\nhound,puppy*\n")
	w.do(chromedp.SetUploadFiles(`input[aria-label="Add from CSV merges from a CSV file"]`, []string{csv}, chromedp.ByQuery))
	w.until(`document.querySelector('[aria-label=Merges]').innerText.includes('hound')`)
	w.choose("Words to hide", "boat")
	w.do(chromedp.KeyEvent(kb.Enter))
	w.until(`document.querySelector('[aria-label="bring boat back"]') && !document.querySelector('[role=dialog]')`)

	// A variant counts in its own form only; words that say little are hidden once they are ticked.
	form := `document.querySelector('[aria-label="count dog in this form only"]')`
	w.click("%s", form)
	w.until(`%s?.ariaPressed === 'true' && !document.querySelector('[role=dialog]')`, form)
	w.press("Words that say little in comments")
	w.until(`document.querySelector('[role=dialog] li')`)
	w.axe("words that say little")
	said := w.get(`document.querySelector('[role=dialog] li label').innerText.trim().split(/\s/)[0]`)
	w.click(`document.querySelector('[role=dialog] li [role=checkbox]')`)
	w.press("Hide one word")
	w.until(`document.querySelector('[aria-label="bring %s back"]')`, said)

	// The other ways: nothing is empty, nothing cut by a narrow window, no fault of accessibility, on dark paper too.
	w.press("Dark paper")
	for _, x := range []struct{ tab, there string }{{"Over time", "[data-part=risingv] tbody tr, [data-part=empty]"}, {"Whole text", "[data-part=tile]"}, {"Compare", "[data-part=half]"}, {"Network", "[data-part=node]"}, {"Suggestions", "[data-part=suggestion]"}, {"Ledger", "[data-part=ledgerline] [data-part=spread]"}, {"Values", "[data-part=valuelists] tbody tr"}, {"Lexicon", "[data-part=lexline]"}} {
		w.do(browser.Size(1280, 800))
		w.tab(x.tab)
		w.until(`document.querySelector(%s)`, quote(x.there))
		w.axe(x.tab)
		w.do(browser.Size(640, 800), browser.Still())
		assert.Equal(t, "true", w.get(`document.documentElement.scrollWidth <= window.innerWidth`), x.tab)
	}
	for see, there := range map[string]string{"coverage": "[data-drawing=coverage] circle", "figures": "[aria-label='The text by its segments'] tbody tr", "files": "[data-part=filesv] a"} {
		w.do(chromedp.Navigate(w.base + "/q/1/terms?tab=whole&see=" + see))
		w.until(`document.querySelector(%s)`, quote(there))
		w.axe(see)
	}
}
