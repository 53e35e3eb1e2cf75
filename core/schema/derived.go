package schema

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
)

// What can be made anew at any time, computed columns and indexes, is dropped
// and made as it is needed.

func catalogField(c *expr.Catalog, table, field string) *expr.Field {
	t := c.Tables[table]
	if t == nil {
		return nil
	}
	for _, f := range t.Fields {
		if f.ID == field {
			return f
		}
	}
	return nil
}

func (p *planner) isStored(c *expr.Catalog, table, field string) bool {
	f := catalogField(c, table, field)
	return f != nil && query.Stored(f)
}

// changedDerived tells whether a stored field is computed otherwise than
// before.
func (p *planner) changedDerived(table, field string) bool {
	a, b := catalogField(p.was, table, field), catalogField(p.now, table, field)
	return a == nil || b == nil || !query.Stored(a) || !query.Stored(b) || a.Type != b.Type || a.Computed.Meaning() != b.Computed.Meaning()
}

// uniqueIndex is an index that keeps values from being in two records.
type uniqueIndex struct {
	name   string
	table  *blueprint.Table
	fields []*blueprint.Field
}

// UniqueIndexes gives the names of the unique indexes of a table, with the ids
// of the fields that they are over.
func UniqueIndexes(t *blueprint.Table) map[string][]string {
	out := map[string][]string{}
	for _, x := range uniqueIndexes(t) {
		for _, f := range x.fields {
			out[x.name] = append(out[x.name], f.ID)
		}
	}
	return out
}

func uniqueIndexes(t *blueprint.Table) []uniqueIndex {
	var out []uniqueIndex
	add := func(fields []*blueprint.Field) {
		hash := sha256.New()
		for _, f := range fields {
			hash.Write([]byte(ColumnAside(*f) + "\n" + string(f.Type)))
		}
		out = append(out, uniqueIndex{"unique_" + t.ID + "_" + hex.EncodeToString(hash.Sum(nil))[:16], t, fields})
	}
	for i := range t.Fields {
		if t.Fields[i].Unique {
			add([]*blueprint.Field{&t.Fields[i]})
		}
	}
	for _, set := range t.Uniques {
		var fields []*blueprint.Field
		for _, id := range set {
			fields = append(fields, t.Field(id))
		}
		add(fields)
	}
	return out
}

func (x uniqueIndex) columns() string {
	var out []string
	for _, f := range x.fields {
		out = append(out, uniqueColumn(f))
	}
	return strings.Join(out, ", ")
}

// uniqueColumn gives what must differ: e-mail addresses whatever their case.
func uniqueColumn(f *blueprint.Field) string { return uniquely(f, query.Quote(f.Key)) }

func uniquely(f *blueprint.Field, value string) string {
	if f.Type == blueprint.Email {
		return "lower(" + value + ")"
	}
	return value
}

// TakenBy writes the statement that finds which records have values in fields that must differ already. Its arguments are the
// values of each field, as texts in the form in which they are stored; each row of its answer is a pair of the number of the
// values, from 1, and the id of the record. Through the index of the fields it takes no longer as the table grows.
func TakenBy(schema string, t *blueprint.Table, fields []string) string {
	var lists, names, same []string
	for i, id := range fields {
		f, name := t.Field(id), query.Quote(fmt.Sprint("~", i))
		lists, names = append(lists, fmt.Sprintf("$%d::text[]", i+1)), append(names, name)
		same = append(same, uniqueColumn(f)+" = "+uniquely(f, name+"::"+f.Type.Column()))
	}
	// no field is called as these are
	return fmt.Sprintf(`SELECT json_build_array("~n", id)::text FROM unnest(%s) WITH ORDINALITY x(%s, "~n") JOIN %s.%s ON %s`+
		" WHERE deleted_at IS NULL",
		strings.Join(lists, ", "), strings.Join(names, ", "), query.Quote(schema), query.Quote(t.Key), strings.Join(same, " AND "))
}

func (x uniqueIndex) names() string {
	var out []string
	for _, f := range x.fields {
		out = append(out, f.Name)
	}
	return strings.Join(out, " with ")
}

// dropDerived drops the computed columns and unique indexes that are not to be
// as they were.
func (p *planner) dropDerived() {
	p.dropPlain()
	for i := range p.before.Tables {
		t := &p.before.Tables[i]
		now := p.after.Table(t.ID)
		for _, f := range t.Fields {
			if p.isStored(p.was, t.ID, f.ID) && (now == nil || p.changedDerived(t.ID, f.ID)) {
				p.add(Step{SQL: []string{fmt.Sprintf("ALTER TABLE %s DROP COLUMN %s", p.table(t.Key), query.Quote(f.Key))}})
			}
		}
		for _, x := range uniqueIndexes(t) {
			if now == nil || !hasIndex(now, x.name) {
				p.add(Step{SQL: []string{"DROP INDEX " + p.table(x.name)}})
			}
		}
	}
}

func hasIndex(t *blueprint.Table, name string) bool {
	for _, x := range uniqueIndexes(t) {
		if x.name == name {
			return true
		}
	}
	return false
}

func (p *planner) addDerived() {
	p.addPlain()
	for i := range p.after.Tables {
		t := &p.after.Tables[i]
		was := p.before.Table(t.ID)
		for _, f := range t.Fields {
			if p.isStored(p.now, t.ID, f.ID) && (was == nil || p.changedDerived(t.ID, f.ID)) {
				p.addStored(t, was, f)
			}
			if old := fieldOf(was, f.ID); f.Type == blueprint.AutoNumber && old != nil && old.Type != f.Type && sameColumn(*old, f) {
				p.add(Step{SQL: p.numberSQL(t, f)})
			}
		}
		for _, x := range uniqueIndexes(t) {
			if was == nil || !hasIndex(was, x.name) {
				p.addUnique(x, was)
			}
		}
	}
}

func fieldOf(t *blueprint.Table, id string) *blueprint.Field {
	if t == nil {
		return nil
	}
	return t.Field(id)
}

func (p *planner) addStored(t, was *blueprint.Table, f blueprint.Field) {
	sql, columnType, err := query.StoredColumn(p.now, catalogField(p.now, t.ID, f.ID))
	if err != nil {
		return // it is computed when asked for instead
	}
	step := Step{SQL: []string{fmt.Sprintf("ALTER TABLE %s ADD COLUMN %s %s GENERATED ALWAYS AS (%s) STORED", p.table(t.Key),
		query.Quote(f.Key), columnType, sql)}}
	if old := fieldOf(was, f.ID); old != nil && old.Type.Computed() {
		step.Code, step.Args = "step-compute", pairs("field", f.Name, "table", t.Name)
		step.Count = "SELECT count(*) FROM " + p.table(was.Key) + " WHERE deleted_at IS NULL"
	}
	p.add(step)
}

func (p *planner) addUnique(x uniqueIndex, was *blueprint.Table) {
	step := Step{SQL: []string{fmt.Sprintf("CREATE UNIQUE INDEX %s ON %s (%s) WHERE deleted_at IS NULL", query.Quote(x.name),
		p.table(x.table.Key), x.columns())}}
	if was != nil && p.heldAlike(x, was) {
		var columns, filled []string
		for _, f := range x.fields {
			old := *was.Field(f.ID)
			old.Type = f.Type
			columns = append(columns, uniqueColumn(&old))
			filled = append(filled, query.Quote(old.Key)+" IS NOT NULL")
		}
		step.Code, step.Args = "step-unique", pairs("fields", x.names(), "table", x.table.Name)
		step.Count = fmt.Sprintf("SELECT count(*) FROM (SELECT 1 FROM %s WHERE deleted_at IS NULL AND %s GROUP BY %s HAVING count(*) > 1) q",
			p.table(was.Key), strings.Join(filled, " AND "), strings.Join(columns, ", "))
		step.Stop = true
	}
	p.add(step)
}

// heldAlike tells whether the fields of an index hold their values as before,
// so that they can be counted beforehand.
func (p *planner) heldAlike(x uniqueIndex, was *blueprint.Table) bool {
	for _, f := range x.fields {
		if old := was.Field(f.ID); old == nil || !sameColumn(*old, *f) {
			return false
		}
	}
	return true
}

// MergedTable keeps, in each environment, which records had a choice that was
// merged into another.
const MergedTable = "_merged"

// mergeChoices gives records the choice into which theirs was merged, or theirs
// back where that was undone.
func (p *planner) mergeChoices() {
	for _, l := range p.after.Lists {
		was := p.before.List(l.ID)
		if was == nil {
			continue
		}
		for from, into := range l.Merged {
			if was.Choice(from) != nil {
				p.eachChoice(l.ID, func(t *blueprint.Table, f, old blueprint.Field) {
					p.merge(t, f, old, was.Choice(from), l.Choice(into), into)
				})
			}
		}
		for from, into := range was.Merged {
			if l.Choice(from) != nil {
				p.eachChoice(l.ID, func(t *blueprint.Table, f, _ blueprint.Field) { p.unmerge(t, f, from, into) })
			}
		}
	}
}

// eachChoice walks over the fields that took their choices from the list before
// and do so now.
func (p *planner) eachChoice(list string, do func(t *blueprint.Table, f, old blueprint.Field)) {
	for i := range p.after.Tables {
		t := &p.after.Tables[i]
		for _, f := range t.Fields {
			if old := fieldOf(p.before.Table(t.ID), f.ID); f.List == list && old != nil && sameColumn(*old, f) {
				do(t, f, *old)
			}
		}
	}
}

func (p *planner) merge(t *blueprint.Table, f, old blueprint.Field, from, into *blueprint.Choice, id string) {
	column, a, b := query.Quote(f.Key), query.Literal(from.ID), query.Literal(id)
	has, set := column+" = "+a, b
	oldHas := query.Quote(old.Key) + " = " + a
	if f.Type == blueprint.ChooseMany {
		has, oldHas = a+" = ANY ("+column+")", a+" = ANY ("+query.Quote(old.Key)+")"
		set = fmt.Sprintf("array_replace(CASE WHEN %s = ANY (%s) THEN array_remove(%[2]s, %[3]s) ELSE %[2]s END, %[3]s, %[1]s)", b, column,
			a)
	}
	name := from.Label
	if into != nil {
		name = into.Label
	}
	merged := p.table(MergedTable)
	p.add(Step{Code: "step-merge", Args: pairs("table", t.Name, "field", f.Name, "choice", from.Label, "into", name),
		Count: fmt.Sprintf("SELECT count(*) FROM %s WHERE deleted_at IS NULL AND %s", p.table(p.before.Table(t.ID).Key), oldHas),
		SQL: []string{
			fmt.Sprintf("CREATE TABLE IF NOT EXISTS %s (field_id text, record_id uuid, choice text, PRIMARY KEY (field_id, record_id, choice))", merged),
			fmt.Sprintf("INSERT INTO %s SELECT %s, id, %s FROM %s WHERE %s ON CONFLICT DO NOTHING", merged, query.Literal(f.ID), a,
				p.table(t.Key), has),
			fmt.Sprintf("UPDATE %s SET %s = %s WHERE %s", p.table(t.Key), column, set, has),
		}})
}

func (p *planner) unmerge(t *blueprint.Table, f blueprint.Field, from, into string) {
	column, a, b := "r."+query.Quote(f.Key), query.Literal(from), query.Literal(into)
	has, set := column+" = "+b, a
	if f.Type == blueprint.ChooseMany {
		has, set = b+" = ANY ("+column+")", fmt.Sprintf("array_replace(%s, %s, %s)", column, b, a)
	}
	merged := p.table(MergedTable)
	p.add(Step{SQL: []string{
		fmt.Sprintf("CREATE TABLE IF NOT EXISTS %s (field_id text, record_id uuid, choice text, PRIMARY KEY (field_id, record_id, choice))",
			merged),
		fmt.Sprintf("UPDATE %s r SET %s = %s FROM %s m WHERE m.field_id = %s AND m.choice = %s AND m.record_id = r.id AND %s",
			p.table(t.Key), query.Quote(f.Key), set, merged, query.Literal(f.ID), a, has),
		fmt.Sprintf("DELETE FROM %s WHERE field_id = %s AND choice = %s", merged, query.Literal(f.ID), a),
	}})
}
