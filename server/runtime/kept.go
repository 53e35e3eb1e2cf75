package runtime

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/words"
	"pinegate/store/kept"
	"pinegate/store/records"
)

// Remember reads what is kept for whoever sits here: in their browser, and for people who are
// signed in also under who they are, where the app keeps something so.
func (p *Place) Remember(ctx context.Context, book *kept.Book, browser string, now time.Time) error {
	b := p.Seat.Blueprint
	if len(b.Kept) == 0 {
		return nil
	}
	p.Kept = kept.Decode(browser)
	values := p.Kept.Now(now)
	if who := p.whose(); who != "" && keepsForPeople(b) {
		theirs, err := book.Of(ctx, p.App.ID, p.Seat.Schema, who)
		if err != nil {
			return err
		}
		for id := range values {
			if k := b.KeptValue(id); k != nil && k.Person {
				delete(values, id) // it is theirs, whoever used the browser before
			}
		}
		for id, text := range theirs.Now(now) {
			if k := b.KeptValue(id); k != nil && k.Person {
				values[id] = text
			}
		}
	}
	p.Seat.Kept = page.KeptNow(b, values)
	return nil
}

func keepsForPeople(b *blueprint.Blueprint) bool {
	for _, k := range b.Kept {
		if k.Person {
			return true
		}
	}
	return false
}

// whose names the person for whom values are kept; "" for visitors.
func (p *Place) whose() string {
	if !p.Seat.Viewer.SignedIn() {
		return ""
	}
	return p.Seat.KeptAs()
}

// KeepSent are values that are to be kept; null forgets one.
type KeepSent struct {
	Values records.Values `json:"values"`
}

type keepInput struct {
	Body KeepSent
}

type keptOutput struct {
	SetCookie []http.Cookie `header:"Set-Cookie"`
}

func (h *Handlers) registerKept(api huma.API) {
	handle(h, api, http.MethodPost, "/kept", "Keep values for whoever looks", h.keep)
}

func (h *Handlers) keep(ctx context.Context, p *Place, in *keepInput) (*keptOutput, error) {
	b := p.Seat.Blueprint
	values, err := page.Keeps(b, in.Body.Values)
	if err != nil {
		return nil, err
	}
	theirs, who := kept.Values{}, p.whose()
	browser := map[string]string{}
	for id, text := range values {
		if k := b.KeptValue(id); k.Person && who != "" {
			theirs[id] = p.until(k, text)
		} else {
			browser[id] = text
		}
	}
	cookie, err := h.inBrowser(p, browser)
	if err == nil && len(theirs) > 0 {
		err = p.writable()
	}
	if err == nil && len(theirs) > 0 && h.Gate != nil {
		err = h.Gate.AllowForm(ctx, p.App, p.From, p.person())
	}
	if err == nil && len(theirs) > 0 {
		err = h.Kept.Put(ctx, p.App.ID, p.Seat.Schema, who, theirs)
	}
	if err != nil {
		return nil, err
	}
	return &keptOutput{[]http.Cookie{*cookie}}, nil
}

// until gives a value with how long it counts.
func (p *Place) until(k *blueprint.Kept, text string) kept.Value {
	return kept.Value{Text: text, Until: p.Seat.Clock.Now.Add(time.Duration(k.For()) * 24 * time.Hour).Unix()}
}

// inBrowser gives the cookie that keeps values in a browser beside those that are there, by the ids of
// kept values; "" forgets one.
func (h *Handlers) inBrowser(p *Place, values map[string]string) (*http.Cookie, error) {
	b, browser := p.Seat.Blueprint, kept.Values{}
	for id, v := range p.Kept { // what the app keeps no more, or counts no more, goes
		if b.KeptValue(id) != nil && v.Until > p.Seat.Clock.Now.Unix() {
			browser[id] = v
		}
	}
	for id, text := range values {
		k := b.KeptValue(id)
		switch {
		case k == nil:
		case text == "":
			delete(browser, id)
		default:
			browser[id] = p.until(k, text)
		}
	}
	text, err := browser.Encode()
	if err == nil && len(text) > kept.Longest {
		err = words.New("kept-much")
	}
	if err != nil {
		return nil, err
	}
	return h.KeptCookie(p, text), nil
}

// keeping is an answer that may keep values in the browser.
type keeping[T any] struct {
	SetCookie []http.Cookie `header:"Set-Cookie"`
	Body      T
}

// kept keeps what workflows keep in the browser, with an answer.
func (h *Handlers) kept(p *Place, values map[string]string, at *[]http.Cookie) error {
	if len(values) == 0 {
		return nil
	}
	cookie, err := h.inBrowser(p, values)
	if err == nil {
		*at = []http.Cookie{*cookie}
	}
	return err
}
