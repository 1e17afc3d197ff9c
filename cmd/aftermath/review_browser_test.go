package main

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
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
	w.do(chromedp.Navigate(w.base + "/q/1/review?way=file"))
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
	w.do(chromedp.Navigate(w.base + "/q/1/review?way=file"))
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
	w.until(`document.querySelector('[aria-label="A sample coded by hand"]')`)
	w.do(chromedp.SetUploadFiles(`input[type=file]`, []string{path}, chromedp.ByQuery))
	w.until(`document.querySelectorAll('[aria-label="Agreement by category"] tbody tr').length === 2`)
	assert.Contains(t, w.get(`document.querySelector('main [data-part=effect]').innerText`), "5 answers coded; all categories are the same in 3")
	w.axe("agreement")
	w.click(`document.querySelector('[aria-label^="1 answers that only the coding gives Hours"]')`)
	w.until(`document.querySelector('[data-part=pane] [data-part=said]')?.innerText.startsWith('something else')`)

	// A disagreement is mended by hand, and the figures follow; those of before stay beside them.
	hours := w.get(`document.querySelector('[data-part=pane] [data-part=said]').innerText`)
	w.press("What is left")
	w.do(chromedp.Navigate(w.base + "/q/1/review?way=file&all=1&at=40"))
	w.until(`document.querySelector('main [data-part=said]')?.innerText === %q && document.querySelector('main [data-part=codes]')`, hours)
	w.keys("1")
	coded(41)
	w.press("Agreement")
	w.until(`document.querySelector('main [data-part=effect]')?.innerText.includes('all categories are the same in 4')`)
	w.until(`document.querySelectorAll('[aria-label="Agreement by revision"] tbody tr').length === 2`)
}

// Groups are gone through by keys: one is made a rule and one comes back, one is settled and taken back. What is likely is put on
// all together, says that nobody has read it, and goes by one undo.
func TestGroupsAndLikelyByKeyboard(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	rows := [][]string{{"respondent id", "What should we change?"}}
	for i := range 12 {
		for _, answer := range []string{"the toilet was filthy", "smelly filthy toilet floor", "a queue at the gate", "the long queue gate was slow",
			"filthy smelly floor", "slow gate", "more parking for lorries"} {
			rows = append(rows, []string{fmt.Sprint("R", len(rows)), fmt.Sprint(answer, " ", []string{"again", "today", "as ever", "in May"}[i%4], i)})
		}
	}
	w.loadStudy(rows)
	base := w.base + "/api/v1/questions/1"
	ask[any](t, "POST", base+"/edits", `{"revision":0,"edit":{"kind":"add category","name":"Toilets","rules":["toilet"]}}`)
	ask[any](t, "POST", base+"/edits", `{"revision":1,"edit":{"kind":"add category","name":"Waiting","rules":["queue"]}}`)
	w.do(chromedp.Navigate(w.base + "/q/1/review"))
	left := func(n int) {
		t.Helper()
		w.until(`document.querySelector('nav[aria-label=Views]').innerText.includes('%d left')`, n)
	}
	left(36)
	current := `document.querySelector('[aria-label="Groups of what is left"] [aria-current=true]')`
	w.until(`%s`, current)
	w.axe("groups")
	toRule := func() {
		t.Helper()
		for range 12 {
			if w.get(`!!%s.innerText.match(/parking|lorries/)&&%s.innerText.includes('Make a rule')`, current, current) == "true" {
				return
			}
			before := w.get(`%s.innerText`, current)
			w.keys("j")
			w.until(`%s && %s.innerText !== %q`, current, current, before)
		}
		t.Fatal("no group of the parking")
	}
	toRule()
	w.keys("r")
	w.until(`document.querySelector('[role=dialog] input')`)
	w.click(`[...document.querySelectorAll('[role=dialog] button')].find(b => b.innerText === 'Make it')`)
	w.until(`location.pathname.endsWith('/review') && %s`, current)
	left(24)
	n := w.get(`Number(%s.querySelector('span').firstChild.textContent)`, current)
	w.keys("s")
	w.until(`document.querySelector('main').innerText.includes('%s settled')`, n)
	w.keys("z")
	left(24)

	w.press("Likely categories")
	w.until(`document.querySelector('[aria-label="What is left, by chance"] tbody tr')`)
	w.axe("likely categories")
	w.click(`[...document.querySelectorAll('[aria-label="What is left, by chance"] tbody tr')].at(-1).querySelector('button')`)
	w.until(`document.querySelector('[role=dialog] [aria-label="What would be put on"]') && document.querySelector('[role=dialog] [data-part=effect]')?.innerText.includes('more would be coded')`)
	w.axe("what would be put on")
	put := w.get(`document.querySelector('[role=dialog] p').innerText.match(/^\S+/)[0]`)
	w.click(`[...document.querySelectorAll('[role=dialog] button')].find(b => b.innerText === 'Put them on')`)
	w.until(`!document.querySelector('[role=dialog]')`)
	w.press("Decisions")
	w.until(`document.querySelector('[aria-label="Decisions by category"]')?.innerText.includes('suggested, unread')`)
	w.axe("decisions")
	assert.Equal(t, put, w.get(`[...document.querySelectorAll('[aria-label="Decisions by category"] tbody tr')].reduce((n, r) => n + Number(r.children[3].innerText), 0)`))
	w.keys("z")
	left(24)
	w.until(`document.querySelector('main').innerText.includes('Nothing was decided by hand here')`)
}

// A sample is coded blind by keys alone: nothing says how its answers are coded, one may stop and go on later, and go back.
func TestCodingBlindByKeyboard(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	rows := [][]string{{"respondent id", "What should we change?"}}
	for i := range 30 {
		rows = append(rows, []string{fmt.Sprint("R", i+1), fmt.Sprint([]string{"late boat", "cold tea", "windy"}[i%3], " number ", i)})
	}
	w.loadStudy(rows)
	base := w.base + "/api/v1/questions/1"
	ask[any](t, "POST", base+"/edits", `{"revision":0,"edit":{"kind":"add category","name":"Late","rules":["late"]}}`)
	ask[any](t, "POST", base+"/edits", `{"revision":1,"edit":{"kind":"add category","name":"Tea","rules":["cold"]}}`)
	ask[any](t, "POST", base+"/samples", `{"name":"First","size":30,"seed":4,"focus":[]}`)
	w.do(chromedp.Navigate(w.base + "/q/1/review?tab=agreement"))
	w.click(`document.querySelector('main input[placeholder="your name"]')`)
	w.do(chromedp.KeyEvent("Ann"))
	w.keys(kb.Enter)
	w.press("Code it blind")
	at := func(n int) {
		t.Helper()
		w.until(`document.querySelector('[aria-label="Coding blind"]')?.innerText.includes('Answer %d.')`, n)
	}
	code := func(n int) {
		t.Helper()
		at(n)
		switch said := w.get(`document.querySelector('main [data-part=said]').innerText`); {
		case strings.HasPrefix(said, "late"):
			w.keys("1", "j")
		case strings.HasPrefix(said, "cold"):
			w.keys("2", "j")
		default:
			w.keys("s")
		}
	}
	at(1)
	assert.Equal(t, "0", w.get(`document.querySelectorAll('[data-part=pane], [data-part=codes]').length`), "nothing says how it is coded")
	w.axe("coding blind")
	for n := range 12 {
		code(n + 1)
	}
	at(13)
	w.keys("j")
	w.until(`document.querySelector('[role=alert]')?.innerText.includes('Nothing is chosen')`)
	w.do(chromedp.Navigate(w.base + "/q/1/review?tab=agreement"))
	w.until(`document.querySelector('main [data-part=effect]')?.innerText.startsWith('12 answers coded of 30')`)
	w.press("Go on coding: 18 to go")
	at(13)
	w.keys("k")
	at(12)
	w.keys("1", "2", "j") // both turned: what it had, and what it had not
	for n := 12; n < 30; n++ {
		code(n + 1)
	}
	w.until(`document.querySelector('[aria-label="Coding blind"]').innerText.includes('All of it is coded')`)
	w.press("See the figures")
	w.until(`document.querySelector('main [data-part=effect]')?.innerText.match(/^30 answers coded; all categories are the same in 29/)`)
	assert.Equal(t, "Ann", ask[[]struct{ Coders []struct{ Name string } }](t, "GET", base+"/samples", "")[0].Coders[0].Name)
}

// Thirty answers by keys alone: by short code, by the likeliest category, by name, like the one before; a new category is made in
// place, a decision gets a note.
func TestThirtyAnswersByKeyboard(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	rows := [][]string{{"respondent id", "What should we change?"}}
	for i := range 60 {
		rows = append(rows, []string{fmt.Sprint("R", i+1), fmt.Sprint([]string{"boat very late", "tea very cold", "late again", "stone cold"}[i%4], " ", i)})
	}
	w.loadStudy(rows)
	base := w.base + "/api/v1/questions/1"
	ask[any](t, "POST", base+"/edits", `{"revision":0,"edit":{"kind":"add category","name":"Late","rules":["boat"]}}`)
	ask[any](t, "POST", base+"/edits", `{"revision":1,"edit":{"kind":"add category","name":"Cold","rules":["tea"]}}`)
	w.do(chromedp.Navigate(w.base + "/q/1/review?way=file"))
	said := func() string { return w.get(`document.querySelector('main [data-part=said]').innerText`) }
	left := func(n int) {
		t.Helper()
		w.until(`document.querySelector('nav[aria-label=Views]').innerText.includes('%d left')`, n)
	}
	next := func() {
		t.Helper()
		before := said()
		w.keys("j")
		w.until(`document.querySelector('main [data-part=said]')?.innerText !== %q`, before)
	}
	left(30)
	w.until(`document.querySelector('main [data-part=said]')`)
	// The likeliest is put on by one key, for as many as follow.
	for n := range 20 {
		want := map[bool]string{true: "Late", false: "Cold"}[strings.HasPrefix(said(), "late")]
		w.until(`document.querySelector('main [data-part=likely] li button')?.innerText.includes(%q)`, want)
		w.keys("y")
		left(29 - n)
		next()
	}
	// The same as the one before, by name, and a new one in place.
	code := map[bool]string{true: "1", false: "2"}[strings.HasPrefix(said(), "late")]
	w.keys(code)
	left(9)
	next()
	w.keys("e")
	left(8)
	w.until(`document.querySelector('main [data-part=codes]')?.innerText.includes(%q)`, map[string]string{"1": "Late", "2": "Cold"}[code])
	next()
	w.keys("a")
	w.until(`document.activeElement?.getAttribute('placeholder') === 'find…'`)
	w.do(chromedp.KeyEvent("weather"))
	w.until(`document.querySelector('[cmdk-item]')?.innerText.includes('New category “weather”')`)
	w.keys(kb.Enter)
	left(7)
	w.until(`document.querySelector('main [data-part=codes]')?.innerText.includes('weather')`)
	w.do(chromedp.Sleep(500 * time.Millisecond)) // until a letter is no part of what was typed any more
	w.keys("m")
	w.until(`document.querySelector('[role=dialog] input')`)
	w.do(chromedp.KeyEvent("it was the wind"))
	w.keys(kb.Enter)
	w.until(`document.querySelector('main [data-part=codes]')?.innerText.includes('it was the wind')`)
	w.do(chromedp.Sleep(500 * time.Millisecond))
	for n := range 7 {
		next()
		w.keys([]string{"1", "2", "3"}[n%3])
		left(6 - n)
	}
}
