package main

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"

	"aftermath/internal/browser"
)

// strip opens a column in Data.
func (w *window) strip(column string) {
	w.t.Helper()
	head := fmt.Sprintf(`[...document.querySelectorAll('[data-part=striphead]')].find(e => e.querySelector('b').innerText === %s)`, quote(column))
	w.until("%s", head)
	open := w.get("(%s).ariaExpanded", head)
	w.click("%s", head)
	// What comes next is pressed where it stands then: a strip that opens or closes moves those below it.
	w.until("(%s)?.ariaExpanded !== '%s'", head, open)
	w.do(browser.Still())
}

// altArrow presses Alt and an arrow.
func altArrow(key string) chromedp.Action {
	return chromedp.ActionFunc(func(ctx context.Context) error {
		if err := input.DispatchKeyEvent(input.KeyDown).WithKey(key).WithModifiers(input.ModifierAlt).Do(ctx); err != nil {
			return err
		}
		return input.DispatchKeyEvent(input.KeyUp).WithKey(key).WithModifiers(input.ModifierAlt).Do(ctx)
	})
}

// A file that is not as one would wish, its guesses overruled, its segments made fit, and a further wave.
func TestDataInTheBrowser(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	var text strings.Builder
	text.WriteString("Larkmoor survey;;;\nid;age;recommend;What should we change?\n")
	answers := []string{"the queue was long", "late boat again", "cold tea", "more seats please", "nothing at all"}
	ages := []string{"18-24", "25-34", "35-54", "refused"}
	recommend := func(i int) int { return i * 7 % 11 }
	for i := range 44 {
		fmt.Fprintf(&text, "P%d;%s;%d;%s %d\n", i, ages[i%4], recommend(i), answers[i%5], i)
	}
	w.do(
		chromedp.SetUploadFiles(`input[type=file]`, []string{file(t, t.TempDir(), "wave one.csv", text.String())}, chromedp.ByQuery),
	)
	w.until(`document.querySelector('[data-part=columns]')`)
	assert.Equal(t, "1", w.get(`document.querySelector('[data-part=setting] input[type=number]').value`))
	assert.Equal(t, ";", w.chosen("separator"))
	w.axe("how a file is read")

	// A guess that is overruled changes the preview at once, and says who said so.
	w.choose("rows to skip", "0")
	w.until(
		`document.querySelector('[data-part=setting] + [data-part=setting]') && document.querySelector('[aria-label="How the file is read"]').innerText.includes('you said so') && [...document.querySelectorAll('[data-part=columns] tbody th')].some(e => e.innerText === 'Larkmoor survey')`,
	)
	w.choose("rows to skip", "1")
	w.until(`[...document.querySelectorAll('[data-part=columns] tbody th')].some(e => e.innerText === 'recommend')`)
	w.press("Load 44 rows")
	w.until(`location.pathname.endsWith('/data') && document.querySelector('[data-part=strip]')`)

	// A missing code is pointed out and declared with one press.
	w.strip("age")
	w.until(`document.querySelector('[data-part=odd]')?.innerText.includes('codes for a missing one')`)
	w.press("declare them missing")
	w.until(`document.querySelector('[data-part=stripbody]')?.innerText.includes('11 declared missing')`)
	// What another role would do to the counts is said before it is kept.
	w.choose("role of age", "number")
	w.until(`document.querySelector('[data-part=tried]')?.innerText.includes('33 cells can’t be read so and would count as missing')`)
	w.press("Cancel")
	w.until(`!document.querySelector('[data-part=tried]')`)
	// Values that are ticked are grouped at once.
	w.press("Make a variable of it")
	for _, value := range []string{"18-24", "25-34"} {
		w.click(`[...document.querySelectorAll('[data-part=making] label')].find(e => e.innerText.trim() === %s)?.querySelector('button')`, quote(value))
	}
	w.choose("the ticked values count as", "under 35")
	w.press("Group them")
	w.until(`[...document.querySelectorAll('[data-part=making] [data-part=values] tr')].some(r => /^under 35\s+22$/.test(r.innerText.trim()))`)
	w.click(`[...document.querySelectorAll('[data-part=making] button')].find(e => e.innerText === 'Cancel')`)
	w.strip("age")

	// Bands, with what falls in each counted independently.
	w.strip("recommend")
	w.press("Make a variable of it")
	w.press("0 to 6 / 7 to 8 / 9 to 10")
	bands := map[string]int{}
	for i := range 44 {
		switch r := recommend(i); {
		case r <= 6:
			bands["0 to 6"]++
		case r <= 8:
			bands["7 to 8"]++
		default:
			bands["9 to 10"]++
		}
	}
	for band, n := range bands {
		w.until(
			`[...document.querySelectorAll('[data-part=making] [data-part=values] tr')].some(r => r.innerText.split('\t').map(s => s.trim()).join(' ') === %s)`,
			quote(fmt.Sprint(band, " ", n)),
		)
	}
	w.axe("making a variable")
	w.press("Make the variable")
	w.until(
		`document.querySelector('[data-part=strip][data-made]')?.innerText.includes('recommend, in bands') && (document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Made the variable')`,
	)
	w.keys("z")
	w.until(`!document.querySelector('[data-part=strip][data-made]')`)
	w.keys("Z")
	w.until(`document.querySelector('[data-part=strip][data-made]')`)
	w.view("Chart")
	w.do(chromedp.Navigate(w.base + "/q/1/chart?by=recommend%2C+in+bands"))
	w.until(`document.querySelectorAll('main thead tr:nth-child(2) td').length === 4`)
	for i, band := range []string{"0 to 6", "7 to 8", "9 to 10"} {
		assert.Equal(
			t, fmt.Sprint(bands[band]), w.get(`document.querySelectorAll('main thead tr:nth-child(2) td')[%d].innerText.split(' ')[0]`, i+1), band,
		)
	}

	// A further wave: columns matched by name, differences said, and a wave made for both.
	w.view("Data")
	wave := file(
		t, t.TempDir(), "wave two.csv",
		"ID,Age,recommend,What should we change?,deck\nP0,18-24,3,the queue again,2\nN1,55+,9,late once more,3\nN2,55+,10,cold tea,2\n",
	)
	w.do(chromedp.SetUploadFiles(`main input[type=file]`, []string{wave}, chromedp.ByQuery))
	w.until(`document.querySelector('[data-part=report]')?.innerText.includes('3 respondents would be added')`)
	report := w.get(`document.querySelector('[data-part=report]').innerText`)
	assert.Contains(t, report, "Left out: deck")
	assert.Contains(t, report, "one row has an identifier that a respondent has already: P0")
	assert.Contains(t, report, "New in age: 55+ (2)")
	w.choose("deck goes to", "a new column")
	w.choose("the wave of these rows", "Spring")
	w.choose("the wave of those who are there", "Autumn")
	w.until(`!document.querySelector('[data-part=report]').innerText.includes('Left out')`)
	w.axe("adding a wave")
	w.press("Add 3 respondents")
	w.until(
		`location.pathname.endsWith('/data') && document.querySelector('main')?.innerText.includes('47 respondents, 6 columns')`,
	)
	w.until(`document.querySelector('[data-part=strip][data-made]')`) // the bands follow
	w.strip("wave")
	w.until(
		`document.querySelector('[data-part=stripbody]')?.innerText.replaceAll('\t', ' ').includes('Autumn 44') && document.querySelector('[data-part=stripbody]').innerText.replaceAll('\t', ' ').includes('Spring 3')`,
	)
	w.keys("z")
	w.until(`document.querySelector('main')?.innerText.includes('44 respondents, 4 columns')`)
	w.keys("Z")
	w.until(`document.querySelector('main')?.innerText.includes('47 respondents, 6 columns')`)

	// Columns by key: what is matched and what is not is counted.
	keys := file(t, t.TempDir(), "loyalty.csv", "key,card\nP0,gold\nP1,gold\nP1,silver\nX9,none\n")
	w.do(chromedp.SetUploadFiles(`input[type=file][aria-label^="Add columns"]`, []string{keys}, chromedp.ByQuery))
	w.until(`document.querySelector('[data-part=report]')?.innerText.includes('3 respondents get a row')`) // P0 stands twice
	report = w.get(`document.querySelector('[data-part=report]').innerText`)
	assert.Contains(t, report, "44 respondents without one")
	assert.Contains(t, report, "one row of the file left out")
	assert.Contains(t, report, "one row of the file repeat a key")
	assert.Contains(t, report, "2 respondents share a key")
	w.press("Add one column")
	w.until(`document.querySelector('main')?.innerText.includes('47 respondents, 7 columns')`)

	// Pasted rows are a table.
	w.do(chromedp.Navigate(w.base))
	w.press("Paste answers or a table")
	w.do(
		chromedp.Evaluate(
			`(() => { const e = document.querySelector('#given'); Object.getOwnPropertyDescriptor(HTMLTextAreaElement.prototype, 'value').set.call(e, 'id\tanswer\n1\tlate\n2\tcold\n'); e.dispatchEvent(new Event('input', {bubbles: true})) })()`,
			nil,
		),
	)
	w.press("See how it is read")
	w.until(
		`document.querySelectorAll('[data-part=columns] tbody tr').length === 2 && document.querySelector('[aria-label=separator]').dataset.value === '\t'`,
	)
}

// Steps are moved by keyboard, set, tried and kept; what their order spoils is said and mended with one press.
func TestCleanInTheBrowser(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	var text strings.Builder
	text.WriteString("id,answer\n")
	said := []string{
		"I can't find a seat", "they didn't say why", "the queue at N/A", "cold tea, mail me.x@larkmoor.example", "The Queue!",
		"the  queue", "n/a",
	}
	for i := range 70 {
		fmt.Fprintf(&text, "P%d,\"%s\"\n", i, said[i%len(said)])
	}
	base := w.base + "/api/v1"
	file := ask[struct{ ID string }](t, "POST", base+"/uploads?name=x.csv", text.String())
	ask[any](
		t, "POST", base+"/studies",
		`{"upload":"`+file.ID+`","name":"Clean","columns":[{"name":"id","role":"identifier"},{"name":"answer","role":"open-ended"}]}`,
	)
	w.do(chromedp.Navigate(w.base + "/q/1/clean"))
	w.until(`document.querySelector('[data-part=proof]')`)
	line := func(words string) string {
		return fmt.Sprintf(`[...document.querySelectorAll('section[aria-label=Steps] li')].find(e => e.innerText.includes(%s))`, quote(words))
	}
	// The steps that matter here come to stand in an order.
	inOrder := func(words string) {
		w.until(
			`[...document.querySelectorAll('section[aria-label=Steps] li[draggable] label')].map(e => e.innerText).filter(s => s.includes('replacements') || s.includes('contractions')).join(', ') === %s`,
			quote(words),
		)
	}

	// A replacement that takes apostrophes out before contractions are written out.
	w.click("%s", line("Our own replacements")+`.querySelector('[role=switch]')`)
	w.press("One more")
	w.choose("find, replacement 1", "'")
	w.choose("read instead, replacement 1", " ")
	w.until(`document.querySelector('[data-part=effect]')?.innerText.includes('20 answers would be read differently')`)
	w.axe("a step being tried")
	w.press("Keep")
	w.until(
		`document.querySelector('[data-part=warnbox]')?.innerText.includes('takes away what “Write contractions out” looks for in 20 answers')`,
	)
	inOrder("Our own replacements (1), Write contractions out")
	w.until(`[...document.querySelectorAll('[data-part=leftover]')].some(e => e.innerText.startsWith('t 20'))`)
	w.axe("a hazard")
	w.press("Put aside")
	w.until(`!document.querySelector('[data-part=warnbox]')?.innerText.includes('takes away') && document.querySelector('main').innerText.includes('one warning put aside')`)
	w.press("Bring back")
	w.press("Show them")
	w.until(`document.querySelector('[data-part=pane] h2').innerText.startsWith('20 answers')`)
	w.press("Try it behind")
	w.until(`document.querySelector('[data-part=proof] dt')?.innerText === 'now'`)
	w.press("Keep")
	w.until(
		`!document.querySelector('[data-part=warnbox]') && (document.querySelector('[data-part=notice]')?.innerText ?? '').includes('Changed the cleaning steps')`,
	)
	inOrder("Write contractions out, Our own replacements (1)")

	// By keyboard: the step goes back before the other; what that would change is seen and dropped.
	w.do(chromedp.Evaluate(line("Our own replacements")+`.focus()`, nil), altArrow("ArrowUp"))
	w.until(`document.querySelector('[data-part=effect]')?.innerText.includes('20 answers would be read differently')`)
	inOrder("Our own replacements (1), Write contractions out")
	w.until(`document.activeElement.innerText.includes('Our own replacements')`)
	w.press("Cancel")
	w.until(`!document.querySelector('[data-part=effect]')`)
	inOrder("Write contractions out, Our own replacements (1)")

	// Answers that are nearly alike stand side by side, as much as is asked for.
	w.do(browser.Still()) // the steps come back to their places
	w.press("Compare")
	w.until(`document.querySelector('[role=dialog]')?.innerText.includes('40 answers in 4 groups.')`)
	w.axe("answers that are nearly alike")
	w.press("Show them all")
	w.until(`!document.querySelector('[role=dialog]') && document.querySelector('[data-part=pane] h2').innerText.startsWith('40 answers')`)

	// What would become of the base is said before phrases of refusal are kept.
	w.click("%s", line("refused, in so many words")+`?.querySelector('button')`)
	w.until(`document.activeElement.closest('[role=dialog]')`)
	w.click(`document.querySelector('[role=dialog] textarea')`)
	w.do(chromedp.KeyEvent(kb.Home, chromedp.KeyModifiers(input.ModifierCtrl)), chromedp.KeyEvent("the queue\n"))
	w.until(`document.querySelector('[role=dialog]').innerText.includes('20 answers fewer would say something: the base goes from 60 to 40')`)
	w.axe("phrases of refusal")
	w.press("Cancel")
	w.until(`!document.querySelector('[role=dialog]')`)

	// What the answers are: alike, refused, personal.
	w.click("%s", line("alike in their words")+`?.querySelector(':scope > button')`)
	w.until(`document.querySelector('[data-part=pane] h2').innerText.startsWith('60 answers')`)
	w.click("%s", line("mail addresses")+`?.querySelector(':scope > button')`)
	w.until(`document.querySelector('[data-part=answer] [data-part=said]')?.innerText.includes('me.x@larkmoor.example')`)
	w.press("masked in all of the study")
	w.until(
		`document.querySelector('[data-part=answer] [data-part=said]')?.innerText.includes('•••') && !document.querySelector('[data-part=pane]').innerText.includes('larkmoor.example')`,
	)
	out := ask[string](t, "GET", base+"/questions/1/coded", "")
	assert.NotContains(t, out, "larkmoor.example")
	assert.Contains(t, out, "mail •••")

	// What is none is said to be none, and shown again; the rest stays masked.
	w.press("Look at it")
	w.click(`[...document.querySelectorAll('[role=dialog] button')].find(e => e.innerText.includes('mail addresses: '))`)
	w.axe("personal data that was found")
	w.click(`[...document.querySelectorAll('[role=dialog] label')].find(e => e.innerText.includes('me.x@larkmoor.example'))?.querySelector('button')`)
	w.until(`[...document.querySelectorAll('[role=dialog] button')].some(e => e.innerText.includes('Said to be none: one text'))`)
	w.press("Close")
	w.until(`document.querySelector('[data-part=pane]').innerText.includes('me.x@larkmoor.example') || !document.querySelector('[data-part=answer]')`)
	out = ask[string](t, "GET", base+"/questions/1/coded", "")
	assert.Contains(t, out, "me.x@larkmoor.example")

	// A text that is tried shows each step, and how it would be read.
	w.press("Try a text")
	w.do(chromedp.SendKeys(`[data-part=tryit] textarea`, "<b>I can't see</b>", chromedp.ByQuery))
	w.until(
		`[...document.querySelectorAll('[data-part=stages] tr')].some(r => r.innerText.includes('Write contractions out') && r.innerText.includes('can not see'))`,
	)
	w.axe("a text being tried")
}
