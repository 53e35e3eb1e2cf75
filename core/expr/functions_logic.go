package expr

import (
	"fmt"
	"strings"
)

func logicFunctions() map[string]function {
	return map[string]function{
		"IF": {cases: true, params: "b v v=", usage: "IF(condition, value, otherwise)",
			help: "One value if the condition is true, another if not.",
			check: func(c *checker, n *Node) *Error {
				if len(n.Args) == 2 {
					n.Args = append(n.Args, nothing(n.At))
				}
				return c.cases(n, 1)
			}, lazy: evalCases, compile: compileCases},
		"IFS": {cases: true, params: "b v v*", usage: "IFS(condition, value, condition, value, …, otherwise)",
			help: "The value of the first condition that is true.",
			check: func(c *checker, n *Node) *Error {
				if len(n.Args)%2 == 0 {
					n.Args = append(n.Args, nothing(n.At))
				}
				return c.cases(n, len(n.Args)/2)
			}, lazy: evalCases, compile: compileCases},
		"SWITCH": {cases: true, params: "v v v v*", usage: "SWITCH(value, case, result, case, result, …, otherwise)",
			help:  "The result for the case that matches the value.",
			check: checkSwitch, lazy: evalCases, compile: compileCases},
		"AND": {params: "b b*", usage: "AND(condition, condition, …)", help: "Whether all conditions are true.", result: YesNo, loose: true,
			eval: func(_ *evaluator, a []Value) Value { return YesNoOf(!anyValue(a, false)) }, compile: joined(" AND ")},
		"OR": {params: "b b*", usage: "OR(condition, condition, …)", help: "Whether at least one condition is true.", result: YesNo,
			loose: true,
			eval:  func(_ *evaluator, a []Value) Value { return YesNoOf(anyValue(a, true)) }, compile: joined(" OR ")},
		"NOT": {params: "b", usage: "NOT(condition)", help: "Whether the condition is false.", result: YesNo, loose: true,
			eval:    func(_ *evaluator, a []Value) Value { return YesNoOf(!a[0].True()) },
			compile: func(c *Compiler, n *Node) (string, error) { return c.negated(n) }},
		"ISBLANK": {blanks: true, params: "v", usage: "ISBLANK(value)", help: "Whether the value is empty.", loose: true,
			check: func(_ *checker, n *Node) *Error {
				n.Type = Type{Kind: YesNo}
				return nil
			},
			eval: func(_ *evaluator, a []Value) Value { return YesNoOf(a[0].IsEmpty()) },
			compile: func(c *Compiler, n *Node) (string, error) {
				if n.Args[0].Type.Many {
					some, err := c.exists(n.Args[0], "")
					return "(NOT " + some + ")", err
				}
				x, err := c.Value(n.Args[0])
				return "(" + x + " IS NULL)", err
			}},
		"COALESCE": {blanks: true, params: "v v*", usage: "COALESCE(value, value, …)", help: "The first value that is not empty.",
			check: func(c *checker, n *Node) (err *Error) {
				n.Type, err = c.unify(n.Args, "COALESCE")
				return err
			},
			lazy: func(e *evaluator, n *Node) Value {
				for _, a := range n.Args {
					if v := e.eval(a); !v.IsEmpty() {
						return v
					}
				}
				return Empty()
			},
			compile: func(c *Compiler, n *Node) (string, error) {
				args, err := c.values(n.Args)
				return "COALESCE(" + strings.Join(args, ", ") + ")", err
			}},
	}
}

func nothing(at Span) *Node { return &Node{Op: OpConst, Type: Type{Kind: None}, At: at} }

func anyValue(list []Value, yes bool) bool {
	for _, v := range list {
		if v.True() == yes {
			return true
		}
	}
	return false
}

func joined(operator string) func(c *Compiler, n *Node) (string, error) {
	return func(c *Compiler, n *Node) (string, error) {
		args, err := c.values(n.Args)
		return "(" + strings.Join(args, operator) + ")", err
	}
}

// cases checks pairs of a condition and a value, with a value at the end for
// when none holds.
func (c *checker) cases(n *Node, pairs int) *Error {
	var values []*Node
	for i := range pairs {
		cond, err := c.want(n.Args[2*i], Type{Kind: YesNo}, n.Func)
		if err != nil {
			return err
		}
		n.Args[2*i] = cond
		values = append(values, n.Args[2*i+1])
	}
	values = append(values, n.Args[2*pairs])
	t, err := c.unify(values, n.Func)
	if err != nil {
		return err
	}
	for i := range pairs {
		n.Args[2*i+1] = values[i]
	}
	n.Args[2*pairs], n.Type = values[pairs], t
	return nil
}

// checkSwitch turns the cases into conditions.
func checkSwitch(c *checker, n *Node) *Error {
	args := n.Args
	if len(args)%2 == 1 {
		args = append(args, nothing(n.At))
	}
	var out []*Node
	for i := 1; i+1 < len(args); i += 2 {
		sides, err := c.comparable(OpEq, args[0], args[i])
		if err != nil {
			return err
		}
		is := c.fold(&Node{Op: OpEq, Type: Type{Kind: YesNo}, Args: sides, At: args[i].At})
		out = append(out, is, args[i+1])
	}
	n.Args = append(out, args[len(args)-1])
	return c.cases(n, len(out)/2)
}

func evalCases(e *evaluator, n *Node) Value {
	i := 0
	for ; i+1 < len(n.Args); i += 2 {
		if e.eval(n.Args[i]).True() {
			return e.eval(n.Args[i+1])
		}
	}
	return e.eval(n.Args[i])
}

func compileCases(c *Compiler, n *Node) (string, error) {
	var b strings.Builder
	b.WriteString("(CASE")
	last := len(n.Args) - 1
	for i := 0; i < last; i += 2 {
		cond, err := c.Condition(n.Args[i])
		if err != nil {
			return "", err
		}
		value, err := c.Value(n.Args[i+1])
		if err != nil {
			return "", err
		}
		fmt.Fprintf(&b, " WHEN %s THEN %s", cond, value)
	}
	other, err := c.Value(n.Args[last])
	return b.String() + " ELSE " + other + " END)", err
}
