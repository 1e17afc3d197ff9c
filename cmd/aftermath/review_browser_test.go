package main

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Forty answers that say the same are coded by two keys and taken back by one; the category put on last is a key away; the
// coding is held against a sample that was coded by hand.
func TestReviewByKeyboard(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	rows := [][]string{{"respondent id", "What should we change?"}}
	for i := range 50 {
		answer := "longer opening hours"
		if i >= 40 {
			answer = fmt.Sprint("something else number ", []string{"one", "two", "three", "four", "five"}[i%5], " and ", i)
		}
		rows = append(rows, []string{fmt.Sprint("R", i+1), answer})
	}
	w.loadStudy(rows)
	base := w.base + "/api/v1/questions/1"
	ask[any](t, "POST", base+"/edits", `{"revision":0,"edit":{"kind":"add category","name":"Hours"}}`)
	ask[any](t, "POST", base+"/edits", `{"revision":1,"edit":{"kind":"add category","name":"Other"}}`)
	w.do(chromedp.Navigate(w.base + "/q/1/review"))
	coded := func(n int) {
		t.Helper()
		w.until(`document.querySelector('nav[aria-label=Views]').innerText.includes('%d left')`, 50-n)
	}
	w.until(`document.querySelector('main [data-part=said]')?.innerText === 'longer opening hours' && document.querySelector('main [role=status]').innerText.includes('39 others')`)
	w.keys("g")
	w.until(`document.querySelector('main [role=status] [role=checkbox]').ariaChecked === 'true'`)
	w.axe("answers that say the same")
	// The next one is none of those that were just settled, however quickly one goes on.
	w.keys("s")
	w.until(`document.querySelector('main [data-part=said]')?.innerText.startsWith('something else')`)
	coded(40)
	w.keys("z")
	coded(0)
	w.do(chromedp.Navigate(w.base + "/q/1/review"))
	w.until(`document.querySelector('main [data-part=said]')?.innerText === 'longer opening hours' && document.querySelector('main [role=status]').innerText.includes('39 others')`)
	w.keys("g")
	w.until(`document.querySelector('main [role=status] [role=checkbox]').ariaChecked === 'true'`)
	w.keys("1")
	coded(40)
	w.keys("z")
	coded(0)
	w.keys("Z")
	coded(40)
	w.until(`document.querySelector('section[aria-label="The answer"]').innerText.includes('1 of 10')`)
	// The next one is no twin: what is put on it goes to it alone, by the key of the category that was put on last.
	w.keys("j")
	w.until(`document.querySelector('main [data-part=said]')?.innerText.startsWith('something else')`)
	w.keys("u")
	coded(41)
	w.keys("j", "2")
	coded(42)
	w.until(`[...document.querySelectorAll('main [role=status] button')].map(b => b.innerText.trim()).filter(Boolean).join() === 'Other u,Hours i'`)

	path := filepath.Join(t.TempDir(), "coded.csv")
	require.NoError(t, os.WriteFile(path, []byte("id,category\nR1,Hours\nR2,Hours\nR41,\nR42,Other\nR50,Other\n"), 0o644))
	w.press("Agreement")
	w.until(`document.querySelector('[aria-label="A sample coded by hand"] input[type=file]')`)
	w.do(chromedp.SetUploadFiles(`input[type=file]`, []string{path}, chromedp.ByQuery))
	w.until(`document.querySelectorAll('[aria-label="Agreement by category"] tbody tr').length === 2`)
	assert.Contains(t, w.get(`document.querySelector('main [data-part=effect]').innerText`), "5 answers of coded.csv; all categories are the same in 3")
	w.axe("agreement")
	w.click(`document.querySelector('[aria-label^="1 answers that only the coding gives Hours"]')`)
	w.until(`document.querySelector('[data-part=pane] [data-part=said]')?.innerText.startsWith('something else')`)
}
