package blueprint

import (
	"fmt"
	"sync"
	"time"

	"github.com/shopspring/decimal"

	"pinegate/core/expr"
)

// Memo keeps what was found out about a frozen blueprint. Several may use it at
// once.
type Memo struct {
	mu   sync.Mutex
	kept map[any]any
}

// Get gives what is kept under the key, or nil.
func (m *Memo) Get(key any) any {
	m.mu.Lock()
	defer m.mu.Unlock()
	return m.kept[key]
}

// Put keeps something under the key. When more than so many are kept, all that
// was kept before is forgotten.
func (m *Memo) Put(key, value any, most int) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.kept == nil || len(m.kept) >= most {
		m.kept = map[any]any{}
	}
	m.kept[key] = value
}

// Freeze keeps what is found out about a blueprint that will not be changed any
// more.
func (b *Blueprint) Freeze() {
	b.catalog = b.Catalog()
	b.conditions, b.statements = &Memo{}, &Memo{}
}

// Statements gives where statements that were built for the blueprint are kept;
// nil where it is not frozen.
func (b *Blueprint) Statements() *Memo { return b.statements }

// mostConditions is how many checked conditions are kept with a blueprint.
const mostConditions = 1 << 14

// Condition checks the condition by which a role may do something in a table.
func (b *Blueprint) Condition(r *Role, table string, a Action, catalog *expr.Catalog) (*expr.Checked, error) {
	type place struct {
		role, table string
		action      Action
	}
	return b.once(place{r.ID, table, a}, func() (*expr.Checked, error) {
		return expr.CheckCondition(r.Rule(table).Permission(a).Condition, r.RuleScope(table, catalog))
	})
}

// Filter checks the condition of a list on a page; nil where it has none.
func (b *Blueprint) Filter(p *Page, block string, l *List, catalog *expr.Catalog) (*expr.Checked, error) {
	if l.Filter == "" {
		return nil, nil
	}
	type place struct{ page, block string }
	return b.once(place{p.ID, block}, func() (*expr.Checked, error) {
		return expr.CheckCondition(l.Filter, b.ListScope(p, l, catalog))
	})
}

// once checks a condition, or gives it where it was checked before.
func (b *Blueprint) once(key any, check func() (*expr.Checked, error)) (*expr.Checked, error) {
	if b.conditions != nil {
		if c, ok := b.conditions.Get(key).(*expr.Checked); ok {
			return c, nil
		}
	}
	c, err := check()
	if err == nil && b.conditions != nil {
		b.conditions.Put(key, c, mostConditions)
	}
	return c, err
}

// Catalog gives the app's tables and lists as the expression language sees
// them, with the types of computed fields found.
func (b *Blueprint) Catalog() *expr.Catalog {
	if b.catalog != nil {
		return b.catalog
	}
	c := &expr.Catalog{Tables: map[string]*expr.Table{}, Lists: map[string]*expr.List{}}
	for i := range b.Lists {
		c.Lists[b.Lists[i].ID] = b.Lists[i].expr()
	}
	labels := map[string]string{}
	fields := map[string]*expr.Field{}
	for _, t := range b.Tables {
		et := &expr.Table{ID: t.ID, Key: t.Key, Name: t.Name}
		for i := range t.Fields {
			f := &t.Fields[i]
			ef := &expr.Field{ID: f.ID, Key: f.Key, Name: f.Name, Table: t.ID, Type: f.ExprType(), Source: b.Source(&t, f), Recorded: f.Type.Recorded()}
			fields[f.ID] = ef
			et.Fields = append(et.Fields, ef)
		}
		c.Tables[t.ID] = et
		labels[t.ID] = t.Label
	}
	for _, t := range b.Tables {
		for _, f := range t.Fields {
			if f.Of != "" {
				fields[f.ID].Of = fields[f.Of]
			}
		}
	}
	c.Resolve(labels)
	return c
}

func (l *ChoiceList) expr() *expr.List {
	el := &expr.List{ID: l.ID, Name: l.Name}
	kinds := map[ColumnType]expr.Kind{NumberColumn: expr.Number, YesNoColumn: expr.YesNo}
	for _, col := range l.Columns {
		if col.Type == PictureColumn { // it is looked at, and nothing to reckon with
			continue
		}
		kind := kinds[col.Type]
		if kind == "" {
			kind = expr.Text
		}
		el.Columns = append(el.Columns, expr.ListColumn{ID: col.ID, Key: col.Key, Name: col.Name, Type: expr.Type{Kind: kind}})
	}
	for _, ch := range l.Choices {
		values := map[string]expr.Value{}
		for _, col := range l.Columns {
			if v, ok := columnValue(col.Type, ch.Values[col.ID]); ok {
				values[col.ID] = v
			}
		}
		el.Choices = append(el.Choices, expr.ListChoice{ID: ch.ID, Label: ch.Label, Values: values})
	}
	return el
}

// columnValue reads what a column holds for a choice; false where the text is
// no value of the type.
func columnValue(t ColumnType, text string) (expr.Value, bool) {
	if text == "" {
		return expr.Empty(), true
	}
	switch t {
	case NumberColumn:
		d, err := decimal.NewFromString(text)
		return expr.NumberOf(d), err == nil && len(text) < 40
	case YesNoColumn:
		return expr.YesNoOf(text == "yes"), text == "yes" || text == "no"
	case ColourColumn:
		return expr.TextOf(text), colourPattern.MatchString(text)
	case PictureColumn:
		return expr.FileOf(text), picturePattern.MatchString(text)
	}
	return expr.TextOf(text), len(text) <= 500
}

// ExprType is the type of the field's value in expressions; the zero type for
// computed fields, whose type is found from their source.
func (f Field) ExprType() expr.Type {
	switch f.Type {
	case Number, Money, Percent, Duration:
		return expr.Type{Kind: expr.Number}
	case YesNo:
		return expr.Type{Kind: expr.YesNo}
	case Date:
		return expr.Type{Kind: expr.Date}
	case TimeStamp, CreatedAt, ChangedAt:
		return expr.Type{Kind: expr.Time}
	case Choose:
		return expr.Type{Kind: expr.Choice, List: f.List}
	case ChooseMany:
		return expr.Type{Kind: expr.Choice, List: f.List, Many: true}
	case Link:
		return expr.Type{Kind: expr.Record, Table: f.Target}
	case Links:
		return expr.Type{Kind: expr.Record, Table: f.Target, Many: true}
	case File, Picture: // also where there is one at most
		return expr.Type{Kind: expr.File, Many: true}
	case Lookup, RollUp, Formula:
		return expr.Type{}
	}
	return expr.Type{Kind: expr.Text}
}

// Source gives the expression by which a computed field of the table is
// reckoned; "" for other fields.
func (b *Blueprint) Source(t *Table, f *Field) string {
	switch f.Type {
	case Formula:
		return f.Formula
	case Lookup, RollUp:
	default:
		return ""
	}
	via := t.Field(f.Via)
	if via == nil {
		return "empty"
	}
	target := b.Table(via.Target)
	take := ""
	if target != nil && f.Take != "" {
		if x := target.Field(f.Take); x != nil {
			take = "." + x.Key
		}
	}
	if f.Type == Lookup {
		return via.Key + take
	}
	list := via.Key
	if f.Where != "" {
		list = fmt.Sprintf("FILTER(%s, %s)", list, f.Where)
	}
	name := map[Total]string{CountTotal: "COUNT", SumTotal: "SUM", AverageTotal: "AVERAGE", LeastTotal: "MIN", GreatestTotal: "MAX", JoinedTotal: "JOIN"}[f.Total]
	if f.Total == CountTotal {
		take = ""
	}
	return fmt.Sprintf("%s(%s%s)", name, list, take)
}

// Location gives the app's time zone.
func (b *Blueprint) Location() *time.Location {
	l, err := time.LoadLocation(b.Zone)
	if err != nil {
		return time.UTC
	}
	return l
}
