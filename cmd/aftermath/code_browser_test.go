package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/demo"
)

// line finds a category in the outline by its name.
func line(name string) string {
	return fmt.Sprintf(
		`[...document.querySelectorAll('[data-part=treeline]')].find(l => l.children[1].firstChild.textContent === %s)`, quote(name),
	)
}

// drag moves the pointer from the middle of one element to a place in another: at is the part of its height.
func (w *window) drag(from, to string, at float64) {
	w.t.Helper()
	var a, b struct{ X, Y float64 }
	place := `(e => { const r = e.getBoundingClientRect(); return {x: r.x + r.width / 3, y: r.y + r.height * %v} })(%s)`
	w.do(chromedp.Evaluate(fmt.Sprintf(place, 0.5, from), &a), chromedp.Evaluate(fmt.Sprintf(place, at, to), &b))
	w.do(input.DispatchMouseEvent(input.MousePressed, a.X, a.Y).WithButton(input.Left).WithClickCount(1),
		input.DispatchMouseEvent(input.MouseMoved, a.X+12, a.Y).WithButton(input.Left).WithButtons(1),
		input.DispatchMouseEvent(input.MouseMoved, b.X, b.Y).WithButton(input.Left).WithButtons(1),
		input.DispatchMouseEvent(input.MouseReleased, b.X, b.Y).WithButton(input.Left).WithClickCount(1))
}

// alt presses a key with Alt held.
func (w *window) alt(key string) {
	w.t.Helper()
	w.do(
		input.DispatchKeyEvent(input.KeyRawDown).WithKey(key).WithModifiers(input.ModifierAlt),
		input.DispatchKeyEvent(input.KeyUp).WithKey(key).WithModifiers(input.ModifierAlt),
	)
}

// A rule is written with a mistake, mended by one key, and has the effect it promised; one is made of words that were
// selected; a category is dragged into a net; all of it is undone.
func TestTheCodeFrameInTheBrowser(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	rows := [][]string{{"respondent id", "route", "What should we change?"}}
	for _, p := range people() {
		rows = append(rows, []string{p.id, p.route, p.answer})
	}
	w.loadStudy(rows)
	base := w.base + "/api/v1/questions/1"
	revision := 0
	change := func(edit string) {
		ask[any](t, "POST", base+"/edits", fmt.Sprintf(`{"revision":%d,"edit":%s}`, revision, edit))
		revision++
	}
	change(`{"kind":"add category","name":"Waiting","rules":["queue"]}`)
	change(`{"kind":"frame","after":true,"frame":[{"name":"On board","children":[{"name":"Drinks","rules":["tea"]}]}]}`)
	w.do(chromedp.Navigate(w.base + "/q/1/code?category=c1"))
	figure := func(name string, n int) {
		t.Helper()
		w.until(`%s?.querySelectorAll(':scope > span')[1].innerText === '%d'`, line(name), n)
	}
	queue := func(p person) bool { return has(p, "queue") }
	late := func(p person) bool { return has(p, "late") && has(p, "boat") }
	figure("Waiting", count(queue))

	// A mistake is marked where it stands, its mend is one key away, and the effect is that of the mended rule.
	w.keys("a")
	w.until(`document.activeElement?.classList.contains('cm-content')`)
	w.do(chromedp.SendKeys(`.cm-content`, "laet + (boat", chromedp.ByQuery))
	w.until(
		`document.querySelector('[data-part=problems]')?.innerText.includes('not closed') && document.querySelector('.r-problem, .r-warning')`,
	)
	w.alt("m")
	w.until(`document.querySelector('[data-part=problems]')?.innerText.includes('"late" does')`)
	w.alt("m")
	w.until(
		`document.querySelector('.cm-content').innerText === 'late + (boat)' && document.querySelector('[data-part=writing] [data-part=effect]')?.getAttribute('aria-busy') === 'false'`,
	)
	fresh := count(func(p person) bool { return late(p) && !queue(p) })
	assert.Contains(
		t, w.get(`document.querySelector('[data-part=writing] [data-part=effect]').innerText`),
		fmt.Sprintf("Catches %d answers; %d had no category at all, %[2]d new here", count(late), fresh),
	)
	w.until(`document.querySelector('[data-part=evidence] mark')?.innerText === 'late boat'`)
	w.axe("a rule with its effect")
	w.press("By group")
	w.until(`document.querySelectorAll('[data-part=writing] [data-part=table] tbody tr').length === 3`)
	w.press("Near misses")
	w.until(`document.querySelector('[data-part=ways]')`)
	w.axe("near misses")
	w.do(chromedp.Focus(`.cm-content`, chromedp.ByQuery), chromedp.KeyEvent(kb.Enter))
	figure("Waiting", count(queue)+fresh)

	// Words selected in an answer become a rule of the open category; the answer says why it is in.
	slow := `[...document.querySelectorAll('[data-part=answer] [data-part=said]')].find(p => p.innerText === 'slow line, late boat')`
	w.until("%s", slow)
	x, y := w.at(slow)
	w.do(chromedp.MouseClickXY(x, y), chromedp.MouseClickXY(x, y, chromedp.ClickCount(2)), chromedp.MouseClickXY(x, y, chromedp.ClickCount(3)))
	w.until(`document.querySelectorAll('[data-part=selection] [aria-pressed]').length === 4`)
	w.axe("words that are selected")
	for _, word := range []string{"late", "boat"} {
		w.click(`[...document.querySelectorAll('[data-part=selection] [aria-pressed]')].find(c => c.innerText === %s)`, quote(word))
	}
	w.choose("stand", "in one sentence")
	w.until(`document.querySelector('[data-part=selection] [data-part=rule]').innerText === 'slow +1s line'`)
	w.press("Write it")
	w.until(`document.querySelector('.cm-content')?.innerText === 'slow +1s line' && document.querySelector('[data-part=writing] [data-part=effect]')`)
	w.press("Keep")
	w.until(
		`[...document.querySelectorAll('[data-part=ruleline] [data-part=rule]')].map(r => r.innerText).join() === 'queue,late + (boat),slow +1s line'`,
	)
	w.click("%s", slow+`.closest('li').querySelector('[aria-label^=Why]')`)
	w.until(
		`document.querySelectorAll('[role=dialog] [data-part=why-rule]').length === 3 && document.querySelector('[role=dialog] [data-part=effect]').innerText.includes('It has Waiting: its rules give it')`,
	)
	w.axe("why")
	w.press("Close")

	// A category is dragged into a net and moved out again by keyboard; the net counts an answer once.
	net := count(func(p person) bool { return queue(p) || late(p) || has(p, "tea") || has(p, "slow line") })
	w.drag(line("Waiting"), line("On board"), 0.5)
	figure("On board", net)
	w.until(`%s.querySelector('span').style.paddingLeft === '9px'`, line("Waiting"))
	w.do(chromedp.Evaluate(line("Waiting")+`.focus()`, nil))
	w.keys("<")
	figure("On board", count(func(p person) bool { return has(p, "tea") }))
	w.drag(line("Waiting"), line("On board"), 0.1)
	w.until(`document.querySelector('[data-part=treeline]') === %s`, line("Waiting"))
	w.until(`document.querySelector('nav[aria-label=Views]').innerText.includes('Revisions\n7')`)

	// All of it is undone, and done again: pressed as fast as keys can be, each press is a step.
	for range 7 {
		w.keys("z")
	}
	w.until(`document.querySelectorAll('[data-part=treeline]').length === 0 && document.querySelector('[data-part=empty]')`)
	for range 7 {
		w.keys("Z")
	}
	figure("Waiting", count(func(p person) bool { return queue(p) || late(p) || has(p, "slow line") }))

	// What takes away shows its answers too, while it is written and after.
	w.keys("u")
	w.until(`document.activeElement?.classList.contains('cm-content')`)
	w.do(chromedp.SendKeys(`.cm-content`, "boat / long", chromedp.ByQuery))
	boats := count(func(p person) bool { return has(p, "boat", "long") })
	w.until(`document.querySelector('[data-part=writing] [data-part=effect]')?.innerText.includes('Matches %d answers')`, boats)
	w.press("All")
	w.press("read them all")
	w.until(`document.querySelector('[data-part=pane] h2').innerText.startsWith('%d answers: boat / long')`, boats)
	w.do(chromedp.Focus(`.cm-content`, chromedp.ByQuery), chromedp.KeyEvent(kb.Enter))
	figure("Waiting", count(func(p person) bool { return queue(p) && !has(p, "boat", "long") }))
	w.click("%s", `document.querySelector('[aria-label*="“unless” rule 1"]')`)
	w.until(
		`document.querySelector('[data-part=pane] h2').innerText.startsWith('%d answers: boat / long') && document.querySelector('[aria-label*="“unless” rule 1"]').ariaPressed === 'true'`,
		boats,
	)
}

// Two windows write in one category at once: neither loses a word, and each sees what the other did.
func TestTwoWindowsWriteRules(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	rows := [][]string{{"respondent id", "What should we change?"}}
	for _, p := range people() {
		rows = append(rows, []string{p.id, p.answer})
	}
	w.loadStudy(rows)
	base := w.base + "/api/v1/questions/1"
	ask[any](t, "POST", base+"/edits", `{"revision":0,"edit":{"kind":"add category","name":"Waiting","rules":["queue","late"]}}`)
	w.do(chromedp.Navigate(w.base + "/q/1/code?category=c1"))
	w.until(`document.querySelectorAll('[data-part=ruleline] [data-part=rule]').length === 2`)
	w.click("%s", `document.querySelectorAll('[data-part=rule]')[1]`)
	w.until(`document.querySelector('.cm-content')`)
	w.do(chromedp.SendKeys(`.cm-content`, " + boat", chromedp.ByQuery))
	w.until(`document.querySelector('.cm-content').innerText === 'late + boat'`)
	// Meanwhile the other removes the first rule, and then changes the one that is being written.
	ask[any](t, "POST", base+"/edits", `{"revision":1,"edit":{"kind":"rule","category":"c1","was":"queue","rule":""}}`)
	w.until(
		`document.querySelectorAll('[data-part=ruleline] [data-part=rule]').length === 0 && document.querySelector('.cm-content').innerText === 'late + boat'`,
	)
	ask[any](t, "POST", base+"/edits", `{"revision":2,"edit":{"kind":"rule","category":"c1","was":"late","rule":"late + gate"}}`)
	w.until(
		`document.querySelector('[data-part=writing] p.text-soft')?.innerText.includes('another window') && document.querySelector('.cm-content').innerText === 'late + boat'`,
	)
	// The page is left and opened anew: what was being written is still there.
	w.do(chromedp.Reload())
	w.until(`document.querySelector('.cm-content')?.innerText === 'late + boat'`)
	w.press("Keep")
	w.until(
		`[...document.querySelectorAll('[data-part=rule]')].map(r => r.innerText).join() === 'late + gate,late + boat' && !document.querySelector('.cm-content')`,
	)
	// An edit on a revision that is no longer the newest is refused, and changes nothing.
	var status int
	w.do(
		chromedp.Evaluate(
			`fetch('/api/v1/questions/1/edits', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({revision: 2, edit: {kind: 'rule', category: 'c1', was: 'late + gate', rule: ''}})}).then(r => r.status)`,
			&status,
			func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) },
		),
	)
	assert.Equal(t, 409, status)
	assert.Equal(t, "2", w.get(`document.querySelectorAll('[data-part=ruleline] [data-part=rule]').length`))
}

// Drafts, health, revisions, and the ways in and out, on the demo's answers.
func TestDraftsHealthAndRevisionsInTheBrowser(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	w.loadStudy(append([][]string{demo.Columns}, demo.Make(3, 3000).Rows...))
	data, err := os.ReadFile("../../internal/demo/change.json")
	require.NoError(t, err)
	base := w.base + "/api/v1/questions/1"
	ask[any](t, "PUT", base+"/playbook?revision=0", string(data))
	w.do(chromedp.Navigate(w.base + "/q/1/code"))
	w.until(`document.querySelectorAll('[data-part=treeline]').length === 17`)
	number := func(of string) string { return strings.ReplaceAll(w.get("%s", of), ",", "") }

	// The draft that gains most is taken by one key and gains what it said; the next is refused.
	w.press("Drafts")
	w.until(`document.querySelectorAll('[data-part=suggestion]').length > 3`)
	w.axe("drafts")
	gains := strings.Fields(strings.TrimPrefix(number(`document.querySelector('[data-part=suggestion] [data-part=gain]').innerText`), "+"))[0]
	left := number(`document.querySelector('[aria-label=Drafts] > p').innerText.match(/[\d,]+/)[0]`)
	w.do(chromedp.KeyEvent(kb.ArrowDown), chromedp.KeyEvent(kb.ArrowUp))
	w.until(`document.querySelector('[data-part=pane] h2').innerText.replaceAll(',', '').startsWith(%s)`, quote(gains+" answers"))
	taken := w.get(`document.querySelector('[data-part=suggestion] b').innerText`)
	w.keys("t")
	w.until(
		`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes(%s) && Number(document.querySelector('[aria-label=Drafts] > p').innerText.match(/[\d,]+/)[0].replace(',', '')) === %s - %s`,
		quote("Added the category "+taken),
		left,
		gains,
	)
	refused := w.get(`document.querySelector('[data-part=suggestion] b').innerText`)
	w.keys("r")
	w.until(
		`document.querySelector('[aria-label=Drafts]').innerText.includes('one draft refused') && ![...document.querySelectorAll('[data-part=suggestion] b')].some(b => b.innerText === %s)`,
		quote(refused),
	)

	// Health: every figure opens its answers.
	w.press("Health")
	w.until(`document.querySelector('[data-part=matrix] button')`)
	w.axe("health")
	together := number(`document.querySelector('[data-part=matrix] button').getAttribute('aria-label').split(' ')[2]`)
	w.click("%s", `document.querySelector('[data-part=matrix] button')`)
	w.until(`document.querySelector('[data-part=pane] h2').innerText.replaceAll(',', '').startsWith(%s)`, quote(together+" answer"))
	w.click("%s", `document.querySelectorAll('[aria-label="Coverage by group"] tbody button')[1]`)
	w.until(
		`document.querySelector('[data-part=pane] h2').innerText.replaceAll(',', '').startsWith(document.querySelectorAll('[aria-label="Coverage by group"] tbody button')[1].innerText.replaceAll(',', '') + ' answers')`,
	)

	// A state is named, the frame changed, the two compared; the figures open their answers; one goes back.
	w.press("Revisions") // of the rail: a sheet with the way to the view
	w.until(`document.querySelector('[role=dialog]')`)
	w.press("compare, name, go back")
	w.until(`document.querySelector('[data-part=revisionsv]')`)
	w.axe("revisions")
	w.press("Name the present state")
	w.do(chromedp.SendKeys(`[role=dialog] input`, "sent to client", chromedp.ByQuery))
	w.press("Keep it")
	w.until(`[...document.querySelectorAll('[data-part=revisionsv] [data-part=revisions] button')].some(b => b.innerText === 'sent to client')`)
	state := ask[figures](t, "GET", base, "")
	ask[any](
		t,
		"POST",
		base+"/edits",
		fmt.Sprintf(
			`{"revision":%d,"edit":{"kind":"rule","category":"c2","rule":"queue / wait","was":"queue / wait - train"}}`, state.Revision,
		),
	)
	w.do(
		chromedp.Evaluate(
			`[...document.querySelectorAll('[data-part=revisionsv] [data-part=revisions] button')].find(b => b.innerText === 'sent to client').click()`, nil,
		),
	)
	w.until(`document.querySelector('[aria-label="What lies between"] del')?.innerText === 'queue / wait - train'`)
	w.axe("two states")
	w.click("%s", `document.querySelector('[aria-label="What lies between"] tbody button')`)
	w.until(
		`document.querySelector('[data-part=pane] h2').innerText.startsWith(document.querySelector('[aria-label="What lies between"] tbody button').innerText.slice(1) + ' answer') && document.querySelector('[data-part=pane] h2').innerText.includes('from sent to client')`,
	)
	w.press("Go back to it")
	w.until(`document.querySelector('[role=dialog] [data-part=table]')`)
	w.press("Go back to it")
	w.until(
		`(document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Went back to “sent to client”') && document.querySelector('[data-part=revisionsv] [data-part=effect]').innerText.includes('No category gained or lost')`,
	)

	// The frame goes out as a table and as a codebook, and each comes in again.
	w.press("Import and export")
	for name, said := range map[string]string{"frame.csv": "A table with 18 categories", "frame.qdc": "A REFI-QDA codebook with 18 categories and 0 rules"} {
		var text string
		w.do(
			chromedp.Evaluate(
				`fetch('/api/v1/questions/1/frame/file?format=`+strings.TrimPrefix(filepath.Ext(name), ".")+`').then(r => r.text())`, &text,
				func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) },
			),
		)
		path := file(t, t.TempDir(), name, text)
		w.until(`document.querySelector('main input[type=file]')`)
		w.do(chromedp.SetUploadFiles(`main input[type=file]`, []string{path}, chromedp.ByQuery))
		w.until(
			`document.querySelector('[role=dialog]')?.innerText.includes(%s) && document.querySelector('[role=dialog] [data-part=effect]')?.innerText.includes('answer')`,
			quote(said),
		)
		if filepath.Ext(name) == ".csv" {
			assert.Contains(
				t, w.get(`document.querySelector('[role=dialog] [data-part=effect]').innerText`), "No category gains or loses an answer",
				"what went out comes in as it was",
			)
		}
		w.press("Cancel")
		w.until(`!document.querySelector('[role=dialog]')`)
	}
}
