package main

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/browser"
)

// study is the part of the first page that shows a study.
func study(name string) string {
	return fmt.Sprintf(`[...document.querySelectorAll('[data-part=studyline]')].find(e => e.querySelector('h2').innerText === %s)`, quote(name))
}

// with chooses what to do with a study from its menu.
func (w *window) with(name, action string) {
	w.t.Helper()
	w.click(`(%s)?.querySelector('button')`, study(name))
	w.click(`[...document.querySelectorAll('[role=menuitem]')].find(e => e.innerText.startsWith(%s) && !e.hasAttribute('data-disabled'))`, quote(action))
}

// From an empty first page through the first steps of the demo, and back to what the first page says of it; then studies are
// renamed, copied, deleted and restored.
func TestTheFirstPage(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	w.until(`document.body.innerText.includes('There is no study yet')`)
	w.axe("no study")
	w.press("Load the demo study")
	const demo, question = "Larkmoor Ferries 2026", "What one thing should we change about your crossing?"
	w.until("%s", study(demo))
	assert.Contains(t, w.get("(%s).innerText", study(demo)), "counted when it is opened")
	w.do(chromedp.Evaluate(`localStorage.removeItem('first steps')`, nil), chromedp.Reload())
	w.press(question)

	// The first steps lead through every view, and what each says is there.
	const steps = `document.querySelector('aside[aria-label="First steps"]')`
	w.until("%s?.innerText.includes('1 of 6')", steps)
	w.press("Go to Data")
	there := []string{`[data-part=striphead]`, `button[role=switch]`, `[data-part=ledgerline]`, `[data-part=treeline]`,
		`[aria-label="Groups of what is left"]`, `[data-part=bar]`}
	for i, name := range []string{"Data", "Clean", "Terms", "Code", "Review", "Chart"} {
		w.until(`%s?.innerText.includes('%d of 6: %s') && location.pathname.endsWith('/%s')`, steps, i+1, name, strings.ToLower(name))
		w.until(`document.querySelector('main').querySelector(%s)`, quote(there[i]))
		if i < 5 {
			w.press("Next: ")
		}
	}
	w.press("Done")
	w.until("!%s", steps)

	// The first page says how far the coding is: what the rail says too.
	left := number(t, w.get(`[...document.querySelectorAll('nav[aria-label=Views] li a')].find(e => e.innerText.startsWith('Review')).innerText.match(/[\d,]+/)[0]`))
	w.do(chromedp.Navigate(w.base))
	cell := func(of string, n int) int {
		return number(t, w.get(`(%s).querySelectorAll('tr')[1].querySelectorAll('td')[%d].innerText`, of, n))
	}
	w.until("%s", study(demo))
	assert.Equal(t, left, cell(study(demo), 0)-cell(study(demo), 1), "what is left to code")
	w.axe("the first page")

	w.with(demo, "Rename")
	w.until(`document.activeElement.matches('[role=dialog] input')`)
	w.do(chromedp.KeyEvent("Ferries, both waves"+kb.Enter), browser.Still())
	w.until("%s && !document.querySelector('[role=dialog]')", study("Ferries, both waves"))
	w.press("Undo")
	w.until("%s", study(demo))

	w.with(demo, "Make a copy")
	const copied = "Copy of " + demo
	w.until("%s", study(copied))
	assert.Equal(t, left, cell(study(copied), 0)-cell(study(copied), 1))
	w.with(copied, "Delete")
	w.until("!(%s)", study(copied))
	w.press("Undo")
	w.until("%s", study(copied))
	w.with(copied, "Delete")
	w.click(`[...document.querySelectorAll('main button')].find(e => e.innerText.includes('one deleted study'))`)
	w.click(`document.querySelector('button[aria-label^="Restore the study"]')`)
	w.until("(%s) && !document.body.innerText.includes('deleted study')", study(copied))

	w.with(copied, "Delete")
	w.click(`[...document.querySelectorAll('main button')].find(e => e.innerText.includes('one deleted study'))`)
	w.press("Delete for good…")
	w.until(`document.activeElement.closest('[role=dialog]')`)
	w.axe("deleting for good")
	w.choose("The study’s name", copied)
	w.press("Delete it for good")
	w.until(`!document.body.innerText.includes('deleted study') && document.querySelectorAll('[data-part=studyline]').length === 1`)
	w.until(`document.activeElement !== document.body`)
}

// Answers are shown as written or as people read them, everywhere and in files; and what stands under them is chosen, by
// short label.
func TestHowAnswersAreShown(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	rows := [][]string{{"id", "route", "What should we change?"}}
	for i := range 40 {
		rows = append(rows, []string{fmt.Sprintf("P%d", i), []string{"North", "South"}[i%2], fmt.Sprintf("<p>The queue &amp; the <b>boat</b> %d</p>", i)})
	}
	w.loadStudy(rows)
	w.do(chromedp.Navigate(w.base + "/q/1/terms"))
	w.click(`[...document.querySelectorAll('[data-part=ledgerline]')].find(e => e.innerText.startsWith('queue'))`)
	said := func() string { return w.get(`document.querySelector('[data-part=pane] [data-part=answer]').innerText`) }
	w.until(`document.querySelector('[data-part=pane] [data-part=said] mark')?.innerText === 'queue' && document.querySelector('[data-part=kwicline]')`)
	assert.Contains(t, said(), "<p>The queue &amp; the <b>boat</b> 0</p>")
	assert.Contains(t, said(), "North")
	assert.Contains(t, w.get(`document.querySelector('[data-part=kwicline]').innerText`), "&amp;")
	w.press("Display")
	w.axe("how answers are shown")
	w.press("as read")
	w.until(`!document.querySelector('[data-part=pane] [data-part=said]').innerText.includes('<')`)
	assert.Contains(t, said(), "The queue & the boat 0")
	w.until(`document.querySelector('[data-part=kwicline]').innerText.includes('& the boat')`)

	// Two ticked one after the other are both kept, in that order; undo takes one back.
	tick := func(name string) {
		w.click(`[...document.querySelectorAll('[aria-label="Columns under an answer"] label')].find(e => e.innerText === %s)?.querySelector('button')`, quote(name))
	}
	tick("id")
	tick("route")
	w.until(`document.querySelector('[data-part=pane] [data-part=answer]').innerText.includes('id P0 · North')`)
	w.until(`document.querySelector('[data-part=notice]')`)
	w.do(browser.Still(), chromedp.KeyEvent(kb.Escape))
	w.until(`!document.querySelector('[role=dialog]') && document.activeElement.innerText === 'Display'`)
	w.press("Undo")
	w.until(`!document.querySelector('[data-part=pane] [data-part=answer]').innerText.includes('North')`)
	assert.Contains(t, said(), "id P0")
	w.do(chromedp.Reload())
	w.until(`document.querySelector('[data-part=pane] [data-part=answer]')`)
	assert.NotContains(t, said(), "<p>", "it is kept")

	// A short label stands in the place of a column's name.
	w.view("Data")
	w.strip("id")
	w.choose("short label", "Passenger")
	w.press("Keep")
	w.until(`document.querySelector('[data-part=pane] [data-part=answer]').innerText.includes('Passenger P0')`)

	for show, want := range map[string]string{"written": `<p>The queue &amp; the <b>boat</b> 0</p>`, "read": "The queue & the boat 0"} {
		r, err := http.Get(w.base + "/api/v1/questions/1/coded?show=" + show)
		require.NoError(t, err)
		data, err := io.ReadAll(r.Body)
		require.NoError(t, errors.Join(err, r.Body.Close()))
		file := string(data)
		assert.Contains(t, r.Header.Get("Content-Disposition"), "as-"+show+".csv")
		assert.Contains(t, file, want)
		assert.Equal(t, show == "read", strings.Contains(file, "What should we change? (as read)"))
	}
}
