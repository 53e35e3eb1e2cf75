package browser

import (
	"fmt"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
)

// middle finds the middle of what a selector finds, where it can be seen.
func (p *Person) middle(selector string) ([]float64, error) {
	return attempt(p, "find "+selector, fmt.Sprintf(`(() => {`+helpers+` const e = all(%q)[0]; if (!e) return null;
		e.scrollIntoView({block: 'nearest', inline: 'nearest'}); const r = e.getBoundingClientRect();
		return [r.x + r.width / 2, r.y + Math.min(r.height / 2, 40)]; })()`, selector), []float64(nil))
}

// Drag drags what a selector finds to what another one finds, by mouse or with a finger.
// What is held then, and what it is held over, are found by selectors, too.
func (p *Person) Drag(from, to, held, over string, finger bool) error {
	at, err := p.middle(from)
	if err != nil {
		return err
	}
	point := func(mouse input.DispatchMouseEventType, touch input.DispatchTouchEventType, x, y float64) error {
		if !finger {
			return p.do("move the mouse", chromedp.MouseEvent(mouse, x, y, chromedp.ButtonLeft))
		}
		points := []*input.TouchPoint{{X: x, Y: y}}
		if touch == input.DispatchTouchEventTypeTouchEnd {
			points = []*input.TouchPoint{}
		}
		return p.do("move a finger", call(input.DispatchTouchEvent, input.DispatchTouchEventParams{Type: touch, TouchPoints: points}))
	}
	move := func(x, y float64) error {
		return point(input.DispatchMouseEventTypeMouseMoved, input.DispatchTouchEventTypeTouchMove, x, y)
	}
	if err := point(input.DispatchMouseEventTypeMousePressed, input.DispatchTouchEventTypeTouchStart, at[0], at[1]); err != nil {
		return err
	}
	if !finger {
		if err := move(at[0]+10, at[1]+2); err != nil {
			return err
		}
	}
	if err := p.until("hold "+from, fmt.Sprintf(`document.querySelector(%q)`, held)); err != nil {
		return err
	}
	end, err := p.middle(to)
	if err != nil {
		return err
	}
	for step := 1.0; step <= 8; step++ {
		if err := move(at[0]+(end[0]-at[0])*step/8, at[1]+(end[1]-at[1])*step/8); err != nil {
			return err
		}
	}
	if err := p.until("be over "+to, fmt.Sprintf(`document.querySelector(%q)?.matches(%q)`, to, over)); err != nil {
		return err
	}
	return point(input.DispatchMouseEventTypeMouseReleased, input.DispatchTouchEventTypeTouchEnd, end[0], end[1])
}

// Carry holds what a selector finds with a finger, carries it to a place of the window, waits
// there until something is so, and lets it go.
func (p *Person) Carry(from, held string, x, y float64, what, condition string) error {
	at, err := p.middle(from)
	if err != nil {
		return err
	}
	touch := func(kind input.DispatchTouchEventType, points ...*input.TouchPoint) error {
		return p.do("move a finger", call(input.DispatchTouchEvent, input.DispatchTouchEventParams{Type: kind, TouchPoints: points}))
	}
	if err := touch(input.DispatchTouchEventTypeTouchStart, &input.TouchPoint{X: at[0], Y: at[1]}); err != nil {
		return err
	}
	if err := p.until("hold "+from, fmt.Sprintf(`document.querySelector(%q)`, held)); err != nil {
		return err
	}
	for step := 1.0; step <= 6; step++ {
		to := &input.TouchPoint{X: at[0] + (x-at[0])*step/6, Y: at[1] + (y-at[1])*step/6}
		if err := touch(input.DispatchTouchEventTypeTouchMove, to); err != nil {
			return err
		}
	}
	if err := p.until(what, condition); err != nil {
		return err
	}
	return touch(input.DispatchTouchEventTypeTouchEnd)
}

// Point points at what a selector finds: by mouse, or with a finger that touches it and goes.
func (p *Person) Point(selector string, finger bool) error {
	at, err := p.middle(selector)
	if err != nil {
		return err
	}
	if !finger {
		return p.do("move the mouse", chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, at[0], at[1]))
	}
	return p.do("touch "+selector,
		call(input.DispatchTouchEvent, input.DispatchTouchEventParams{Type: input.DispatchTouchEventTypeTouchStart,
			TouchPoints: []*input.TouchPoint{{X: at[0], Y: at[1]}}}),
		call(input.DispatchTouchEvent, input.DispatchTouchEventParams{Type: input.DispatchTouchEventTypeTouchEnd,
			TouchPoints: []*input.TouchPoint{}}))
}
