package expr

import (
	"fmt"
	"sort"
)

// function is a row of the table of functions: how it is written, checked,
// evaluated and compiled.
type function struct {
	min, max int
	usage    string
	// check sets the type of the call and may replace its arguments.
	check func(c *checker, n *Node) *Error
	eval  func(e *evaluator, n *Node) Value
	sql   func(c *Compiler, n *Node) (string, error)
}

// functions is filled by init because its entries refer back to the
// evaluator, which looks functions up here.
var functions map[string]function

func init() {
	functions = map[string]function{
		"IF": {
			min: 2, max: 3, usage: "IF(condition, value, otherwise)",
			check: checkIf,
			eval: func(e *evaluator, n *Node) Value {
				if e.eval(n.Args[0]).True() {
					return e.eval(n.Args[1])
				}
				return e.eval(n.Args[2])
			},
			sql: func(c *Compiler, n *Node) (string, error) {
				cond, err := c.Condition(n.Args[0])
				if err != nil {
					return "", err
				}
				args, err := c.values(n.Args[1:])
				if err != nil {
					return "", err
				}
				return fmt.Sprintf("(CASE WHEN %s THEN %s ELSE %s END)", cond, args[0], args[1]), nil
			},
		},
		"ISBLANK": {
			min: 1, max: 1, usage: "ISBLANK(value)",
			check: func(_ *checker, n *Node) *Error {
				n.Type = Type{Kind: YesNo}
				return nil
			},
			eval: func(e *evaluator, n *Node) Value { return YesNoOf(e.eval(n.Args[0]).IsEmpty()) },
			sql: func(c *Compiler, n *Node) (string, error) {
				x, err := c.Value(n.Args[0])
				return "(" + x + " IS NULL)", err
			},
		},
		"TODAY": {
			min: 0, max: 0, usage: "TODAY()",
			check: func(_ *checker, n *Node) *Error {
				n.Type = Type{Kind: Date}
				return nil
			},
			eval: func(e *evaluator, _ *Node) Value { return DateOf(e.env.Today()) },
			sql:  func(c *Compiler, _ *Node) (string, error) { return c.Param(c.Today, "date"), nil },
		},
	}
}

func checkIf(c *checker, n *Node) *Error {
	cond, err := c.want(n.Args[0], Type{Kind: YesNo}, "IF")
	if err != nil {
		return err
	}
	then, other := n.Args[1], &Node{Op: OpConst, Type: Type{Kind: None}, At: n.At}
	if len(n.Args) == 3 {
		other = n.Args[2]
	}
	a, ok := coerce(c.scope, then, other.Type)
	b := other
	if !ok || other.Type.Kind == None {
		a = then
		b, ok = coerce(c.scope, other, then.Type)
	}
	if then.Type.Kind == None && other.Type.Kind == None {
		a, b, ok = then, other, true
	}
	if !ok {
		return errorAt(n.At, "Both outcomes of IF must be of one type; they are %s and %s.", describe(c.scope, then.Type), describe(c.scope, other.Type))
	}
	n.Args, n.Type = []*Node{cond, a, b}, b.Type
	return nil
}

func functionNames() []string {
	names := make([]string, 0, len(functions))
	for name := range functions {
		names = append(names, name)
	}
	sort.Strings(names)
	return names
}

// FunctionHelp is what is told of a function where it can be picked.
type FunctionHelp struct {
	Name  string `json:"name"`
	Usage string `json:"usage"`
}

// Functions lists the functions of the language by name.
func Functions() []FunctionHelp {
	var out []FunctionHelp
	for _, name := range functionNames() {
		out = append(out, FunctionHelp{Name: name, Usage: functions[name].usage})
	}
	return out
}
