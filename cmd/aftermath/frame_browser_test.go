package main

import (
	"fmt"
	"net/http"
	"os"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/api"
	"aftermath/internal/browser"
	"aftermath/internal/demo"
	"aftermath/internal/view/code"
)

// A middleman stands between the page and the server: it makes answers late, breaks connections off, and counts what is asked.
type middleman struct {
	mu    sync.Mutex
	late  map[string]time.Duration // by a part of the method and path
	asked []string
	down  atomic.Bool
}

func (m *middleman) wrap(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if m.down.Load() {
			panic(http.ErrAbortHandler)
		}
		what := r.Method + " " + r.URL.Path
		m.mu.Lock()
		var wait time.Duration
		for part, d := range m.late {
			if strings.Contains(what, part) {
				wait = d
			}
		}
		if strings.HasPrefix(r.URL.Path, "/api/") && r.URL.Path != "/api/v1/events" {
			m.asked = append(m.asked, r.Method+" "+r.URL.RequestURI())
		}
		m.mu.Unlock()
		select {
		case <-time.After(wait):
		case <-r.Context().Done():
			return
		}
		next.ServeHTTP(w, r)
	})
}

// slow makes answers late from now on.
func (m *middleman) slow(late map[string]time.Duration) {
	m.mu.Lock()
	defer m.mu.Unlock()
	m.late = late
}

// since gives what was asked since the last time.
func (m *middleman) since() []string {
	m.mu.Lock()
	defer m.mu.Unlock()
	out := m.asked
	m.asked = nil
	return out
}

// openSlow opens a window with a middleman, on a small study with a category.
func openSlow(t *testing.T) (*window, *middleman) {
	m := &middleman{}
	w := openWindow(t, m.wrap)
	rows := [][]string{{"respondent id", "route", "What should we change?", "What did you enjoy?"}}
	for i, p := range people() {
		rows = append(rows, []string{p.id, p.route, p.answer, fmt.Sprintf("%s on deck, day %d", []string{"the view", "tea", "the calm"}[i%3], i)})
	}
	w.loadStudy(rows)
	ask[any](t, "POST", w.base+"/api/v1/questions/1/edits", `{"revision":0,"edit":{"kind":"add category","name":"Waiting","rules":["queue"]}}`)
	return w, m
}

// escape closes what lies over the page. What has only just come up may not listen yet, as nobody presses so fast.
func (w *window) escape(find string) {
	w.t.Helper()
	for range 8 {
		w.do(chromedp.KeyEvent(kb.Escape), chromedp.Sleep(300*time.Millisecond))
		if w.get("!%s", find) == "true" {
			return
		}
	}
	w.t.Fatalf("Esc does not close %s", find)
}

const editor = `document.querySelector('.cm-content')`

// write opens a new rule and types into it.
func (w *window) write(text string) {
	w.t.Helper()
	w.keys("a")
	w.until(`document.activeElement?.classList.contains('cm-content')`)
	w.do(chromedp.KeyEvent(text))
	w.until(`%s.innerText === %s`, editor, quote(text))
}

// What was worked out for one text is never put into another, however late the server answers; what is typed while a rule is
// being kept goes nowhere; what was not kept can be got back.
func TestARuleIsNeverMixedUp(t *testing.T) {
	t.Parallel()
	w, m := openSlow(t)
	w.do(chromedp.Navigate(w.base + "/q/1/code?category=c1"))
	w.until(`document.querySelector('[data-part=treeline]')`)
	w.do(browser.Still())
	w.write("boat / qeue")
	w.until(`document.querySelector('[data-part=problems]')?.innerText.includes('qeue')`)

	// The mend of an earlier text: asked for by key while the later one is not judged yet, it waits for that judgement.
	m.slow(map[string]time.Duration{"POST /api/v1/questions/1/rule": 700 * time.Millisecond})
	w.do(chromedp.KeyEvent(kb.Home), chromedp.KeyEvent("long "))
	w.alt("m")
	w.until(`%s.innerText === 'long boat / queue'`, editor)
	w.until(`document.querySelector('[data-part=effect]')?.getAttribute('aria-busy') === 'false'`)

	// Tab takes a completion or does nothing.
	w.do(chromedp.KeyEvent(kb.Tab), chromedp.KeyEvent(kb.Tab))
	assert.Equal(t, "true", w.get(`document.activeElement.classList.contains('cm-content')`))

	// Enter, and typing on: no command is given, no focus narrowed, no other rule begun.
	m.slow(map[string]time.Duration{"/edits": 900 * time.Millisecond})
	w.do(chromedp.KeyEvent(kb.Enter), chromedp.KeyEvent("fuz/n"), chromedp.KeyEvent(kb.Enter))
	w.until(`!%s && document.querySelectorAll('[data-part=ruleline]').length === 2`, editor)
	w.do(browser.Still())
	assert.Equal(t, "0", w.get(`document.querySelectorAll('[data-part=condition], [role=dialog], .cm-content').length`))
	assert.Equal(t, "queue,long boat / queue", w.get(`[...document.querySelectorAll('[data-part=rule]')].map(r => r.innerText).join()`))
	assert.Equal(t, "true", w.get(`document.activeElement !== document.body`))
	m.slow(nil)

	// Esc stops; the text comes back.
	w.do(chromedp.Sleep(500 * time.Millisecond))
	w.write("tea + cold")
	w.do(chromedp.KeyEvent(kb.Escape), chromedp.Sleep(300*time.Millisecond)) // the list of completions goes first
	if w.get("!!%s", editor) == "true" {
		w.do(chromedp.KeyEvent(kb.Escape))
	}
	w.until("!%s", editor)
	w.press("Get its text back")
	w.until(`%s?.innerText === 'tea + cold'`, editor)

	// What is pasted with line breaks becomes one line.
	w.do(chromedp.Evaluate(editor+`.focus()`, nil))
	w.do(chromedp.KeyEvent(kb.End), chromedp.Evaluate(`(() => { const d = new DataTransfer(); d.setData('text/plain', ' / late\n boat\r\n'); `+
		editor+`.dispatchEvent(new ClipboardEvent('paste', {clipboardData: d, bubbles: true, cancelable: true})) })()`, nil))
	w.until(`%s.innerText.replaceAll('\n', '|') === 'tea + cold/ late boat' || %s.innerText === 'tea + cold / late boat'`, editor, editor)

	// Words selected elsewhere ask before they go into it; the category removed elsewhere gives the text back.
	w.do(chromedp.Navigate(w.base + `/q/1/code?category=c1&write=calm`))
	w.until(`document.querySelector('[role=dialog]')?.innerText.includes('A rule is being written here')`)
	w.axe("a rule that would be changed")
	w.press("Cancel")
	w.until(`%s?.innerText.includes('tea + cold') && !%[1]s.innerText.includes('calm')`, editor)
	ask[any](t, "POST", w.base+"/api/v1/questions/1/edits", `{"revision":2,"edit":{"kind":"remove category","category":"c1"}}`)
	w.until(`document.querySelector('[aria-label="A category that is gone"]')?.innerText.includes('tea + cold')`)
	w.axe("a category that is gone")
	w.press("Start a category with it")
	w.until(`document.querySelector('[role=dialog] input.font-mono')?.value.includes('tea + cold')`)
}

// While another question is still loading, nothing of the one before stands there or can be edited.
func TestAnotherQuestionShowsNothingOfThisOne(t *testing.T) {
	t.Parallel()
	w, m := openSlow(t)
	w.do(chromedp.Navigate(w.base + "/q/1/terms"))
	w.until(`document.body.innerText.includes('queue')`)
	w.do(browser.Still())
	m.slow(map[string]time.Duration{"/questions/2": 1500 * time.Millisecond})
	w.choose("Question", "What did you enjoy?")
	w.until(`location.pathname.startsWith('/q/2')`)
	assert.Equal(t, "false", w.get(`document.querySelector('#main')?.innerText.includes('queue') ?? false`))
	w.until(`document.querySelector('#main')?.innerText.includes('deck')`)
	assert.Equal(t, "false", w.get(`document.querySelector('#main').innerText.includes('queue')`))
	m.slow(nil)
}

// The server goes away under an open page and comes back: it is said once, what is there stays, a view that can't be fetched
// offers to load again, and an edit made meanwhile is shown.
func TestTheServerGoesAndComesBack(t *testing.T) {
	t.Parallel()
	w, m := openSlow(t)
	w.expect("Failed to load", "ERR_", "dynamically imported", "Failed to fetch", "error occurred")
	w.do(chromedp.Navigate(w.base + "/q/1/terms"))
	w.until(`document.querySelector('[data-part=ledgerline] [data-part=termname]')`)
	w.do(browser.Still())
	m.down.Store(true)
	w.server.CloseClientConnections()
	banner := `[...document.querySelectorAll('[role=alert]')].filter(e => e.innerText.includes('The server can’t be reached'))`
	w.until("%s.length === 1", banner)
	w.axe("without the server")
	assert.NotEqual(t, "0", w.get(`document.querySelectorAll('[data-part=ledgerline]').length`))

	// A view whose script is not here yet.
	w.click(`[...document.querySelectorAll('nav[aria-label=Views] li a')].find(e => e.innerText.startsWith('Chart'))`)
	w.until(`document.querySelector('#main [role=alert]')?.innerText.includes('could not be loaded')`)
	assert.Equal(t, "true", w.get(`document.querySelector('nav[aria-label=Views]').innerText.includes('Terms')`))
	w.press("Load the page again")
	w.until(`document.querySelector('#main').innerText.includes('does not answer yet')`)
	w.click(`[...document.querySelectorAll('nav[aria-label=Views] li a')].find(e => e.innerText.startsWith('Terms'))`)
	w.until(`document.querySelector('[data-part=ledgerline] [data-part=termname]')`)

	m.down.Store(false)
	ask[any](t, "POST", w.base+"/api/v1/questions/1/edits", `{"revision":1,"edit":{"kind":"hide","terms":["boat"]}}`)
	w.until("%s.length === 0 && document.querySelector('nav[aria-label=Views]').innerText.includes('Revisions\\n2')", banner)
	w.until(`![...document.querySelectorAll('[data-part=termname]')].some(e => e.innerText === 'boat')`)
	w.click(`[...document.querySelectorAll('nav[aria-label=Views] li a')].find(e => e.innerText.startsWith('Chart'))`)
	w.until(`document.querySelector('#main [role=alert], [data-part=bars]')`)
	if w.get(`!!document.querySelector('#main [role=alert]')`) == "true" {
		w.press("Load the page again")
	}
	w.until(`document.querySelector('[data-part=bars]')`)
}

// Every key goes on working after a press on every kind of control, and nothing is acted on that is not visibly chosen.
func TestKeysAfterPresses(t *testing.T) {
	t.Parallel()
	w, _ := openSlow(t)
	w.do(chromedp.Navigate(w.base + "/q/1/terms"))
	w.until(`document.querySelector('[data-part=ledgerline] [data-part=termname]')`)
	w.do(browser.Still())
	dialog := `document.querySelector('[role=dialog]')`
	first := `document.querySelector('[data-part=ledgerline]')`

	w.keys("h") // nothing is marked on a fresh ledger
	w.until(`document.querySelector('[data-part=notice]')?.innerText.includes('No term is chosen')`)
	w.do(chromedp.KeyEvent(kb.ArrowDown))
	w.until(`%s.ariaSelected === 'true'`, first)
	w.do(chromedp.KeyEvent(" "))
	w.until(`%s.querySelector('[role=checkbox]').ariaChecked === 'true'`, first)

	// A checkbox, a column heading, a toggle, a tab, a chooser: then a letter, an arrow, Ctrl Z.
	w.click(`document.querySelectorAll('[data-part=ledgerline] [role=checkbox]')[1]`)
	w.keys("m")
	w.until("%s?.innerText.includes('Count as one term')", dialog)
	w.escape(dialog)
	w.until(`document.activeElement?.closest('[data-list]')`)
	w.click(`[...document.querySelectorAll('[role=columnheader] button')].find(e => e.innerText.startsWith('times'))`)
	w.until(`location.search.includes('sort=times')`)
	w.keys("l")
	w.until("%s?.innerText.includes('To a term list')", dialog)
	w.escape(dialog)
	w.press("Two")
	w.until(`location.search.includes('row=2')`)
	w.do(browser.Still(), chromedp.KeyEvent(kb.ArrowDown))
	w.until(`%s?.ariaSelected === 'true'`, first)
	w.press("One word")
	w.do(browser.Still())

	// Leaving and coming back, and reloading: sort, ticks and filters are as they were.
	w.choose("Find a term", "a")
	w.click(`document.querySelectorAll('[data-part=ledgerline] [role=checkbox]')[0]`)
	ticked := `[...document.querySelectorAll('[data-part=ledgerline] [role=checkbox]')].map(e => e.ariaChecked).join()`
	before := w.get("%s", ticked)
	require.Contains(t, before, "true")
	w.view("Chart")
	w.do(chromedp.NavigateBack())
	w.until(`document.querySelector('[data-part=ledgerline] [role=checkbox]')`)
	w.until("%s === %s && location.search.includes('sort=times')", ticked, quote(before))
	w.do(chromedp.Reload())
	w.until("%s === %s && document.querySelector('[aria-label=\"Find a term\"]').value === 'a'", ticked, quote(before))

	w.view("Code")
	w.until(`document.querySelector('[data-part=treeline]')`)
	w.click(`[...document.querySelectorAll('main [role=checkbox]')].at(-1)`) // all rules off
	w.until(`document.querySelector('[data-part=notice]')?.innerText`)
	w.do(chromedp.KeyEvent("z", chromedp.KeyModifiers(2))) // Ctrl
	w.until(`document.querySelector('[data-part=notice]')?.innerText.includes('Undone')`)
	w.click(`document.querySelector('[data-part=treeline]')`)
	w.keys("a")
	w.until(editor)
	w.do(chromedp.KeyEvent(kb.Escape))
	w.press("More")
	w.until(`document.querySelector('[role=menu]')`)
	w.do(chromedp.KeyEvent(kb.Escape))
	w.keys("n")
	w.until("%s?.innerText.includes('category')", dialog)
	w.escape(dialog)

	w.view("Clean")
	w.until(`document.querySelector('[data-part=proof]')`)
	w.click(`document.querySelector('section[aria-label=Steps] [role=switch]')`)
	w.until(`document.querySelector('[data-part=effect]')`)
	w.do(chromedp.KeyEvent(kb.Escape))
	w.until(`!document.querySelector('[data-part=effect]')`)
	w.press("Try a text")
	w.keys("]")
	w.until(`location.pathname.endsWith('/terms')`)

	w.view("Review")
	w.choose("Go through it", "as in the file")
	w.until(`document.querySelector('section[aria-label="The answer"] [data-part=said]')`)
	w.click(`document.querySelector('main [role=checkbox]')`)
	w.do(browser.Still())
	at := w.get(`location.search.match(/at=(\d+)/)?.[1]`)
	w.keys("j")
	w.until(`location.search.match(/at=(\d+)/)?.[1] !== %s`, quote(at))

	w.view("Chart")
	w.until(`document.querySelector('[data-part=bars]')`)
	w.choose("rows", "categories only")
	w.until(`location.search.includes('rows=categories')`)
	w.press("Table")
	w.keys("?")
	w.until("%s?.innerText.includes('Help: Chart')", dialog)
	w.escape(dialog)
	// Letters can be switched off; a key that is held always goes.
	w.keys("?")
	w.until("%s", dialog)
	w.click(`document.querySelector('[role=dialog] [role=checkbox]')`)
	w.escape(dialog)
	w.keys("[")
	w.do(browser.Still())
	assert.Equal(t, "/q/1/chart", w.get("location.pathname"))
	w.do(chromedp.KeyEvent("k", chromedp.KeyModifiers(2)))
	w.until(`document.querySelector('[cmdk-input]') === document.activeElement`)
	w.axe("find and do anything")
	w.do(chromedp.KeyEvent("waiting"))
	w.until(`[...document.querySelectorAll('[role=option]')].some(e => e.innerText.includes('Waiting'))`)
	w.do(chromedp.KeyEvent(kb.Enter))
	w.until(`location.pathname.endsWith('/code') && location.search.includes('category=c1')`)
}

// From the beginning of the page, Tab reaches the answers in under 25 stops on every view, and never the page as a whole; every
// view and dialog is without serious faults on both papers and in forced colours, where bars stay visible.
func TestEveryViewForEverybody(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	w.loadStudy(append([][]string{demo.Columns}, demo.Make(3, 400).Rows...))
	loadPlaybook(t, w)
	forced := emulation.SetEmulatedMedia().WithFeatures([]*emulation.MediaFeature{{Name: "forced-colors", Value: "active"}})
	free := emulation.SetEmulatedMedia().WithFeatures([]*emulation.MediaFeature{{Name: "forced-colors", Value: "none"}})
	for _, place := range []string{
		"data", "clean", "terms", "terms?tab=suggestions", "terms?tab=compare", "terms?tab=time", "terms?tab=network", "terms?tab=whole",
		"terms?tab=lexicon", "terms?tab=values", "code", "code?tab=drafts", "code?tab=health", "code?tab=revisions", "code?tab=files",
		"review", "review?way=file", "review?tab=likely", "review?tab=decisions", "review?tab=agreement", "review?tab=texts", "chart", "chart?as=table",
		"report",
	} {
		w.do(chromedp.Navigate(w.base + "/q/1/" + place))
		w.until(`document.querySelector('#main h1') && !document.querySelector('#main [data-part=skeleton]')`)
		w.do(browser.Still())
		stops := 0
		for ; stops < 60; stops++ {
			w.do(chromedp.KeyEvent(kb.Tab))
			where := w.get(`document.activeElement === document.body ? 'body' : document.activeElement.closest('#answers') ? 'answers' : ''`)
			require.NotEqual(t, "body", where, "%s: after %d stops", place, stops)
			if where == "answers" {
				break
			}
		}
		assert.Less(t, stops, 25, place)
		// The tests of these views hold them to it themselves, on light paper.
		papers := []string{"dark"}
		if !slices.Contains([]string{
			"terms?tab=suggestions", "terms?tab=compare", "terms?tab=network", "terms?tab=lexicon", "code?tab=drafts", "code?tab=health",
			"code?tab=revisions", "review?tab=likely", "review?tab=decisions", "review?tab=agreement", "chart?as=table",
		}, place) {
			papers = []string{"light", "dark"}
		}
		w.axeOn(place, papers...)
		if strings.Contains(place, "?") {
			continue // forced colours are held to each view as it opens
		}
		w.do(forced)
		if place == "chart" {
			bar := w.get(`getComputedStyle(document.querySelector('[data-part=bar] span')).backgroundColor`)
			assert.NotContains(t, []string{"rgba(0, 0, 0, 0)", "rgb(255, 255, 255)"}, bar)
		}
		w.axeOn(place+", forced colours", "light")
		w.do(free)
	}
}

// One edit asks for nothing twice, and not for what it can't have changed.
func TestWhatIsAskedAfterAnEdit(t *testing.T) {
	t.Parallel()
	w, m := openSlow(t)
	// quiet waits until nothing more is asked for, however slow the machine is, and gives what was.
	quiet := func() (asked []string) {
		for {
			w.do(browser.Still())
			more := m.since()
			if len(more) == 0 {
				return asked
			}
			asked = append(asked, more...)
		}
	}
	after := func(what string, act func()) []string {
		quiet()
		act()
		asked := quiet()
		slices.Sort(asked)
		t.Logf("%s: %d requests\n  %s", what, len(asked), strings.Join(asked, "\n  "))
		assert.Len(t, slices.Compact(slices.Clone(asked)), len(asked), "%s: asked twice", what)
		return asked
	}
	notice := func(words string) {
		w.until(`document.querySelector('[data-part=notice]')?.innerText.includes(%s)`, quote(words))
	}
	w.do(chromedp.Navigate(w.base + "/q/1/terms"))
	w.until(`document.querySelector('[data-part=ledgerline] [data-part=termname]')`)
	w.do(browser.Still(), chromedp.KeyEvent(kb.ArrowDown))
	w.until(`document.querySelector('[data-part=kwicline] mark')`)
	after("h in Terms", func() { w.keys("h"); notice("Hid") })
	after("z in Terms", func() { w.keys("z"); notice("Undone") })
	w.do(chromedp.Navigate(w.base + "/q/1/code?category=c1"))
	w.until(`document.querySelector('[data-part=treeline]')`)
	w.do(browser.Still())
	w.write("late")
	for _, x := range after("Enter in a rule", func() { w.do(chromedp.KeyEvent(kb.Enter)); notice("rule") }) {
		assert.NotContains(t, x, "/context", "a rule changes no context")
	}
	w.do(chromedp.Navigate(w.base + "/q/1/review?way=file"))
	w.until(`document.querySelector('main [data-part=said]')`)
	after("a code in Review", func() { w.keys("1"); notice("Waiting") })
}

// loadPlaybook gives the first question the demo's code frame.
func loadPlaybook(t testing.TB, w *window) {
	data, err := os.ReadFile("../../internal/demo/change.json")
	require.NoError(t, err)
	ask[any](t, "PUT", w.base+"/api/v1/questions/1/playbook?revision=0", string(data))
}

// Fields of categories are made and filled in by hand and in bulk, order and filter the frame, group the rows of a chart, and go out and
// come in with the frame's CSV.
func TestFieldsInTheBrowser(t *testing.T) {
	w, _ := openSlow(t)
	q := w.base + "/api/v1/questions/1"
	ask[any](t, "POST", q+"/edits", `{"revision":1,"edit":{"kind":"add category","name":"Late boats","rules":["late"]}}`)
	w.do(chromedp.Navigate(w.base + "/q/1/code"))
	w.until(`document.querySelectorAll('[data-part=treeline]').length === 2`)
	w.press("Fields…")
	w.choose("Name", "Owner")
	w.choose("Choice 1", "Harbour")
	w.choose("Choice 2", "Flet")
	w.press("Add it")
	w.until(`document.querySelector('[data-part=field]')?.innerText.includes('Harbour, Flet')`)
	w.do(chromedp.KeyEvent(kb.Escape)) // what was typed is kept: nothing is asked
	w.until(`!document.querySelector('[role=dialog], [role=alertdialog]')`)

	// A value is set at the category, and by keys for all that are ticked.
	w.choose("Owner", "Flet")
	w.until(`document.querySelector('[aria-label=Owner]').innerText.includes('Flet')`)
	w.press("Tick all shown")
	w.press("Set a field")
	w.until(`document.querySelector('[role=dialog]')?.innerText.includes('2 categories')`)
	w.until(`document.activeElement.ariaLabel === 'field'`)
	w.do(chromedp.KeyEvent(kb.Tab), chromedp.KeyEvent(" "))
	w.until(`document.querySelectorAll('[role=option]').length === 3`)
	w.click(`[...document.querySelectorAll('[role=option]')].find(e => e.innerText === 'Harbour')`)
	w.until(`!document.querySelector('[role=option]')`)
	w.until(`document.querySelector('[role=dialog]').innerText.includes('2 categories change, 1 of them from another value')`)
	w.press("Set it")
	w.until(`!document.querySelector('[role=dialog]')`)
	fields := func() (out []string) {
		for _, c := range ask[code.FrameTable](t, "GET", q+"/frame", "").Categories {
			out = append(out, c.Fields["Owner"])
		}
		return out
	}
	assert.Equal(t, []string{"Harbour", "Harbour"}, fields())
	w.press("Untick")
	w.keys("z")
	w.until(`document.querySelector('[aria-label=Owner]').innerText.includes('Flet')`)
	assert.Equal(t, []string{"Flet", ""}, fields())

	// What is typed as a value of text is set for all by Enter.
	revision := ask[api.QuestionState](t, "GET", q, "").Revision
	ask[any](t, "POST", q+"/edits", fmt.Sprintf(`{"revision":%d,"edit":{"kind":"add field","field":{"kind":"text","name":"Do = act"}}}`, revision))
	w.until(`document.querySelector('input[aria-label="Do = act"]')`)
	w.press("Tick all shown")
	w.press("Set a field")
	w.until(`document.querySelector('[role=dialog]')?.innerText.includes('2 categories')`)
	w.choose("field", "Do = act")
	w.click(`document.querySelector('[role=dialog] input[aria-label="Do = act"]')`)
	w.do(chromedp.KeyEvent("call" + kb.Enter))
	w.until(`!document.querySelector('[role=dialog]') && document.querySelector('input[aria-label="Do = act"]').value === 'call'`)
	w.press("Untick")
	w.choose("which categories", "Do = act: call")
	w.until(`document.body.innerText.includes('2 categories of 2.')`)
	w.press("Show all")

	// A choice that is spelt otherwise takes its values along; one that is in use is not taken away, and what was typed stays.
	w.press("Fields…")
	w.click(`document.querySelector('[aria-label="Change Owner"]')`)
	w.choose("Choice 2", "")
	w.press("Change it")
	w.until(`document.body.innerText.includes('it is so of Waiting')`)
	w.choose("Choice 2", "Fleet")
	w.press("Change it")
	w.until(`document.querySelector('[data-part=field]')?.innerText.includes('Harbour, Fleet · one category has one')`)
	w.press("Close")
	assert.Equal(t, []string{"Fleet", ""}, fields())
	w.axe("fields")

	// By the field, and only those without.
	w.choose("in order of", "by Owner")
	w.until(`[...document.querySelectorAll('[data-part=value]')].map(v => v.innerText).join() === 'Fleet,no Owner'`)
	w.choose("which categories", "Owner: none")
	w.until(`[...document.querySelectorAll('[data-part=treeline]')].map(v => v.innerText).join().includes('Late boats')`)
	w.until(`document.querySelectorAll('[data-part=treeline]').length === 1`)

	// The rows of a chart are grouped by it, and what is pressed has the answers of all categories with the value.
	w.do(chromedp.Navigate(w.base + "/q/1/chart?by=%5B%5D"))
	w.choose("grouped by", "Owner")
	w.until(`[...document.querySelectorAll('[data-row=value] th')].map(v => v.innerText).join() === 'Fleet,no Owner'`)
	w.click(`document.querySelector('[data-row=value] button')`)
	w.until(
		`document.querySelector('[data-part=pane] h2').innerText.replaceAll(',', '').startsWith('%d answer')`,
		count(func(p person) bool { return has(p, "queue") }),
	)

	// Out and in.
	csv := ask[string](t, "GET", q+"/frame/file?format=csv", "")
	require.Contains(t, csv, "field: Owner")
	read := ask[api.ReadFrame](t, "POST", q+"/frame/read?name=frame.csv", csv)
	require.Len(t, read.Fields, 2)
	assert.Equal(t, "list", read.Fields[0].Kind())
	assert.Equal(t, map[string]string{"Owner": "Fleet", "Do = act": "call"}, read.Frame[0].Fields)
}
