// Package schema plans how the database follows a blueprint: which statements
// bring the tables of one version to those of another, and what that does to
// the records, in sentences.
//
// Nothing is dropped. Tables and columns that the new version does not have
// are set aside under another name and come back with their values when a
// later version has them again.
package schema

import (
	"fmt"
	"maps"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
	"pinegate/core/words"
)

// Step is a part of a plan. Code names the message that tells it, with the number
// that Count finds as its argument n; a step without a Count always applies, and
// one without a message is not told. Loss tells that the values
// counted would no longer be seen; Sample finds some of them.
type Step struct {
	Code   string
	Args   words.Args
	Count  string
	Sample string
	Loss   bool
	Stop   bool // what is counted must be put right before the plan can run
	SQL    []string
}

// Told gives the text of the step for the number that its Count found.
func (s Step) Told(n int) string {
	args := words.Args{"n": n}
	maps.Copy(args, s.Args)
	return words.Say(s.Code, args)
}

func pairs(list ...any) words.Args { return words.New("", list...).Args }

// samples is how many of the values that would no longer be seen are told.
const samples = 5

// Plan is the way from one version of the tables to another. The steps belong
// into one transaction, in order.
type Plan struct{ Steps []Step }

// Aside tells which tables and columns stand set aside, by the names that they
// have then, qualified as schema-less "table" and "table.column".
type Aside map[string]bool

// TableAside is the name of a table that is set aside.
func TableAside(id string) string { return "gone_" + id }

// ColumnAside is the name of a column that is set aside.
func ColumnAside(f blueprint.Field) string {
	kind := strings.TrimSuffix(f.Type.Column(), "[]")
	switch f.Type {
	case blueprint.Choose:
		kind = "choice_" + f.List
	case blueprint.ChooseMany:
		kind = "choices_" + f.List
	case blueprint.Link:
		kind = "link_" + f.Target
	case blueprint.Links:
		kind = "links_" + f.Target
	case blueprint.Percent:
		kind = "percent"
	case blueprint.File, blueprint.Picture:
		kind = "files"
	}
	return "gone_" + f.ID + "_" + kind
}

// sameColumn tells whether two states of a field are held the same way.
func sameColumn(a, b blueprint.Field) bool {
	return holds(a) == holds(b) && ColumnAside(a) == ColumnAside(b)
}

// holding says where the values of a field are.
type holding int

const (
	nowhere  holding = iota // computed when asked for, or the other side of a link
	inColumn                // in a column of the table
	inLinks                 // in a table of links of its own
)

func holds(f blueprint.Field) holding {
	switch {
	case f.Type.Column() != "":
		return inColumn
	case f.Type == blueprint.Links && f.Of == "":
		return inLinks
	}
	return nowhere
}

type planner struct {
	schema        string
	before, after *blueprint.Blueprint
	was, now      *expr.Catalog
	plainWas      map[string]plainIndex
	plainNow      map[string]plainIndex
	aside         Aside
	made          map[string]bool // tables that are made by this plan
	plan          Plan
}

// Compare plans the way from before to after; before may be nil where there is
// nothing yet.
func Compare(schema string, before, after *blueprint.Blueprint, aside Aside) Plan {
	if before == nil {
		before = &blueprint.Blueprint{}
	}
	p := &planner{schema: schema, before: before, after: after, was: before.Catalog(), now: after.Catalog(), aside: aside,
		made: map[string]bool{}}
	p.plainWas, p.plainNow = plainIndexes(before, p.was), plainIndexes(after, p.now)
	p.dropDerived()
	p.setAside()
	p.rename()
	p.create()
	p.addColumns()
	p.mergeChoices()
	p.addDerived()
	p.hints()
	return p.plan
}

func (p *planner) table(name string) string { return query.Quote(p.schema) + "." + query.Quote(name) }

func (p *planner) add(s Step) {
	if s.Code != "" || len(s.SQL) > 0 {
		p.plan.Steps = append(p.plan.Steps, s)
	}
}

// setAside takes away what the new version does not have.
func (p *planner) setAside() {
	for i := range p.before.Tables {
		t := &p.before.Tables[i]
		now := p.after.Table(t.ID)
		if now == nil {
			step := Step{Code: "step-remove-table", Args: pairs("table", t.Name), Count: "SELECT count(*) FROM " + p.table(t.Key) +
				" WHERE deleted_at IS NULL", Loss: true}
			for _, f := range t.Fields {
				step.SQL = append(step.SQL, p.putAside(t, f)...)
			}
			step.SQL = append(step.SQL, fmt.Sprintf("ALTER TABLE %s RENAME TO %s", p.table(t.Key), query.Quote(TableAside(t.ID))),
				p.away(TableAside(t.ID)))
			p.add(step)
			continue
		}
		for _, f := range t.Fields {
			g := now.Field(f.ID)
			switch {
			case g == nil && holds(f) == nowhere:
				p.add(Step{Code: "step-remove-computed", Args: pairs("field", f.Name, "table", t.Name)})
			case g == nil:
				p.add(Step{Code: "step-remove-field", Args: pairs("field", f.Name, "table", t.Name),
					Count: p.countFilled(t, f), Loss: true, SQL: p.putAside(t, f)})
			case !sameColumn(f, *g):
				p.add(Step{SQL: p.putAside(t, f)})
			}
		}
	}
}

// putAside renames what holds the values of a field.
func (p *planner) putAside(t *blueprint.Table, f blueprint.Field) []string {
	switch holds(f) {
	case inColumn:
		return []string{p.renameColumn(t.Key, f.Key, ColumnAside(f)), p.away(t.ID + "." + ColumnAside(f))}
	case inLinks:
		return []string{fmt.Sprintf("ALTER TABLE %s RENAME TO %s", p.table(query.LinkTable(f.ID)), query.Quote(ColumnAside(f))),
			p.away(ColumnAside(f))}
	}
	return nil
}

// AsideTable keeps, in each environment, the names of [Aside]: the database itself
// would have to look through the columns of all apps for them.
const AsideTable = "_aside"

// AsideSQL makes that table.
func AsideSQL(schema string) string {
	return fmt.Sprintf("CREATE TABLE %s.%s (name text PRIMARY KEY)", query.Quote(schema), query.Quote(AsideTable))
}

// away notes that something stands set aside under a name.
func (p *planner) away(name string) string {
	return fmt.Sprintf("INSERT INTO %s VALUES (%s) ON CONFLICT DO NOTHING", p.table(AsideTable), query.Literal(name))
}

// back notes that it does not any more.
func (p *planner) back(name string) string {
	return fmt.Sprintf("DELETE FROM %s WHERE name = %s", p.table(AsideTable), query.Literal(name))
}

func (p *planner) renameColumn(table, from, to string) string {
	return fmt.Sprintf("ALTER TABLE %s RENAME COLUMN %s TO %s", p.table(table), query.Quote(from), query.Quote(to))
}

func (p *planner) countFilled(t *blueprint.Table, f blueprint.Field) string {
	if holds(f) == inLinks {
		return fmt.Sprintf("SELECT count(DISTINCT from_id) FROM %s", p.table(query.LinkTable(f.ID)))
	}
	return fmt.Sprintf("SELECT count(*) FROM %s WHERE deleted_at IS NULL AND %s IS NOT NULL", p.table(t.Key), query.Quote(f.Key))
}

// rename gives tables and columns their new names, over names in between so
// that two can swap theirs.
func (p *planner) rename() {
	var first, second Step
	for i := range p.before.Tables {
		t := &p.before.Tables[i]
		now := p.after.Table(t.ID)
		if now == nil {
			continue
		}
		for _, f := range t.Fields {
			g := now.Field(f.ID)
			if g == nil || !sameColumn(f, *g) || f.Name == g.Name && f.Key == g.Key {
				continue
			}
			p.add(Step{Code: "step-rename-field", Args: pairs("field", f.Name, "table", t.Name, "name", g.Name)})
			if f.Key != g.Key && (holds(f) == inColumn || p.isStored(p.was, t.ID, f.ID) && p.isStored(p.now, t.ID, f.ID) &&
				!p.changedDerived(t.ID, f.ID)) {
				first.SQL = append(first.SQL, p.renameColumn(t.Key, f.Key, "moving_"+f.ID))
				second.SQL = append(second.SQL, p.renameColumn(now.Key, "moving_"+f.ID, g.Key))
			}
		}
		if t.Key != now.Key {
			first.SQL = append(first.SQL, fmt.Sprintf("ALTER TABLE %s RENAME TO %s", p.table(t.Key), query.Quote("moving_"+t.ID)))
			second.SQL = append([]string{fmt.Sprintf("ALTER TABLE %s RENAME TO %s", p.table("moving_"+t.ID), query.Quote(now.Key))},
				second.SQL...)
			p.add(Step{Code: "step-rename-table", Args: pairs("table", t.Name, "name", now.Name)})
		}
	}
	p.add(first)
	p.add(second)
}

// inPlace tells whether the column of a field is made together with its table:
// it needs no other table, and nothing was set aside for it.
func (p *planner) inPlace(t *blueprint.Table, f blueprint.Field) bool {
	_, back := p.isAside(t, f)
	return holds(f) == inColumn && f.Type != blueprint.Link && f.Type != blueprint.AutoNumber && !back && p.made[t.ID]
}

// create makes the tables that are new, with those of their fields that are
// known already, or brings them back from where they were set aside.
//
// The fields stand before what the system keeps of each record, as reading a
// column means reading those before it.
func (p *planner) create() {
	for i := range p.after.Tables {
		t := &p.after.Tables[i]
		if p.before.Table(t.ID) != nil {
			continue
		}
		if aside := TableAside(t.ID); p.aside[aside] {
			p.add(Step{Code: "step-restore-table", Args: pairs("table", t.Name), Count: "SELECT count(*) FROM " + p.table(aside) +
				" WHERE deleted_at IS NULL",
				SQL: []string{fmt.Sprintf("ALTER TABLE %s RENAME TO %s", p.table(aside), query.Quote(t.Key)), p.back(aside)}})
			continue
		}
		p.made[t.ID] = true
		fields := ""
		for _, f := range t.Fields {
			if p.inPlace(t, f) {
				fields += fmt.Sprintf("\n\t%s %s,", query.Quote(f.Key), f.Type.Column())
			}
		}
		p.add(Step{Code: "step-add-table", Args: pairs("table", t.Name), SQL: []string{fmt.Sprintf(`CREATE TABLE %s (
	id uuid PRIMARY KEY,
	deleted_at timestamptz,%s
	created_at timestamptz(0) NOT NULL DEFAULT now(),
	changed_at timestamptz(0) NOT NULL DEFAULT now(),
	revision integer NOT NULL DEFAULT 1,
	created_by text NOT NULL,
	changed_by text NOT NULL
)`, p.table(t.Key), fields)}})
	}
}

// addColumns makes the columns that are new, brings back those that were set
// aside, and converts those whose type changed.
func (p *planner) addColumns() {
	for i := range p.after.Tables {
		t := &p.after.Tables[i]
		was := p.before.Table(t.ID)
		for _, f := range t.Fields {
			var old *blueprint.Field
			if was != nil {
				old = was.Field(f.ID)
			}
			switch {
			case old == nil && p.inPlace(t, f): // it is there already
			case old == nil:
				p.addColumn(t, was, f)
			case !sameColumn(*old, f):
				p.convert(t, was, *old, f)
			}
		}
	}
}

// addColumn adds the column of a field that the table did not have.
func (p *planner) addColumn(t, was *blueprint.Table, f blueprint.Field) {
	step := Step{}
	if was != nil {
		step.Code, step.Args = "step-add-field", pairs("field", f.Name, "table", t.Name)
		step.Count = "SELECT count(*) FROM " + p.table(was.Key) + " WHERE deleted_at IS NULL"
	}
	back, ok := p.isAside(t, f)
	switch {
	case holds(f) == nowhere:
	case ok && holds(f) == inLinks:
		step.SQL = []string{fmt.Sprintf("ALTER TABLE %s RENAME TO %s", p.table(back), query.Quote(query.LinkTable(f.ID))), p.back(back)}
	case ok:
		step.SQL = []string{p.renameColumn(t.Key, back, f.Key), p.back(t.ID + "." + back)}
	default:
		step.SQL = p.columnSQL(t, f)
	}
	p.add(step)
}

func (p *planner) isAside(t *blueprint.Table, f blueprint.Field) (string, bool) {
	name := ColumnAside(f)
	return name, holds(f) == inColumn && p.aside[t.ID+"."+name] || holds(f) == inLinks && p.aside[name]
}

// hints tells what does not change the tables but will be met by the people.
func (p *planner) hints() {
	for i := range p.before.Tables {
		t := &p.before.Tables[i]
		now := p.after.Table(t.ID)
		if now == nil {
			continue
		}
		for _, f := range t.Fields {
			g := now.Field(f.ID)
			if g == nil {
				continue
			}
			if g.Required && !f.Required {
				p.add(Step{Code: "step-required", Args: pairs("field", g.Name, "table", now.Name),
					Count: fmt.Sprintf("SELECT count(*) FROM %s WHERE deleted_at IS NULL AND %s IS NULL", p.table(t.Key),
						query.Quote(f.Key))})
			}
			if g.Type == blueprint.Choose && f.Type == g.Type && f.List == g.List {
				p.removedChoices(t, f)
			}
		}
	}
}

func (p *planner) removedChoices(t *blueprint.Table, f blueprint.Field) {
	was, now := p.before.List(f.List), p.after.List(f.List)
	for _, c := range was.Choices {
		if _, merged := now.Merged[c.ID]; now.Choice(c.ID) == nil && !merged {
			p.add(Step{Code: "step-removed-choice", Args: pairs("choice", c.Label, "field", f.Name, "table", t.Name),
				Count: fmt.Sprintf("SELECT count(*) FROM %s WHERE deleted_at IS NULL AND %s = %s", p.table(t.Key), query.Quote(f.Key),
					query.Literal(c.ID))})
		}
	}
}
