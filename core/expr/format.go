package expr

import (
	"fmt"
	"strings"
	"time"

	"pinegate/core/words"
)

// format is what a format text of TEXT means: sections for numbers, or tokens
// for dates and time stamps. The codes are those that spreadsheets share.
type format struct {
	sections []section
	tokens   []dateToken
}

// section is how numbers are written; with two, the second is for those below
// zero.
type section struct {
	prefix, suffix   string
	whole            int // least digits before the point
	least, most      int // digits behind the point
	grouped, percent bool
}

// dateToken is a part of a date's format: a code such as yyyy, or literal text.
type dateToken struct {
	code, text string
}

const maxFormat = 100

func checkFormat(c *checker, n *Node) *Error {
	f := n.Args[1]
	if f.Op != OpConst || f.Type.Kind != Text {
		return errorAt(f.At, "expr-format-text")
	}
	n.format = &format{}
	var problem *words.Problem
	switch kind := n.Args[0].Type; {
	case kind == Type{Kind: Number}:
		n.format.sections, problem = numberFormat(f.Value.Text)
	case kind == Type{Kind: Date}, kind == Type{Kind: Time}:
		n.format.tokens, problem = dateFormat(f.Value.Text)
	default:
		return errorAt(n.Args[0].At, "expr-format-of", "type", describe(c.scope, kind))
	}
	if problem != nil {
		return &Error{Problem: *problem, At: f.At}
	}
	n.Type = Type{Kind: Text}
	return nil
}

// numberFormat reads codes such as #,##0.00 with texts around them.
func numberFormat(s string) ([]section, *words.Problem) {
	if len(s) > maxFormat {
		return nil, words.New("expr-format-long", "n", maxFormat)
	}
	out := []section{{}}
	now := &out[0]
	state := 0 // before the digits, in the whole ones, behind the point, after them
	runes := []rune(s)
	literal := func(text string) {
		if state > 0 {
			state = 3
			now.suffix += text
		} else {
			now.prefix += text
		}
	}
	for i := 0; i < len(runes); i++ {
		switch r := runes[i]; {
		case r == '"':
			end := i + 1
			for end < len(runes) && runes[end] != '"' {
				end++
			}
			if end == len(runes) {
				return nil, words.New("expr-format-open")
			}
			literal(string(runes[i+1 : end]))
			i = end
		case r == '\\' && i+1 < len(runes):
			i++
			literal(string(runes[i]))
		case r == '0' || r == '#':
			if state == 3 {
				return nil, words.New("expr-format-digits")
			}
			if state == 2 {
				now.most++
				if r == '0' {
					now.least = now.most
				}
				continue
			}
			state = 1
			if r == '0' || now.whole > 0 {
				now.whole++
			}
		case r == ',' && state == 1:
			now.grouped = true
		case r == '.' && state < 2:
			state = 2
		case r == ';' && len(out) == 1 && state > 0:
			out = append(out, section{})
			now, state = &out[1], 0
		case r == '%':
			now.percent = true
			literal("%")
		case strings.ContainsRune(",.;?", r) || r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z':
			return nil, words.New("expr-format-number", "sign", string(r))
		default:
			literal(string(r))
		}
	}
	if state == 0 {
		return nil, words.New("expr-format-no-digits")
	}
	return out, nil
}

// dateFormat reads codes such as d mmm yyyy. m after h or before s is minutes.
func dateFormat(s string) ([]dateToken, *words.Problem) {
	if len(s) > maxFormat {
		return nil, words.New("expr-format-long", "n", maxFormat)
	}
	var out []dateToken
	runes := []rune(s)
	for i := 0; i < len(runes); {
		r := runes[i]
		end := i + 1
		low := strings.ToLower(string(r))
		switch {
		case r == '"':
			for end < len(runes) && runes[end] != '"' {
				end++
			}
			if end == len(runes) {
				return nil, words.New("expr-format-open")
			}
			out = append(out, dateToken{text: string(runes[i+1 : end])})
			end++
		case strings.Contains("ymdhs", low):
			for end < len(runes) && strings.EqualFold(string(runes[end]), low) {
				end++
			}
			code := strings.Repeat(low, end-i)
			if !knownCode(code) {
				return nil, words.New("expr-format-code", "code", string(runes[i:end]))
			}
			out = append(out, dateToken{code: code})
		case low == "a" && strings.EqualFold(string(runes[i:min(len(runes), i+5)]), "am/pm"):
			end = i + 5
			out = append(out, dateToken{code: "am/pm"})
		case r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z':
			return nil, words.New("expr-format-date", "sign", string(r))
		default:
			out = append(out, dateToken{text: string(r)})
		}
		i = end
	}
	return minutes(out), nil
}

func knownCode(code string) bool {
	switch code {
	case "yyyy", "yy", "mmmm", "mmm", "mm", "m", "dddd", "ddd", "dd", "d", "hh", "h", "ss", "s":
		return true
	}
	return false
}

// minutes tells minutes from months, and hours of half a day from those of a
// whole one.
func minutes(tokens []dateToken) []dateToken {
	half := false
	last := ""
	for i, t := range tokens {
		half = half || t.code == "am/pm"
		if t.code == "" {
			continue
		}
		if (t.code == "m" || t.code == "mm") && (strings.HasPrefix(last, "h") || nextCode(tokens[i+1:]) == 's') {
			tokens[i].code = strings.Repeat("n", len(t.code))
		}
		last = t.code
	}
	for i, t := range tokens {
		if half && strings.HasPrefix(t.code, "h") {
			tokens[i].code = "half " + t.code
		}
	}
	return tokens
}

func nextCode(tokens []dateToken) byte {
	for _, t := range tokens {
		if t.code != "" {
			return t.code[0]
		}
	}
	return 0
}

func evalFormat(e *evaluator, n *Node) Value {
	v := e.eval(n.Args[0])
	if v.IsEmpty() {
		return v
	}
	if v.Kind == Number {
		return TextOf(n.format.number(v))
	}
	t := day(v)
	if v.Kind == Time {
		t = e.clock().Local(instant(v))
	}
	var b strings.Builder
	for _, k := range n.format.tokens {
		if k.code == "" {
			b.WriteString(k.text)
		} else {
			b.WriteString(datePart(t, k.code))
		}
	}
	return TextOf(b.String())
}

func datePart(t time.Time, code string) string {
	switch code {
	case "yyyy":
		return fmt.Sprintf("%04d", t.Year())
	case "yy":
		return fmt.Sprintf("%02d", t.Year()%100)
	case "half hh":
		return fmt.Sprintf("%02d", (t.Hour()+11)%12+1)
	case "half h":
		return itoa((t.Hour()+11)%12 + 1)
	case "h":
		return itoa(t.Hour())
	case "n":
		return itoa(t.Minute())
	case "s":
		return itoa(t.Second())
	}
	return t.Format(map[string]string{"mmmm": "January", "mmm": "Jan", "mm": "01", "m": "1", "dddd": "Monday", "ddd": "Mon", "dd": "02",
		"d":  "2",
		"hh": "15", "nn": "04", "ss": "05", "am/pm": "PM"}[code])
}

// number writes a number by the section for its sign.
func (f *format) number(v Value) string {
	s, d := f.sections[0], v.Num
	minus := ""
	if s.rounds(v).Sign() < 0 {
		minus = "-"
		if len(f.sections) > 1 {
			s, minus = f.sections[1], ""
		}
	}
	if s.percent {
		d = d.Shift(2)
	}
	text := d.Abs().StringFixed(int32(s.most))
	whole, fraction, _ := strings.Cut(text, ".")
	for len(fraction) > s.least && strings.HasSuffix(fraction, "0") {
		fraction = fraction[:len(fraction)-1]
	}
	if whole == "0" {
		whole = ""
	}
	whole = strings.Repeat("0", max(0, s.whole-len(whole))) + whole
	if s.grouped {
		for i := len(whole) - 3; i > 0; i -= 3 {
			whole = whole[:i] + "," + whole[i:]
		}
	}
	if fraction != "" {
		whole += "." + fraction
	}
	return minus + s.prefix + whole + s.suffix
}

// rounds gives the number as it will be read.
func (s section) rounds(v Value) interface{ Sign() int } {
	d := v.Num
	if s.percent {
		d = d.Shift(2)
	}
	return d.Round(int32(s.most))
}

func compileFormat(c *Compiler, n *Node) (string, error) {
	x, err := c.Value(n.Args[0])
	if err != nil {
		return "", err
	}
	if n.Args[0].Type.Kind == Number {
		return n.format.numberSQL(c, x), nil
	}
	t := x + "::timestamp"
	if n.Args[0].Type.Kind == Time {
		t = c.local(x)
	}
	var parts []string
	for _, k := range n.format.tokens {
		if k.code == "" {
			parts = append(parts, c.Param(k.text, "text"))
		} else {
			parts = append(parts, "pinegate.time_part("+t+", "+c.Param(k.code, "text")+")")
		}
	}
	if len(parts) == 0 {
		return "NULL::text", nil
	}
	return fmt.Sprintf("(CASE WHEN %s IS NOT NULL THEN NULLIF(%s, '') END)", x, strings.Join(parts, " || ")), nil
}

func (f *format) numberSQL(c *Compiler, x string) string {
	write := func(s section, minus string) string {
		return fmt.Sprintf("pinegate.number_text(%s, %d, %d, %d, %t, %t, %s, %s)", x, s.whole, s.least, s.most, s.grouped, s.percent,
			c.Param(minus+s.prefix, "text"), c.Param(s.suffix, "text"))
	}
	s := f.sections[0]
	shift := ""
	if s.percent {
		shift = " * 100"
	}
	below, minus := s, "-"
	if len(f.sections) > 1 {
		below, minus = f.sections[1], ""
	}
	return fmt.Sprintf("(CASE WHEN round(%s%s, %d) < 0 THEN %s ELSE %s END)", x, shift, s.most, write(below, minus), write(s, ""))
}
