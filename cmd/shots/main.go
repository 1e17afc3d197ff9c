// Command shots takes the pictures in docs/screenshots of a running demo.
package main

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"aftermath/internal/browser"
	"aftermath/internal/demo"
)

type shot struct {
	name, path string
	dark       bool
	then       []chromedp.Action
}

func main() {
	if len(os.Args) < 3 {
		fmt.Fprintln(os.Stderr, "usage: shots http://127.0.0.1:8420 FOLDER [NAME …]")
		os.Exit(2)
	}
	if err := run(os.Args[1], os.Args[2], os.Args[3:]); err != nil {
		fmt.Fprintln(os.Stderr, "shots:", err)
		os.Exit(1)
	}
}

func focus(conditions string) string { return "focus=" + url.QueryEscape(conditions) }

func press(text string) chromedp.Action {
	return chromedp.Evaluate(
		`[...document.querySelectorAll('main button, main a, main label')].find(b => b.textContent.includes(`+quoted(text)+`)).click()`,
		nil,
	)
}

func quoted(s string) string {
	b, _ := json.Marshal(s)
	return string(b)
}

// shots are the pictures, of the demo's first question; file is one to bring in.
func shots(question, file string) []shot {
	q := "/q/" + question
	return []shot{
		{name: "studies", path: "/"},
		{
			name: "load",
			path: "/",
			then: []chromedp.Action{
				chromedp.SetUploadFiles("input[type=file]", []string{file}, chromedp.ByQuery),
				browser.Until(`document.querySelector('[data-part=columns]')`),
			},
		},
		{name: "data", path: q + "/data", then: []chromedp.Action{press("passenger type")}},
		{
			name: "variable",
			path: q + "/data",
			then: []chromedp.Action{
				press("recommend"), browser.Still(), press("Make a variable"), browser.Still(), press("0 to 6"), browser.Still(),
				chromedp.Evaluate(`document.querySelector('[data-part=making]').scrollIntoView({block: 'end'})`, nil),
			},
		},
		{
			name: "clean", path: q + "/clean",
			then: []chromedp.Action{browser.Until(`!document.querySelector('main').innerText.includes('Checking the order')`)},
		},
		{name: "terms", path: q + "/terms", then: []chromedp.Action{press("queue")}},
		{
			name: "clouds",
			path: q + "/terms?tab=compare&as=clouds&seg=passenger+type&a=Commuter&b=Tourist",
			then: []chromedp.Action{browser.Until(`document.querySelector('[data-drawing=cloud] text')`)},
		},
		{name: "network", path: q + "/terms?tab=network", then: []chromedp.Action{browser.Until(`document.querySelector('[data-part=node]')`)}},
		{name: "lexicon", path: q + "/terms?tab=lexicon"},
		{
			name: "code",
			path: q + "/code?category=c2",
			then: []chromedp.Action{press("Add a rule"), browser.Until(`document.querySelector('.cm-content')`),
				chromedp.SendKeys(
					".cm-content", "car / foot passenger +6w line / lane", chromedp.ByQuery,
				), browser.Until(`document.querySelector('[data-part=evidence]')`)},
		},
		{
			name: "code-drafts",
			path: q + "/code?tab=drafts",
			then: []chromedp.Action{browser.Until(`document.querySelector('[data-part=suggestion]')`), chromedp.KeyEvent(kb.ArrowDown)},
		},
		{
			name: "code-health",
			path: q + "/code?tab=health",
			then: []chromedp.Action{browser.Until(`document.querySelector('[data-part=matrix] button')`),
				chromedp.Evaluate(
					`document.querySelectorAll('[data-part=matrix] button')[2].click(); document.querySelector('[data-part=matrix]').scrollIntoView({block: 'start'})`,
					nil,
				)},
		},
		{name: "review", path: q + "/review", then: []chromedp.Action{
			browser.Until(`document.querySelector('[aria-label="Groups of what is left"] li')`), browser.Key("j"),
		}},
		{name: "review-one", path: q + "/review?way=likely", then: []chromedp.Action{
			browser.Until(`document.querySelector('[data-part=likely]')`), browser.Key("j"), browser.Key("j"), browser.Still(), browser.Key("w"),
		}},
		{name: "chart", path: q + "/chart?by=passenger+type", then: []chromedp.Action{
			chromedp.Evaluate(`document.querySelectorAll('[data-part=bars] tbody tr')[1].querySelectorAll('button')[2].click()`, nil)}},
		{
			name: "chart-table",
			path: q + "/chart?by=route&as=table&weighted=1&" + focus(
				`[{"kind":"variable","name":"wave","op":"=","values":["Autumn 2026"]}]`,
			),
		},
		{name: "report", path: q + "/report"},
		{name: "terms-dark", path: q + "/terms?way=branches", dark: true, then: []chromedp.Action{press("wifi")}},
		// The last, since it edits.
		{
			name: "code-revisions",
			path: q + "/code?tab=revisions",
			then: []chromedp.Action{chromedp.Evaluate(revised(question), nil, awaited),
				chromedp.Evaluate(
					`location.search = '?tab=revisions&from=%3Dsent%20to%20client'`, nil,
				), browser.Until(`document.querySelector('[aria-label="What lies between"] tbody button')`), browser.Still(),
				chromedp.Evaluate(`document.querySelector('[aria-label="What lies between"] tbody button').click()`, nil)},
		},
	}
}

func awaited(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) }

// revised is a script that names a state of the frame and then changes it.
func revised(question string) string {
	return `(async () => {
		const base = '/api/v1/questions/` + question + `';
		const post = (path, body) => fetch(base + path, {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify(body)}).then(r => r.json());
		let {revision} = await fetch(base).then(r => r.json());
		const edit = async e => ({revision} = await post('/edits', {revision, edit: e}));
		await edit({kind: 'rule', category: 'c2', rule: 'long +3w line'});
		await post('/states', {name: 'sent to client'});
		await edit({kind: 'rule', category: 'c2', was: 'queue / wait - train', rule: 'queue / wait'});
		await edit({kind: 'add category', name: 'Seats and sockets', rules: ['seats / sockets / tables / plug']});
	})()`
}

func run(base, folder string, only []string) error {
	question, err := firstQuestion(base)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(folder, 0o755); err != nil {
		return err
	}
	dir, err := os.MkdirTemp("", "aftermath-shots-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	if err := demo.Write(dir, demo.Make(demo.Seed, demo.Respondents)); err != nil {
		return err
	}
	page, stop, err := browser.Start(context.Background(), func(s string) { fmt.Fprintln(os.Stderr, "page:", s) })
	defer stop()
	if err != nil {
		return err
	}
	for _, s := range shots(question, filepath.Join(dir, "larkmoor.csv")) {
		if len(only) > 0 && !strings.Contains(" "+strings.Join(only, " ")+" ", " "+s.name+" ") {
			continue
		}
		paper := map[bool]string{false: "light", true: "dark"}[s.dark]
		actions := []chromedp.Action{browser.Size(browser.Width, browser.Height), chromedp.Navigate(base + "/"),
			chromedp.Evaluate(
				`localStorage.setItem('first steps', 'left'); localStorage.setItem('paper', '`+paper+`')`, nil,
			), chromedp.Navigate(base + s.path), browser.Until(`document.querySelector('main h1') && !document.querySelector('[data-part=skeleton]')`), browser.Still()}
		actions = append(actions, s.then...)
		var png []byte
		actions = append(actions, browser.Still(), chromedp.CaptureScreenshot(&png))
		if err := browser.Do(page, 60*time.Second, actions...); err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		if err := os.WriteFile(filepath.Join(folder, s.name+".png"), png, 0o644); err != nil {
			return err
		}
	}
	return nil
}

// firstQuestion finds the demo's first question.
func firstQuestion(base string) (string, error) {
	c := http.Client{Timeout: 20 * time.Second}
	r, err := c.Get(base + "/api/v1/studies")
	if err != nil {
		return "", err
	}
	defer r.Body.Close()
	data, err := io.ReadAll(r.Body)
	if err != nil {
		return "", err
	}
	var studies []struct {
		Questions []struct {
			ID json.Number `json:"id"`
		} `json:"questions"`
	}
	if err := json.Unmarshal(data, &studies); err != nil || len(studies) == 0 {
		return "", fmt.Errorf("no study is there: %w", err)
	}
	return studies[0].Questions[0].ID.String(), nil
}
