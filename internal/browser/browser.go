// Package browser drives a headless Chromium, for the tests of the interface and for its pictures.
package browser

import (
	"context"
	"fmt"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
)

// Width and Height of the window.
const (
	Width  = 1280
	Height = 800
)

// Start starts a browser with one page. What the page reports as an error is given to complain, which may be nil.
func Start(ctx context.Context, complain func(string)) (page context.Context, stop func(), err error) {
	options := append(
		chromedp.DefaultExecAllocatorOptions[:], chromedp.NoSandbox, chromedp.DisableGPU, chromedp.WindowSize(Width, Height),
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true),
		chromedp.Flag("force-color-profile", "srgb"), chromedp.Flag("hide-scrollbars", false), chromedp.Flag("lang", "en-GB"),
	)
	allocator, stopAllocator := chromedp.NewExecAllocator(ctx, options...)
	page, stopPage := chromedp.NewContext(allocator)
	if complain != nil {
		chromedp.ListenTarget(page, func(e any) {
			switch e := e.(type) {
			case *runtime.EventExceptionThrown:
				complain(e.ExceptionDetails.Error())
			case *runtime.EventConsoleAPICalled:
				if e.Type == runtime.APITypeError {
					text := "console:"
					for _, a := range e.Args {
						text += " " + string(a.Value) + a.Description
					}
					complain(text)
				}
			}
		})
	}
	stop = func() {
		stopPage()
		stopAllocator()
	}
	// The browser lives as long as the context it is first run with, so that may have no deadline.
	return page, stop, chromedp.Run(page)
}

// Size sets the size of the page.
func Size(width, height int64) chromedp.Action {
	return emulation.SetDeviceMetricsOverride(width, height, 1, false)
}

// Do carries actions out, and gives up after the deadline.
func Do(page context.Context, deadline time.Duration, actions ...chromedp.Action) error {
	ctx, cancel := context.WithTimeout(page, deadline)
	defer cancel()
	return chromedp.Run(ctx, actions...)
}

// Until waits until a JavaScript expression is true.
func Until(expression string) chromedp.Action {
	return chromedp.ActionFunc(func(ctx context.Context) error {
		// To look costs the page a layout: what is not there soon is looked for less often.
		for pause := 20 * time.Millisecond; ; pause = min(pause*5/4, 150*time.Millisecond) {
			var ok bool
			if err := chromedp.Evaluate("!!("+expression+")", &ok).Do(ctx); err == nil && ok {
				return nil
			}
			select {
			case <-ctx.Done():
				return fmt.Errorf("waiting for %s: %w", expression, ctx.Err())
			case <-time.After(pause):
			}
		}
	})
}

// Still waits until the page has been quiet: nothing asked of the server for a moment, and fonts loaded.
func Still() chromedp.Action {
	return chromedp.ActionFunc(func(ctx context.Context) error {
		time.Sleep(120 * time.Millisecond) // what was just pressed may not have asked yet
		const quiet = `document.fonts.status === 'loaded' && !document.querySelector('[data-part=skeleton], [aria-busy=true]') &&
			performance.now() - Math.max(0, ...performance.getEntriesByType('resource').map(r => r.responseEnd)) > 350`
		return Until(quiet).Do(ctx)
	})
}

// Key presses one key as a keyboard does: what the page prevents on the way down is not typed.
func Key(key string) chromedp.Action {
	return chromedp.ActionFunc(func(ctx context.Context) error {
		if err := input.DispatchKeyEvent(input.KeyDown).WithKey(key).WithText(key).Do(ctx); err != nil {
			return err
		}
		return input.DispatchKeyEvent(input.KeyUp).WithKey(key).Do(ctx)
	})
}
