package blueprint

import (
	"fmt"
	"slices"
	"strings"

	"pinegate/core/expr"
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

// listChoice is how changes name a choice.
type listChoice struct {
	List   string `json:"list"`
	Choice string `json:"choice"`
}

func (c listChoice) find(b *Blueprint) (*ChoiceList, *Choice, error) {
	l := b.List(c.List)
	if l == nil || l.Choice(c.Choice) == nil {
		return nil, nil, gone("choice")
	}
	return l, l.Choice(c.Choice), nil
}

// MoveChoice puts a choice at another place in its list, counted from 0.
type MoveChoice struct {
	listChoice
	To int `json:"to"`
}

func (c *MoveChoice) apply(b *Blueprint) error {
	l, _, err := c.find(b)
	if err == nil {
		move(l.Choices, slices.IndexFunc(l.Choices, func(x Choice) bool { return x.ID == c.Choice }), c.To)
	}
	return err
}

// RetireChoice stops or starts offering a choice; records keep it.
type RetireChoice struct {
	listChoice
	Retired bool `json:"retired"`
}

func (c *RetireChoice) apply(b *Blueprint) error {
	_, ch, err := c.find(b)
	if err == nil {
		ch.Retired = c.Retired
	}
	return err
}

// MergeChoice takes a choice out of its list and gives the records that have
// it the choice Into. Expressions that compare with it follow.
type MergeChoice struct {
	listChoice
	Into string `json:"into"`
}

func (c *MergeChoice) apply(b *Blueprint) error {
	l, ch, err := c.find(b)
	if err != nil {
		return err
	}
	into := l.Choice(c.Into)
	if into == nil || into.ID == ch.ID {
		return problem("Say into which other choice of %s %s is merged.", l.Name, ch.Label)
	}
	if err := b.renameChoiceInExpressions(ch.ID, into.Label); err != nil {
		return err
	}
	if l.Merged == nil {
		l.Merged = map[string]string{}
	}
	for from, to := range l.Merged {
		if to == ch.ID {
			l.Merged[from] = into.ID
		}
	}
	l.Merged[ch.ID] = into.ID
	l.Choices = slices.DeleteFunc(l.Choices, func(x Choice) bool { return x.ID == c.Choice })
	return nil
}

// AddListColumn adds an extra column to a choice list.
type AddListColumn struct {
	List string     `json:"list"`
	ID   string     `json:"id,omitempty"`
	Name string     `json:"name"`
	Type ColumnType `json:"type"`
}

func (c *AddListColumn) fill(newID func() string) { fillID(&c.ID, newID) }

func (c *AddListColumn) apply(b *Blueprint) error {
	l := b.List(c.List)
	if l == nil {
		return gone("choice list")
	}
	name := strings.TrimSpace(c.Name)
	l.Columns = append(l.Columns, ListColumn{ID: c.ID, Key: l.columnKey(name, c.ID), Name: name, Type: c.Type})
	return nil
}

func (l *ChoiceList) columnKey(name, self string) string {
	return keyFor(name, "column", func(k string) bool {
		return slices.ContainsFunc(l.Columns, func(c ListColumn) bool { return c.Key == k && c.ID != self })
	})
}

// listColumn is how changes name a column of a choice list.
type listColumn struct {
	List   string `json:"list"`
	Column string `json:"column"`
}

func (c listColumn) find(b *Blueprint) (*ChoiceList, *ListColumn, error) {
	l := b.List(c.List)
	if l == nil || l.Column(c.Column) == nil {
		return nil, nil, gone("column")
	}
	return l, l.Column(c.Column), nil
}

// RenameListColumn gives a column another name and key; expressions follow.
type RenameListColumn struct {
	listColumn
	Name string `json:"name"`
}

func (c *RenameListColumn) apply(b *Blueprint) error {
	l, col, err := c.find(b)
	if err != nil {
		return err
	}
	name := strings.TrimSpace(c.Name)
	if err := checkName("A column", name); err != nil {
		return err
	}
	key := l.columnKey(name, col.ID)
	err = b.renameInExpressions(fieldRefs, func(r expr.Ref) string {
		switch {
		case r.Table != l.ID || r.Field != col.ID:
			return ""
		case r.Bracketed:
			return name
		}
		return key
	})
	col.Name, col.Key = name, key
	return err
}

// RemoveListColumn removes an extra column that no expression uses.
type RemoveListColumn struct {
	listColumn
}

func (c *RemoveListColumn) apply(b *Blueprint) error {
	l, col, err := c.find(b)
	if err != nil {
		return err
	}
	if uses := b.usesOfField(l.ID, col.ID); len(uses) > 0 {
		return problem("The column %s of %s cannot be removed: it is used by %s. Change that first.", col.Name, l.Name, joinWords(uses))
	}
	for i := range l.Choices {
		delete(l.Choices[i].Values, col.ID)
	}
	for i := range b.Pages {
		for _, x := range b.Pages[i].Blocks {
			if x.List != nil {
				x.List.Sort = strings.TrimSuffix(x.List.Sort, "."+col.ID)
			}
		}
	}
	l.Columns = slices.DeleteFunc(l.Columns, func(x ListColumn) bool { return x.ID == c.Column })
	return nil
}

// SetChoiceValue sets what an extra column holds for a choice; "" empties it.
type SetChoiceValue struct {
	listChoice
	Column string `json:"column"`
	Value  string `json:"value"`
}

func (c *SetChoiceValue) apply(b *Blueprint) error {
	_, ch, err := c.find(b)
	if err != nil {
		return err
	}
	if ch.Values == nil {
		ch.Values = map[string]string{}
	}
	ch.Values[c.Column] = strings.TrimSpace(c.Value)
	if ch.Values[c.Column] == "" {
		delete(ch.Values, c.Column)
	}
	return nil
}
