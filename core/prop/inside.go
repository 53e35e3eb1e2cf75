package prop

import (
	"encoding/json"
	"iter"
	"slices"
	"strings"

	"pinegate/core/expr"
	"pinegate/core/words"
)

// ExprValue is an expression, or a text with placeholders.
type ExprValue struct {
	cell[string]
	want     expr.Type
	template bool
	Joined   bool // it is said as what it joins, without signs between
}

func expression(at *string, scope expr.Scope, want string) ExprValue {
	return ExprValue{cell: cell[string]{at, Control{Kind: ExpressionControl, Scope: scope, Want: want}}}
}

// Condition is an expression that is yes or no.
func Condition(at *string, scope expr.Scope) ExprValue {
	v := expression(at, scope, WantCondition)
	v.want = expr.Type{Kind: expr.YesNo}
	return v
}

// Expression is an expression of the type, or of any for the zero type.
func Expression(at *string, scope expr.Scope, want expr.Type) ExprValue {
	v := expression(at, scope, WantValue)
	v.want = want
	return v
}

// Label is an expression that gives a text.
func Label(at *string, scope expr.Scope) ExprValue {
	v := expression(at, scope, WantText)
	v.want, v.Joined = expr.Type{Kind: expr.Text}, true
	return v
}

// Template is a text with {{ }} placeholders.
func Template(at *string, scope expr.Scope) ExprValue {
	v := expression(at, scope, WantTemplate)
	v.template = true
	return v
}

// Offering offers expressions.
func (v ExprValue) Offering(offers iter.Seq[Option]) ExprValue {
	v.control.Offers = offers
	return v
}

// Set reads an expression and leaves out the blanks around it.
func (v ExprValue) Set(raw json.RawMessage) error {
	if err := v.cell.Set(raw); err != nil {
		return err
	}
	if !v.template {
		*v.at = strings.TrimSpace(*v.at)
	}
	return nil
}

// Zero tells whether there is none.
func (v ExprValue) Zero() bool { return strings.TrimSpace(*v.at) == "" }

// Wrong tells of one that is too long.
func (v ExprValue) Wrong() *words.Problem {
	return TextValue{cell: cell[string]{v.at, Control{Long: true}}, Most: MostText}.Wrong()
}

// Exprs gives the expression.
func (v ExprValue) Exprs() []Expr {
	if *v.at == "" {
		return nil
	}
	return []Expr{{Source: v.at, Scope: v.control.Scope, Want: v.want, Template: v.template}}
}

// Question is a field that people are asked for.
type Question struct {
	Field    string `json:"field"`
	Required bool   `json:"required,omitempty"`
}

// QuestionsValue are fields that people are asked for, in an order.
type QuestionsValue struct{ cell[[]Question] }

// Questions are some of the fields.
func Questions(at *[]Question, fields To) QuestionsValue {
	return QuestionsValue{cell[[]Question]{at, Control{Kind: QuestionsControl, To: fields}}}
}

// Zero tells whether nothing is asked.
func (v QuestionsValue) Zero() bool { return len(*v.at) == 0 }

// Get gives the questions; the list is never null.
func (v QuestionsValue) Get() any { return append([]Question{}, *v.at...) }

func fieldOf(q Question) string { return q.Field }

// Refs gives the fields.
func (v QuestionsValue) Refs() []Ref {
	return refs(*v.at, v.control.To, fieldOf, func(q Question) {
		*v.at = slices.DeleteFunc(*v.at, func(x Question) bool { return x.Field == q.Field })
	})
}

// AskedValue are the fields that people are asked for where what asks for them is held
// elsewhere: it is made anew when they are set, and is what names the fields.
type AskedValue struct {
	QuestionsValue
	then func([]Question)
}

// Asked is [Questions] of what then makes of them.
func Asked(now []Question, fields To, then func([]Question)) AskedValue {
	return AskedValue{Questions(&now, fields), then}
}

// Set reads them and makes of them what asks.
func (v AskedValue) Set(raw json.RawMessage) error {
	if err := v.QuestionsValue.Set(raw); err != nil {
		return err
	}
	v.then(*v.at)
	return nil
}

// Clear asks for nothing.
func (v AskedValue) Clear() { v.then(nil) }

// At gives none: they are held elsewhere.
func (v AskedValue) At() any { return nil }

// Refs gives none: what asks for the fields does.
func (v AskedValue) Refs() []Ref { return nil }

// Wrong tells of a field that is asked for twice.
func (v QuestionsValue) Wrong() *words.Problem { return twice(*v.at, fieldOf, v.control.To) }

// Asks lists the questions.
func (v QuestionsValue) Asks() []Question { return *v.at }

// Given is a field that the server fills in, whatever the browser says, from an
// expression.
type Given struct {
	Field string `json:"field"`
	Value string `json:"value"`
}

// GivenValue are fields that the server fills in.
type GivenValue struct {
	cell[[]Given]
	want  func(field string) expr.Type
	Joint string // what stands between a field and its expression in sentences
}

// Gives are some of the fields with expressions over the scope, of the types that
// want says.
func Gives(at *[]Given, fields To, scope expr.Scope, want func(field string) expr.Type) GivenValue {
	return GivenValue{cell[[]Given]{at, Control{Kind: GivenControl, To: fields, Scope: scope, Want: WantValue}}, want, " to "}
}

// Whens are some of what is offered, each with the condition when it is so.
func Whens(at *[]Given, to To, scope expr.Scope) GivenValue {
	yes := func(string) expr.Type { return expr.Type{Kind: expr.YesNo} }
	return GivenValue{cell[[]Given]{at, Control{Kind: GivenControl, To: to, Scope: scope, Want: WantCondition}}, yes, " when "}
}

// Zero tells whether nothing is filled in.
func (v GivenValue) Zero() bool { return len(*v.at) == 0 }

// Get gives what is filled in; the list is never null.
func (v GivenValue) Get() any { return append([]Given{}, *v.at...) }

func (v GivenValue) cut(g Given) {
	*v.at = slices.DeleteFunc(*v.at, func(x Given) bool { return x.Field == g.Field })
}

func givenField(g Given) string { return g.Field }

// Refs gives the fields.
func (v GivenValue) Refs() []Ref { return refs(*v.at, v.control.To, givenField, v.cut) }

// Exprs gives the expressions.
func (v GivenValue) Exprs() []Expr {
	var out []Expr
	for i := range *v.at {
		g := (*v.at)[i]
		if o, ok := v.control.To.Find(g.Field); ok {
			out = append(out, Expr{Source: &(*v.at)[i].Value, Scope: v.control.Scope, Want: v.want(g.Field), Cut: func() { v.cut(g) },
				About: o.Words})
		}
	}
	return out
}

// Wrong tells of a field that is filled in twice, or with nothing.
func (v GivenValue) Wrong() *words.Problem {
	for _, g := range *v.at {
		if strings.TrimSpace(g.Value) == "" {
			o, _ := v.control.To.Find(g.Field)
			return words.New("given-nothing", "field", o.Words)
		}
	}
	return twice(*v.at, givenField, v.control.To)
}

// Fills lists what is filled in, with the type of each value.
func (v GivenValue) Fills(yield func(Given, expr.Type) bool) {
	for _, g := range *v.at {
		if !yield(g, v.want(g.Field)) {
			return
		}
	}
}

// Path is a page that is taken if a condition holds; "" holds for everyone.
type Path struct {
	When string `json:"when,omitempty"`
	Page string `json:"page"`
}

// PathsValue are pages of which the first that fits is taken.
type PathsValue struct{ cell[[]Path] }

// Paths are some of the pages, with conditions over the scope.
func Paths(at *[]Path, pages To, scope expr.Scope) PathsValue {
	return PathsValue{cell[[]Path]{at, Control{Kind: PathsControl, To: pages, Scope: scope, Want: WantCondition}}}
}

// Zero tells whether there are none.
func (v PathsValue) Zero() bool { return len(*v.at) == 0 }

// Get gives the paths; the list is never null.
func (v PathsValue) Get() any { return append([]Path{}, *v.at...) }

func (v PathsValue) cut(p Path) {
	*v.at = slices.DeleteFunc(*v.at, func(x Path) bool { return x == p })
}

// Refs gives the pages.
func (v PathsValue) Refs() []Ref {
	return refs(*v.at, v.control.To, func(p Path) string { return p.Page }, v.cut)
}

// Exprs gives the conditions.
func (v PathsValue) Exprs() []Expr {
	var out []Expr
	for i, p := range *v.at {
		if p.When != "" {
			out = append(out, Expr{Source: &(*v.at)[i].When, Scope: v.control.Scope, Want: expr.Type{Kind: expr.YesNo},
				Cut: func() { v.cut(p) }})
		}
	}
	return out
}

// Leads lists the paths.
func (v PathsValue) Leads() []Path { return *v.at }

// Extent says to which records something reaches.
type Extent string

// The extents.
const (
	NoRecords  Extent = "none"
	AllRecords Extent = "all"
	Where      Extent = "where"
)

// Reach is an extent, with a condition where it is [Where]. The zero value reaches
// nothing.
type Reach struct {
	Extent    Extent `json:"extent,omitempty"`
	Condition string `json:"condition,omitempty"`
}

// ReachValue says to which records something reaches.
type ReachValue struct{ cell[Reach] }

// Reaches says to which records something reaches, by a condition over the scope.
func Reaches(at *Reach, scope expr.Scope, offers iter.Seq[Option]) ReachValue {
	return ReachValue{cell[Reach]{at, Control{Kind: ReachControl, Scope: scope, Want: WantCondition, Offers: offers}}}
}

// Set reads an extent; the condition belongs to [Where] alone.
func (v ReachValue) Set(raw json.RawMessage) error {
	if err := v.cell.Set(raw); err != nil {
		return err
	}
	v.at.Condition = strings.TrimSpace(v.at.Condition)
	if v.at.Extent == NoRecords {
		v.at.Extent = ""
	}
	if v.at.Extent != Where {
		v.at.Condition = ""
	}
	return nil
}

// Get gives the extent, with none in words.
func (v ReachValue) Get() any {
	r := *v.at
	if r.Extent == "" {
		r.Extent = NoRecords
	}
	return r
}

// Zero tells whether it reaches nothing.
func (v ReachValue) Zero() bool { return v.at.Extent == "" || v.at.Extent == NoRecords }

// Wrong tells of an extent that there is not, and of a condition that is missing.
func (v ReachValue) Wrong() *words.Problem {
	switch {
	case v.at.Extent == Where && v.at.Condition == "":
		return words.New("reach-where")
	case v.at.Extent != "" && !slices.Contains([]Extent{NoRecords, AllRecords, Where}, v.at.Extent):
		return words.New("not-offered", "value", string(v.at.Extent))
	}
	return nil
}

// Exprs gives the condition.
func (v ReachValue) Exprs() []Expr {
	if v.at.Extent != Where || v.at.Condition == "" {
		return nil
	}
	return []Expr{{Source: &v.at.Condition, Scope: v.control.Scope, Want: expr.Type{Kind: expr.YesNo}}}
}

// Reached gives the extent with its condition.
func (v ReachValue) Reached() Reach { return *v.at }
