package schema

import (
	"fmt"
	"hash/fnv"
	"maps"
	"slices"
	"strings"

	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/query"
)

// plainIndex is an index that only makes reading faster: on what people are known by,
// which is asked with every request, and on what boards and calendars ask for.
type plainIndex struct{ table, columns string }

func (x plainIndex) make(schema, name string) string {
	return fmt.Sprintf("CREATE INDEX IF NOT EXISTS %s ON %s.%s (%s) WHERE deleted_at IS NULL", query.Quote(name), query.Quote(schema),
		query.Quote(x.table), x.columns)
}

// plainIndexes gives them by their names. What is indexed otherwise has another name.
func plainIndexes(b *blueprint.Blueprint, c *expr.Catalog) map[string]plainIndex {
	out := map[string]plainIndex{}
	for _, r := range b.Roles {
		if t := b.Table(r.People); t != nil && t.Field(r.Email) != nil && t.Field(r.Email).Type == blueprint.Email {
			out["people_"+t.ID+"_"+r.Email] = plainIndex{t.Key, "lower(" + query.Quote(t.Field(r.Email).Key) + ")"}
		}
	}
	for x := range b.Blocks {
		if l, ok := x.(*blueprint.RecordsBlock); ok {
			addListIndexes(out, b, c, l)
		}
	}
	return out
}

// addListIndexes adds one that gives the cards of each column of a board in their order,
// and one that finds what is on the days of a calendar.
func addListIndexes(out map[string]plainIndex, b *blueprint.Blueprint, c *expr.Catalog, l *blueprint.RecordsBlock) {
	t := b.Table(l.Table)
	if t == nil {
		return
	}
	add := func(first string, sorts ...query.Sort) {
		f := t.Field(first)
		if f == nil || holds(*f) != inColumn || f.Type.Computed() {
			return
		}
		columns, name := []string{query.Quote(f.Key)}, fmt.Sprint(t.ID, " ", ColumnAside(*f))
		for _, by := range sorts {
			g := t.Field(by.Field)
			if g == nil || by.Column != "" || g.Type.Computed() || !sortedAsHeld(c.TypeOf(t.ID, g.ID)) {
				break // the database sorts the rest
			}
			direction := ""
			if by.Falling {
				direction = " DESC NULLS LAST"
			}
			columns, name = append(columns, query.Quote(g.Key)+direction), fmt.Sprint(name, " ", ColumnAside(*g), direction)
		}
		last := "id"
		if len(sorts) > 0 && sorts[0].Falling {
			last = "id DESC"
		}
		h := fnv.New64a()
		h.Write([]byte(name + last))
		out[fmt.Sprintf("list_%016x", h.Sum64())] = plainIndex{t.Key, strings.Join(append(columns, last), ", ")}
	}
	if f := t.Field(l.Board); f != nil && f.Type == blueprint.Choose {
		add(l.Board, slices.DeleteFunc([]query.Sort{query.SortBy(l.Sort, l.Falling), query.SortBy(l.Then, l.ThenFalling),
			query.SortBy(l.Last, l.LastFalling)}, func(s query.Sort) bool { return s.Field == "" || s.Field == l.Board })...)
	}
	add(l.From)
}

// sortedAsHeld tells whether values sort as the database holds them; texts sort as people
// do, choices as their list says.
func sortedAsHeld(t expr.Type) bool {
	return !t.Many && (t.Kind == expr.Number || t.Kind == expr.YesNo || t.Kind == expr.Date || t.Kind == expr.Time)
}

// Indexes gives the statements that make the indexes that only make reading faster, where
// they are not there.
func Indexes(schema string, b *blueprint.Blueprint) []string {
	var out []string
	all := plainIndexes(b, b.Catalog())
	for _, name := range slices.Sorted(maps.Keys(all)) {
		out = append(out, all[name].make(schema, name))
	}
	return out
}

func (p *planner) dropPlain() {
	for _, name := range slices.Sorted(maps.Keys(p.plainWas)) {
		if _, stays := p.plainNow[name]; !stays {
			p.add(Step{SQL: []string{"DROP INDEX IF EXISTS " + p.table(name)}})
		}
	}
}

func (p *planner) addPlain() {
	for _, name := range slices.Sorted(maps.Keys(p.plainNow)) {
		if _, there := p.plainWas[name]; !there {
			p.add(Step{SQL: []string{p.plainNow[name].make(p.schema, name)}})
		}
	}
}
