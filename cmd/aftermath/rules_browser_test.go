package main

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
)

// Answers are marked as examples by keyboard and become a category; its rule is looked over with two keys; categories are
// ticked and changed together; a part is replaced in rules; what is wrong is taken off without a mouse.
func TestRulesAreMadeAndLookedOver(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	rows := [][]string{{"respondent id", "What should we change?"}}
	answers := []string{
		"the queue was long", "a queue at the gate", "queue again", "cold tea", "tea was cold", "rude crew", "the crew was rude",
		"late boat", "boat late again", "more sailings", "a queue for tea",
	}
	for i := range 44 {
		rows = append(rows, []string{fmt.Sprint(i + 1), answers[i%len(answers)]})
	}
	w.loadStudy(rows)
	w.do(chromedp.Navigate(w.base + "/q/1/code"))

	// The first three answers belong, the eleventh does not; the marks outlive a reload.
	w.until(`document.querySelectorAll('[data-part=answer] [data-part=said]').length > 5`)
	w.do(chromedp.Focus(`[data-part=pane] [data-list]`, chromedp.ByQuery))
	w.keys("+")
	for range 2 {
		w.do(chromedp.KeyEvent(kb.ArrowDown))
		w.keys("+")
	}
	w.until(`document.querySelector('[data-part=examples] [role=status]').innerText === '3 examples'`)
	for range 8 {
		w.do(chromedp.KeyEvent(kb.ArrowDown))
	}
	w.keys("-")
	w.until(`document.querySelector('[data-part=examples] [role=status]').innerText === '3 examples, 1 that does not belong'`)
	w.do(chromedp.Reload())
	w.until(`document.querySelector('[data-part=examples] [role=status]')?.innerText === '3 examples, 1 that does not belong'`)
	w.press("Find rules")
	offer := `[...document.querySelectorAll('[data-part=offer]')].find(o => o.querySelector('[data-part=rule]').innerText === 'queue - tea')`
	w.until("%s", offer)
	w.axe("rules from examples")
	w.click("%s", offer)
	assert.Contains(t, w.get("%s.innerText", offer), "3 of 3 examples, 0 of the others · 12 answers, 12 uncoded")
	w.choose("Name", "Waiting")
	w.until(`document.querySelector('[role=dialog] [data-part=effect]')?.innerText.includes('12 answers more would be coded')`)
	w.press("Keep it")
	w.until(`%s?.querySelectorAll(':scope > span')[1].innerText === '12' && !document.querySelector('[data-part=examples]')`, line("Waiting"))

	// A random sample of the rule, judged with two keys, stopped and gone on with.
	w.click(`document.querySelector('[aria-label="more about rule 1"]')`)
	w.click(`[...document.querySelectorAll('[role=menuitem]')].find(m => m.innerText.startsWith('Check'))`)
	status := `document.querySelector('[role=dialog] [role=status]')?.innerText`
	w.until(`%s?.startsWith('Answer 1 of 12')`, status)
	w.axe("a sample of a rule")
	w.keys("y", "y", "n")
	w.until(`%s.startsWith('Answer 4 of 12') && %[1]s.includes('2 right, 1 wrong')`, status)
	w.do(chromedp.KeyEvent(kb.Escape))
	w.until(`!document.querySelector('[role=dialog]')`)
	w.click(`document.querySelector('[aria-label="more about rule 1"]')`)
	w.click(`[...document.querySelectorAll('[role=menuitem]')].find(m => m.innerText.startsWith('Check'))`)
	w.until(`%s?.includes('2 right, 1 wrong')`, status)
	w.press("Keep what was found")
	w.until(`document.querySelector("[data-part=checked]")?.innerText === "66.7 %% right (21–94 %%), by 3 answers drawn at random"`)

	// Two categories are ticked, and a part is replaced in the rules of both.
	base := w.base + "/api/v1/questions/1"
	ask[any](t, "POST", base+"/edits", `{"revision":2,"edit":{"kind":"add category","name":"Tea","rules":["tea # hot or cold"]}}`)
	w.until(`%s`, line("Tea"))
	w.do(chromedp.Evaluate(line("Waiting")+`.focus()`, nil))
	w.keys("t")
	w.do(chromedp.KeyEvent(kb.ArrowDown))
	w.keys("t")
	w.until(`document.querySelector('[data-part=bulk] [role=status]')?.innerText === '2 categories ticked:'`)
	w.press("Find and replace in their rules")
	w.choose("Find the part", "tea")
	w.choose("Put in its place", "tea / crew")
	w.until(`document.querySelectorAll('[data-part=rewritten]').length === 2`)
	w.axe("replacing in rules")
	w.press("Replace")
	w.until(`[...document.querySelectorAll('[data-part=ruleline] [data-part=rule]')].map(r => r.innerText).join() === 'tea / crew # hot or cold'`)
	w.press("Merge into one")
	w.until(`document.querySelector('[role=dialog] [data-part=effect]')?.innerText.includes('would gain or lose')`)
	w.press("Merge them")
	w.until(`document.querySelectorAll('[data-part=treeline]').length === 1 && !document.querySelector('[data-part=bulk]')`)
	for range 2 {
		w.keys("z")
	}
	w.until(`document.querySelectorAll('[data-part=treeline]').length === 2`)

	// What a rule that is being written catches is gone through by arrows; one that is wrong is taken off by a key.
	w.click("%s", line("Tea"))
	w.until(`document.querySelector('[data-part=title]').innerText === 'Tea'`)
	w.click(`document.querySelector('[data-part=ruleline] button')`)
	w.until(`document.activeElement?.classList.contains('cm-content') && document.querySelectorAll('[data-part=pane] [data-part=evidence]').length === 12`)
	w.do(chromedp.Focus(`[data-part=pane] [data-part=evidence]`, chromedp.ByQuery), chromedp.KeyEvent(kb.ArrowDown))
	w.keys("x")
	w.until(`%s.querySelectorAll(':scope > span')[1].innerText === '11'`, line("Tea"))
}
