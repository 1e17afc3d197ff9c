package main

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"io/fs"
	"log"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/survey"
	"aftermath/internal/accounts"
	"aftermath/internal/api"
	"aftermath/internal/browser"
	"aftermath/internal/demo"
	"aftermath/internal/desk"
	"aftermath/internal/kept"
	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
	"aftermath/ui"
	"aftermath/ui/uitest"
)

// wait is how long anything in the browser may take, on a machine that is slow and has much else to do.
const wait = 2 * time.Minute

// window drives one page of the application.
type window struct {
	t      testing.TB
	page   context.Context
	base   string
	server *httptest.Server
	desk   *desk.Desk
	// what the page may report as errors, by parts of them
	expected []string
}

// openWindow opens a page on a server of its own; what stands between them may be given.
func openWindow(t testing.TB, between ...func(http.Handler) http.Handler) *window {
	s, err := store.Open(t.Context(), pgtest.Database(t))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	files, err := fs.Sub(ui.Dist, "dist")
	require.NoError(t, err)
	uitest.Fresh(t)
	d := desk.New(s)
	handler, err := api.New(api.Options{Desk: d, Kept: kept.New(d, s), Accounts: accounts.New(s), UI: files, Uploads: t.TempDir()})
	require.NoError(t, err)
	for _, wrap := range between {
		handler = wrap(handler)
	}
	server := httptest.NewUnstartedServer(handler)
	server.Config.ErrorLog = log.New(io.Discard, "", 0) // connections that a test breaks off
	server.Start()
	t.Cleanup(server.Close)
	w := &window{t: t, base: server.URL, server: server, desk: d}
	var mu sync.Mutex
	var complaints []string
	page, stop, err := browser.Start(t.Context(), func(s string) {
		mu.Lock()
		defer mu.Unlock()
		complaints = append(complaints, s)
	})
	require.NoError(t, err)
	t.Cleanup(func() {
		stop()
		mu.Lock()
		defer mu.Unlock()
		complaints = slices.DeleteFunc(complaints, func(c string) bool {
			return slices.ContainsFunc(w.expected, func(part string) bool { return strings.Contains(c, part) })
		})
		assert.Empty(t, complaints, "the page reported errors")
	})
	w.page = page
	w.do(
		browser.Size(browser.Width, browser.Height), chromedp.Navigate(w.base),
		chromedp.Evaluate(`localStorage.setItem('first steps', 'left')`, nil), chromedp.Reload(),
	)
	return w
}

// expect says which errors the page may report.
func (w *window) expect(parts ...string) { w.expected = append(w.expected, parts...) }

func (w *window) do(actions ...chromedp.Action) {
	w.t.Helper()
	if err := browser.Do(w.page, wait, actions...); err != nil {
		var text string
		_ = browser.Do(w.page, wait, chromedp.Evaluate("location.href + '\\n' + document.body.innerText", &text))
		w.t.Fatalf("%v\nthe page:\n%s", err, text)
	}
}

func (w *window) until(expression string, args ...any) {
	w.t.Helper()
	w.do(browser.Until(fmt.Sprintf(expression, args...)))
}

func (w *window) get(expression string, args ...any) (out string) {
	w.t.Helper()
	w.do(chromedp.Evaluate("String("+fmt.Sprintf(expression, args...)+")", &out))
	return out
}

func (w *window) keys(keys ...string) {
	w.t.Helper()
	for _, k := range keys {
		w.do(browser.Key(k))
	}
}

// at is the middle of the element that an expression finds, once it is there, in sight, stands still, and nothing lies over it.
func (w *window) at(find string) (x, y float64) {
	w.t.Helper()
	w.until("%s", find)
	type spot struct {
		X, Y float64
		Over bool // something else lies over it
	}
	var last spot
	w.do(chromedp.ActionFunc(func(ctx context.Context) error {
		for {
			var now spot
			err := chromedp.Evaluate(`((e) => { e.scrollIntoView({block: 'nearest', inline: 'nearest'}); const r = e.getClientRects()[0];
				const at = {x: r.left + Math.min(r.width / 2, 40), y: r.top + Math.min(r.height / 2, 12)};
				const hit = document.elementFromPoint(at.x, at.y);
				return {...at, over: !hit || !(e.contains(hit) || hit.contains(e))} })(`+find+`)`, &now).Do(ctx)
			if err == nil && now == last && !now.Over {
				return nil
			}
			last = now
			select {
			case <-ctx.Done():
				return fmt.Errorf("pressing %s: %w", find, ctx.Err())
			case <-time.After(40 * time.Millisecond):
			}
		}
	}))
	return last.X, last.Y
}

// click presses the left button of the mouse on the element that an expression finds.
func (w *window) click(find string, args ...any) {
	w.t.Helper()
	find = fmt.Sprintf(find, args...)
	for range 20 {
		x, y := w.at(find)
		w.do(chromedp.Evaluate(fmt.Sprintf(aim, find), nil), chromedp.MouseClickXY(x, y))
		var missed bool
		// Where the press led to another page, nothing is left to ask.
		if err := browser.Do(w.page, wait, chromedp.Evaluate(`window.aimed?.() ?? false`, &missed)); err != nil || !missed {
			return
		}
	}
	w.t.Fatalf("%s moves away from each press", find)
}

// aim has a press that meets something else, since what it was meant for moved on the way, do nothing, as nobody presses what has just
// come under the pointer; window.aimed says whether it was so.
const aim = `(() => {
	const e = %s, types = ['pointerdown', 'mousedown', 'pointerup', 'mouseup', 'click'];
	let missed = false;
	const guard = (press) => {
		if (press.type === 'pointerdown') missed = !(e.contains(press.target) || press.target.contains(e));
		if (missed) { press.preventDefault(); press.stopImmediatePropagation(); }
	};
	for (const t of types) window.addEventListener(t, guard, true);
	window.aimed = () => {
		for (const t of types) window.removeEventListener(t, guard, true);
		return missed;
	};
})()`

// press clicks the first button, link, tab, option or label with that text, of a dialog if one is open.
func (w *window) press(text string) {
	w.t.Helper()
	const find = `[...([...document.querySelectorAll('[role=dialog], [role=alertdialog]')].at(-1) ?? document)
		.querySelectorAll('button, a, label')].find(e => e.innerText.trim().startsWith(%s) && !e.disabled && e.getClientRects().length)`
	w.click(find, quote(text))
}

// choose sets what has a label: it picks an option by its words, or types a text in place of what is there.
func (w *window) choose(label, value string) {
	w.t.Helper()
	control := fmt.Sprintf(`document.querySelector('[aria-label=%s], [aria-label^=%s]') ??
		[...document.querySelectorAll('label')].find(l => l.innerText.trim().startsWith(%[3]s))?.querySelector('input')`,
		quote(label), quote(label+": "), quote(label))
	w.until("%s", control)
	if w.get("(%s).tagName", control) == "BUTTON" {
		w.click("%s", control)
		option := fmt.Sprintf(`[...document.querySelectorAll('[role=option]')].find(e => e.innerText.trim().startsWith(%s))`, quote(value))
		w.until("%s || document.querySelector('[cmdk-input]')", option)
		if w.get("!!document.querySelector('[cmdk-input]')") == "true" {
			w.do(chromedp.KeyEvent(value))
		}
		w.click("%s", option)
		w.until("!document.querySelector('[role=listbox] [role=option]')")
	} else {
		w.click("%s", control)
		w.do(chromedp.KeyEvent("a", chromedp.KeyModifiers(input.ModifierCtrl)))
		if value == "" {
			w.do(chromedp.KeyEvent(kb.Backspace))
		} else {
			w.do(input.InsertText(value))
		}
	}
	w.do(browser.Still())
}

// chosen is the value of a chooser.
func (w *window) chosen(label string) string {
	w.t.Helper()
	return w.get(`document.querySelector('[aria-label=%s], [aria-label^=%s]').dataset.value`, quote(label), quote(label+": "))
}

func quote(s string) string {
	b, _ := json.Marshal(s)
	return string(b)
}

// view goes to a view by the rail.
func (w *window) view(name string) {
	w.t.Helper()
	w.click(`[...document.querySelectorAll('nav[aria-label=Views] li a')].find(e => e.innerText.startsWith(%s))`, quote(name))
	w.until(
		`location.pathname.endsWith(%s) && document.querySelector('main[aria-label=%s]') && !document.querySelector('main [data-part=skeleton]')`,
		quote("/"+strings.ToLower(name)), name,
	)
	w.do(browser.Still())
}

// axe looks for serious faults of accessibility in what one can work in: the dialog on top, where there is one, else the page. On dark paper the
// page is looked at by TestEveryViewForEverybody, view by view, and dialogs here: to look at the contrast of a page takes long.
func (w *window) axe(where string) {
	w.t.Helper()
	papers := []string{"light"}
	if w.get(`!!document.querySelector('[role=dialog], [role=alertdialog]')`) == "true" {
		papers = append(papers, "dark")
	}
	w.axeOn(where, papers...)
}

func (w *window) axeOn(where string, papers ...string) {
	w.t.Helper()
	source, err := os.ReadFile("../../ui/node_modules/axe-core/axe.min.js")
	require.NoError(w.t, err)
	w.do(browser.Still(), chromedp.Evaluate(string(source), nil))
	paper := w.get("document.documentElement.dataset.paper")
	for i, on := range papers {
		var found []string
		rules := `preload: false`
		if i > 0 { // but for contrast, nothing is another on another paper
			rules += `, runOnly: ['color-contrast']`
		}
		w.do(
			chromedp.Evaluate(`document.documentElement.dataset.paper = `+quote(on), nil), chromedp.Sleep(50*time.Millisecond),
			chromedp.Evaluate(`axe.run([...document.querySelectorAll('[role=dialog], [role=alertdialog]')].at(-1) ?? document, {resultTypes: ['violations'], `+rules+`}).then(r => r.violations
				.filter(v => v.impact === 'serious' || v.impact === 'critical')
				.flatMap(v => v.nodes.slice(0, 3).map(n => v.id + ': ' + n.html.slice(0, 160) + ' ' + n.failureSummary)))`,
				&found, func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) }),
		)
		assert.Empty(w.t, found, "%s, on %s paper", where, on)
	}
	w.do(chromedp.Evaluate(`document.documentElement.dataset.paper = `+quote(paper), nil))
}

// person is a row of the test's own study.
type person struct{ id, route, note, answer string }

// people makes up a study in which the figures can be counted with strings.Contains.
func people() []person {
	said := []string{
		"the queue was long", "two queues and a slow boat", "cold tea on the boat", "a line at the gate", "the boat was late",
		"nothing at all", "slow line, late boat", "dogs on seats", "<b>queue</b> again &amp; again", "n/a", "", "the crew smiled",
	}
	var out []person
	for i := range 60 {
		out = append(
			out,
			person{fmt.Sprintf("P%03d", i), []string{"North", "South", "West"}[i*7%3], fmt.Sprint("batch ", i%4), said[i*5%len(said)]},
		)
	}
	return out
}

// count counts independently of the program.
func count(of func(p person) bool) (n int) {
	for _, p := range people() {
		if of(p) {
			n++
		}
	}
	return n
}

func has(p person, words ...string) bool {
	for _, w := range words {
		if strings.Contains(p.answer, w) {
			return true
		}
	}
	return false
}

func answered(p person) bool { return p.answer != "" && p.answer != "n/a" }
func waiting(p person) bool  { return has(p, "queue", "line") && !has(p, "slow") || has(p, "late") }

// The whole job once through, with figures checked against counts of the test's own.
func TestTheWholeJobInTheBrowser(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	var text strings.Builder
	c := csv.NewWriter(&text)
	require.NoError(t, c.Write([]string{"respondent id", "route", "note", "What should we change?"}))
	for _, p := range people() {
		require.NoError(t, c.Write([]string{p.id, p.route, p.note, p.answer}))
	}
	c.Flush()
	data := file(t, t.TempDir(), "ferry answers.csv", text.String())

	// Bring the file in; a broken one first.
	w.until(`document.querySelector('[data-part=empty]')`)
	w.axe("studies")
	broken := file(t, t.TempDir(), "broken.csv", "%PDF-1.7")
	w.do(chromedp.SetUploadFiles(`input[type=file]`, []string{broken}, chromedp.ByQuery))
	w.until(`document.querySelector('[role=alert]')?.innerText.includes('this is a PDF')`)
	w.press("choose it again")
	w.until(`document.querySelector('[data-part=drop]')`)
	w.do(chromedp.SetUploadFiles(`input[type=file]`, []string{data}, chromedp.ByQuery))
	w.until(`document.querySelector('[data-part=columns]')`)
	role := func(column string) string {
		return w.chosen("role of " + column)
	}
	assert.Equal(t, "identifier", role("respondent id"))
	assert.Equal(t, "segment", role("route"))
	assert.Equal(t, "open-ended", role("What should we change?"))
	w.choose("role of note", "left out")
	w.until(`document.querySelector('[data-part=columns]').innerText.includes('you said so')`)
	w.axe("load")
	w.press("Load 60 rows")
	w.until(`location.pathname.endsWith('/data') && document.querySelector('[data-part=strip]')`)
	w.axe("data")

	w.view("Clean")
	w.until(`document.querySelector('[data-part=proof]')`)
	assert.Equal(
		t, fmt.Sprint(count(func(p person) bool { return has(p, "<b>") })),
		w.get(`document.querySelector('ol[aria-label^="Steps that are on"] button[aria-label$="show them"]').innerText`),
	)
	assert.Equal(t, fmt.Sprint(count(answered)), w.get(`document.querySelectorAll('ul[aria-label="What the answers are"] button')[0].innerText`))
	w.axe("clean")

	// Terms: a stop word is gone at once and comes back; two terms become one.
	w.view("Terms")
	term := func(label string) string {
		return fmt.Sprintf(
			`[...document.querySelectorAll('[data-part=ledgerline]')].find(l => l.querySelector('[data-part=termname]')?.firstChild.textContent === %s)`,
			quote(label),
		)
	}
	figure := func(label string) string {
		return w.get(`%s.querySelectorAll('[role=gridcell]')[1].innerText`, term(label))
	}
	w.until("%s", term("boat"))
	assert.Equal(t, fmt.Sprint(count(func(p person) bool { return has(p, "boat") })), figure("boat"))
	w.click("%s"+`.querySelector('[data-part=termname]')`, term("boat"))
	w.until(
		`document.querySelector('[data-part=pane] h2').innerText.startsWith('%d answers') && document.querySelector('[data-part=pane] mark')?.innerText === 'boat'`,
		count(func(p person) bool { return has(p, "boat") }),
	)
	w.keys("h")
	w.until(`!%s && (document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Hid boat')`, term("boat"))
	w.keys("z")
	w.until("%s", term("boat"))
	w.keys("Z")
	w.until("!%s", term("boat"))
	for _, label := range []string{"queue", "line"} {
		w.do(browser.Still()) // rows move up where one was hidden, and down under what is said of those that are ticked
		w.click("%s.querySelector('[role=checkbox]')", term(label))
		w.until("%s.querySelector('[role=checkbox]').ariaChecked === 'true'", term(label))
	}
	w.keys("m")
	w.until(`document.querySelector('[role=dialog]')`)
	w.axe("merge")
	w.press("Merge")
	queues := count(func(p person) bool { return has(p, "queue", "line") })
	w.until(`%s && %s.querySelectorAll('[role=gridcell]')[1].innerText === '%d'`, term("queue"), term("queue"), queues)
	w.axe("terms")

	// Code: a category with a rule, another rule with a mistake, its effect, and keeping it.
	w.view("Code")
	w.keys("n")
	w.until(`document.querySelector('[role=dialog] input')`)
	w.do(
		chromedp.SendKeys(`[role=dialog] input`, "Waiting", chromedp.ByQuery),
		chromedp.SendKeys(`[role=dialog] input.font-mono`, "queue - slow", chromedp.ByQuery),
	)
	first := count(func(p person) bool { return has(p, "queue", "line") && !has(p, "slow") })
	w.until(`document.querySelector('[role=dialog] [data-part=effect]')?.innerText.includes('Catches %d answers')`, first)
	w.press("Make it")
	w.until(
		`document.querySelector('[data-part=treeline] > span:nth-of-type(2)')?.innerText === '%d' && document.querySelector('main h1') && !document.querySelector('[role=dialog]')`,
		first,
	)
	w.keys("a")
	w.until(`document.querySelector('.cm-content')`)
	w.do(chromedp.SendKeys(`.cm-content`, "(late / nevver", chromedp.ByQuery))
	w.until(`document.querySelector('[data-part=problems]')?.innerText.includes('not closed')`)
	w.press("Add )")
	w.until(
		`document.querySelector('[data-part=effect]')?.innerText.includes('Catches %d answers')`,
		count(func(p person) bool { return has(p, "late") }),
	)
	w.until(`document.querySelector('[data-part=evidence] mark')?.innerText === 'late'`)
	w.axe("code, while writing")
	w.do(chromedp.Focus(`.cm-content`, chromedp.ByQuery), chromedp.KeyEvent(kb.Enter))
	w.until(`document.querySelector('[data-part=treeline] > span:nth-of-type(2)')?.innerText === '%d' && !document.querySelector('.cm-content')`, count(waiting))
	w.axe("code")

	// Review, by keyboard: one answer by hand, one settled, and undone.
	w.view("Review")
	left := count(func(p person) bool { return answered(p) && !waiting(p) })
	w.until(`document.querySelector('section[aria-label="What is left"] p').innerText.startsWith('%d left')`, left)
	w.until(`document.querySelector('[aria-label="Groups of what is left"]')`)
	w.choose("Go through it", "as in the file")
	w.until(`document.querySelector('section[aria-label="The answer"] [data-part=said]')`)
	byHand := w.get(`document.querySelector('main [data-part=said]').innerText`)
	w.keys("1")
	w.until(
		`document.querySelector('section[aria-label="What is left"] p').innerText.startsWith('%d left') && document.querySelector('main [data-part=codes]')?.innerText.includes('by hand')`,
		left-1,
	)
	w.keys("j", "s")
	w.until(`document.querySelector('section[aria-label="What is left"] p').innerText.startsWith('%d left')`, left-2)
	w.keys("z")
	w.until(`document.querySelector('section[aria-label="What is left"] p').innerText.startsWith('%d left')`, left-1)
	w.axe("review")

	// Chart: every bar's figures, and the answers behind one.
	w.view("Chart")
	w.until(`document.querySelector('[data-part=bars] tbody tr')`)
	assert.Equal(t, "route", w.chosen("by"))
	hand := 1 // the first answer that was left, and whose route it is
	var handed person
	for _, p := range people() {
		if answered(p) && !waiting(p) {
			handed = p
			break
		}
	}
	assert.Equal(t, handed.answer, byHand)
	for i, route := range []string{"North", "South", "West"} {
		base := count(func(p person) bool { return answered(p) && p.route == route })
		n := count(func(p person) bool { return waiting(p) && p.route == route })
		if handed.route == route {
			n += hand
		}
		assert.Equal(t, fmt.Sprint(base), w.get(`document.querySelectorAll('main thead tr:nth-child(2) td')[%d].innerText.split(' ')[0]`, i+1))
		want := fmt.Sprintf("Waiting, %s: %.1f %%, %d answers", route, 100*float64(n)/float64(base), n)
		assert.Equal(
			t, want,
			w.get(`document.querySelectorAll('[data-part=bars] tbody tr')[0].querySelectorAll('button')[%d].getAttribute('aria-label')`, i+1),
		)
		w.click(`document.querySelectorAll('[data-part=bars] tbody tr')[0].querySelectorAll('button')[%d]`, i+1)
		w.until(`document.querySelector('[data-part=pane] h2').innerText.startsWith('%d answers')`, n)
	}
	w.axe("chart")
	w.keys("f")
	w.until(`document.querySelectorAll('[data-part=condition]').length === 2 && decodeURIComponent(location.search).includes('West')`)
	w.press("keep this focus")
	w.until(`document.querySelector('[role=dialog] input')?.value.includes('Waiting')`)
	w.press("Keep this focus")
	w.until(`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Kept this focus') && !document.querySelector('[role=dialog]')`)
	w.press("all answers")
	w.press("kept focuses")
	w.press("Waiting, route is West")
	w.until(`document.querySelectorAll('[data-part=condition]').length === 2`)
	w.press("all answers")
	w.press("Table")
	w.until(`document.querySelector('[data-part=figures]')`)
	w.axe("table")

	// Out: the coded data, to the last cell.
	w.press("coded data…")
	w.until(`document.querySelector('[role=dialog] a[download]')`)
	var out string
	w.do(
		chromedp.Evaluate(
			`fetch(document.querySelector('[role=dialog] a[download]').href).then(r => r.text())`,
			&out,
			func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) },
		),
	)
	rows, err := csv.NewReader(strings.NewReader(out)).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 61)
	assert.Equal(t, []string{"respondent id", "route", "note", "What should we change?", "Waiting"}, rows[0])
	for i, p := range people() {
		mark := "0"
		switch {
		case p.answer == "":
			mark = ""
		case waiting(p) || p.id == handed.id:
			mark = "1"
		}
		assert.Equal(t, []string{p.id, p.route, p.note, p.answer, mark}, rows[i+1])
	}

	w.press("Cancel")
	w.until(`!document.querySelector('[role=dialog]')`)

	// Dark paper, and the list of keys and revisions.
	w.press("Dark paper")
	w.until(`document.documentElement.dataset.paper === 'dark'`)
	for _, view := range []string{"Terms", "Code", "Chart"} {
		w.view(view)
		w.axe(view + ", dark")
	}
	w.keys("?")
	w.until(`document.querySelector('[role=dialog]')?.innerText.includes('Everywhere')`)
	w.axe("keys")
}

// Two windows on one question: what the one does the other shows, and neither loses anything.
func TestTwoWindowsFollowEachOther(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	var text strings.Builder
	text.WriteString("id,answer\n")
	for _, p := range people() {
		fmt.Fprintf(&text, "%s,\"%s\"\n", p.id, p.answer)
	}
	base := w.base + "/api/v1"
	file := ask[struct{ ID string }](t, "POST", base+"/uploads", text.String())
	ask[any](
		t, "POST", base+"/studies",
		`{"upload":"`+file.ID+`","name":"Windows","columns":[{"name":"id","role":"identifier"},{"name":"answer","role":"open-ended"}]}`,
	)
	w.do(chromedp.Navigate(w.base + "/q/1/terms"))
	w.until(`document.querySelector('[data-part=ledgerline] [data-part=termname]')`)
	ask[any](t, "POST", base+"/questions/1/edits", `{"revision":0,"edit":{"kind":"hide","terms":["boat"]}}`)
	w.until(
		`![...document.querySelectorAll('[data-part=termname]')].some(e => e.innerText === 'boat') && document.querySelector('nav[aria-label=Views]').innerText.includes('Revisions\n1')`,
	)
	w.click("%s", `[...document.querySelectorAll('[data-part=termname]')].find(e => e.firstChild.textContent === 'slow')`)
	w.keys("h")
	w.until(`document.querySelector('nav[aria-label=Views]').innerText.includes('Revisions\n2')`)
	assert.Equal(t, "Hid slow", ask[figures](t, "GET", base+"/questions/1", "").Undo.Summary)
}

// loadStudy brings a study in over the API.
func (w *window) loadStudy(rows [][]string) {
	var text strings.Builder
	require.NoError(w.t, csv.NewWriter(&text).WriteAll(rows))
	base := w.base + "/api/v1"
	up := ask[api.Upload](w.t, "POST", base+"/uploads", text.String())
	recipe, err := json.Marshal(up.Guess.Recipe)
	require.NoError(w.t, err)
	seen := ask[api.Preview](w.t, "POST", base+"/uploads/"+up.ID+"/try", string(recipe))
	var columns []survey.Spec
	for _, c := range seen.Columns {
		columns = append(columns, c.Spec)
	}
	data, err := json.Marshal(columns)
	require.NoError(w.t, err)
	ask[any](w.t, "POST", base+"/studies", fmt.Sprintf(`{"upload":%q,"name":"Study","columns":%s}`, up.ID, data))
}

// A larger study, by keyboard and with nonsense: lists draw only what is on the screen, a playbook is loaded from a file,
// a cleaning step is switched and undone, a short code is typed, what can't be read says so and offers a way out.
func TestALargerStudyByKeyboard(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	study := demo.Make(3, 3000)
	w.loadStudy(append([][]string{demo.Columns}, study.Rows...))
	w.do(chromedp.Navigate(w.base + "/q/1/terms"))
	w.until(`document.querySelector('[data-part=answer] [data-part=said]')`)
	drawn := `document.querySelectorAll('[data-part=answer]').length`
	w.until("%s > 3 && %[1]s < 40 && document.querySelectorAll('[data-part=ledgerline]').length < 80", drawn)
	total := w.get(`document.querySelector('[data-part=pane] h2').innerText.split(' ')[0]`)
	w.until(
		`(document.querySelector('[aria-label=Answers]').scrollTop = 1e9) && document.querySelector('[data-part=answer][aria-posinset="%s"] [data-part=said]')`,
		strings.ReplaceAll(total, ",", ""),
	)
	last := ""
	for _, row := range study.Rows {
		if answer := strings.TrimSpace(row[10]); len(answer) > 4 && !strings.EqualFold(answer, "prefer not to say") &&
			!strings.EqualFold(answer, "no comment") &&
			answer != "asdf" {
			last = row[10]
		}
	}
	assert.Equal(
		t,
		strings.Join(strings.Fields(last), " "),
		w.get(
			`document.querySelector('[data-part=answer][aria-posinset="%s"] p').innerText.split(/\s+/).join(' ').trim()`,
			strings.ReplaceAll(total, ",", ""),
		),
	)

	// By keyboard alone: down to the second term, hide it, undo, and on through the views.
	w.until(`document.querySelector('[data-part=ledgerline] [data-part=termname]')`)
	w.keys(kb.Escape)
	w.do(chromedp.KeyEvent(kb.ArrowDown), browser.Still(), chromedp.KeyEvent(kb.ArrowDown), browser.Still())
	w.until(`document.querySelector('[data-part=ledgerline][data-index="1"][aria-selected=true] [data-part=termname]')`)
	hidden := w.get(`document.querySelector('[data-part=ledgerline][aria-selected=true] [data-part=termname]').firstChild.textContent`)
	w.keys("h")
	w.until(`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Hid ' + %s)`, quote(hidden))
	w.keys("z")
	w.until(`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Undone')`)
	w.keys("]")
	w.until(`location.pathname.endsWith('/code')`)

	// A playbook from a file; one that can't be read changes nothing.
	bad := file(t, t.TempDir(), "bad.json", `{"aftermath":1,"lexikon":{}}`)
	w.press("Import and export")
	w.until(`document.querySelector('main input[type=file]')`)
	w.do(chromedp.SetUploadFiles(`main input[type=file]`, []string{bad}, chromedp.ByQuery))
	w.until(`document.querySelector('[data-part=notice]')?.innerText.includes('lexikon')`)
	good, err := filepath.Abs("../../internal/demo/change.json")
	require.NoError(t, err)
	w.do(chromedp.SetUploadFiles(`main input[type=file]`, []string{good}, chromedp.ByQuery))
	w.until(
		`document.querySelector('[role=dialog]')?.innerText.includes('A playbook with 17 categories') && document.querySelector('[role=dialog] [data-part=table]')`,
	)
	w.axe("bringing in")
	w.press("Bring it in")
	w.until(`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Loaded a playbook')`)
	w.press("Frame")
	w.until(`document.querySelectorAll('[data-part=treeline]').length === 17`)

	// Review: the short code 3f goes before the key f.
	w.view("Review")
	w.choose("Go through it", "as in the file")
	w.until(`document.querySelector('section[aria-label="The answer"] [data-part=said]') && document.querySelector('[data-part=answer][aria-current=true]')`)
	left := w.get(`document.querySelector('section[aria-label="What is left"] p').innerText`)
	w.keys("j")
	w.do(browser.Still())
	w.keys("3", "f")
	w.until(
		`document.querySelector('main [data-part=codes]')?.innerText.includes('Food and drink by hand') && document.querySelector('section[aria-label="What is left"] p').innerText !== %s && !document.querySelector('[data-part=condition]')`,
		quote(left),
	)
	w.keys("z")
	w.until(`document.querySelector('section[aria-label="What is left"] p').innerText === %s`, quote(left))

	// Cleaning: a step is switched off, with its effect on everything, and back.
	w.view("Clean")
	step := `[...document.querySelectorAll('section[aria-label=Steps] li')].find(e => e.innerText.includes('Write contractions out'))`
	w.until("%s?.querySelector('[aria-label$=them]')", step)
	before := w.get("%s.querySelector('[aria-label$=them]').innerText", step)
	w.do(chromedp.Evaluate(step+`.focus()`, nil), chromedp.KeyEvent(" "))
	w.until(
		"%s.closest('ul') && document.querySelector('[data-part=effect]')?.innerText.includes('%s answers would be read differently')",
		step, before,
	)
	w.press("Keep")
	w.until(
		`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Changed the cleaning steps') && document.querySelector('[role=tab]')`,
	)
	w.do(chromedp.Evaluate(`document.activeElement.blur()`, nil))
	w.keys("z")
	w.until("%s.querySelector('[aria-label$=them]')?.innerText === %s", step, quote(before))

	// Nonsense typed into the focus says what is wrong and how to go on.
	w.keys("/")
	w.until(`document.activeElement.getAttribute('role') === 'combobox'`)
	w.do(chromedp.SendKeys(`[data-part=focus] input`, "((queue", chromedp.ByQuery), chromedp.KeyEvent(kb.Enter))
	w.until(`document.querySelector('[data-part=focus] [role=alert]')?.innerText.includes('not closed') && !document.querySelector('[data-part=condition]')`)
	w.keys(kb.Escape)
	w.do(chromedp.Navigate(w.base + `/q/1/clean?focus=[{"kind":"words","text":"((queue"}]`))
	w.until(`document.body.innerText.includes("can't be read as a rule")`)
	w.press("Show all answers instead")
	w.until(`document.querySelector('[data-part=proof]')`)

	// A view that is left while it still loads does not bring itself back.
	for range 4 {
		w.do(
			chromedp.Evaluate(`[...document.querySelectorAll('nav[aria-label=Views] a')].find(e => e.innerText.startsWith('Review')).click()`, nil),
			browser.Until(`location.pathname.endsWith('/review')`),
			chromedp.Evaluate(`[...document.querySelectorAll('nav[aria-label=Views] a')].find(e => e.innerText.startsWith('Chart')).click()`, nil),
			browser.Still(),
		)
		assert.Equal(t, "/q/1/chart", w.get(`location.pathname`))
	}

	// Every number can be read: behind a bar are as many answers as it says, whatever its share is of.
	for _, base := range []string{"answered", "respondents", "coded"} {
		w.do(chromedp.Navigate(w.base + "/q/1/chart?by=age+band&base=" + base))
		w.until(`document.querySelector('[data-part=bar]')`)
		var labels []string
		w.do(chromedp.Evaluate(`[...document.querySelectorAll('[data-part=bar]')].map(b => b.getAttribute('aria-label'))`, &labels))
		for i := 0; i < len(labels); i += 11 { // a step that meets every row and every column
			number := strings.Fields(labels[i][strings.LastIndex(labels[i], " %, ")+4:])[0]
			w.click(`document.querySelectorAll('[data-part=bar]')[%d]`, i)
			w.until(`document.querySelector('[data-part=bar][aria-pressed=true]')?.getAttribute('aria-label') === %s &&
				document.querySelector('[data-part=pane] h2').innerText.replaceAll(',', '').match(/^(\d+) answers?:/)?.[1] === %s`, quote(labels[i]), quote(number))
		}
	}

	// A narrow window still shows everything without scrolling sideways.
	for _, width := range []int64{1000, 640, 420} {
		w.do(browser.Size(width, 800))
		for _, view := range []string{"Data", "Clean", "Terms", "Code", "Review", "Chart"} {
			w.view(view)
			assert.Equal(t, "true", w.get(`document.documentElement.scrollWidth <= window.innerWidth`), "%s at %d", view, width)
		}
	}
}
