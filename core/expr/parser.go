package expr

import (
	"strings"
	"unicode/utf8"

	"github.com/shopspring/decimal"
)

// Syntax is a node of the syntax tree: [Literal], [Path], [Unary], [Binary]
// [Call] or [Step].
type Syntax interface{ Span() Span }

// Literal is a number, text, true, false or empty as written.
type Literal struct {
	Value Value
	At    Span
}

// Path is a name, or names joined by dots.
type Path struct {
	Names []Name
	At    Span
}

// Name is one step of a path. Bracketed names are field names as people read
// them; bare ones are keys.
type Name struct {
	Text      string
	Bracketed bool
	At        Span
}

// Unary is an operator before its operand: - or not.
type Unary struct {
	Op string
	X  Syntax
	At Span
}

// Binary is an operator between two operands.
type Binary struct {
	Op   string
	X, Y Syntax
	At   Span
}

// Call is a function with its arguments. The name is in capitals.
type Call struct {
	Name   string
	NameAt Span
	Args   []Syntax
	At     Span
}

// Step is names joined by dots that follow something in parentheses or a
// function.
type Step struct {
	X     Syntax
	Names []Name
	At    Span
}

// Span gives where the node stands in the source.
func (n *Step) Span() Span { return n.At }

// Span gives where the node stands in the source.
func (n *Literal) Span() Span { return n.At }

// Span gives where the node stands in the source.
func (n *Path) Span() Span { return n.At }

// Span gives where the node stands in the source.
func (n *Unary) Span() Span { return n.At }

// Span gives where the node stands in the source.
func (n *Binary) Span() Span { return n.At }

// Span gives where the node stands in the source.
func (n *Call) Span() Span { return n.At }

// Binding strengths, loosest first.
const (
	precOr = iota + 1
	precAnd
	precNot
	precCompare
	precJoin
	precAdd
	precMul
	precUnary
)

var binaryPrec = map[string]int{
	"or": precOr, "and": precAnd,
	"=": precCompare, "<>": precCompare, "<": precCompare, "<=": precCompare, ">": precCompare, ">=": precCompare,
	"&": precJoin, "+": precAdd, "-": precAdd, "*": precMul, "/": precMul,
}

type parser struct {
	lex   lexer
	tok   token
	depth int
}

// Parse reads an expression. The error, if any, is an [*Error].
func Parse(src string) (Syntax, error) {
	if utf8.RuneCountInString(src) > MaxSource {
		return nil, errorAt(Span{0, len(src)}, "expr-long")
	}
	if !utf8.ValidString(src) || strings.ContainsRune(src, 0) {
		return nil, errorAt(Span{0, len(src)}, "expr-stored")
	}
	p := &parser{lex: lexer{src: src}}
	if err := p.advance(); err != nil {
		return nil, err
	}
	if p.tok.kind == tokEnd {
		return nil, errorAt(Span{0, 0}, "expr-empty")
	}
	n, err := p.binary(precOr)
	if err != nil {
		return nil, err
	}
	if p.tok.kind != tokEnd {
		return nil, errorAt(p.tok.span, "expr-after", "text", p.tok.text)
	}
	return n, nil
}

func (p *parser) advance() *Error {
	t, err := p.lex.next()
	if err != nil {
		return err
	}
	p.tok = t
	return nil
}

// operator gives the operator that the current token is, or "".
func (p *parser) operator() string {
	switch p.tok.kind {
	case tokSymbol:
		return p.tok.text
	case tokName:
		if low := strings.ToLower(p.tok.text); low == "and" || low == "or" || low == "not" {
			return low
		}
	}
	return ""
}

func (p *parser) enter() *Error {
	p.depth++
	if p.depth > MaxDepth {
		return errorAt(p.tok.span, "expr-deep")
	}
	return nil
}

func (p *parser) binary(min int) (Syntax, *Error) {
	if err := p.enter(); err != nil {
		return nil, err
	}
	defer func() { p.depth-- }()
	x, err := p.prefix(min)
	if err != nil {
		return nil, err
	}
	chain := 0
	for {
		op := p.operator()
		prec := binaryPrec[op]
		if prec == 0 || prec < min {
			return x, nil
		}
		if chain++; chain > MaxDepth {
			return nil, errorAt(p.tok.span, "expr-row")
		}
		if err := p.advance(); err != nil {
			return nil, err
		}
		y, err := p.binary(prec + 1)
		if err != nil {
			return nil, err
		}
		x = &Binary{Op: op, X: x, Y: y, At: Span{x.Span().Start, y.Span().End}}
		if prec == precCompare && binaryPrec[p.operator()] == precCompare {
			return nil, errorAt(p.tok.span, "expr-chained")
		}
	}
}

func (p *parser) prefix(min int) (Syntax, *Error) {
	start := p.tok.span.Start
	switch op := p.operator(); {
	case op == "not" && p.tok.text == "NOT" && strings.HasPrefix(p.lex.src[p.lex.pos:], "("):
		return p.path()
	case op == "not" && min <= precNot:
		if err := p.advance(); err != nil {
			return nil, err
		}
		x, err := p.binary(precNot)
		if err != nil {
			return nil, err
		}
		return &Unary{Op: op, X: x, At: Span{start, x.Span().End}}, nil
	case op == "-":
		if err := p.advance(); err != nil {
			return nil, err
		}
		x, err := p.binary(precUnary)
		if err != nil {
			return nil, err
		}
		return &Unary{Op: op, X: x, At: Span{start, x.Span().End}}, nil
	}
	return p.primary()
}

func (p *parser) primary() (Syntax, *Error) {
	t := p.tok
	switch t.kind {
	case tokNumber:
		d, err := decimal.NewFromString(t.text)
		if err != nil {
			return nil, errorAt(t.span, "expr-number", "text", t.text)
		}
		return &Literal{NumberOf(d), t.span}, p.advance()
	case tokText:
		return &Literal{TextOf(t.text), t.span}, p.advance()
	case tokBracket:
		return p.path()
	case tokName:
		switch strings.ToLower(t.text) {
		case "true":
			return &Literal{YesNoOf(true), t.span}, p.advance()
		case "false":
			return &Literal{YesNoOf(false), t.span}, p.advance()
		case "empty":
			return &Literal{Empty(), t.span}, p.advance()
		case "and", "or", "not":
			if strings.HasPrefix(strings.TrimSpace(p.lex.src[p.lex.pos:]), "(") {
				return p.path()
			}
			return nil, errorAt(t.span, "expr-missing-before", "text", t.text)
		}
		return p.path()
	case tokSymbol:
		if t.text == "(" {
			return p.group()
		}
		return nil, errorAt(t.span, "expr-value-before", "text", t.text)
	}
	return nil, errorAt(t.span, "expr-ends")
}

func (p *parser) group() (Syntax, *Error) {
	if err := p.advance(); err != nil {
		return nil, err
	}
	x, err := p.binary(precOr)
	if err != nil {
		return nil, err
	}
	if err := p.expect(")"); err != nil {
		return nil, err
	}
	return p.step(x)
}

func (p *parser) expect(symbol string) *Error {
	if p.tok.kind != tokSymbol || p.tok.text != symbol {
		return errorAt(p.tok.span, "expr-sign-missing", "sign", symbol)
	}
	return p.advance()
}

// path reads names joined by dots, or a call when the first is followed by a
// parenthesis.
func (p *parser) path() (Syntax, *Error) {
	first := p.tok
	n := &Path{Names: []Name{{first.text, first.kind == tokBracket, first.span}}, At: first.span}
	if err := p.advance(); err != nil {
		return nil, err
	}
	if first.kind == tokName && p.operator() == "(" {
		return p.call(first)
	}
	names, err := p.names(n.Names)
	if err != nil {
		return nil, err
	}
	n.Names = names
	n.At.End = names[len(names)-1].At.End
	return n, nil
}

// names reads the names that follow dots.
func (p *parser) names(out []Name) ([]Name, *Error) {
	for p.operator() == "." {
		if err := p.advance(); err != nil {
			return nil, err
		}
		if p.tok.kind != tokName && p.tok.kind != tokBracket {
			return nil, errorAt(p.tok.span, "expr-dot")
		}
		if len(out) >= 16 {
			return nil, errorAt(p.tok.span, "expr-path")
		}
		out = append(out, Name{p.tok.text, p.tok.kind == tokBracket, p.tok.span})
		if err := p.advance(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// step reads the names that follow something in parentheses or a function.
func (p *parser) step(x Syntax) (Syntax, *Error) {
	names, err := p.names(nil)
	if err != nil || len(names) == 0 {
		return x, err
	}
	return &Step{X: x, Names: names, At: Span{x.Span().Start, names[len(names)-1].At.End}}, nil
}

func (p *parser) call(name token) (Syntax, *Error) {
	n := &Call{Name: strings.ToUpper(name.text), NameAt: name.span}
	if err := p.advance(); err != nil {
		return nil, err
	}
	for p.operator() != ")" {
		x, err := p.binary(precOr)
		if err != nil {
			return nil, err
		}
		n.Args = append(n.Args, x)
		if op := p.operator(); op == "," || op == ";" {
			if err := p.advance(); err != nil {
				return nil, err
			}
			if p.operator() == ")" {
				return nil, errorAt(p.tok.span, "expr-comma")
			}
		} else if op != ")" {
			return nil, errorAt(p.tok.span, "expr-closing")
		}
	}
	n.At = Span{name.span.Start, p.tok.span.End}
	if err := p.advance(); err != nil {
		return nil, err
	}
	return p.step(n)
}
