package main

import (
	"context"
	"encoding/json"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/browser"
	"aftermath/internal/demo"
	"aftermath/internal/kept"
	"aftermath/internal/view/report"
)

// A report is put together from where its parts stand, written, put in order, frozen and printed, by keys and mouse.
func TestReportInTheBrowser(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	w.loadStudy(append([][]string{demo.Columns}, demo.Make(3, 2000).Rows...))
	loadPlaybook(t, w)
	w.do(chromedp.Navigate(w.base + "/q/1/report"))
	w.until(`document.querySelector('#main [data-part=empty]')`)

	// A finding begins it; a chart and two quotes follow.
	w.do(chromedp.Navigate(w.base + "/q/1/chart?tab=differs"))
	w.until(`document.querySelector('[data-part=finding]')`)
	finding := w.get(`[...document.querySelectorAll('[data-part=finding]')[0].querySelectorAll('b')].at(-1).innerText`)
	w.press("into the report")
	w.until(`document.body.innerText.includes('Put a finding into the report: Study: report')`)
	w.do(chromedp.Navigate(w.base + "/q/1/chart?by=wave&as=dots"))
	w.until(`document.querySelector('[data-part=drawing] svg')`)
	w.press("into the report")
	w.until(`document.body.innerText.includes('Put the chart into the report')`)
	w.do(chromedp.Focus(`[aria-label=Answers]`, chromedp.ByQuery))
	said := `[...document.querySelectorAll('[data-part=answer] [data-part=said]')].map(e => e.innerText)`
	second := w.get(`%s[1]`, said)
	w.do(chromedp.KeyEvent(kb.ArrowDown))
	w.keys("q")
	w.until(`document.body.innerText.includes('Put a quote into the report')`)
	w.click(`[...document.querySelectorAll('[data-part=answer]')][0].querySelectorAll('button')[2]`)
	first := w.get(`%s[0]`, said)
	w.press("Show the report")
	blocks := `[...document.querySelectorAll('[data-part=block]')]`
	kinds := blocks + `.map(b => b.querySelector('button').innerText.replace(/^\S+ /, '').split(',')[0].trim()).join('|')`
	w.until(`%s === 'finding|chart|quotes'`, kinds)
	w.until(`document.querySelector('[data-part=block] [data-part=drawing] svg')`)
	assert.True(t, strings.HasPrefix(w.get(`%s[0].querySelector('p b').innerText`, blocks), finding))
	assert.Equal(t, second+"\n"+first, w.get(`[...document.querySelectorAll('blockquote')].map(q => q.innerText).join('\n')`))
	w.axe("a report")

	// Text is written with how it reads below it; Ctrl Enter keeps it.
	w.keys("t")
	w.until(`document.querySelector('[data-part=change] textarea') === document.activeElement`)
	w.do(chromedp.KeyEvent("# What we heard\n\nThey say <b>so</b>, **often**."))
	w.until(`document.querySelector('[aria-label="How it reads"] b')?.innerText === 'often'`)
	w.axe("writing")
	w.do(chromedp.KeyEvent(kb.Enter, chromedp.KeyModifiers(2)))
	w.until(`!document.querySelector('[data-part=change]') && %s[3].innerText.includes('They say <b>so</b>, often.')`, blocks)

	// To the top by keys, then taken back and done again.
	w.do(chromedp.Focus(`[data-part=block]:nth-child(4) [data-of]`, chromedp.ByQuery))
	for range 3 {
		before := w.get("%s", kinds)
		w.do(chromedp.KeyEvent(kb.ArrowUp, chromedp.KeyModifiers(1)))
		w.until(`%s !== '%s' && document.activeElement.dataset.of`, kinds, before)
	}
	w.until(`%s === 'text|finding|chart|quotes' && document.activeElement === %s[0].querySelector('[data-of]')`, kinds, blocks)
	w.keys("u")
	w.until(`%s === 'finding|text|chart|quotes'`, kinds)
	w.keys("U")
	w.until(`%s === 'text|finding|chart|quotes'`, kinds)

	// Pressed faster than anything comes back, steps follow one another: each is of what the one before it made.
	w.do(chromedp.Focus(`[data-part=block]:nth-child(1) [data-of]`, chromedp.ByQuery))
	down := chromedp.KeyEvent(kb.ArrowDown, chromedp.KeyModifiers(1))
	w.do(down, down, down)
	w.until(`%s === 'finding|chart|quotes|text'`, kinds)
	w.keys("u", "u", "u")
	w.until(`%s === 'text|finding|chart|quotes'`, kinds)

	// A quote is cut to a word, which is selected by pressing it twice.
	w.do(chromedp.Focus(`[data-part=block]:nth-child(4) [data-of]`, chromedp.ByQuery))
	w.do(chromedp.KeyEvent(kb.Enter))
	w.until(`document.querySelector('[data-part=quote] textarea')`)
	w.axe("cutting quotes")
	x, y := w.at(`document.querySelector('[data-part=quote] textarea')`)
	w.do(chromedp.MouseClickXY(x-20, y+4, chromedp.ClickCount(2)))
	w.press("quote what is selected")
	w.press("Keep it")
	w.until(`!document.querySelector('[data-part=change]') && document.querySelector('blockquote')?.innerText.endsWith(' …')`)
	cut := strings.TrimSuffix(w.get(`document.querySelector('blockquote').innerText`), " …")
	assert.True(t, cut != "" && strings.Contains(second, strings.TrimPrefix(cut, "… ")) && len(cut) < len(second), "%q of %q", cut, second)

	// Frozen, it stays; the live one goes on.
	w.press("Freeze…")
	w.until(`document.querySelector('[role=dialog] input')`)
	w.do(chromedp.KeyEvent("a", chromedp.KeyModifiers(2)), chromedp.KeyEvent("as sent"))
	w.press("Freeze it")
	w.until(`[...document.querySelectorAll('#main button')].some(b => b.innerText === 'Frozen: 1 ▾')`)
	w.do(chromedp.Focus(`[data-part=block]:nth-child(1) [data-of]`, chromedp.ByQuery), chromedp.KeyEvent(kb.Delete))
	w.until(`%s === 'finding|chart|quotes'`, kinds)
	w.press("Frozen: 1 ▾")
	w.click(`document.querySelector('[role=menuitem]')`)
	w.until(`document.querySelector('article')?.innerText.includes('as frozen: as sent')`)
	w.until(`document.querySelector('article').innerText.includes('They say <b>so</b>')`)
	w.axe("a frozen report")
	w.press("← as it is now")
	w.until(`%s === 'finding|chart|quotes'`, kinds)

	// A file that takes long says so, can be cancelled, and arrives.
	w.do(chromedp.Evaluate(`window.given = []; { const make = URL.createObjectURL; URL.createObjectURL = b => (given.push(b.size), make.call(URL, b)) }`, nil))
	const writing = `document.querySelector('[aria-label=Download] [role=status]').innerText`
	w.press("Word")
	w.until(`%s.startsWith('Writing Word')`, writing)
	w.axe("writing a file")
	w.press("cancel")
	w.until(`%s === ''`, writing)
	assert.Equal(t, "0", w.get(`given.length`))
	w.press("PowerPoint")
	w.until(`given.length === 1 && given[0] > 10000 && %s === ''`, writing)

	// As files: what stands on the screen stands in them. The page prints, and loads nothing.
	reply, err := http.Get(w.base + "/api/v1/studies/1/reports/1/file?format=html&print=true")
	require.NoError(t, err)
	defer reply.Body.Close()
	html, err := io.ReadAll(reply.Body)
	require.NoError(t, err)
	assert.Contains(t, reply.Header.Get("Content-Security-Policy"), "default-src 'none'")
	assert.Contains(t, string(html), cut+" …")
	out := filepath.Join(t.TempDir(), "report.html")
	require.NoError(t, os.WriteFile(out, html, 0o600))
	var pdf []byte
	w.do(
		chromedp.Navigate("file://"+out), browser.Until(`document.querySelector('svg')`),
		chromedp.ActionFunc(func(ctx context.Context) (err error) {
			pdf, _, err = page.PrintToPDF().Do(ctx)
			return err
		}),
	)
	assert.Greater(t, len(pdf), 20_000)
	assert.Equal(t, "0", w.get(`performance.getEntriesByType('resource').filter(r => !r.name.startsWith('data:')).length`))

	// The command writes what the server gives.
	run := func(args ...string) error {
		c := reportCommand()
		c.SetArgs(args)
		c.SilenceUsage, c.SilenceErrors = true, true
		return c.ExecuteContext(t.Context())
	}
	for _, name := range []string{"r.md", "r.json"} {
		out := filepath.Join(t.TempDir(), name)
		require.NoError(t, run("--server", w.base, "--study", "Study", "--out", out))
		data, err := os.ReadFile(out)
		require.NoError(t, err)
		assert.Contains(t, string(data), cut)
	}
	require.NoError(t, run("--server", w.base, "--study", "1", "--frozen", "as sent", "--out", filepath.Join(t.TempDir(), "r.md")))
	require.ErrorContains(t, run("--server", w.base, "--study", "2", "--out", "x.md"), "there is no study")

	// Another window is told of what changed here.
	ask[kept.ReportInfo](t, "POST", w.base+"/api/v1/studies/1/reports/1", `{"revision":0,"kind":"add","blocks":[{"id":"z","kind":"text","text":"from elsewhere"}]}`)
	w.do(chromedp.Navigate(w.base + "/q/1/report"))
	w.until(`document.querySelector('article')?.innerText.includes('from elsewhere')`)
	ask[kept.ReportInfo](t, "POST", w.base+"/api/v1/studies/1/reports/1", `{"revision":0,"kind":"add","blocks":[{"id":"y","kind":"text","text":"and more"}]}`)
	w.until(`document.querySelector('article')?.innerText.includes('and more')`)

	// A part that is being changed here and was changed there: neither is lost.
	w.click(`[...document.querySelectorAll('[data-part=block]')].at(-1).querySelectorAll('button')[1]`)
	w.until(`document.querySelector('[data-part=change] textarea')?.value === 'and more'`)
	w.do(chromedp.Focus(`[data-part=change] textarea`, chromedp.ByQuery), chromedp.KeyEvent(" of mine"))
	now := ask[kept.ReportState](t, "GET", w.base+"/api/v1/studies/1/reports/1", "")
	var parts []report.Block
	for _, s := range now.Page.Sections {
		parts = append(parts, s.Block())
	}
	parts[len(parts)-1].Part = report.TextPart{Text: "and theirs"}
	change, err := json.Marshal(kept.ReportChange{ReportSeen: kept.ReportSeen{Revision: now.Revision}, ReportEdit: kept.SetBlocks{Blocks: parts}})
	require.NoError(t, err)
	ask[kept.ReportInfo](t, "POST", w.base+"/api/v1/studies/1/reports/1", string(change))
	w.do(browser.Still(), chromedp.KeyEvent(kb.Enter, chromedp.KeyModifiers(2)))
	w.until(`document.body.innerText.includes('was changed in the meantime') && document.querySelector('[data-part=change] textarea').value.includes('of mine')`)
	w.press("Cancel")
	w.until(`document.querySelector('article').innerText.includes('and theirs')`)
}
