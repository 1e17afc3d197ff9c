package main

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"

	"aftermath/internal/browser"
)

// choose sets a select to a value, or an input to a text, as a person does.
func (w *window) choose(label, value string) {
	w.t.Helper()
	find := fmt.Sprintf(`document.querySelector('[aria-label=%s]')`, quote(label))
	w.until("%s", find)
	w.do(
		chromedp.Evaluate(
			fmt.Sprintf(`(() => { const e = %s; const proto = e.tagName === 'SELECT' ? HTMLSelectElement : HTMLInputElement;
		Object.getOwnPropertyDescriptor(proto.prototype, 'value').set.call(e, %s);
		e.dispatchEvent(new Event(e.tagName === 'SELECT' ? 'change' : 'input', {bubbles: true})) })()`, find, quote(value)),
			nil,
		),
		browser.Still(),
	)
}

// strip opens a column in Data.
func (w *window) strip(column string) {
	w.t.Helper()
	w.do(
		chromedp.Evaluate(
			fmt.Sprintf(
				`[...document.querySelectorAll('.striphead')].find(e => e.querySelector('b').innerText === %s).click()`, quote(column),
			),
			nil,
		),
		browser.Still(),
	)
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
	w.until(`document.querySelector('table.columns')`)
	assert.Equal(t, "1", w.get(`document.querySelector('[aria-label="rows to pass over"]').value`))
	assert.Equal(t, ";", w.get(`document.querySelector('[aria-label="what parts cells"]').value`))
	w.axe("how a file is read")

	// A guess that is overruled changes the preview at once, and says who said so.
	w.choose("rows to pass over", "0")
	w.until(
		`document.querySelector('.setting + .setting') && document.querySelector('.reading').innerText.includes('you said so') && [...document.querySelectorAll('table.columns tbody th')].some(e => e.innerText === 'Larkmoor survey')`,
	)
	w.choose("rows to pass over", "1")
	w.until(`[...document.querySelectorAll('table.columns tbody th')].some(e => e.innerText === 'recommend')`)
	w.press("Load 44 rows")
	w.until(`location.pathname.endsWith('/data') && document.querySelector('.strip')`)

	// A missing code is pointed out and declared with one press.
	w.strip("age")
	w.until(`document.querySelector('.oddnote')?.innerText.includes('codes for a missing one')`)
	w.press("declare them missing")
	w.until(`document.querySelector('.stripbody')?.innerText.includes('11 declared missing')`)
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
			`[...document.querySelectorAll('.making .values tr')].some(r => r.innerText.split('\t').map(s => s.trim()).join(' ') === %s)`,
			quote(fmt.Sprint(band, " ", n)),
		)
	}
	w.axe("making a variable")
	w.press("Make it")
	w.until(
		`document.querySelector('.strip.made')?.innerText.includes('recommend, in bands') && document.querySelector('.notices').innerText.includes('Made the variable')`,
	)
	w.keys("z")
	w.until(`!document.querySelector('.strip.made')`)
	w.keys("Z")
	w.until(`document.querySelector('.strip.made')`)
	w.view("Chart")
	w.do(chromedp.Navigate(w.base + "/q/1/chart?by=recommend%2C+in+bands"))
	w.until(`document.querySelectorAll('.baseline td').length === 4`)
	for i, band := range []string{"0 to 6", "7 to 8", "9 to 10"} {
		assert.Equal(
			t, fmt.Sprint(bands[band]), w.get(`document.querySelectorAll('.baseline td')[%d].innerText.split(' ')[0]`, i+1), band,
		)
	}

	// A further wave: columns matched by name, differences said, and a wave made for both.
	w.view("Data")
	wave := file(
		t, t.TempDir(), "wave two.csv",
		"ID,Age,recommend,What should we change?,deck\nP0,18-24,3,the queue again,2\nN1,55+,9,late once more,3\nN2,55+,10,cold tea,2\n",
	)
	w.do(chromedp.SetUploadFiles(`.filelink input`, []string{wave}, chromedp.ByQuery))
	w.until(`document.querySelector('.report')?.innerText.includes('3 respondents would be added')`)
	report := w.get(`document.querySelector('.report').innerText`)
	assert.Contains(t, report, "Left out: deck")
	assert.Contains(t, report, "one row has an identifier that a respondent has already: P0")
	assert.Contains(t, report, "New in age: 55+ (2)")
	w.choose("deck goes to", "\x00new")
	w.choose("the wave of these rows", "Spring")
	w.choose("the wave of those who are there", "Autumn")
	w.until(`!document.querySelector('.report').innerText.includes('Left out')`)
	w.axe("adding a wave")
	w.press("Add 3 respondents")
	w.until(
		`location.pathname.endsWith('/data') && document.querySelector('.datav')?.innerText.includes('47 respondents, 6 columns')`,
	)
	w.until(`document.querySelector('.strip.made')`) // the bands follow
	w.strip("wave")
	w.until(
		`document.querySelector('.stripbody')?.innerText.replaceAll('\t', ' ').includes('Autumn 44') && document.querySelector('.stripbody').innerText.replaceAll('\t', ' ').includes('Spring 3')`,
	)
	w.keys("z")
	w.until(`document.querySelector('.datav')?.innerText.includes('44 respondents, 4 columns')`)
	w.keys("Z")
	w.until(`document.querySelector('.datav')?.innerText.includes('47 respondents, 6 columns')`)

	// Columns by key: what is matched and what is not is counted.
	keys := file(t, t.TempDir(), "loyalty.csv", "key,card\nP0,gold\nP1,gold\nP1,silver\nX9,none\n")
	w.do(chromedp.SetUploadFiles(`.filelink input[aria-label^="Add columns"]`, []string{keys}, chromedp.ByQuery))
	w.until(`document.querySelector('.report')?.innerText.includes('3 respondents get a row')`) // P0 stands twice
	report = w.get(`document.querySelector('.report').innerText`)
	assert.Contains(t, report, "44 respondents without one")
	assert.Contains(t, report, "one row of the file left out")
	assert.Contains(t, report, "one row of the file repeat a key")
	assert.Contains(t, report, "2 respondents share a key")
	w.press("Add one column")
	w.until(`document.querySelector('.datav')?.innerText.includes('47 respondents, 7 columns')`)

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
		`document.querySelectorAll('table.columns tbody tr').length === 2 && document.querySelector('[aria-label="what parts cells"]').value === '\t'`,
	)
}

// Steps are moved by keyboard, set, tried and kept; what their order spoils is said and mended with one press.
func TestCleanInTheBrowser(t *testing.T) {
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
	ask[any](t, "POST", base+"/uploads?name=x.csv", text.String())
	ask[any](
		t, "POST", base+"/studies",
		`{"upload":"1","name":"Clean","columns":[{"name":"id","role":"identifier"},{"name":"answer","role":"open-ended"}]}`,
	)
	w.do(chromedp.Navigate(w.base + "/q/1/clean"))
	w.until(`document.querySelector('.proof')`)
	line := func(words string) string {
		return fmt.Sprintf(`[...document.querySelectorAll('.stepline')].find(e => e.innerText.includes(%s))`, quote(words))
	}
	// The steps that matter here come to stand in an order.
	inOrder := func(words string) {
		w.until(
			`[...document.querySelectorAll('.stepline[draggable] label')].map(e => e.innerText).filter(s => s.includes('replacements') || s.includes('contractions')).join(', ') === %s`,
			quote(words),
		)
	}

	// A replacement that takes apostrophes out before contractions are written out.
	w.do(chromedp.Evaluate(line("Our own replacements")+`.querySelector('input').click()`, nil))
	w.press("One more")
	w.choose("find, replacement 1", "'")
	w.choose("read instead, replacement 1", " ")
	w.until(`document.querySelector('.effect')?.innerText.includes('20 answers would be read otherwise')`)
	w.axe("a step being tried")
	w.press("Keep")
	w.until(
		`document.querySelector('.warnbox')?.innerText.includes('takes away what “Write contractions out” looks for in 20 answers')`,
	)
	inOrder("Our own replacements (1), Write contractions out")
	w.until(`[...document.querySelectorAll('.leftover')].some(e => e.innerText.startsWith('t 20'))`)
	w.axe("a hazard")
	w.press("Show them")
	w.until(`document.querySelector('.pane h2').innerText.startsWith('20 answers')`)
	w.press("Move it behind")
	w.until(
		`!document.querySelector('.warnbox') && document.querySelector('.notices').innerText.includes('Changed the cleaning steps')`,
	)
	inOrder("Write contractions out, Our own replacements (1)")

	// By keyboard: the step goes back before the other; what that would change is seen and dropped.
	w.do(chromedp.Evaluate(line("Our own replacements")+`.focus()`, nil), altArrow("ArrowUp"))
	w.until(`document.querySelector('.effect')?.innerText.includes('20 answers would be read otherwise')`)
	inOrder("Our own replacements (1), Write contractions out")
	w.until(`document.activeElement.innerText.includes('Our own replacements')`)
	w.press("Drop")
	w.until(`!document.querySelector('.effect')`)
	inOrder("Write contractions out, Our own replacements (1)")

	// What the answers are: alike, refused, personal.
	w.do(chromedp.Evaluate(line("alike in their words")+`.querySelector('.num').click()`, nil))
	w.until(`document.querySelector('.pane h2').innerText.startsWith('60 answers')`)
	w.do(chromedp.Evaluate(line("a mail address")+`.querySelector('.num').click()`, nil))
	w.until(`document.querySelector('.pane .ans p')?.innerText.includes('me.x@larkmoor.example')`)
	w.press("masked here and in exports")
	w.until(
		`document.querySelector('.pane .ans p')?.innerText.includes('•••') && !document.querySelector('.pane').innerText.includes('larkmoor.example')`,
	)
	out := ask[string](t, "GET", base+"/questions/1/coded.csv", "")
	assert.NotContains(t, out, "larkmoor.example")
	assert.Contains(t, out, "mail •••")

	// A text that is tried shows each step, and how it would be read.
	w.press("Try a text")
	w.do(chromedp.SendKeys(`.tryit textarea`, "<b>I can't see</b>", chromedp.ByQuery))
	w.until(
		`[...document.querySelectorAll('.stages tr')].some(r => r.innerText.includes('Write contractions out') && r.innerText.includes('can not see'))`,
	)
	w.axe("a text being tried")
}
