package blueprint

import (
	"fmt"
	"slices"
	"strings"
)

// AddChoiceList adds a choice list with its first choices, one a line.
type AddChoiceList struct {
	ID      string   `json:"id,omitempty"`
	Name    string   `json:"name"`
	Labels  string   `json:"labels"`
	Choices []string `json:"choices,omitempty"` // ids, in the order of the labels
}

func (c *AddChoiceList) fill(newID func() string) {
	fillID(&c.ID, newID)
	for range c.lines()[min(len(c.Choices), len(c.lines())):] {
		c.Choices = append(c.Choices, newID())
	}
}

func (c *AddChoiceList) lines() []string {
	var out []string
	for _, l := range strings.Split(c.Labels, "\n") {
		if l = strings.TrimSpace(l); l != "" {
			out = append(out, l)
		}
	}
	return out
}

func (c *AddChoiceList) apply(b *Blueprint) error {
	l := ChoiceList{ID: c.ID, Name: strings.TrimSpace(c.Name)}
	for i, label := range c.lines() {
		l.Choices = append(l.Choices, Choice{ID: c.Choices[i], Label: label})
	}
	if len(l.Choices) == 0 {
		return problem("Write at least one choice, each on a line of its own.")
	}
	b.Lists = append(b.Lists, l)
	return nil
}

// RenameChoiceList gives a choice list another name.
type RenameChoiceList struct {
	List string `json:"list"`
	Name string `json:"name"`
}

func (c *RenameChoiceList) apply(b *Blueprint) error {
	l := b.List(c.List)
	if l == nil {
		return gone("choice list")
	}
	l.Name = strings.TrimSpace(c.Name)
	return nil
}

// RemoveChoiceList removes a choice list that no field uses.
type RemoveChoiceList struct {
	List string `json:"list"`
}

func (c *RemoveChoiceList) apply(b *Blueprint) error {
	l := b.List(c.List)
	if l == nil {
		return gone("choice list")
	}
	var uses []string
	for _, t := range b.Tables {
		for _, f := range t.Fields {
			if f.List == l.ID {
				uses = append(uses, fmt.Sprintf("%s of %s", f.Name, t.Name))
			}
		}
	}
	if len(uses) > 0 {
		return problem("The choice list %s cannot be removed: it is used by %s. Change that first.", l.Name, joinWords(uses))
	}
	b.Lists = slices.DeleteFunc(b.Lists, func(x ChoiceList) bool { return x.ID == c.List })
	return nil
}

// AddChoice adds a choice at the end of a list.
type AddChoice struct {
	List  string `json:"list"`
	ID    string `json:"id,omitempty"`
	Label string `json:"label"`
}

func (c *AddChoice) fill(newID func() string) { fillID(&c.ID, newID) }

func (c *AddChoice) apply(b *Blueprint) error {
	l := b.List(c.List)
	if l == nil {
		return gone("choice list")
	}
	l.Choices = append(l.Choices, Choice{ID: c.ID, Label: strings.TrimSpace(c.Label)})
	return nil
}

// RenameChoice gives a choice another label. Records keep their choice;
// expressions that compare with the old label follow.
type RenameChoice struct {
	List   string `json:"list"`
	Choice string `json:"choice"`
	Label  string `json:"label"`
}

func (c *RenameChoice) apply(b *Blueprint) error {
	l := b.List(c.List)
	if l == nil || l.Choice(c.Choice) == nil {
		return gone("choice")
	}
	label := strings.TrimSpace(c.Label)
	if err := b.renameChoiceInExpressions(c.Choice, label); err != nil {
		return err
	}
	l.Choice(c.Choice).Label = label
	return nil
}

// RemoveChoice takes a choice from a list. Records that have it keep it, shown
// as removed, so that nothing is lost.
type RemoveChoice struct {
	List   string `json:"list"`
	Choice string `json:"choice"`
}

func (c *RemoveChoice) apply(b *Blueprint) error {
	l := b.List(c.List)
	if l == nil || l.Choice(c.Choice) == nil {
		return gone("choice")
	}
	if uses := b.usesOfChoice(c.Choice); len(uses) > 0 {
		return problem("The choice %s cannot be removed: it is used by %s. Change that first.", l.Choice(c.Choice).Label, joinWords(uses))
	}
	l.Choices = slices.DeleteFunc(l.Choices, func(x Choice) bool { return x.ID == c.Choice })
	return nil
}
