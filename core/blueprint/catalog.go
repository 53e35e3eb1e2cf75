package blueprint

import (
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"

	"pinegate/core/expr"
	"pinegate/core/prop"
)

// Memo keeps what was found out about a frozen blueprint. Several may use it at
// once.
type Memo struct {
	mu   sync.Mutex
	kept *lru.Cache[any, any]
}

// Get gives what is kept under the key, or nil.
func (m *Memo) Get(key any) any {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.kept == nil {
		return nil
	}
	value, _ := m.kept.Get(key)
	return value
}

// Put keeps something under the key, and of all that is kept so many, those that
// were used last.
func (m *Memo) Put(key, value any, most int) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if m.kept == nil {
		var err error
		if m.kept, err = lru.New[any, any](most); err != nil {
			panic(err) // only for a size that is none
		}
	}
	m.kept.Add(key, value)
}

// Freeze keeps what is found out about a blueprint that will not be changed any
// more.
func (b *Blueprint) Freeze() {
	b.catalog = b.Catalog()
	b.checked, b.statements = &Memo{}, &Memo{}
}

// Statements gives where statements that were built for the blueprint are kept;
// nil where it is not frozen.
func (b *Blueprint) Statements() *Memo { return b.statements }

// mostChecked is how many checked conditions and texts are kept with a blueprint.
const mostChecked = 1 << 14

// Condition checks the condition by which a role may do something in a table.
func (b *Blueprint) Condition(r *Role, table string, a Action, catalog *expr.Catalog) (*expr.Checked, error) {
	type place struct {
		role, table string
		action      Action
	}
	return checkedOnce(b, place{r.ID, table, a}, func() (*expr.Checked, error) {
		return expr.CheckCondition(r.Rule(table).Permission(a).Condition, r.RuleScope(table, catalog))
	})
}

// Filter checks the condition of a list at a spot; nil where it has none.
func (b *Blueprint) Filter(s Spot, l *RecordsBlock, catalog *expr.Catalog) (*expr.Checked, error) {
	if l.Filter == "" {
		return nil, nil
	}
	type place struct{ block string } // of which each stands in one place
	return checkedOnce(b, place{l.ID}, func() (*expr.Checked, error) {
		return expr.CheckCondition(l.Filter, b.ListScope(s, l.Table, catalog))
	})
}

// When checks a condition by which something at a spot is shown; nil where it always is.
func (b *Blueprint) When(s Spot, source string, catalog *expr.Catalog) (*expr.Checked, error) {
	if source == "" {
		return nil, nil
	}
	type place struct {
		at   any
		when string
	}
	return checkedOnce(b, place{s.key(), source}, func() (*expr.Checked, error) {
		return expr.CheckCondition(source, b.ScopeAt(s, catalog))
	})
}

// Template checks a text with placeholders that stands at a spot.
func (b *Blueprint) Template(s Spot, source string, catalog *expr.Catalog) (expr.Template, error) {
	type place struct {
		at       any
		template string
	}
	return checkedOnce(b, place{s.key(), source}, func() (expr.Template, error) {
		return expr.CheckTemplate(source, b.ScopeAt(s, catalog))
	})
}

// Preset checks what a form at a spot sets a field to; where the spot is in a form, its answers are known.
func (b *Blueprint) Preset(s Spot, f *Field, source string, catalog *expr.Catalog) (*expr.Checked, error) {
	type place struct {
		at            any
		field, preset string
	}
	return checkedOnce(b, place{s.key(), f.ID, source}, func() (*expr.Checked, error) {
		return expr.CheckAs(source, b.ListScope(s, "", catalog), f.ExprType())
	})
}

// Thanks checks what a form says once it is sent.
func (b *Blueprint) Thanks(s Spot, x *FormBlock, catalog *expr.Catalog) (expr.Template, error) {
	type place struct{ thanks, form string }
	return checkedOnce(b, place{x.Thanks, x.ID}, func() (expr.Template, error) {
		return expr.CheckTemplate(x.Thanks, b.ListScope(s, x.Table, catalog))
	})
}

// Beginning checks the default of a field.
func (b *Blueprint) Beginning(f *Field, catalog *expr.Catalog) (*expr.Checked, error) {
	type place struct{ begins string }
	return checkedOnce(b, place{f.ID}, func() (*expr.Checked, error) {
		return expr.CheckAs(f.Default, b.DefaultScope(catalog), f.ExprType())
	})
}

// LeadsHere is the condition that a field of a table leads to the record of the page.
func (b *Blueprint) LeadsHere(t *Table, field string, catalog *expr.Catalog) (*expr.Checked, error) {
	type place struct{ leads string }
	return checkedOnce(b, place{field}, func() (*expr.Checked, error) {
		f := t.Field(field)
		return expr.CheckCondition("this."+f.Key+" = page.record", expr.Scope{Catalog: catalog, Row: t.ID, Page: f.Target})
	})
}

// Given checks what a part is given where it is used, by the ids of its inputs.
func (b *Blueprint) Given(s Spot, x *PartBlock, catalog *expr.Catalog) (map[string]*expr.Checked, error) {
	want := func(id string) expr.Type { return b.Part(x.Part).Input(id).Field().ExprType() }
	return b.given(s, x.ID, x.Given, want, catalog)
}

// given checks what is given in a block, by the ids of what it is given for.
func (b *Blueprint) given(s Spot, block string, list []prop.Given, want func(id string) expr.Type, catalog *expr.Catalog) (
	map[string]*expr.Checked, error,
) {
	type place struct{ given string }
	return checkedOnce(b, place{block}, func() (map[string]*expr.Checked, error) {
		out := map[string]*expr.Checked{}
		for _, g := range list {
			c, err := expr.CheckAs(g.Value, b.ScopeAt(s, catalog), want(g.Field))
			if err != nil {
				return nil, err
			}
			out[g.Field] = c
		}
		return out, nil
	})
}

// Tones checks the conditions by which records of a list are toned, in their order.
func (b *Blueprint) Tones(s Spot, l *RecordsBlock, catalog *expr.Catalog) ([]*expr.Checked, error) {
	return b.conditions("tones", l.ID, l.Tones, b.ListScope(s, l.Table, catalog))
}

// Shown checks the conditions by which columns of a list are shown, in their order.
func (b *Blueprint) Shown(s Spot, l *RecordsBlock, catalog *expr.Catalog) ([]*expr.Checked, error) {
	return b.conditions("shown", l.ID, l.Shown, b.ScopeAt(s, catalog))
}

func (b *Blueprint) conditions(what, block string, list []prop.Given, scope expr.Scope) ([]*expr.Checked, error) {
	if len(list) == 0 {
		return nil, nil
	}
	type place struct{ what, block string }
	return checkedOnce(b, place{what, block}, func() ([]*expr.Checked, error) {
		var out []*expr.Checked
		for _, g := range list {
			c, err := expr.CheckCondition(g.Value, scope)
			if err != nil {
				return nil, err
			}
			out = append(out, c)
		}
		return out, nil
	})
}

// KeptFilter checks the condition of a list that counts while the kept values that it names
// are there; nil where it has none.
func (b *Blueprint) KeptFilter(s Spot, l *RecordsBlock, catalog *expr.Catalog) (*expr.Checked, error) {
	if l.Kept == "" {
		return nil, nil
	}
	type place struct{ kept string }
	return checkedOnce(b, place{l.ID}, func() (*expr.Checked, error) {
		return expr.CheckCondition(l.Kept, b.ListScope(s, l.Table, catalog))
	})
}

// checkedOnce checks something, or gives it where it was checked before.
func checkedOnce[T any](b *Blueprint, key any, check func() (T, error)) (T, error) {
	if b.checked != nil {
		if c, ok := b.checked.Get(key).(T); ok {
			return c, nil
		}
	}
	c, err := check()
	if err == nil && b.checked != nil {
		b.checked.Put(key, c, mostChecked)
	}
	return c, err
}

// Catalog gives the app's tables and lists as the expression language sees
// them, with the types of computed fields found.
func (b *Blueprint) Catalog() *expr.Catalog {
	if b.catalog != nil {
		return b.catalog
	}
	c := &expr.Catalog{Tables: map[string]*expr.Table{}, Lists: map[string]*expr.ChoiceList{}, Kept: b.keptTable(), Answers: b.answers()}
	b.reports(func(id string, r *Reported) { c.Answers[id] = measuresOf(id, r) })
	for i := range b.Lists {
		c.Lists[b.Lists[i].ID] = b.Lists[i].expr()
	}
	labels := map[string]string{}
	fields := map[string]*expr.Field{}
	for _, t := range b.Tables {
		et := &expr.Table{ID: t.ID, Key: t.Key, Name: t.Name}
		for i := range t.Fields {
			f := &t.Fields[i]
			ef := &expr.Field{ID: f.ID, Key: f.Key, Name: f.Name, Table: t.ID, Type: f.ExprType(), Source: b.Source(&t, f),
				Recorded: f.Type.Recorded()}
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

func (l *ChoiceList) expr() *expr.ChoiceList {
	el := &expr.ChoiceList{ID: l.ID, Name: l.Name}
	for _, col := range l.Columns {
		for _, k := range columnKinds {
			if k.ColumnType == col.Type && k.kind != "" { // a picture is looked at, and nothing to calculate with
				el.Columns = append(el.Columns, expr.ListColumn{ID: col.ID, Key: col.Key, Name: col.Name, Type: expr.Type{Kind: k.kind}})
			}
		}
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

// Location gives the app's time zone.
func (b *Blueprint) Location() *time.Location {
	l, err := time.LoadLocation(b.Zone)
	if err != nil {
		return time.UTC
	}
	return l
}
