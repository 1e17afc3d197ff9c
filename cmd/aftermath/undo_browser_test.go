package main

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"

	"aftermath/internal/api"
	"aftermath/internal/browser"
)

// Undo and redo go back and forth, end with the next edit, and say what comes first, or what goes along, in the window.
func TestUndoInTheBrowser(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	rows := [][]string{{"id", "score", "What should we change?", "What did you enjoy?"}}
	for i := range 12 {
		rows = append(rows, []string{fmt.Sprint("P", i), fmt.Sprint(i % 11), "the queue for the boat was long, and cold tea", "the view from the deck"})
	}
	w.loadStudy(rows)
	base := w.base + "/api/v1"
	w.do(chromedp.Navigate(w.base + "/q/1/terms"))
	shown := func(term string) string {
		return fmt.Sprintf(`[...document.querySelectorAll('[data-part=termname]')].some(e => e.firstChild.textContent === %s)`, quote(term))
	}
	notice := `(document.querySelector('[data-part=notice]')?.innerText ?? '')`
	hide := func(term string) {
		w.until("%s", shown(term))
		// One looks which line is marked before one presses a key: after an edit another line is marked, and makes room for
		// its members.
		line := fmt.Sprintf(`[...document.querySelectorAll('[data-part=termname]')].find(e => e.firstChild.textContent === %s)`, quote(term))
		marked := line + `?.closest('[data-part=ledgerline]').ariaSelected === 'true'`
		for range 5 {
			w.click("%s", line)
			if w.do(browser.Still()); w.get("%s", marked) == "true" {
				break
			}
		}
		w.keys("h")
		w.until("!%s && %s.includes(%s)", shown(term), notice, quote("Hid "+term))
	}
	hide("queue")
	w.keys("z")
	w.until("%s && %s.includes('Undone: Hid queue')", shown("queue"), notice)
	w.keys("Z")
	w.until("!%s && %s.includes('Done again: Hid queue')", shown("queue"), notice)
	w.keys("z")
	w.until("%s", shown("queue"))
	hide("boat")
	w.keys("Z") // what was undone before is ended
	w.until("%s.includes('nothing to redo') && %s && !%s", notice, shown("queue"), shown("boat"))

	// The notice of an edit takes back that edit, or says what comes first.
	hide("tea")
	at := ask[api.QuestionState](t, "GET", base+"/questions/1", "").Revision
	ask[any](t, "POST", base+"/questions/1/edits", fmt.Sprintf(`{"revision":%d,"edit":{"kind":"hide","terms":["long"]}}`, at))
	w.until("!%s", shown("long"))
	w.click("%s", `[...document.querySelectorAll('[data-part=notice] button')].find(e => e.innerText.startsWith('Undo'))`)
	w.until("%s.includes('“Hid long” is to be undone first') && !%s", notice, shown("tea"))

	// A variable goes for all questions of its study: the window says which of them was edited since.
	ask[any](t, "POST", base+"/studies/1/edits", `{"revision":0,"edit":{"kind":"derive",
		"derived":{"name":"mood","kind":"bands","of":["score"],"edges":[7],"names":["low","high"]}}}`)
	ask[any](t, "POST", base+"/questions/2/edits", `{"revision":0,"edit":{"kind":"hide","terms":["view"]}}`)
	sheet := `document.querySelector('[role=alertdialog]')`
	variables := func() int { return len(ask[api.QuestionState](t, "GET", base+"/questions/1", "").Variables) }
	with := variables()
	w.do(chromedp.Navigate(w.base + "/q/1/terms"))
	w.until("%s", shown("queue"))
	w.keys("z")
	w.until(`%s?.innerText.includes('Undo “Made the variable mood”?') && %[1]s.innerText.includes('What did you enjoy?')`, sheet)
	w.axe("what goes along with undo")
	w.press("Cancel")
	w.until("!%s", sheet)
	if variables() != with {
		t.Fatal("it was undone all the same")
	}
	w.keys("z")
	w.until("%s", sheet)
	w.click("%s", sheet+`.querySelector('button')`)
	w.until("%s.includes('Undone: Made the variable mood')", notice)
	if variables() != with-1 {
		t.Fatal("it was not undone")
	}
}
