package page

import (
	"fmt"

	"pinegate/app/mark"
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/store/records"
)

// Heading is a heading as it is shown.
type Heading struct {
	Head
	Words
	Size string `json:"size,omitempty"`
}

func headingReads(v *View, x *blueprint.HeadingBlock) ([]records.Read, error) {
	return v.reading(x.Text)
}

func showHeading(v *View, x *blueprint.HeadingBlock, got []records.Result) (*Heading, error) {
	w, err := v.filled(x.Text, got)
	return &Heading{Words: w, Size: string(x.Size)}, err
}

// Text is a text as it is shown.
type Text struct {
	Head
	Words
	HTML string `json:"html"` // made of Markdown; what values hold is no Markdown
	Size string `json:"size,omitempty"`
}

func textReads(v *View, x *blueprint.TextBlock) ([]records.Read, error) { return v.reading(x.Text) }

func showText(v *View, x *blueprint.TextBlock, got []records.Result) (*Text, error) {
	w, err := v.filled(x.Text, got)
	if err != nil {
		return nil, err
	}
	marked, err := v.filledBy(x.Text, got, mark.Literal)
	if err != nil {
		return nil, err
	}
	out := &Text{Words: w, Size: string(x.Size)}
	out.HTML, err = v.inHTML(marked.Text)
	return out, err
}

// inHTML makes HTML of Markdown.
func (v *View) inHTML(text string) (string, error) { return mark.HTML(v.markdown(), text) }

// Button is a button as it is shown; without a target, and nothing to start, it is not.
type Button struct {
	Head
	Words
	To *Target `json:"to,omitempty"`
	// Starts tells that it is for a workflow, and Flow which, for who can start it now.
	Starts bool   `json:"starts,omitempty"`
	Flow   *Press `json:"flow,omitempty"`
	Hint   string `json:"hint,omitempty"` // shown while it is pointed at
}

// Press is a workflow that a button starts, and the record that is in hand.
type Press struct {
	ID     string `json:"id"`
	Record string `json:"record,omitempty"`
	// Asks is the path at which the form stands that is asked first, or "".
	Asks string `json:"asks,omitempty"`
}

func buttonReads(v *View, x *blueprint.ButtonBlock) ([]records.Read, error) {
	out, err := v.reading(x.Text)
	if err != nil {
		return nil, err
	}
	when, err := v.presses(x)
	if err != nil || when == nil {
		return out, err
	}
	return append(out, v.texts(v.bound(when))), nil
}

// presses gives the condition by which a button is there for a workflow that it starts; nil for none.
func (v *View) presses(x *blueprint.ButtonBlock) (*expr.Checked, error) {
	w := v.Seat.Blueprint.Workflow(x.Flow)
	if w == nil {
		return nil, nil
	}
	c, err := v.Seat.Blueprint.FlowWhen(w, v.Seat.Catalog)
	if err != nil {
		return nil, fmt.Errorf("read when a button on %s is there: %w", v.Page.Name, err)
	}
	return c, nil
}

func showButton(v *View, x *blueprint.ButtonBlock, got []records.Result) (*Button, error) {
	w, err := v.filled(x.Text, got)
	if err != nil {
		return nil, err
	}
	out := &Button{Words: w, Hint: x.Hint}
	if x.Flow == "" {
		out.To = v.target(x.Page)
		return out, nil
	}
	out.Starts = true
	when, err := v.presses(x)
	if err != nil {
		return nil, err
	}
	makesSense := true
	if when != nil {
		said := got[len(got)-1].Texts[0]
		makesSense = said != nil && *said == query.Yes
	}
	if w := v.Seat.Blueprint.Workflow(x.Flow); w != nil && makesSense && w.MayPress(v.Seat.Viewer.Founder, v.Seat.Viewer.Roles()) {
		out.Flow = &Press{ID: w.ID}
		if f := w.Asks(); f.Any() {
			out.Flow.Asks = f.ID()
		}
		if w.Starts.Trigger.(*blueprint.PressTrigger).Record != "" {
			out.Flow.Record = v.hand()
		}
	}
	return out, nil
}

// Group is a group of blocks as it is shown.
type Group struct {
	Head
	Look    string  `json:"look,omitempty"`
	Title   string  `json:"title"`
	Picture string  `json:"picture,omitempty"`
	Blocks  []Block `json:"blocks"`
}

func (g *Group) hold(inside []Block) { g.Blocks = inside }

func groupReads(v *View, x *blueprint.GroupBlock) ([]records.Read, error) { return v.reading(x.Title) }

func showGroup(v *View, x *blueprint.GroupBlock, got []records.Result) (*Group, error) {
	w, err := v.filled(x.Title, got)
	return &Group{Look: string(x.Look), Title: w.Text, Picture: x.Picture}, err
}
