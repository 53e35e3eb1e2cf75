package schema

import (
	"fmt"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/query"
	"pinegate/core/words"
)

// columnSQL makes what holds the values of a field.
func (p *planner) columnSQL(t *blueprint.Table, f blueprint.Field) []string {
	target := p.after.Table(f.Target)
	if holds(f) == inLinks {
		return p.linkTableSQL(t, target, f)
	}
	column := fmt.Sprintf("ALTER TABLE %s ADD COLUMN %s %s", p.table(t.Key), query.Quote(f.Key), f.Type.Column())
	switch {
	case f.Type == blueprint.AutoNumber:
		return append([]string{column}, p.numberSQL(t, f)...)
	case f.Type == blueprint.Link && target != nil:
		return []string{
			column + fmt.Sprintf(" REFERENCES %s (id) ON DELETE SET NULL DEFERRABLE INITIALLY IMMEDIATE", p.table(target.Key)),
			fmt.Sprintf("CREATE INDEX ON %s (%s)", p.table(t.Key), query.Quote(f.Key)),
		}
	}
	return []string{column}
}

func (p *planner) linkTableSQL(t, target *blueprint.Table, f blueprint.Field) []string {
	name := p.table(query.LinkTable(f.ID))
	side := func(column string, of *blueprint.Table) string {
		return fmt.Sprintf("%s uuid NOT NULL REFERENCES %s (id) ON DELETE CASCADE DEFERRABLE INITIALLY IMMEDIATE", column, p.table(of.Key))
	}
	return []string{
		fmt.Sprintf("CREATE TABLE %s (%s, %s, PRIMARY KEY (from_id, to_id))", name, side("from_id", t), side("to_id", target)),
		fmt.Sprintf("CREATE INDEX ON %s (to_id, from_id)", name),
	}
}

// NumbersTable keeps, in each environment, the next number of each auto number.
const NumbersTable = "_numbers"

// Number gives the statements that number the records which have no number yet.
func Number(name string, t *blueprint.Table, f blueprint.Field) []string {
	return (&planner{schema: name}).numberSQL(t, f)
}

// numberSQL numbers the records that have no number yet, in the order of
// making, and keeps the next one.
func (p *planner) numberSQL(t *blueprint.Table, f blueprint.Field) []string {
	numbers := p.table(NumbersTable)
	return []string{
		fmt.Sprintf("CREATE TABLE IF NOT EXISTS %s (field_id text PRIMARY KEY, next bigint NOT NULL)", numbers),
		fmt.Sprintf("INSERT INTO %s VALUES (%s, %d) ON CONFLICT DO NOTHING", numbers, query.Literal(f.ID), f.First),
		fmt.Sprintf(`WITH numbered AS (UPDATE %[1]s r SET %[2]s = q.number FROM (SELECT x.id, %[3]s || lpad(n::text, GREATEST(%[4]d, length(n::text)), '0') AS number
			FROM (SELECT id, (SELECT next FROM %[5]s WHERE field_id = %[6]s) + row_number() OVER (ORDER BY id) - 1 AS n FROM %[1]s WHERE %[2]s IS NULL) x) q WHERE q.id = r.id RETURNING 1)
			UPDATE %[5]s SET next = next + (SELECT count(*) FROM numbered) WHERE field_id = %[6]s`,
			p.table(t.Key), query.Quote(f.Key), query.Literal(f.Prefix), f.Width, numbers, query.Literal(f.ID)),
	}
}

// convert moves the values of a field whose type changed into a new column.
// The old column stays set aside, so that changing back gives the old values
// where the new ones were not edited.
func (p *planner) convert(t, was *blueprint.Table, old, f blueprint.Field) {
	turns := pairs("field", f.Name, "table", t.Name, "type", f.Type.Row().Words)
	switch {
	case holds(f) == nowhere && holds(old) == nowhere:
		p.add(Step{Code: "step-convert", Args: turns})
		return
	case holds(f) == nowhere:
		p.add(Step{Code: "step-convert-hide", Args: turns, Count: p.countFilled(was, old), Loss: true})
		return
	case holds(old) == nowhere:
		p.addColumn(t, nil, f)
		p.add(Step{Code: "step-convert-empty", Args: turns})
		return
	case holds(old) == inLinks || holds(f) == inLinks:
		p.convertLinks(t, was, old, f, turns)
		return
	}
	stuck := fmt.Sprintf("FROM %s WHERE deleted_at IS NULL AND %s IS NOT NULL AND (%s) IS NULL",
		p.table(was.Key), query.Quote(old.Key), p.conversion(query.Quote(old.Key), old, f, p.before))
	step := Step{Code: "step-convert-values", Args: turns, Loss: true,
		Count:  "SELECT count(*) " + stuck,
		Sample: fmt.Sprintf("SELECT DISTINCT left(%s, 60) %s LIMIT %d", p.asText(query.Quote(old.Key), old, p.before), stuck, samples)}
	from := query.Quote(ColumnAside(old))
	value := p.conversion(from, old, f, p.after)
	if back, ok := p.isAside(t, f); ok {
		step.SQL = []string{p.renameColumn(t.Key, back, f.Key), p.back(t.ID + "." + back)}
		unchanged := fmt.Sprintf("(%s) IS NOT DISTINCT FROM %s", p.conversion(query.Quote(f.Key), f, old, p.after), from)
		value = fmt.Sprintf("CASE WHEN %s THEN %s ELSE %s END", unchanged, query.Quote(f.Key), value)
	} else {
		step.SQL = p.columnSQL(t, f)
	}
	step.SQL = append(step.SQL, fmt.Sprintf("UPDATE %s r SET %s = %s", p.table(t.Key), query.Quote(f.Key), value))
	p.add(step)
}

// convertLinks turns a link to one into links to many, or the other way round;
// several links become the first.
func (p *planner) convertLinks(t, was *blueprint.Table, old, f blueprint.Field, turns words.Args) {
	same := old.Target == f.Target
	p.addColumn(t, nil, f)
	switch {
	case old.Type == blueprint.Link && f.Type == blueprint.Links && same:
		p.add(Step{Code: "step-convert-links", Args: turns,
			SQL: []string{fmt.Sprintf("INSERT INTO %s SELECT id, %s FROM %s WHERE %[2]s IS NOT NULL ON CONFLICT DO NOTHING",
				p.table(query.LinkTable(f.ID)), query.Quote(ColumnAside(old)), p.table(t.Key))}})
	case old.Type == blueprint.Links && f.Type == blueprint.Link && same:
		p.add(Step{Code: "step-convert-first", Args: turns, Loss: true,
			Count: fmt.Sprintf("SELECT count(*) FROM (SELECT 1 FROM %s GROUP BY from_id HAVING count(*) > 1) q",
				p.table(query.LinkTable(old.ID))),
			SQL: []string{fmt.Sprintf("UPDATE %s r SET %s = (SELECT min(l.to_id::text)::uuid FROM %s l WHERE l.from_id = r.id)",
				p.table(t.Key), query.Quote(f.Key), p.table(ColumnAside(old)))}})
	default:
		p.add(Step{Code: "step-convert-records", Args: turns, Loss: true, Count: p.countFilled(was, old)})
	}
}

// conversion gives the SQL that turns a column into another type, NULL where
// a value cannot be turned. The tables are named as they are in the blueprint
// given.
func (p *planner) conversion(column string, from, to blueprint.Field, names *blueprint.Blueprint) string {
	a, b := from.Type.Column(), to.Type.Column()
	choices := from.Type == blueprint.Choose || to.Type == blueprint.Choose
	switch {
	case from.Type.Filed() || to.Type.Filed():
		return "NULL::" + b
	case a == "text" && b == "text" && !choices:
		return column
	case from.Type == blueprint.Percent && b == "numeric":
		return column + " * 100"
	case to.Type == blueprint.Percent && a == "numeric":
		return column + " / 100"
	case from.Type == blueprint.Date && to.Type == blueprint.TimeStamp:
		return fmt.Sprintf("%s::timestamp AT TIME ZONE %s", column, query.Literal(p.after.Location().String()))
	case from.Type == blueprint.TimeStamp && to.Type == blueprint.Date:
		return fmt.Sprintf("(%s AT TIME ZONE %s)::date", column, query.Literal(p.after.Location().String()))
	case from.Type == blueprint.Choose && to.Type == blueprint.ChooseMany && from.List == to.List:
		return "ARRAY[" + column + "]"
	case from.Type == blueprint.ChooseMany && to.Type == blueprint.Choose && from.List == to.List:
		return fmt.Sprintf("CASE WHEN cardinality(%s) = 1 THEN %[1]s[1] END", column)
	}
	return p.fromText(p.asText(column, from, names), to, names)
}

// fromText gives the SQL that reads a type from text.
func (p *planner) fromText(text string, to blueprint.Field, names *blueprint.Blueprint) string {
	switch to.Type {
	case blueprint.Number, blueprint.Money, blueprint.Duration:
		return "pinegate.text_to_number(" + text + ")"
	case blueprint.Percent:
		return "pinegate.text_to_number(rtrim(" + text + ", ' %')) / 100"
	case blueprint.Date:
		return "pinegate.text_to_date(left(" + text + ", 10))"
	case blueprint.TimeStamp:
		return fmt.Sprintf("pinegate.text_to_date(left(%s, 10))::timestamp AT TIME ZONE %s", text,
			query.Literal(p.after.Location().String()))
	case blueprint.YesNo:
		return "pinegate.text_to_yes_no(" + text + ")"
	case blueprint.Choose:
		return p.byLabel("lower(btrim("+text+"))", to)
	case blueprint.ChooseMany:
		return fmt.Sprintf("(SELECT CASE WHEN bool_and(c IS NOT NULL) THEN array_agg(c) END FROM (SELECT %s AS c FROM unnest(string_to_array(%s, ',')) x) q)",
			p.byLabel("lower(btrim(x))", to), text)
	case blueprint.Link:
		return p.byRecord(text, to, names)
	}
	return text
}

// byRecord finds the one record with the label.
func (p *planner) byRecord(text string, to blueprint.Field, names *blueprint.Blueprint) string {
	target := names.Table(to.Target)
	catalog := p.was
	if names == p.after {
		catalog = p.now
	}
	if target == nil {
		return "NULL::uuid"
	}
	label := query.PlainLabel(catalog, target.ID)
	if label == "" {
		return "NULL::uuid"
	}
	return fmt.Sprintf("(SELECT min(l.id::text)::uuid FROM (SELECT id, %s AS label FROM %s WHERE deleted_at IS NULL) l WHERE lower(l.label) = lower(btrim(%s)) HAVING count(*) = 1)",
		label, p.table(target.Key), text)
}

func (p *planner) asText(column string, f blueprint.Field, names *blueprint.Blueprint) string {
	list := p.before.List(f.List)
	if list == nil {
		list = p.after.List(f.List)
	}
	label := func(value string) string {
		return choiceCase(value, list, func(c blueprint.Choice) (string, string) { return c.ID, c.Label })
	}
	switch f.Type {
	case blueprint.Number, blueprint.Money, blueprint.Duration:
		return "trim_scale(" + column + ")::text"
	case blueprint.Percent:
		return "trim_scale(" + column + " * 100)::text || ' %'"
	case blueprint.YesNo:
		return "CASE WHEN " + column + " THEN 'yes' WHEN NOT " + column + " THEN 'no' END"
	case blueprint.TimeStamp:
		return fmt.Sprintf("to_char(%s AT TIME ZONE %s, 'YYYY-MM-DD HH24:MI')", column, query.Literal(p.after.Location().String()))
	case blueprint.Choose:
		return label(column)
	case blueprint.ChooseMany:
		return fmt.Sprintf("(SELECT string_agg(%s, ', ') FROM unnest(%s) x)", label("x"), column)
	case blueprint.Link:
		return p.labelText(column, f, names)
	case blueprint.File, blueprint.Picture:
		return "cardinality(" + column + ")::text || ' ' || " + query.Literal(string(f.Type))
	}
	return column + "::text"
}

// labelText gives the label of the record that a link points to, or its id
// where the label is not made of the record alone.
func (p *planner) labelText(column string, f blueprint.Field, names *blueprint.Blueprint) string {
	target, catalog := names.Table(f.Target), p.was
	if names == p.after {
		catalog = p.now
	}
	if target != nil {
		if label := query.PlainLabel(catalog, target.ID); label != "" {
			return fmt.Sprintf("(SELECT l.label FROM (SELECT id, %s AS label FROM %s) l WHERE l.id = %s)", label, p.table(target.Key),
				column)
		}
	}
	return column + "::text"
}

func (p *planner) byLabel(text string, f blueprint.Field) string {
	return choiceCase(text, p.after.List(f.List), func(c blueprint.Choice) (string, string) { return strings.ToLower(c.Label), c.ID })
}

func choiceCase(value string, list *blueprint.ChoiceList, pair func(blueprint.Choice) (string, string)) string {
	if list == nil || len(list.Choices) == 0 {
		return "NULL::text"
	}
	var b strings.Builder
	b.WriteString("CASE " + value)
	for _, c := range list.Choices {
		from, to := pair(c)
		fmt.Fprintf(&b, " WHEN %s THEN %s", query.Literal(from), query.Literal(to))
	}
	return b.String() + " END"
}
