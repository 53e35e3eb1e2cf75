package expr

import (
	"fmt"
	"slices"
	"strings"
)

// function is a row of the table of functions: how it is written, checked,
// evaluated and compiled.
//
// Params has one word for each argument: n number, t text, d date, s time
// stamp, b yes/no, u a unit of time written as a text; with = and a number, the
// argument may be left out. A last word with * may come again and again.
type function struct {
	params string
	usage  string
	help   string
	result Kind
	// eval computes the value from those of the arguments. Unless loose, it is
	// not asked where an argument is empty, and the value is empty.
	eval  func(e *evaluator, a []Value) Value
	loose bool
	// cases tells that it gives one of several values, by conditions before them; blanks that it makes something of what is empty.
	cases, blanks bool
	// sql is the name of the function in the schema pinegate that does the
	// same; compile is for those that are not so simple.
	sql     string
	compile func(c *Compiler, n *Node) (string, error)
	// check sets the type of the call and may replace its arguments.
	check func(c *checker, n *Node) *Error
	// lazy is eval for functions that decide which arguments count.
	lazy func(e *evaluator, n *Node) Value
	// rows checks a call whose arguments speak of the records of a list.
	rows func(c *checker, call *Call) (*Node, *Error)
	// changes tells that the value changes though the arguments do not.
	changes bool
	group   string
}

// functions is filled by init because its entries refer back to the
// evaluator, which looks functions up here.
var functions map[string]function

func init() {
	functions = map[string]function{}
	for _, g := range []struct {
		name string
		list map[string]function
	}{
		{"logic", logicFunctions()}, {"numbers", numberFunctions()}, {"money over time", moneyFunctions()}, {"text", textFunctions()},
		{"dates", dateFunctions()}, {"lists", listFunctions()}, {"records", recordFunctions()},
	} {
		for name, f := range g.list {
			f.group = g.name
			functions[name] = f
		}
	}
}

// param is one argument that a function takes.
type param struct {
	code   byte
	preset *Value // what is taken where it is left out
	repeat bool
}

func (f function) paramList() []param {
	var out []param
	for _, word := range strings.Fields(f.params) {
		p := param{code: word[0], repeat: strings.HasSuffix(word, "*")}
		if _, preset, ok := strings.Cut(word, "="); ok {
			v := Empty()
			if preset != "" {
				v = number(preset)
			}
			p.preset = &v
		}
		out = append(out, p)
	}
	return out
}

func (f function) least() int {
	n := 0
	for _, p := range f.paramList() {
		if p.preset == nil && !p.repeat {
			n++
		}
	}
	return n
}

// mostArguments is how many arguments a call may have where they repeat.
const mostArguments = 50

func (f function) most() int {
	list := f.paramList()
	if len(list) > 0 && list[len(list)-1].repeat {
		return mostArguments
	}
	return len(list)
}

var paramKinds = map[byte]Kind{'n': Number, 't': Text, 'd': Date, 's': Time, 'b': YesNo, 'u': Text}

// checkParams brings the arguments to the types of the parameters.
func (f function) checkParams(c *checker, n *Node) *Error {
	list := f.paramList()
	for i, p := range list {
		if i >= len(n.Args) {
			n.Args = append(n.Args, &Node{Op: OpConst, Type: Type{Kind: paramKinds[p.code]}, Value: *p.preset, At: n.At})
		}
	}
	for i, a := range n.Args {
		p := list[min(i, len(list)-1)]
		var err *Error
		if p.code == 't' {
			a, err = c.asText(a, n.Func)
		} else {
			a, err = c.want(a, Type{Kind: paramKinds[p.code]}, n.Func)
		}
		if err != nil {
			return err
		}
		n.Args[i] = a
	}
	n.Type = Type{Kind: f.result}
	return nil
}

// oneOf refuses an argument that is not one of the texts, written out.
func oneOf(n *Node, i int, texts ...string) *Error {
	a := n.Args[i]
	if a.Op == OpConst && slices.Contains(texts, strings.ToLower(a.Value.Text)) {
		a.Value.Text = strings.ToLower(a.Value.Text)
		return nil
	}
	return errorAt(a.At, "expr-one-of", "name", n.Func, "values", `"`+strings.Join(texts, `", "`)+`"`)
}

// callSQL compiles a call to the function of the same meaning.
func (f function) callSQL(c *Compiler, n *Node) (string, error) {
	if f.compile != nil {
		return f.compile(c, n)
	}
	args, err := c.values(n.Args)
	return "pinegate." + f.sql + "(" + strings.Join(args, ", ") + ")", err
}

// call evaluates a call.
func (f function) call(e *evaluator, n *Node) Value {
	if f.lazy != nil {
		return f.lazy(e, n)
	}
	args := make([]Value, len(n.Args))
	for i, a := range n.Args {
		args[i] = e.eval(a)
		if args[i].IsEmpty() && !f.loose {
			return Empty()
		}
	}
	return f.eval(e, args)
}

func functionNames() []string {
	names := make([]string, 0, len(functions))
	for name := range functions {
		names = append(names, name)
	}
	slices.Sort(names)
	return names
}

// FunctionHelp is what is told of a function where it can be picked.
type FunctionHelp struct {
	Name  string `json:"name"`
	Usage string `json:"usage"`
	Help  string `json:"help"`
	Group string `json:"group"`
}

// Functions lists the functions of the language by name.
func Functions() []FunctionHelp {
	var out []FunctionHelp
	for _, name := range functionNames() {
		f := functions[name]
		out = append(out, FunctionHelp{Name: name, Usage: f.usage, Help: f.help, Group: f.group})
	}
	return out
}

func unitsOfTime() []string { return []string{"week", "month", "quarter", "year"} }

func notSQL(what string) error { return fmt.Errorf("compile expression: %s stands alone", what) }
