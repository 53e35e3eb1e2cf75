package sentence

import (
	"fmt"

	"pinegate/core/blueprint"
)

// OfChange tells a change in the past tense, with the names that things had
// when it was made.
func OfChange(before, after *blueprint.Blueprint, c blueprint.Change) string {
	w := &history{before, after}
	switch c := c.(type) {
	case *blueprint.RenameApp:
		return fmt.Sprintf("Renamed the app to %s", after.Name)
	case *blueprint.SetTheme:
		return fmt.Sprintf("Gave the app the theme %s", c.Theme)
	case *blueprint.AddTable:
		return fmt.Sprintf("Added the table %s", w.table(c.ID))
	case *blueprint.RenameTable:
		return fmt.Sprintf("Renamed the table %s to %s", w.was().table(c.Table), w.table(c.Table))
	case *blueprint.RemoveTable:
		return fmt.Sprintf("Removed the table %s", w.table(c.Table))
	case *blueprint.SetLabel:
		return fmt.Sprintf("Set what a record of %s is known by", w.table(c.Table))
	case *blueprint.AddField:
		return fmt.Sprintf("Added the field %s, %s, to %s", w.field(c.Table, c.ID), typeWords[c.Type], w.table(c.Table))
	case *blueprint.RenameField:
		return fmt.Sprintf("Renamed the field %s of %s to %s", w.was().field(c.Table, c.Field), w.table(c.Table), w.field(c.Table, c.Field))
	case *blueprint.RemoveField:
		return fmt.Sprintf("Removed the field %s from %s", w.field(c.Table, c.Field), w.table(c.Table))
	case *blueprint.SetFieldType:
		return fmt.Sprintf("Made %s of %s %s", w.field(c.Table, c.Field), w.table(c.Table), typeWords[c.Type])
	case *blueprint.SetFieldSettings:
		return fmt.Sprintf("Set the limits of %s of %s", w.field(c.Table, c.Field), w.table(c.Table))
	case *blueprint.SetUniques:
		return fmt.Sprintf("Said which fields of %s are unique together", w.table(c.Table))
	case *blueprint.SetZone:
		return fmt.Sprintf("Set the time zone to %s", orElse(c.Zone, "UTC"))
	case *blueprint.SetRequired:
		return fmt.Sprintf("Said whether %s of %s must be filled in", w.field(c.Table, c.Field), w.table(c.Table))
	case *blueprint.SetHelp:
		return fmt.Sprintf("Set the hint of %s of %s", w.field(c.Table, c.Field), w.table(c.Table))
	case *blueprint.MoveField:
		return fmt.Sprintf("Moved the field %s of %s", w.field(c.Table, c.Field), w.table(c.Table))
	}
	if s := w.ofList(c); s != "" {
		return s
	}
	if s := w.ofRole(c); s != "" {
		return s
	}
	return w.ofPage(c)
}

// history finds names in the blueprint after a change, or before it for what
// the change removed.
type history struct{ before, after *blueprint.Blueprint }

func (w *history) was() *history { return &history{w.before, w.before} }

func (w *history) find(name func(*blueprint.Blueprint) string) string {
	if s := name(w.after); s != "" {
		return s
	}
	return name(w.before)
}

func (w *history) table(id string) string {
	return w.find(func(b *blueprint.Blueprint) string {
		if t := b.Table(id); t != nil {
			return t.Name
		}
		return ""
	})
}

func (w *history) field(table, id string) string {
	return w.find(func(b *blueprint.Blueprint) string {
		if t := b.Table(table); t != nil && t.Field(id) != nil {
			return t.Field(id).Name
		}
		return ""
	})
}

func (w *history) list(id string) string {
	return w.find(func(b *blueprint.Blueprint) string {
		if l := b.List(id); l != nil {
			return l.Name
		}
		return ""
	})
}

func (w *history) choice(list, id string) string {
	return w.find(func(b *blueprint.Blueprint) string {
		if l := b.List(list); l != nil && l.Choice(id) != nil {
			return l.Choice(id).Label
		}
		return ""
	})
}

func (w *history) role(id string) string {
	return w.find(func(b *blueprint.Blueprint) string {
		if r := b.Role(id); r != nil {
			return r.Name
		}
		return ""
	})
}

func (w *history) page(id string) string {
	return w.find(func(b *blueprint.Blueprint) string {
		if p := b.Page(id); p != nil {
			return p.Name
		}
		return ""
	})
}

func (w *history) block(page, id string) string {
	return w.find(func(b *blueprint.Blueprint) string {
		if p := b.Page(page); p != nil && p.Block(id) != nil {
			return string(p.Block(id).Kind)
		}
		return ""
	})
}

func (w *history) ofList(c blueprint.Change) string {
	switch c := c.(type) {
	case *blueprint.AddChoiceList:
		return fmt.Sprintf("Added the choice list %s", w.list(c.ID))
	case *blueprint.RenameChoiceList:
		return fmt.Sprintf("Renamed the choice list %s to %s", w.was().list(c.List), w.list(c.List))
	case *blueprint.RemoveChoiceList:
		return fmt.Sprintf("Removed the choice list %s", w.list(c.List))
	case *blueprint.AddChoice:
		return fmt.Sprintf("Added the choice %s to %s", w.choice(c.List, c.ID), w.list(c.List))
	case *blueprint.RenameChoice:
		return fmt.Sprintf("Renamed the choice %s of %s to %s", w.was().choice(c.List, c.Choice), w.list(c.List), w.choice(c.List, c.Choice))
	case *blueprint.RemoveChoice:
		return fmt.Sprintf("Removed the choice %s from %s", w.choice(c.List, c.Choice), w.list(c.List))
	case *blueprint.MoveChoice:
		return fmt.Sprintf("Moved the choice %s of %s", w.choice(c.List, c.Choice), w.list(c.List))
	case *blueprint.RetireChoice:
		if c.Retired {
			return fmt.Sprintf("Retired the choice %s of %s", w.choice(c.List, c.Choice), w.list(c.List))
		}
		return fmt.Sprintf("Offered the choice %s of %s again", w.choice(c.List, c.Choice), w.list(c.List))
	case *blueprint.MergeChoice:
		return fmt.Sprintf("Merged the choice %s of %s into %s", w.choice(c.List, c.Choice), w.list(c.List), w.choice(c.List, c.Into))
	case *blueprint.AddListColumn:
		return fmt.Sprintf("Added the column %s to %s", c.Name, w.list(c.List))
	case *blueprint.RenameListColumn:
		return fmt.Sprintf("Renamed a column of %s to %s", w.list(c.List), c.Name)
	case *blueprint.RemoveListColumn:
		return fmt.Sprintf("Removed a column from %s", w.list(c.List))
	case *blueprint.SetChoiceValue:
		return fmt.Sprintf("Set what %s of %s has in a column", w.choice(c.List, c.Choice), w.list(c.List))
	}
	return ""
}

func (w *history) ofRole(c blueprint.Change) string {
	switch c := c.(type) {
	case *blueprint.AddRole:
		return fmt.Sprintf("Added the role %s", w.role(c.ID))
	case *blueprint.RenameRole:
		return fmt.Sprintf("Renamed the role %s to %s", w.was().role(c.Role), w.role(c.Role))
	case *blueprint.RemoveRole:
		return fmt.Sprintf("Removed the role %s", w.role(c.Role))
	case *blueprint.SetPeople:
		return fmt.Sprintf("Set who %s are", w.role(c.Role))
	case *blueprint.SetPermission:
		what := "no records"
		switch c.Extent {
		case blueprint.AllRecords:
			what = "all records"
		case blueprint.Where:
			what = "records where " + plain(conditionWords(c.Condition, w.after.Role(c.Role).RuleScope(c.Table, w.after.Catalog())))
		}
		return fmt.Sprintf("Let %s %s %s of %s", w.role(c.Role), actionWords[c.Action], what, w.table(c.Table))
	case *blueprint.AddExpectation:
		return "Wrote down that it must hold: " + Expectation(w.after, w.after.Expectation(c.ID), w.after.Catalog())
	case *blueprint.RemoveExpectation:
		return "Stopped expecting something of a role"
	case *blueprint.SetGiven:
		return fmt.Sprintf("Set what is filled in when %s add to %s", w.role(c.Role), w.table(c.Table))
	case *blueprint.SetRoleCondition:
		return fmt.Sprintf("Set who has the role %s", w.role(c.Role))
	case *blueprint.SetAdmission:
		return fmt.Sprintf("Set who of %s is let in", w.role(c.Role))
	case *blueprint.SetSecondStep:
		return fmt.Sprintf("Set what else %s are asked for when they sign in", w.role(c.Role))
	case *blueprint.SetMatch:
		return fmt.Sprintf("Set by what %s are found", w.role(c.Role))
	case *blueprint.SetHome:
		return fmt.Sprintf("Let %s land on %s after signing in", w.role(c.Role), w.page(c.Page))
	case *blueprint.RemoveHome:
		return fmt.Sprintf("Set where %s land after signing in", w.role(c.Role))
	case *blueprint.SetSignUp:
		return fmt.Sprintf("Set how new %s come", w.role(c.Role))
	case *blueprint.SetProfile:
		return fmt.Sprintf("Set what %s find about themselves", w.role(c.Role))
	case *blueprint.SetWays:
		return "Set how people get in"
	case *blueprint.SetSession:
		return "Set how long people stay signed in"
	case *blueprint.SetSender:
		return "Set from whom mail comes"
	case *blueprint.SetGateWords:
		return "Reworded a screen of the gate"
	case *blueprint.SetGateMail:
		return "Reworded a mail: " + MailWords(c.Mail)
	case *blueprint.SetTerms:
		return "Set what people accept when they sign up"
	case *blueprint.SetFieldAccess:
		return fmt.Sprintf("Set which fields of %s %s see and set", w.table(c.Table), w.role(c.Role))
	}
	return ""
}

func (w *history) ofPage(c blueprint.Change) string {
	switch c := c.(type) {
	case *blueprint.AddPage:
		return fmt.Sprintf("Added the page %s", w.page(c.ID))
	case *blueprint.RenamePage:
		return fmt.Sprintf("Renamed the page %s to %s", w.was().page(c.Page), w.page(c.Page))
	case *blueprint.RemovePage:
		return fmt.Sprintf("Removed the page %s", w.page(c.Page))
	case *blueprint.MovePage:
		return fmt.Sprintf("Moved the page %s", w.page(c.Page))
	case *blueprint.SetAudience:
		return fmt.Sprintf("Opened the page %s to %s", w.page(c.Page), plain(audienceWords(w.after, w.after.Page(c.Page))))
	case *blueprint.SetInMenu:
		return fmt.Sprintf("Set whether the menu leads to %s", w.page(c.Page))
	case *blueprint.AddBlock:
		return fmt.Sprintf("Added a %s to the page %s", w.block(c.Page, c.ID), w.page(c.Page))
	case *blueprint.SetBlock:
		return fmt.Sprintf("Changed a %s on the page %s", w.block(c.Page, c.Block), w.page(c.Page))
	case *blueprint.RemoveBlock:
		return fmt.Sprintf("Removed a %s from the page %s", w.block(c.Page, c.Block), w.page(c.Page))
	case *blueprint.MoveBlock:
		return fmt.Sprintf("Moved a %s on the page %s", w.block(c.Page, c.Block), w.page(c.Page))
	}
	return "Changed the app"
}
