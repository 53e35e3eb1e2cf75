package expr

import (
	"slices"

	"github.com/shopspring/decimal"
)

// total is a function that makes one value of a list, or of several values.
type total struct {
	usage, help string
	numbers     bool // only numbers can be totalled
	nothing     Value
	eval        func(list []Value) Value
	aggregate   func(v, order string) string // over the rows of a list
	sql         string                       // over an array
}

func totals() map[string]total {
	return map[string]total{
		"SUM": {usage: "SUM(list)", help: "The sum of a list or of several numbers.", numbers: true, nothing: number("0"), eval: sum,
			sql:       "list_sum",
			aggregate: func(v, _ string) string { return "pinegate.number_bounded(COALESCE(sum(" + v + "), 0))" }},
		"COUNT": {usage: "COUNT(list)", help: "How many there are, not counting empty ones.", nothing: number("0"),
			eval: func(list []Value) Value { return count(len(list)) }, sql: "list_count",
			aggregate: func(v, _ string) string { return "count(" + v + ")::numeric" }},
		"AVERAGE": {usage: "AVERAGE(list)", help: "The mean of the numbers.", numbers: true,
			eval: func(list []Value) Value { return arithmetic(OpDiv, exactSum(list), count(len(list))) }, sql: "list_average",
			aggregate: func(v, _ string) string { return "pinegate.number_divide(sum(" + v + "), count(" + v + "))" }},
		"MEDIAN": {usage: "MEDIAN(list)", help: "The number in the middle.", numbers: true, eval: median, sql: "list_median",
			aggregate: func(v, order string) string { return "pinegate.list_median(array_agg(" + v + "))" }},
		"PRODUCT": {usage: "PRODUCT(list)", help: "The numbers multiplied, to 12 places.", numbers: true, eval: product,
			sql: "list_product",
			aggregate: func(v, order string) string {
				return "pinegate.list_product(array_agg(" + v + " ORDER BY " + order + "))"
			}},
		"MIN": {usage: "MIN(list)", help: "The smallest number, date or text.", eval: func(list []Value) Value { return extreme(list, -1) },
			aggregate: func(v, _ string) string { return "min(" + v + ")" }},
		"MAX": {usage: "MAX(list)", help: "The largest number, date or text.", eval: func(list []Value) Value { return extreme(list, 1) },
			aggregate: func(v, _ string) string { return "max(" + v + ")" }},
	}
}

func exactSum(list []Value) Value {
	s := decimal.Zero
	for _, v := range list {
		s = s.Add(v.Num)
	}
	if len(list) == 0 {
		return Empty()
	}
	return Value{Kind: Number, Num: s}
}

func sum(list []Value) Value { return NumberOf(exactSum(list).Num) }

func median(list []Value) Value {
	if len(list) == 0 {
		return Empty()
	}
	sorted := slices.Clone(list)
	slices.SortFunc(sorted, compare)
	n := len(sorted)
	if n%2 == 1 {
		return sorted[n/2]
	}
	return arithmetic(OpDiv, arithmetic(OpAdd, sorted[n/2-1], sorted[n/2]), number("2"))
}

// product rounds on the way, so that it stays within bounds.
func product(list []Value) Value {
	if len(list) == 0 {
		return Empty()
	}
	p := one
	for _, v := range list {
		if p = fineMul(p, v.Num); p.Abs().GreaterThan(maxNumber) {
			return Empty()
		}
	}
	return settled(p)
}

func extreme(list []Value, sign int) Value {
	var best Value
	for _, v := range list {
		if best.IsEmpty() || compare(v, best)*sign > 0 {
			best = v
		}
	}
	return best
}

func (t total) function() function {
	return function{params: "v v*", usage: t.usage, help: t.help, loose: true,
		check: func(c *checker, n *Node) *Error { return c.total(n, t) },
		lazy: func(e *evaluator, n *Node) Value {
			return t.eval(e.all(n.Args).Items)
		},
		compile: func(c *Compiler, n *Node) (string, error) {
			if !n.Args[0].Type.Many {
				return c.totalOfValues(n, t)
			}
			return c.aggregate(n.Args[0], func(l *listSQL) string { return t.aggregate(l.comparable(), l.orderBy()) })
		}}
}

// total checks one list, or several values of one type.
func (c *checker) total(n *Node, t total) *Error {
	first := n.Args[0]
	if first.Type.Many && len(n.Args) > 1 {
		return errorAt(n.Args[1].At, "expr-list-or-values", "name", n.Func)
	}
	kind := first.Type.One()
	if !first.Type.Many && n.Func != "COUNT" { // anything can be counted
		var err *Error
		if kind, err = c.unify(n.Args, n.Func); err != nil {
			return err
		}
	}
	n.Type = Type{Kind: Number}
	switch {
	case n.Func == "COUNT":
		return nil
	case t.numbers && kind.Kind != Number && kind.Kind != None:
		return c.notNumbers(n, first)
	case !t.numbers:
		switch kind.Kind {
		case Number, Date, Time, Text, None:
			n.Type = kind
		default:
			return errorAt(first.At, "expr-needs-order", "name", n.Func, "type", describe(c.scope, first.Type))
		}
	}
	return nil
}

func (c *checker) notNumbers(n, first *Node) *Error {
	err := errorAt(first.At, "expr-function-numbers", "name", n.Func, "type", describe(c.scope, first.Type))
	if first.Type.Many && first.Type.Kind == Record {
		err.hint("expr-name-number")
	}
	return err
}

func listFunctions() map[string]function {
	out := map[string]function{
		"JOIN": {params: "v t=", usage: `JOIN(list, ", ")`, help: "The texts of a list as one text; records by their labels.", loose: true,
			check: checkJoin, lazy: evalJoin, compile: compileJoin},
		"FIRST": {params: "v", usage: "FIRST(list)", help: "The first of a list.", loose: true, check: checkItem,
			lazy: func(e *evaluator, n *Node) Value { return item(e.eval(n.Args[0]).Items, n, 0) }, compile: compileItem(false)},
		"LAST": {params: "v", usage: "LAST(list)", help: "The last of a list.", loose: true, check: checkItem,
			lazy: func(e *evaluator, n *Node) Value {
				list := e.eval(n.Args[0]).Items
				return item(list, n, len(list)-1)
			}, compile: compileItem(true)},
		"UNIQUE": {params: "v", usage: "UNIQUE(list)", help: "The list with each value once.", loose: true,
			check: func(c *checker, n *Node) *Error {
				n.Type = n.Args[0].Type
				return c.needList(n, 0)
			},
			lazy:    func(e *evaluator, n *Node) Value { return ListValue(unique(e.eval(n.Args[0]).Items)) },
			compile: func(*Compiler, *Node) (string, error) { return "", notSQL("UNIQUE") }},
		"INCLUDES": {params: "v v", usage: "INCLUDES(list, value)", help: "Whether the value is in the list.", loose: true,
			check: checkIncludes,
			lazy: func(e *evaluator, n *Node) Value {
				v := e.eval(n.Args[1])
				return YesNoOf(slices.ContainsFunc(e.eval(n.Args[0]).Items, func(x Value) bool { return Equal(x, v) }))
			},
			compile: func(c *Compiler, n *Node) (string, error) {
				v, err := c.Value(n.Args[1])
				if err != nil {
					return "", err
				}
				return c.exists(n.Args[0], v)
			}},
		"SORT": {params: "v v= t=", usage: `SORT(list, key, "falling")`,
			help: "The list in the order of the key; with \"falling\", largest first.", rows: checkSort},
		"FILTER": {params: "v v", usage: "FILTER(list, condition)",
			help: "The records where the condition is true. Inside, names are fields of each record; this. is the record outside.",
			rows: checkFilter},
		"ANY": {params: "v v", usage: "ANY(list, condition)", help: "Whether the condition is true for at least one record.",
			rows: checkFilter, lazy: func(e *evaluator, n *Node) Value { return YesNoOf(len(e.eval(n.Args[0]).Items) > 0) },
			compile: func(c *Compiler, n *Node) (string, error) { return c.exists(n.Args[0], "") }},
		"ALL": {params: "v v", usage: "ALL(list, condition)", help: "Whether the condition is true for all records.", rows: checkFilter,
			lazy: func(e *evaluator, n *Node) Value { return YesNoOf(len(e.eval(n.Args[0]).Items) == 0) },
			compile: func(c *Compiler, n *Node) (string, error) {
				some, err := c.exists(n.Args[0], "")
				return "(NOT " + some + ")", err
			}},
	}
	for name, t := range totals() {
		out[name] = t.function()
	}
	return out
}

func recordFunctions() map[string]function {
	return map[string]function{
		"RECORDS": {params: "v v=", usage: "RECORDS(table, condition)", help: "The records in a table where the condition is true.",
			rows: checkRecords},
		"LABEL": {params: "v", usage: "LABEL(record)", help: "The label of a record.",
			check: func(c *checker, n *Node) *Error {
				n.Type = Type{Kind: Text}
				if t := n.Args[0].Type; t.Kind != Record || t.Many {
					return errorAt(n.Args[0].At, "expr-label-record", "type", describe(c.scope, t))
				}
				return nil
			},
			lazy: func(e *evaluator, n *Node) Value {
				v := e.eval(n.Args[0])
				if v.IsEmpty() {
					return v
				}
				return e.env.Label(n.Args[0].Type.Table, v)
			},
			compile: func(c *Compiler, n *Node) (string, error) { return c.label(n.Args[0]) }},
	}
}

func (c *checker) needList(n *Node, i int) *Error {
	if n.Args[i].Type.Many {
		return nil
	}
	return errorAt(n.Args[i].At, "expr-needs-list", "name", n.Func, "type", describe(c.scope, n.Args[i].Type))
}

func checkItem(c *checker, n *Node) *Error {
	n.Type = n.Args[0].Type.One()
	return c.needList(n, 0)
}

func item(list []Value, n *Node, i int) Value {
	switch {
	case len(list) > 0:
		return list[i]
	case n.Type.Kind == YesNo:
		return YesNoOf(false)
	}
	return Empty()
}

func unique(list []Value) []Value {
	var out []Value
	for _, v := range list {
		if !slices.ContainsFunc(out, func(x Value) bool { return Equal(x, v) }) {
			out = append(out, v)
		}
	}
	return out
}

func checkIncludes(c *checker, n *Node) *Error {
	if err := c.needList(n, 0); err != nil {
		return err
	}
	kind := n.Args[0].Type.One()
	if err := c.notAChoice(n.Args[1], &Node{Type: kind}); err != nil {
		return err
	}
	v, err := c.want(n.Args[1], kind, n.Func)
	n.Args[1], n.Type = v, Type{Kind: YesNo}
	return err
}

// checkJoin brings the items of the list to texts.
func checkJoin(c *checker, n *Node) *Error {
	if err := c.needList(n, 0); err != nil {
		return err
	}
	if len(n.Args) == 1 {
		n.Args = append(n.Args, &Node{Op: OpConst, Type: Type{Kind: Text}, Value: TextOf(", "), At: n.At})
	}
	between, err := c.asText(n.Args[1], n.Func)
	if err != nil {
		return err
	}
	n.Args[1], n.Type = between, Type{Kind: Text}
	list := n.Args[0]
	if list.Type.Kind == Record {
		me := c.record(RootRow, len(c.rows), list.Type.Table, list.At)
		label := &Node{Op: OpCall, Func: "LABEL", Args: []*Node{me}, Type: Type{Kind: Text}, At: list.At}
		n.Args[0] = &Node{Op: OpMap, Args: []*Node{list}, Body: label, Type: ListOf(label.Type), At: list.At}
	} else if !textable(list.Type.One()) {
		return errorAt(list.At, "expr-join-texts", "type", describe(c.scope, list.Type))
	}
	return nil
}

func evalJoin(e *evaluator, n *Node) Value {
	between := e.eval(n.Args[1]).Text
	size := 0
	var texts []byte
	for i, v := range e.eval(n.Args[0]).Items {
		if i > 0 {
			texts = append(texts, between...)
		}
		texts = append(texts, e.textOf(v, n.Args[0].Type.One()).Text...)
		if size = len(texts); size > MaxText {
			return Empty()
		}
	}
	return TextOf(string(texts))
}

// inRow checks an expression whose bare names are the fields of the records of
// a list.
func (c *checker) inRow(table string, s Syntax) (*Node, *Error) {
	c.rows = append(c.rows, table)
	n, err := c.node(s)
	c.rows = c.rows[:len(c.rows)-1]
	return n, err
}

// mostLists is how many lists may stand inside of each other.
const mostLists = 4

// listArgument checks the first argument of a function over the records of a
// list.
func (c *checker) listArgument(call *Call, least, most int) (*Node, *Error) {
	if len(call.Args) < least || len(call.Args) > most {
		return nil, errorAt(call.At, "expr-usage", "name", call.Name, "usage", functions[call.Name].usage)
	}
	if len(c.rows) > mostLists {
		return nil, errorAt(call.At, "expr-lists-deep", "most", mostLists)
	}
	list, err := c.node(call.Args[0])
	if err != nil {
		return nil, err
	}
	return list, c.needList(&Node{Func: call.Name, Args: []*Node{list}}, 0)
}

func checkFilter(c *checker, call *Call) (*Node, *Error) {
	list, err := c.listArgument(call, 2, 2)
	if err != nil {
		return nil, err
	}
	if list.Type.Kind != Record {
		return nil, errorAt(list.At, "expr-needs-records", "name", call.Name, "type", describe(c.scope, list.Type))
	}
	cond, err := c.rowCondition(list.Type.Table, call.Args[1], call.Name)
	if err != nil {
		return nil, err
	}
	if call.Name == "ALL" {
		cond = &Node{Op: OpNot, Type: cond.Type, Args: []*Node{cond}, At: cond.At}
	}
	those := &Node{Op: OpFilter, Args: []*Node{list}, Body: cond, Type: list.Type, At: call.At}
	if call.Name == "FILTER" {
		return those, nil
	}
	return &Node{Op: OpCall, Func: call.Name, Args: []*Node{those}, Type: Type{Kind: YesNo}, At: call.At}, nil
}

func (c *checker) rowCondition(table string, s Syntax, name string) (*Node, *Error) {
	cond, err := c.inRow(table, s)
	if err != nil {
		return nil, err
	}
	return c.want(cond, Type{Kind: YesNo}, name)
}

func checkRecords(c *checker, call *Call) (*Node, *Error) {
	if len(call.Args) < 1 || len(call.Args) > 2 {
		return nil, errorAt(call.At, "expr-usage", "name", "RECORDS", "usage", functions["RECORDS"].usage)
	}
	t, err := c.table(call.Args[0])
	if err != nil {
		return nil, err
	}
	all := &Node{Op: OpAll, Type: Type{Kind: Record, Table: t.ID, Many: true}, At: call.At}
	if len(call.Args) == 1 {
		return all, nil
	}
	cond, err := c.rowCondition(t.ID, call.Args[1], call.Name)
	return &Node{Op: OpFilter, Args: []*Node{all}, Body: cond, Type: all.Type, At: call.At}, err
}

// checkSort reads SORT(list), SORT(list, key) and SORT(list, key, "falling");
// a list of values is sorted by them, with "falling" in the place of the key.
func checkSort(c *checker, call *Call) (*Node, *Error) {
	list, err := c.listArgument(call, 1, 3)
	if err != nil {
		return nil, err
	}
	n := &Node{Op: OpSort, Args: []*Node{list}, Type: list.Type, At: call.At}
	rest := call.Args[1:]
	kind := list.Type.One()
	if list.Type.Kind == Record {
		if len(rest) == 0 {
			return nil, errorAt(call.At, "expr-sort-key")
		}
		if n.Body, err = c.inRow(list.Type.Table, rest[0]); err != nil {
			return nil, err
		}
		rest, kind = rest[1:], n.Body.Type
	}
	switch kind {
	case Type{Kind: Number}, Type{Kind: Text}, Type{Kind: Date}, Type{Kind: Time}:
	default:
		return nil, errorAt(call.At, "expr-sort-by", "type", describe(c.scope, kind))
	}
	if len(rest) > 0 {
		lit, ok := rest[0].(*Literal)
		if !ok || lit.Value.Text != "falling" || len(rest) > 1 {
			return nil, errorAt(rest[0].Span(), "expr-sort-falling")
		}
		n.Func = "falling"
	}
	return n, nil
}

// LabelOf makes the expression of the label of a record.
func LabelOf(record *Node) *Node {
	return &Node{Op: OpCall, Func: "LABEL", Args: []*Node{record}, Type: Type{Kind: Text}, At: record.At}
}

// Joined makes the expression of a list, that stands by itself, as one text.
func Joined(list *Node) *Node {
	if list.Type.Kind == Record {
		me := &Node{Op: OpRef, Root: RootRow, Level: 1, Type: list.Type.One(), At: list.At}
		list = &Node{Op: OpMap, Args: []*Node{list}, Body: LabelOf(me), Type: ListOf(Type{Kind: Text}), At: list.At}
	}
	between := &Node{Op: OpConst, Type: Type{Kind: Text}, Value: TextOf(", "), At: list.At}
	return &Node{Op: OpCall, Func: "JOIN", Args: []*Node{list, between}, Type: Type{Kind: Text}, At: list.At}
}
