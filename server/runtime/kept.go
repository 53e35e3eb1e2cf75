package runtime

import (
	"cmp"
	"context"
	"net/http"
	"strings"
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
	return cmp.Or(strings.ToLower(p.Seat.Viewer.Email), p.Seat.PersonID())
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
	browser := kept.Values{}
	for id, v := range p.Kept { // what the app keeps no more, or counts no more, goes
		if b.KeptValue(id) != nil && v.Until > p.Seat.Clock.Now.Unix() {
			browser[id] = v
		}
	}
	for id, text := range values {
		k := b.KeptValue(id)
		v := kept.Value{Text: text, Until: p.Seat.Clock.Now.Add(time.Duration(k.For()) * 24 * time.Hour).Unix()}
		switch {
		case k.Person && who != "":
			theirs[id] = v
		case text == "":
			delete(browser, id)
		default:
			browser[id] = v
		}
	}
	text, err := browser.Encode()
	if err == nil && len(text) > kept.Longest {
		err = words.New("kept-much")
	}
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
	return &keptOutput{[]http.Cookie{*h.KeptCookie(p, text)}}, nil
}
