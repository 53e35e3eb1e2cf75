package page

import (
	"pinegate/core/blueprint"
	"pinegate/store/records"
)

// Heading is a heading as it is shown.
type Heading struct {
	Head
	Words
}

func headingReads(v *View, x *blueprint.HeadingBlock) ([]records.Read, error) {
	return v.reading(x.Text)
}

func showHeading(v *View, x *blueprint.HeadingBlock, got []records.Result) (*Heading, error) {
	w, err := v.filled(x.Text, got)
	return &Heading{Words: w}, err
}

// Text is a text as it is shown.
type Text struct {
	Head
	Words
}

func textReads(v *View, x *blueprint.TextBlock) ([]records.Read, error) { return v.reading(x.Text) }

func showText(v *View, x *blueprint.TextBlock, got []records.Result) (*Text, error) {
	w, err := v.filled(x.Text, got)
	return &Text{Words: w}, err
}

// Button is a button as it is shown; without a target it is not.
type Button struct {
	Head
	Words
	To   *Target `json:"to,omitempty"`
	Hint string  `json:"hint,omitempty"` // shown while it is pointed at
}

func buttonReads(v *View, x *blueprint.ButtonBlock) ([]records.Read, error) { return v.reading(x.Text) }

func showButton(v *View, x *blueprint.ButtonBlock, got []records.Result) (*Button, error) {
	w, err := v.filled(x.Text, got)
	return &Button{Words: w, To: v.target(x.Page), Hint: x.Hint}, err
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
