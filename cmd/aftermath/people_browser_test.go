package main

import (
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/internal/browser"
	"aftermath/internal/desk"
)

var twoRows = [][]string{{"id", "What should we change?"}, {"1", "the boat was late again"}, {"2", "more tea in the lounge, please"}}

// From a server that anybody uses to one that asks who is there: the first account, signing in by keyboard, sharing a study, reading it
// without changing it, being signed out in the middle of work, and the log of all that.
func TestSignInAndShare(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	w.expect("401", "403", "404")
	w.loadStudy(twoRows)
	w.do(chromedp.Navigate(w.base))
	w.press("Add accounts")
	w.until(`document.body.innerText.includes('There is no account yet')`)
	w.axe("no account yet")
	const password = "correct horse battery"
	w.choose("Name", "Ada Lark")
	w.choose("Password", password)
	w.press("Add")
	signIn := func(name, password string) {
		w.until(`document.querySelector('form[aria-label="Sign in"]') && document.activeElement.name === 'name'`)
		w.do(chromedp.KeyEvent(name+kb.Tab+password+kb.Enter), browser.Still())
	}
	w.until(`document.querySelector('h1')?.innerText === 'Sign in'`)
	w.axe("signing in")
	signIn("ada lark", "wrong")
	w.until(`document.querySelector('[role=alert]')?.innerText.includes('The name or the password is wrong')`)
	w.do(chromedp.Reload())
	signIn("ada lark", password)
	w.until(`document.querySelector('table[aria-label=Accounts]')?.innerText.includes('Ada Lark')`)
	w.choose("Name", "Ben Moor")
	w.choose("Password", password)
	w.press("Add")
	w.until(`document.querySelector('table[aria-label=Accounts]').innerText.includes('Ben Moor')`)
	w.axe("accounts")

	w.press("All studies")
	w.with("Study", "Share")
	w.until(`document.querySelector('[role=dialog]')?.innerText.includes('Nobody but admins')`)
	w.choose("Somebody else", "Ben Moor")
	w.choose("What they may do", "Reader")
	w.press("Share")
	w.until(`document.querySelector('[aria-label="Who may do what"]').innerText.includes('Ben Moor')`)
	w.axe("sharing")
	// Who is signed out over another dialog is asked above it, with the focus where one types.
	w.do(chromedp.Evaluate(`fetch('/api/v1/session?everywhere=true', {method: 'DELETE'}).then(() => (window.out = true))`, nil))
	w.until(`window.out`)
	w.click(`document.querySelector('[aria-label="Who may do what"] [role=checkbox]')`)
	signIn("Ada Lark", password)
	w.until(`document.querySelectorAll('[role=dialog]').length === 1 && document.querySelector('[role=dialog]').innerText.includes('Ben Moor')`)
	w.press("Done")

	leave := func() {
		w.click(`document.querySelector('button[aria-label$="account, sign out"]')`)
		w.click(`[...document.querySelectorAll('[role=menuitem]')].find(e => e.innerText === 'Sign out')`)
	}
	leave()
	signIn("Ben Moor", password)
	w.until(`document.body.innerText.includes('shared with you to read')`)
	w.until(`document.body.innerText.includes('You work in what is shared with you') && !document.body.innerText.includes('Bring in a file')`)
	w.press("What should we change?")
	w.until(`document.querySelector('[data-part=ledgerline] [data-part=termname]')`)
	w.click(`document.querySelector('[data-part=ledgerline]')`)
	w.until(`document.querySelector('[data-part=pane] h2')?.innerText.includes('with ')`)
	w.keys("h")
	w.until(`document.body.innerText.includes('You are a reader of this study')`)
	w.do(chromedp.Navigate(w.base))
	leave()

	// Who is signed out in the middle of something goes on where they were.
	signIn("Ada Lark", password)
	w.press("What should we change?")
	w.until(`document.querySelector('[data-part=ledgerline] [data-part=termname]')`)
	w.click(`[...document.querySelectorAll('[data-part=ledgerline]')].find(e => e.innerText.startsWith('boat'))`)
	w.until(`document.querySelector('[data-part=pane] h2')?.innerText.includes('with boat')`)
	w.do(chromedp.Evaluate(`fetch('/api/v1/session?everywhere=true', {method: 'DELETE'}).then(() => (window.out = true))`, nil))
	w.until(`window.out`)
	w.keys("h")
	w.until(`document.querySelector('[role=dialog]')?.innerText.includes('What you see and have typed is still here')`)
	signIn("Ada Lark", password)
	w.until(`!document.querySelector('[role=dialog]') && document.body.innerText.includes('one edit could not be kept, and waits here')`)
	w.press("Send again")
	w.until(`document.querySelector('nav[aria-label=Views]').innerText.includes('Revisions\n1')`)
	w.do(chromedp.Navigate(w.base + "/log"))
	w.until(`document.querySelector('table[aria-label=Log]')?.innerText.includes('Let somebody do something with a study')`)
	w.axe("the log")
	w.do(chromedp.Navigate(w.base + "/account"))
	w.choose("What it is for", "nightly")
	w.press("Make a token")
	w.until(`document.querySelector('[aria-label="The token"]')?.value.startsWith('aftermath_')`)
	w.axe("an account with a token")
	const entries = `document.querySelector('table[aria-label="Sessions and tokens"]').innerText`
	w.until(`%s.includes('nightly') && %s.includes('this one')`, entries, entries)
	w.click(`document.querySelector('[aria-label^="End: Token “nightly”"]')`)
	w.press("End it")
	w.until(`!%s.includes('nightly')`, entries)
	w.do(chromedp.Navigate(w.base + "/people"))
	w.until(`document.querySelector('table[aria-label="Sessions and tokens"]')?.innerText.includes('Ada Lark')`)
	w.axe("people, and what lets them in")
}

// While the database is away that is said, with the reason; an edit waits in the window, and is made once when it is sent again.
func TestEditsWaitWhileTheDatabaseIsAway(t *testing.T) {
	t.Parallel()
	var away atomic.Bool
	w := openWindow(t, func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(reply http.ResponseWriter, r *http.Request) {
			if away.Load() && r.Method == http.MethodPost {
				reply.Header().Set("Content-Type", "application/problem+json")
				reply.WriteHeader(http.StatusServiceUnavailable)
				_, _ = io.WriteString(reply, `{"status":503,"detail":"The database can't be reached, so nothing was changed."}`)
				return
			}
			next.ServeHTTP(reply, r)
		})
	})
	w.expect("503", "409")
	w.loadStudy(twoRows)
	w.do(chromedp.Navigate(w.base + "/q/1/terms"))
	w.until(`document.querySelector('[data-part=ledgerline] [data-part=termname]')`)
	away.Store(true)
	w.desk.SetTrouble(desk.Trouble{Away: time.Now(), Text: "PostgreSQL does not start: no space is left."})
	w.until(`document.querySelector('[role=alert]')?.innerText.includes('The database is away since')`)
	assert.Contains(t, w.get(`document.querySelector('[role=alert]').innerText`), "no space is left")
	hide := func(term string) {
		w.click(`[...document.querySelectorAll('[data-part=ledgerline]')].find(e => e.innerText.startsWith('%s'))`, term)
		w.until(`document.querySelector('[data-part=pane] h2')?.innerText.includes('with %s')`, term)
		w.keys("h")
	}
	hide("boat")
	w.until(`document.body.innerText.includes('one edit could not be kept, and waits here')`)
	hide("tea")
	w.until(`document.body.innerText.includes('2 edits could not be kept, and wait here')`)
	w.axe("edits that wait")
	w.press("Send again")
	w.until(`document.body.innerText.includes('2 edits could not be kept, and wait here')`)
	away.Store(false)
	w.desk.SetTrouble(desk.Trouble{})
	w.until(`!document.querySelector('[role=alert]')`)
	w.press("Send again")
	w.until(`document.querySelector('nav[aria-label=Views]').innerText.includes('Revisions\n2') && !document.body.innerText.includes('could not be kept')`)

	// Where somebody else has changed the question meanwhile, nothing is made on top of it.
	away.Store(true)
	hide("lounge")
	w.until(`document.body.innerText.includes('one edit could not be kept')`)
	away.Store(false)
	ask[any](t, "POST", w.base+"/api/v1/questions/1/edits", `{"revision":2,"edit":{"kind":"add category","name":"Late","rules":["late"]}}`)
	w.until(`document.querySelector('nav[aria-label=Views]').innerText.includes('Revisions\n3')`)
	w.press("Send again")
	w.until(`document.body.innerText.includes('Another window has changed this question')`)
	w.until(`!document.body.innerText.includes('could not be kept')`)
	w.desk.SetTrouble(desk.Trouble{Text: "The disk with the data is nearly full: 200 MB are left."})
	w.until(`document.querySelector('[role=alert]')?.innerText.includes('200 MB are left. Make room')`)
}

// A back-up that was fetched is restored from the first page; a file that is none says so, and changes nothing.
func TestRestoreFromTheFirstPage(t *testing.T) {
	t.Parallel()
	w := openWindow(t)
	w.expect("422")
	w.loadStudy(twoRows)
	dir := t.TempDir()
	good := file(t, dir, "study.aftermath.zip", ask[string](t, "GET", w.base+"/api/v1/studies/1/backup", ""))
	bad := file(t, dir, "notes.zip", "PK nothing of the kind")
	w.do(chromedp.Navigate(w.base))
	w.until("%s", study("Study"))
	choose := func(path string) {
		w.do(chromedp.SetUploadFiles(`input[aria-label="Back-up to restore"]`, []string{path}, chromedp.ByQuery))
	}
	choose(bad)
	w.until(`document.querySelector('[data-part=notice]')?.innerText.includes('no back-up')`)
	choose(good)
	w.until("%s", study("Study (2)"))
	w.until(`document.querySelector('[data-part=notice]')?.innerText.includes('Restored “Study (2)”')`)
	w.desk.SetBackedUp(desk.BackedUp{Folder: "/var/backups/aftermath", At: time.Now(), Problem: "no space is left"})
	w.until(`document.querySelector('[aria-label=Back-ups] [role=alert]')?.innerText.includes('no space is left')`)
	w.axe("a back-up that could not be made")
}

// Back-ups and accounts by the command line, beside nothing else that runs.
func TestBackupAndUsersHeadless(t *testing.T) {
	t.Parallel()
	bin := build(t)
	top, err := os.MkdirTemp("", "aftermath-test-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(top, 0o755))
	t.Cleanup(func() { os.RemoveAll(top) })
	data := filepath.Join(top, "pg")
	server := start(t, bin, "demo", data)
	out := filepath.Join(t.TempDir(), "all.aftermath.zip")
	headless(t, backupCommand(), "--data", data, "--out", out)
	info, err := os.Stat(out)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	assert.Contains(t, headless(t, restoreCommand(), "--data", data, out), `"Larkmoor Ferries 2026 (2)", with 6000 respondents`)

	add := userCommand()
	add.SetIn(strings.NewReader("correct horse battery\n"))
	headless(t, add, "add", "Ada", "--admin", "--data", data)
	assert.Contains(t, headless(t, userCommand(), "list", "--data", data), "Ada\topen, admin")
	token := strings.TrimSpace(headless(t, tokenCommand(), "--data", data, "--user", "Ada", "--name", "test"))
	require.Eventually(t, func() bool {
		reply, err := http.Get(server.base + "/studies")
		if err != nil {
			return false
		}
		reply.Body.Close()
		return reply.StatusCode == http.StatusUnauthorized
	}, 20*time.Second, 50*time.Millisecond, "the server asks who is there by now")
	r, err := http.NewRequestWithContext(t.Context(), http.MethodGet, server.base+"/studies", nil)
	require.NoError(t, err)
	r.Header.Set("Authorization", "Bearer "+token)
	reply, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	defer reply.Body.Close()
	assert.Equal(t, http.StatusOK, reply.StatusCode)
	assert.Contains(t, headless(t, doctorCommand(), "--data", data, "--listen", strings.TrimSuffix(strings.TrimPrefix(server.base, "http://"), "/api/v1")), "database")
}
