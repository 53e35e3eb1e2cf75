package expr

import (
	"fmt"
	"strings"
)

// listSQL is a list as rows: what each row gives, and in which order.
type listSQL struct {
	rows  Rows
	value string
	order []string
	typ   Type // of an item
}

func (l *listSQL) orderBy() string { return strings.Join(l.order, ", ") }

// comparable gives the item so that the database compares it as Go does.
func (l *listSQL) comparable() string { return comparableSQL(l.value, l.typ) }

func comparableSQL(x string, t Type) string {
	if t.Kind == Text {
		return "(" + x + `) COLLATE "C"`
	}
	return x
}

// within compiles something inside the rows of a list.
func (c *Compiler) within(rows Rows, compile func() (string, error)) (string, error) {
	c.inner = append(c.inner, rows)
	sql, err := compile()
	c.inner = c.inner[:len(c.inner)-1]
	return sql, err
}

// start compiles a list of records, or of values that a record holds, to rows.
// What it does not know how to extend it starts anew from a statement.
func (c *Compiler) start(n *Node) (Rows, error) {
	switch n.Op {
	case OpStep:
		id, err := c.Value(n.Args[0])
		if err != nil {
			return nil, err
		}
		return c.here().Through(id, n.Field)
	case OpAll:
		return c.here().All(n.Type.Table)
	case OpFlat:
		rows, err := c.start(n.Args[0])
		if err != nil {
			return nil, err
		}
		return rows.Flat(n.Field)
	case OpFilter:
		return c.filtered(n)
	}
	l, err := c.list(n)
	if err != nil {
		return nil, err
	}
	return c.derived(l, n.Type)
}

func (c *Compiler) filtered(n *Node) (Rows, error) {
	rows, err := c.start(n.Args[0])
	if err != nil {
		return nil, err
	}
	cond, err := c.within(rows, func() (string, error) { return c.Condition(n.Body) })
	if err != nil {
		return nil, err
	}
	rows.Where(cond)
	return rows, nil
}

// derived makes the items of a list the rows of a new FROM clause.
func (c *Compiler) derived(l *listSQL, t Type) (Rows, error) {
	sql := l.rows.Select(fmt.Sprintf("%s AS v, row_number() OVER (ORDER BY %s) AS n", l.value, l.orderBy()))
	return c.here().Derived(sql, t.Table)
}

// list compiles any list.
func (c *Compiler) list(n *Node) (*listSQL, error) {
	switch {
	case n.Op == OpMap:
		rows, err := c.start(n.Args[0])
		if err != nil {
			return nil, err
		}
		return c.mapped(rows, n)
	case n.Op == OpSort:
		return c.sorted(n)
	case n.Op == OpCall && n.Func == "UNIQUE":
		return c.unique(n)
	}
	rows, err := c.start(n)
	if err != nil {
		return nil, err
	}
	return &listSQL{rows: rows, value: rows.Item(), order: rows.Order(), typ: n.Type.One()}, nil
}

// mapped gives what the body is for each row, without those where it is empty.
func (c *Compiler) mapped(rows Rows, n *Node) (*listSQL, error) {
	value, err := c.within(rows, func() (string, error) { return c.Value(n.Body) })
	if err != nil {
		return nil, err
	}
	return &listSQL{rows: rows, value: value, order: rows.Order(), typ: n.Type.One()}, nil
}

func (c *Compiler) sorted(n *Node) (*listSQL, error) {
	l, key, err := c.sortKey(n)
	if err != nil {
		return nil, err
	}
	direction := ""
	if n.Func == "falling" {
		direction = " DESC"
	}
	l.order = append([]string{key + direction + " NULLS LAST"}, l.order...)
	return l, nil
}

// sortKey compiles a list that is sorted, and what it is sorted by.
func (c *Compiler) sortKey(n *Node) (*listSQL, string, error) {
	if n.Body == nil {
		l, err := c.list(n.Args[0])
		if err != nil {
			return nil, "", err
		}
		c.dropEmpty(l)
		return l, l.comparable(), nil
	}
	rows, err := c.start(n.Args[0])
	if err != nil {
		return nil, "", err
	}
	key, err := c.within(rows, func() (string, error) { return c.Value(n.Body) })
	return &listSQL{rows: rows, value: rows.Item(), order: rows.Order(), typ: n.Type.One()}, comparableSQL(key, n.Body.Type), err
}

func (c *Compiler) unique(n *Node) (*listSQL, error) {
	l, err := c.list(n.Args[0])
	if err != nil {
		return nil, err
	}
	inner := l.rows.Select(fmt.Sprintf("%s AS v, row_number() OVER (ORDER BY %s) AS n", l.value, l.orderBy()))
	rows, err := c.here().Derived("SELECT v, min(n) AS n FROM ("+inner+") u WHERE v IS NOT NULL GROUP BY v", n.Type.Table)
	if err != nil {
		return nil, err
	}
	return &listSQL{rows: rows, value: rows.Item(), order: rows.Order(), typ: n.Type.One()}, nil
}

// dropEmpty keeps only the items that are filled.
func (c *Compiler) dropEmpty(l *listSQL) {
	if l.value != l.rows.Item() {
		l.rows.Where("(" + l.value + ") IS NOT NULL")
	}
}

// aggregate compiles one value made of a list. Aggregates over the same records
// share one pass over them.
func (c *Compiler) aggregate(n *Node, make func(l *listSQL) string) (string, error) {
	source := n
	if n.Op == OpMap {
		source = n.Args[0]
	}
	if n.Op != OpMap && (n.Op == OpSort || n.Op == OpCall) {
		l, err := c.list(n)
		if err != nil {
			return "", err
		}
		c.dropEmpty(l)
		return "(" + l.rows.Select(make(l)) + ")", nil
	}
	return c.here().Share(source.key(), func() (Rows, error) { return c.start(source) }, func(rows Rows) (string, error) {
		l := &listSQL{rows: rows, value: rows.Item(), order: rows.Order(), typ: n.Type.One()}
		if n.Op == OpMap {
			var err error
			if l, err = c.mapped(rows, n); err != nil {
				return "", err
			}
		}
		return make(l), nil
	})
}

// array compiles a list to an array in its order.
func (c *Compiler) array(n *Node) (string, error) {
	return c.aggregate(n, func(l *listSQL) string {
		return fmt.Sprintf("array_agg(%s ORDER BY %s) FILTER (WHERE %s IS NOT NULL)", l.value, l.orderBy(), l.value)
	})
}

// exists compiles whether a list has an item, or one that equals the value.
func (c *Compiler) exists(n *Node, value string) (string, error) {
	l, err := c.list(n)
	if err != nil {
		return "", err
	}
	c.dropEmpty(l)
	if value != "" {
		l.rows.Where(fmt.Sprintf("(%s) = %s", l.value, value))
	}
	return "EXISTS (" + l.rows.Select("1") + ")", nil
}

// totalOfValues compiles a total of several values.
func (c *Compiler) totalOfValues(n *Node, t total) (string, error) {
	args, err := c.values(n.Args)
	if err != nil {
		return "", err
	}
	switch n.Func {
	case "MIN", "MAX":
		for i, a := range args {
			args[i] = comparableSQL(a, n.Type)
		}
		name := map[string]string{"MIN": "LEAST", "MAX": "GREATEST"}[n.Func]
		return name + "(" + strings.Join(args, ", ") + ")", nil
	case "COUNT":
		return "num_nonnulls(" + strings.Join(args, ", ") + ")::numeric", nil
	}
	return "pinegate." + t.sql + "(ARRAY[" + strings.Join(args, ", ") + "]::numeric[])", nil
}

func compileJoin(c *Compiler, n *Node) (string, error) {
	between, err := c.Value(n.Args[1])
	if err != nil {
		return "", err
	}
	var failed error
	sql, err := c.aggregate(n.Args[0], func(l *listSQL) string {
		text, err := c.textOf(l.value, l.typ)
		failed = err
		return fmt.Sprintf("pinegate.text_bounded(string_agg(%s, COALESCE(%s, '') ORDER BY %s))", text, between, l.orderBy())
	})
	if err == nil {
		err = failed
	}
	return sql, err
}

func compileItem(last bool) func(c *Compiler, n *Node) (string, error) {
	return func(c *Compiler, n *Node) (string, error) {
		sql, err := c.aggregate(n.Args[0], func(l *listSQL) string {
			all := fmt.Sprintf("(array_agg(%s ORDER BY %s) FILTER (WHERE (%s) IS NOT NULL))", l.value, l.orderBy(), l.value)
			if last {
				return fmt.Sprintf("%s[count(%s)]", all, l.value)
			}
			return all + "[1]"
		})
		return filled(n.Type, sql), err
	}
}

// step compiles a field of a record that an expression gives.
func (c *Compiler) step(n *Node) (string, error) {
	return c.ofRecord(n.Args[0], func() (string, error) {
		return c.Value(&Node{Op: OpRef, Root: RootRow, Level: len(c.inner), Path: []*Field{n.Field}, Type: n.Type})
	}, n.Type)
}

// ofRecord compiles something about the one record that an expression gives.
func (c *Compiler) ofRecord(n *Node, compile func() (string, error), t Type) (string, error) {
	id, err := c.Value(n)
	if err != nil {
		return "", err
	}
	rows, err := c.here().All(n.Type.Table)
	if err != nil {
		return "", err
	}
	rows.Where(rows.Item() + " = " + id)
	value, err := c.within(rows, compile)
	return filled(t, "("+rows.Select(value)+")"), err
}

// label compiles the label of a record.
func (c *Compiler) label(n *Node) (string, error) {
	if n.Op == OpRef {
		return c.rows(n.Level).Label(n.Root, n.Path, n.Type.Table)
	}
	return c.ofRecord(n, func() (string, error) { return c.here().Label(RootRow, nil, n.Type.Table) }, Type{Kind: Text})
}
