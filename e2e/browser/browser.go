// Package browser drives headless Chromium as a person would.
package browser

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Patience is how long a condition is waited for.
const Patience = 40 * time.Second

// Browser is a running Chromium with a profile of its own.
type Browser struct {
	ctx   context.Context
	close func()
}

// Open starts Chromium.
func Open(ctx context.Context) (*Browser, error) {
	path, err := exec.LookPath("chromium")
	if err != nil {
		return nil, errors.New("no Chromium is installed: install Debian's package chromium")
	}
	profile, err := os.MkdirTemp("", "pinegate-browser-")
	if err != nil {
		return nil, fmt.Errorf("make profile: %w", err)
	}
	options := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.ExecPath(path), chromedp.UserDataDir(profile), chromedp.NoSandbox,
		chromedp.DisableGPU,
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true), chromedp.Flag("hide-scrollbars", true),
		chromedp.Flag("lang", "en-GB"), chromedp.WindowSize(1280, 800))
	alloc, stopAlloc := chromedp.NewExecAllocator(ctx, options...)
	browser, stop := chromedp.NewContext(alloc)
	b := &Browser{ctx: browser, close: func() {
		stop()
		stopAlloc()
		_ = os.RemoveAll(profile) // Chromium may still be writing to it; it is in the temporary folder
	}}
	if err := chromedp.Do(browser); err != nil {
		b.close()
		return nil, fmt.Errorf("start Chromium: %w", err)
	}
	return b, nil
}

// Close ends Chromium.
func (b *Browser) Close() { b.close() }

// Person is a visitor with cookies of their own, in one tab.
type Person struct {
	ctx   context.Context
	close func()
	base  string
}

// Person opens a tab for a new visitor of the server at the base address.
func (b *Browser) Person(base string) (*Person, error) {
	tab, stop := chromedp.NewContext(b.ctx, chromedp.WithNewBrowserContext())
	p := &Person{ctx: tab, close: stop, base: base}
	// the tab lives as long as the context of its first step, so that one has no deadline
	if err := chromedp.Do(tab); err != nil {
		stop()
		return nil, fmt.Errorf("open a tab: %w", err)
	}
	return p, p.Size(1280, 800)
}

// Close closes the tab.
func (p *Person) Close() { p.close() }

// step runs an action with patience.
func step[T any](p *Person, what string, action chromedp.Action[T]) (T, error) {
	ctx, cancel := context.WithTimeout(p.ctx, Patience)
	defer cancel()
	out, err := chromedp.Run(ctx, action)
	if err != nil {
		return out, fmt.Errorf("%s: %w", what, err)
	}
	return out, nil
}

// do runs actions that give nothing, with patience.
func (p *Person) do(what string, actions ...chromedp.Action[chromedp.Void]) error {
	_, err := step(p, what, chromedp.Steps(actions...))
	return err
}

// call runs a command of the browser.
func call[P, R any](command cdp.Command[P, R], params P) chromedp.Action[chromedp.Void] {
	return chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		_, err := chromedp.Call(ctx, command, params)
		return err
	})
}

// Size sets the size of the window.
func (p *Person) Size(width, height int64) error {
	return p.do("resize", call(emulation.SetDeviceMetricsOverride,
		emulation.SetDeviceMetricsOverrideParams{Width: width, Height: height, DeviceScaleFactor: 1, Mobile: width < 600}))
}

// offline are the parameters of the command by which a network is lost; -1 is as fast as it is.
type offline struct {
	Offline            bool    `json:"offline"`
	Latency            float64 `json:"latency"`
	DownloadThroughput float64 `json:"downloadThroughput"`
	UploadThroughput   float64 `json:"uploadThroughput"`
}

// Offline takes the network away, or gives it back.
func (p *Person) Offline(is bool) error {
	emulate := cdp.Command[offline, cdp.Empty]{Method: "Network.emulateNetworkConditions"}
	return p.do("lose the network", call(network.Enable, network.EnableParams{}), call(emulate, offline{is, 0, -1, -1}))
}

// Go opens an address of the server.
func (p *Person) Go(path string) error { return p.do("go to "+path, chromedp.Navigate(p.base+path)) }

// See waits until the words are shown, in the page or in a frame of it.
func (p *Person) See(words string) error {
	return p.until("see "+words, fmt.Sprintf(`texts().some(t => t.includes(%q))`, words))
}

// NotSee waits until the words are not shown.
func (p *Person) NotSee(words string) error {
	return p.until("not see "+words, fmt.Sprintf(`!texts().some(t => t.includes(%q))`, words))
}

// helpers are what the conditions are written with. Frames of our own origin
// are looked into, because the stage is one.
const helpers = `
	const documents = () => [document, ...[...document.querySelectorAll('iframe')].map(f => f.contentDocument).filter(Boolean)];
	const texts = () => documents().map(d => d.body ? d.body.innerText.replace(/\s+/g, ' ') : '');
	const visible = e => e.getClientRects().length > 0 && !e.disabled;
	const all = s => documents().flatMap(d => [...d.querySelectorAll(s)]).filter(visible);
	const named = e => (e.getAttribute('aria-label') || e.innerText || e.value || '').replace(/\s+/g, ' ').trim();
	const press = w => { const list = all('button, a, [role=button], [role=menuitem], [role=option], summary, label'); return list.find(e => named(e) === w) || list.find(e => named(e).startsWith(w)) || list.find(e => named(e).includes(w)); };
	const field = l => { for (const d of documents()) for (const x of d.querySelectorAll('label')) { if (!x.innerText.trim().startsWith(l)) continue; const c = x.control || d.getElementById(x.htmlFor); if (c && visible(c)) return c; } return all('[aria-label="' + l + '"], [placeholder="' + l + '"]')[0]; };
`

// until waits for a condition in JavaScript. While a page changes there is
// nothing to ask; such errors count as not yet.
func (p *Person) until(what, condition string) error {
	_, err := attempt(p, what, `(() => {`+helpers+` return Boolean(`+condition+`) || null; })()`, false)
	return err
}

// attempt evaluates a script again and again until it gives something.
func attempt[T any](p *Person, what, script string, _ T) (T, error) {
	ticker := time.NewTicker(40 * time.Millisecond)
	defer ticker.Stop()
	patience := time.After(Patience)
	for {
		out, err := step(p, what, chromedp.Evaluate[*T](script, chromedp.EvalAwaitPromise))
		if err == nil && out != nil {
			return *out, nil
		}
		select {
		case <-ticker.C:
		case <-patience:
			text, textErr := step(p, "read page",
				chromedp.Evaluate[string](`(() => {`+helpers+` return location.pathname + ': ' + texts().join(' | '); })()`))
			var none T
			return none, errors.Join(err, textErr, fmt.Errorf("waited in vain to %s; the page says: %.1500s", what, text))
		case <-p.ctx.Done():
			var none T
			return none, p.ctx.Err()
		}
	}
}

// act finds an element by an expression and does something with it.
func (p *Person) act(what, find, do string) error {
	_, err := attempt(p, what, `(() => {`+helpers+` const e = `+find+`; if (!e) return null; `+do+`; return true; })()`, false)
	return err
}

// Press presses a button, link or menu item by its words. The mouse moves
// there for real, so that what covers it or hides it is noticed.
func (p *Person) Press(words string) error {
	return p.press("press "+words, fmt.Sprintf(`press(%q)`, words))
}

// PressAt presses what a selector finds.
func (p *Person) PressAt(selector string) error {
	return p.press("press at "+selector, fmt.Sprintf(`all(%q)[0]`, selector))
}

// PressIn presses the button with the words inside what a selector finds.
func (p *Person) PressIn(selector, words string) error {
	return p.press("press "+words+" in "+selector,
		fmt.Sprintf(`all(%q).flatMap(r => [...r.querySelectorAll('button, a, [role=button]')]).filter(visible).find(e => named(e) === %q || named(e).includes(%q))`, selector, words, words))
}

// press waits until what is to be pressed stands still and nothing covers it. Where it moves all the same before the
// mouse is there, it is pressed again.
func (p *Person) press(what, find string) error {
	script := `(async () => {` + helpers + `
		const found = () => ` + find + `;
		const place = () => { const e = found(); if (!e) return null; e.scrollIntoView({block: 'nearest', inline: 'nearest'});
			const r = e.getClientRects()[0]; return {e, x: r.x + Math.min(r.width / 2, 60), y: r.y + r.height / 2}; };
		const frame = () => new Promise(requestAnimationFrame);
		if (documents().some(d => d.readyState !== 'complete' || d.fonts.status !== "loaded")) return null;
		const before = place(); if (!before) return null;
		for (let i = 0; i < 6; i++) await frame();
		const now = place(); if (!now || now.e !== before.e || now.x !== before.x || now.y !== before.y) return null;
		const d = now.e.ownerDocument, isIt = x => [now.e, found()].some(e => e && (e.contains(x) || x.contains(e)));
		const hit = d.elementFromPoint(now.x, now.y);
		if (!hit || !isIt(hit)) return null;
		documents().forEach(d => { d.defaultView.missed = false;
			d.addEventListener('mousedown', e => { d.defaultView.missed = !isIt(e.target); }, {capture: true, once: true}); });
		const f = d.defaultView.frameElement, o = f ? f.getBoundingClientRect() : {x: 0, y: 0};
		return [now.x + o.x, now.y + o.y]; })()`
	for {
		at, err := attempt(p, what, script, []float64(nil))
		if err != nil {
			return err
		}
		err = p.do(what, chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, at[0], at[1]), chromedp.MouseClickXY(at[0], at[1]))
		if err != nil {
			return err
		}
		missed, err := step(p, what, chromedp.Evaluate[bool](`(() => {`+helpers+`
			return documents().some(d => d.defaultView.missed); })()`))
		if err != nil || !missed { // what was pressed may have led to another page, of which there is nothing to ask yet
			return nil
		}
	}
}

// Fill types into the field with the label, in place of what it held.
func (p *Person) Fill(label, text string) error {
	if err := p.act("fill in "+label, fmt.Sprintf(`field(%q)`, label),
		`e.scrollIntoView({block: 'nearest'}); e.focus(); if (e.select) e.select(); else if (e.isContentEditable) { const r = document.createRange(); r.selectNodeContents(e); getSelection().removeAllRanges(); getSelection().addRange(r); }`); err != nil {
		return err
	}
	if text == "" {
		return p.do("empty "+label, chromedp.KeyEvent(kb.Backspace))
	}
	return p.do("fill in "+label, call(input.InsertText, input.InsertTextParams{Text: text}))
}

// Drop gives a file with the content to the control for files that is shown.
func (p *Person) Drop(files map[string]string) error {
	bytes := map[string][]byte{} // written in base64
	for name, content := range files {
		bytes[name] = []byte(content)
	}
	raw, err := json.Marshal(bytes)
	if err != nil {
		return fmt.Errorf("write files: %w", err)
	}
	return p.act("give files", `document.querySelector('input[type=file]')`, `const d = new DataTransfer();
		for (const [name, data] of Object.entries(`+string(raw)+`)) d.items.add(new File([Uint8Array.from(atob(data), c => c.charCodeAt(0))], name));
		e.files = d.files; e.dispatchEvent(new Event('change', {bubbles: true}))`)
}

// Paste pastes a text into whatever has the focus.
func (p *Person) Paste(text string) error {
	return p.act("paste", "document.activeElement", fmt.Sprintf(`const d = new DataTransfer(); d.setData('text/plain', %q);
		e.dispatchEvent(new ClipboardEvent('paste', {clipboardData: d, bubbles: true, cancelable: true}))`, text))
}

// Choose picks an option, by its words, of the list with the label.
func (p *Person) Choose(label, option string) error {
	find := fmt.Sprintf(`(field(%q) && [...(field(%q).options || [])].some(o => o.text.includes(%q)) && field(%q))`, label, label, option,
		label)
	return p.act("choose "+option, find, fmt.Sprintf(`const o = [...e.options].find(o => o.text === %q) || [...e.options].find(o => o.text.includes(%q));
		Object.getOwnPropertyDescriptor(e.ownerDocument.defaultView.HTMLSelectElement.prototype, 'value').set.call(e, o.value); e.dispatchEvent(new Event('change', {bubbles: true}))`, option, option))
}

// Type sends keys to whatever has the focus.
func (p *Person) Type(keys string) error { return p.do("type", chromedp.KeyEvent(keys)) }

// Chord presses a key together with modifiers.
func (p *Person) Chord(key string, modifiers ...chromedp.Modifier) error {
	return p.do("press keys", chromedp.KeyEvent(key, chromedp.KeyModifiers(modifiers...)))
}

// Eval computes a JavaScript expression with the helpers at hand; promises are
// waited for.
func Eval[T any](p *Person, expression string) (T, error) {
	return step(p, "evaluate", chromedp.Evaluate[T](`(async () => {`+helpers+` return (`+expression+`); })()`, chromedp.EvalAwaitPromise))
}

// Until waits for a JavaScript condition, with the helpers at hand.
func (p *Person) Until(what, condition string) error { return p.until(what, condition) }

// Shot takes a picture of the window.
func (p *Person) Shot(file string) error {
	if _, err := Eval[bool](p, `document.fonts.ready.then(() => true)`); err != nil {
		return err
	}
	png, err := step(p, "take a picture", chromedp.CaptureScreenshot())
	if err != nil {
		return err
	}
	if err := os.MkdirAll(filepath.Dir(file), 0o755); err != nil {
		return fmt.Errorf("make folder: %w", err)
	}
	return os.WriteFile(file, png, 0o644)
}

// Path gives the address that is shown, without the server's own.
func (p *Person) Path() (string, error) {
	url, err := step(p, "read address", chromedp.Location())
	return strings.TrimPrefix(url, p.base), err
}
