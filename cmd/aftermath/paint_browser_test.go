package main

import (
	"slices"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"aftermath/internal/browser"
	"aftermath/internal/demo"
)

// BenchmarkKeyToPaint measures, on the demo's answers, how long it takes from a key to painted figures: moving in the ledger,
// ticking, hiding a term, and typing in a rule. It reports the median and the 95th percentile of each in milliseconds.
func BenchmarkKeyToPaint(b *testing.B) {
	w := openWindow(b)
	w.loadStudy(append([][]string{demo.Columns}, demo.Make(1, 6000).Rows...))
	loadPlaybook(b, w)
	// From the key's own time to the second frame after the page is as it should be.
	watch := func(done string) {
		w.do(chromedp.Evaluate(`window.took = undefined; window.addEventListener('keydown', (e) => {
			const begun = e.timeStamp;
			const look = () => (`+done+`) ? requestAnimationFrame(() => requestAnimationFrame(() => { window.took = performance.now() - begun })) : requestAnimationFrame(look);
			look() }, {once: true, capture: true})`, nil))
	}
	measure := func(name string, times int, done func() string, act func()) {
		var took []float64
		for range times {
			watch(done())
			act()
			var ms float64
			w.do(browser.Until("window.took !== undefined"), chromedp.Evaluate("window.took", &ms), chromedp.Sleep(150*time.Millisecond))
			took = append(took, ms)
		}
		slices.Sort(took)
		b.ReportMetric(took[len(took)/2], name+"-median-ms")
		b.ReportMetric(took[len(took)*95/100], name+"-p95-ms")
	}
	marked := `document.querySelector('[data-part=ledgerline][aria-selected=true]')`
	name := marked + `?.querySelector('[data-part=termname]').firstChild.textContent`
	for b.Loop() {
		w.do(chromedp.Navigate(w.base+"/q/1/terms"), browser.Still(), chromedp.KeyEvent(kb.ArrowDown), browser.Still())
		measure("move", 30, func() string { return name + " !== " + quote(w.get("%s", name)) + " && !!" + marked },
			func() { w.do(chromedp.KeyEvent(kb.ArrowDown)) })
		measure("tick", 30, func() string {
			return marked + `.querySelector('[role=checkbox]').ariaChecked !== ` + quote(w.get("%s.querySelector('[role=checkbox]').ariaChecked", marked))
		}, func() { w.do(chromedp.KeyEvent(" ")) })
		hidden := `[...document.querySelectorAll('main button')].find(e => e.innerText.endsWith('hidden')).innerText`
		measure("hide", 30, func() string { return hidden + " !== " + quote(w.get("%s", hidden)) },
			func() { w.do(chromedp.KeyEvent("h")) })
		w.do(chromedp.Navigate(w.base+"/q/1/code?category=c2"), browser.Still())
		w.write("wait")
		effect := `document.querySelector('[data-part=effect]')`
		text, next := "wait", 0
		measure("type", 30, func() string {
			text, next = text+"/tea/coffee/late/boat/deck/seat/cold"[next:next+1], next+1
			return `document.querySelector('.cm-content').innerText === ` + quote(text) + ` &&
				(document.querySelector('[data-part=problems]')?.innerText || ` + effect + `?.getAttribute('aria-busy') === 'false')`
		}, func() { w.do(chromedp.KeyEvent(text[len(text)-1:])) })
		w.do(chromedp.KeyEvent(kb.Escape), chromedp.KeyEvent(kb.Escape))
	}
}
