package expr

import (
	"maps"
	"strings"
	"unicode"
	"unicode/utf8"

	"pinegate/core/words"
)

// Limits of an expression; beyond each, parsing gives a clear error.
const (
	MaxSource = 10_000 // characters
	MaxDepth  = 100    // nested operators, calls and parentheses
)

// Span is a piece of the source, as byte offsets; End is exclusive.
type Span struct {
	Start int `json:"start"`
	End   int `json:"end"`
}

// Error is a mistake in an expression, told to the person who wrote it.
type Error struct {
	words.Problem
	At Span

	cycle []*Field // the computed fields that lead back to the first
}

// through adds a field to the path of a cycle, up to where it began.
func (e *Error) through(f *Field) *Error {
	out := *e
	if len(e.cycle) > 1 && e.cycle[0] == e.cycle[len(e.cycle)-1] {
		return &out // the circle is closed already
	}
	out.cycle = append(append([]*Field{}, e.cycle...), f)
	names := make([]string, len(out.cycle))
	for i, x := range out.cycle {
		names[len(names)-1-i] = x.Name
	}
	out.Problem = *words.New("expr-circle", "path", strings.Join(names, " → "))
	return &out
}

// hint adds what to do, by the code of a message and the pairs of its arguments.
func (e *Error) hint(code string, pairs ...any) {
	e.Hint = code
	maps.Copy(e.Args, words.New(code, pairs...).Args)
}

// errorAt gives a mistake at a place, by the code of its message.
func errorAt(at Span, code string, pairs ...any) *Error {
	return &Error{Problem: *words.New(code, pairs...), At: at}
}

type tokenKind int

const (
	tokEnd tokenKind = iota
	tokNumber
	tokText
	tokName    // a bare name
	tokBracket // [a name]
	tokSymbol
)

type token struct {
	kind tokenKind
	text string
	span Span
}

type lexer struct {
	src string
	pos int
}

// next reads one token.
func (l *lexer) next() (token, *Error) {
	for l.pos < len(l.src) {
		r, size := utf8.DecodeRuneInString(l.src[l.pos:])
		if !unicode.IsSpace(r) {
			break
		}
		l.pos += size
	}
	start := l.pos
	if start >= len(l.src) {
		return token{kind: tokEnd, span: Span{start, start}}, nil
	}
	c := l.src[start]
	switch {
	case c >= '0' && c <= '9':
		return l.number(), nil
	case c == '"':
		return l.quoted()
	case c == '[':
		return l.bracket()
	}
	if r, _ := utf8.DecodeRuneInString(l.src[start:]); r == '_' || unicode.IsLetter(r) {
		return l.name(), nil
	}
	return l.symbol()
}

func (l *lexer) token(kind tokenKind, text string, start int) token {
	return token{kind: kind, text: text, span: Span{start, l.pos}}
}

func (l *lexer) digits() {
	for l.pos < len(l.src) && l.src[l.pos] >= '0' && l.src[l.pos] <= '9' {
		l.pos++
	}
}

func (l *lexer) number() token {
	start := l.pos
	l.digits()
	if l.pos+1 < len(l.src) && l.src[l.pos] == '.' && l.src[l.pos+1] >= '0' && l.src[l.pos+1] <= '9' {
		l.pos++
		l.digits()
	}
	return l.token(tokNumber, l.src[start:l.pos], start)
}

func (l *lexer) quoted() (token, *Error) {
	start := l.pos
	var b strings.Builder
	for l.pos++; l.pos < len(l.src); l.pos++ {
		if l.src[l.pos] != '"' {
			b.WriteByte(l.src[l.pos])
			continue
		}
		if l.pos+1 < len(l.src) && l.src[l.pos+1] == '"' {
			b.WriteByte('"')
			l.pos++
			continue
		}
		l.pos++
		return l.token(tokText, b.String(), start), nil
	}
	return token{}, errorAt(Span{start, len(l.src)}, "expr-text-open")
}

func (l *lexer) bracket() (token, *Error) {
	start := l.pos
	end := strings.IndexByte(l.src[start:], ']')
	if end < 0 {
		return token{}, errorAt(Span{start, len(l.src)}, "expr-name-open")
	}
	l.pos = start + end + 1
	name := strings.TrimSpace(l.src[start+1 : start+end])
	if name == "" {
		return token{}, errorAt(Span{start, l.pos}, "expr-name-empty")
	}
	return l.token(tokBracket, name, start), nil
}

func (l *lexer) name() token {
	start := l.pos
	for l.pos < len(l.src) {
		r, size := utf8.DecodeRuneInString(l.src[l.pos:])
		if r != '_' && !unicode.IsLetter(r) && !unicode.IsDigit(r) {
			break
		}
		l.pos += size
	}
	return l.token(tokName, l.src[start:l.pos], start)
}

func (l *lexer) symbol() (token, *Error) {
	start := l.pos
	for _, s := range []string{"<>", "<=", ">=", "+", "-", "*", "/", "&", "=", "<", ">", "(", ")", ",", ";", "."} {
		if strings.HasPrefix(l.src[start:], s) {
			l.pos += len(s)
			return l.token(tokSymbol, s, start), nil
		}
	}
	r, size := utf8.DecodeRuneInString(l.src[start:])
	l.pos += size
	return token{}, errorAt(Span{start, l.pos}, "expr-sign", "sign", string(r))
}
