package expr

import (
	"fmt"
	"regexp"
	"regexp/syntax"
	"strings"
	"unicode"
	"unicode/utf8"

	"pinegate/core/words"
)

// Patterns are written in RE2 syntax. PostgreSQL has another kind of regular
// expression, so a pattern is read here and written anew for it; what has no
// counterpart is refused when it is checked.

// maxPattern bounds the size of a pattern with its repetitions written out.
const maxPattern = 1000

func checkMatches(c *checker, n *Node) *Error {
	text, err := c.asText(n.Args[0], n.Func)
	if err != nil {
		return err
	}
	p := n.Args[1]
	if p.Op != OpConst || p.Type.Kind != Text {
		return errorAt(p.At, "expr-pattern-text")
	}
	if _, problem := translate(p.Value.Text); problem != nil {
		return &Error{Problem: *problem, At: p.At}
	}
	n.Args[0], n.Type = text, Type{Kind: YesNo}
	return nil
}

func evalMatches(_ *evaluator, a []Value) Value {
	re, err := regexp.Compile(a[1].Text)
	return YesNoOf(err == nil && re.MatchString(a[0].Text))
}

func compileMatches(c *Compiler, n *Node) (string, error) {
	x, err := c.Value(n.Args[0])
	if err != nil {
		return "", err
	}
	pattern, problem := translate(n.Args[1].Value.Text)
	if problem != nil {
		return "", fmt.Errorf("compile expression: %w", problem)
	}
	return fmt.Sprintf(`(COALESCE(%s, '') COLLATE "C" ~ %s)`, x, c.Param(pattern, "text")), nil
}

// translate writes an RE2 pattern as an advanced regular expression of
// PostgreSQL, or says in words why it cannot be used.
func translate(pattern string) (string, *words.Problem) {
	re, err := syntax.Parse(pattern, syntax.Perl)
	if err != nil {
		return "", words.New("expr-pattern-formed", "reason", strings.TrimPrefix(err.Error(), "error parsing regexp: "))
	}
	if size(re) > maxPattern {
		return "", words.New("expr-pattern-large")
	}
	var b strings.Builder
	b.WriteString("***:") // what follows is an advanced regular expression
	if what := write(&b, re); what != "" {
		return "", words.New("expr-pattern-without", "what", words.Say(what, nil))
	}
	return b.String(), nil
}

func size(re *syntax.Regexp) int {
	n := 1 + len(re.Rune)
	for _, sub := range re.Sub {
		n += size(sub)
	}
	if re.Op == syntax.OpRepeat {
		n *= max(1, re.Min, re.Max)
	}
	return min(n, maxPattern*10)
}

// write gives what the pattern uses that has no counterpart, as the code of a
// message, or "".
func write(b *strings.Builder, re *syntax.Regexp) string {
	group := func(suffix string) string {
		b.WriteString("(?:")
		what := write(b, re.Sub[0])
		b.WriteString(")" + suffix)
		return what
	}
	switch re.Op {
	case syntax.OpEmptyMatch:
		b.WriteString("(?:)")
	case syntax.OpLiteral:
		for _, r := range re.Rune {
			if re.Flags&syntax.FoldCase != 0 {
				writeClass(b, foldClass(r))
				continue
			}
			writeRune(b, r)
		}
	case syntax.OpCharClass:
		if len(re.Rune) == 0 {
			return "regex-empty-class"
		}
		writeClass(b, re.Rune)
	case syntax.OpAnyCharNotNL:
		b.WriteString(`[^\n]`)
	case syntax.OpAnyChar:
		b.WriteString(".")
	case syntax.OpBeginText:
		b.WriteString(`\A`)
	case syntax.OpEndText:
		b.WriteString(`\Z`)
	case syntax.OpCapture:
		return group("")
	case syntax.OpStar:
		return group("*")
	case syntax.OpPlus:
		return group("+")
	case syntax.OpQuest:
		return group("?")
	case syntax.OpRepeat:
		switch {
		case re.Min > 255 || re.Max > 255:
			return "regex-repetitions"
		case re.Max < 0:
			return group(fmt.Sprintf("{%d,}", re.Min))
		}
		return group(fmt.Sprintf("{%d,%d}", re.Min, re.Max))
	case syntax.OpConcat:
		for _, sub := range re.Sub {
			if what := write(b, sub); what != "" {
				return what
			}
		}
	case syntax.OpAlternate:
		b.WriteString("(?:")
		for i, sub := range re.Sub {
			if i > 0 {
				b.WriteByte('|')
			}
			if what := write(b, sub); what != "" {
				return what
			}
		}
		b.WriteByte(')')
	case syntax.OpBeginLine, syntax.OpEndLine:
		return "regex-lines"
	case syntax.OpWordBoundary, syntax.OpNoWordBoundary:
		return "regex-bounds"
	default:
		return "regex-this"
	}
	return ""
}

// foldClass gives the class of a rune and its other cases.
func foldClass(r rune) []rune {
	out := []rune{r, r}
	for x := unicode.SimpleFold(r); x != r; x = unicode.SimpleFold(x) {
		out = append(out, x, x)
	}
	return out
}

func writeRune(b *strings.Builder, r rune) {
	if r > utf8.MaxRune {
		r = utf8.MaxRune
	}
	fmt.Fprintf(b, `\U%08X`, r)
}

// writeClass writes pairs of first and last runes. PostgreSQL has no character
// 0, so that a class starts with 1.
func writeClass(b *strings.Builder, pairs []rune) {
	b.WriteByte('[')
	for i := 0; i+1 < len(pairs); i += 2 {
		lo, hi := max(pairs[i], 1), pairs[i+1]
		writeRune(b, lo)
		if hi > lo {
			b.WriteByte('-')
			writeRune(b, hi)
		}
	}
	b.WriteByte(']')
}
