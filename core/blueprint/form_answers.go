package blueprint

import (
	"slices"

	"pinegate/core/expr"
	"pinegate/core/words"
)

// Askers walks what the form asks for, in its order, each with what goes with the form in which
// it asks, or nil.
func (x *FormBlock) Askers(yield func(Asker, *WithBlock) bool) { askers(x.Blocks, nil, yield) }

func askers(blocks Blocks, with *WithBlock, yield func(Asker, *WithBlock) bool) bool {
	for _, y := range blocks {
		ok := true
		switch y := y.(type) {
		case *SectionBlock:
			ok = askers(y.Blocks, with, yield)
		case *WithBlock:
			ok = askers(y.Blocks, y, yield)
		case Asker:
			ok = yield(y, with)
		}
		if !ok {
			return false
		}
	}
	return true
}

// Questions walks the questions about fields of its own record, in their order.
func (x *FormBlock) Questions(yield func(*QuestionBlock) bool) {
	for a, with := range x.Askers {
		if q, ok := a.(*QuestionBlock); ok && with == nil && !yield(q) {
			return
		}
	}
}

// Question gives the question about a field of its own record, or nil.
func (x *FormBlock) Question(field string) *QuestionBlock { return questionIn(x.Blocks, field) }

// With walks what goes with the form.
func (x *FormBlock) With(yield func(*WithBlock) bool) {
	for y := range x.Blocks.All {
		if w, ok := y.(*WithBlock); ok && !yield(w) {
			return
		}
	}
}

// TableOf gives the table of whose records something in the form asks: that of what goes with
// it, or its own.
func (x *FormBlock) TableOf(b *Blueprint, with *WithBlock) *Table {
	if with != nil {
		return with.Table(b, x)
	}
	return b.Table(x.Table)
}

// AnswersOf is how expressions see the answers of a form: all, or those before a question, a
// section or what goes with it and, with it, that of the question. What goes with the form is
// a record, or a list of them; of its own questions it is the one that they are about.
func (b *Blueprint) AnswersOf(x *FormBlock, before string, with bool, catalog *expr.Catalog) *expr.Table {
	a := answers{b: b, form: x, catalog: catalog, before: before, with: with, fields: []*expr.Field{}}
	a.of(x.Blocks, nil)
	return expr.Named(expr.AnswersTable, words.Say("form-answers", nil), a.fields)
}

type answers struct {
	b       *Blueprint
	form    *FormBlock
	catalog *expr.Catalog
	before  string
	with    bool
	fields  []*expr.Field
}

// of adds the answers of blocks, and tells whether there are more to come.
func (a *answers) of(blocks Blocks, with *WithBlock) bool {
	for _, y := range blocks {
		at := a.before != "" && y.Self().ID == a.before
		if at && !a.with {
			return false
		}
		more := true
		switch y := y.(type) {
		case *SectionBlock:
			more = a.of(y.Blocks, nil)
		case *WithBlock:
			more = a.record(y)
		case *ResultBlock:
			a.result(y)
		case Asker:
			if f := y.Asks(a.b, a.form.TableOf(a.b, with)); f != nil && with == nil {
				is := a.catalog.TypeOf(a.form.Table, f.ID)
				if is.Kind == "" { // which is no field of the table
					is = f.ExprType()
				}
				a.fields = append(a.fields, &expr.Field{ID: f.ID, Key: f.Key, Name: f.Name, Type: is})
			}
		}
		if at || !more {
			return false
		}
	}
	return true
}

// result adds what is calculated from the answers so far; nothing where that cannot be, which is told of the
// result itself.
func (a *answers) result(y *ResultBlock) {
	scope := a.b.ListScope(a.b.spotOf(a.form), "", a.catalog)
	scope.Answers = expr.Named(expr.AnswersTable, "", a.fields)
	if c, err := expr.Check(y.Value, scope); err == nil && c.Type().Kind != expr.None {
		a.fields = append(a.fields, &expr.Field{ID: y.ID, Key: y.Key, Name: y.Name, Type: c.Type()})
	}
}

// spotOf finds where a form stands.
func (b *Blueprint) spotOf(x *FormBlock) Spot {
	if f := b.FlowForm(x.ID); f != nil {
		return Spot{Page: f.Page()}
	}
	if f := b.RoleForm(x.ID); f != nil {
		return Spot{Page: f.Page()}
	}
	for i := range b.Parts {
		for y := range b.Parts[i].Blocks.All {
			if y.Self().ID == x.ID {
				return Spot{Part: &b.Parts[i]}
			}
		}
	}
	if p, form := b.FormAt(x.ID); form != nil {
		return Spot{Page: p}
	}
	return Spot{Page: &Page{}} // of one that stands nowhere yet
}

// record adds what goes with the form.
func (a *answers) record(y *WithBlock) bool {
	id, key, name := y.answer(a.b, a.form)
	if id == "" {
		return true
	}
	inside := slices.ContainsFunc(y.Blocks, func(z Block) bool { return a.before != "" && z.Self().ID == a.before })
	a.fields = append(a.fields, &expr.Field{ID: id, Key: key, Name: name,
		Type: expr.Type{Kind: expr.Record, Table: y.Table(a.b, a.form).ID, Many: y.Lines && !inside}})
	return !inside
}

// AnswersAt is [Blueprint.AnswersOf] at the block with the id; nil where that is in no form.
// A question knows those before it and, with its own, that as well; a section those before it.
func (b *Blueprint) AnswersAt(block string, with bool, catalog *expr.Catalog) *expr.Table {
	for x := range b.forms {
		for inside := range x.Blocks.All {
			if inside.Self().ID != block {
				continue
			}
			if !inOrder(inside) {
				block = ""
			}
			return b.AnswersOf(x, block, with, catalog)
		}
	}
	return nil
}

// forms walks all forms, also those of roles.
func (b *Blueprint) forms(yield func(*FormBlock) bool) {
	for y := range b.Blocks {
		if x, is := y.(*FormBlock); is && !yield(x) {
			return
		}
	}
	for f := range b.flowForms {
		if !yield(f.Form()) {
			return
		}
	}
	for f := range b.RoleForms {
		if !yield(f.Form()) {
			return
		}
	}
}

// inOrder tells whether how a block in a form is follows from the answers above it. Words see
// all answers.
func inOrder(x Block) bool {
	switch x.(type) {
	case Asker, *SectionBlock, *WithBlock, *ResultBlock:
		return true
	}
	return false
}

// whens is the scope of the condition by which a block is shown: in a form it knows the
// answers, that of a question or a section those before it.
func (c Context) whens(x Block) expr.Scope {
	switch {
	case c.form == nil || c.b == nil:
		return c.Here()
	case inOrder(x):
		return c.above(x)
	}
	return c.Here()
}

// above is the scope of conditions of a question or a section: the answers before it.
func (c Context) above(x Block) expr.Scope { return c.answers(x, false) }

// answered is the scope of rules of a question: the answers before it, and its own.
func (c Context) answered(x Block) expr.Scope { return c.answers(x, true) }

func (c Context) answers(x Block, with bool) expr.Scope {
	if c.form == nil || c.b == nil || c.page == nil && c.part == nil {
		return expr.Scope{}
	}
	return c.b.answersScope(c.spot(), c.form, x, with, c.catalog)
}

func (b *Blueprint) answersScope(s Spot, form *FormBlock, x Block, with bool, catalog *expr.Catalog) expr.Scope {
	scope := b.ListScope(s, "", catalog)
	scope.Answers = b.AnswersOf(form, x.Self().ID, with, catalog)
	return scope
}

// among is the scope of a condition over a record of a table that can be chosen. It knows
// no answers that are lists: those cannot be put into what is asked of the database.
func among(above expr.Scope, table string) expr.Scope {
	above.Row = table
	if above.Answers != nil {
		known := *above.Answers
		known.Fields = slices.DeleteFunc(slices.Clone(known.Fields), func(f *expr.Field) bool { return f.Type.Many })
		above.Answers = &known
	}
	return above
}

// choiceScope is the scope of a condition over a choice of a field, which is named as the answer.
func choiceScope(answered expr.Scope, f *Field) expr.Scope {
	if answered.Answers == nil || f.Type != ChooseMany {
		return answered
	}
	known := *answered.Answers
	known.Fields = slices.Clone(known.Fields)
	for i, x := range known.Fields {
		if x.ID == f.ID {
			one := *x
			one.Type.Many, known.Fields[i] = false, &one
		}
	}
	answered.Answers = &known
	return answered
}

// Conditions are those of what stands in a form, checked; nil where there is none.
type Conditions struct {
	When, RequiredWhen, Narrow, Start *expr.Checked
	Rules                             []*expr.Checked
	// Value is what a result is, and Rules are the conditions of its bands.
	Value *expr.Checked
	// Says tells that its words name answers, so that they are others when these are.
	Says bool
}

// withAround gives what goes with the form in which a block stands, or nil.
func (x *FormBlock) withAround(y Block) *WithBlock {
	for w := range x.With {
		if slices.Contains(w.Blocks, y) {
			return w
		}
	}
	return nil
}

// says tells whether the words of a block name answers.
func says(x Block, c Context) (bool, error) {
	for _, p := range x.Props(c) {
		for _, e := range p.Exprs() {
			checked, err := e.Check()
			if err != nil {
				return false, err
			}
			for _, one := range checked {
				if slices.ContainsFunc(one.Refs, func(r expr.Ref) bool { return r.Table == expr.AnswersTable }) {
					return true, nil
				}
			}
		}
	}
	return false, nil
}

// Conditions checks those of a block in a form that stands at a spot.
func (b *Blueprint) Conditions(s Spot, form *FormBlock, x Block, catalog *expr.Catalog) (Conditions, error) {
	type place struct{ form, block string }
	return checkedOnce(b, place{form.ID, x.Self().ID}, func() (out Conditions, err error) {
		check := func(at **expr.Checked, source string, scope expr.Scope) {
			if err == nil && source != "" {
				*at, err = expr.CheckCondition(source, scope)
			}
		}
		s.Form = form
		if !inOrder(x) {
			check(&out.When, x.Self().When, b.ScopeAt(s, catalog))
			if err == nil {
				out.Says, err = says(x, Context{b: b, catalog: catalog, page: s.Page, part: s.Part, form: form})
			}
			return out, err
		}
		above := b.answersScope(s, form, x, false, catalog)
		check(&out.When, x.Self().When, above)
		if r, is := x.(*ResultBlock); is {
			return b.resultConditions(s, form, r, out, err, catalog)
		}
		asker, asks := x.(Asker)
		if !asks {
			if err == nil {
				out.Says, err = says(x, Context{b: b, catalog: catalog, page: s.Page, part: s.Part, form: form})
			}
			return out, err
		}
		a, f := asker.How(), asker.Asks(b, form.TableOf(b, form.withAround(x)))
		check(&out.RequiredWhen, a.RequiredWhen, above)
		narrow := among(above, f.Target)
		if f.Type == Choose || f.Type == ChooseMany {
			narrow = choiceScope(b.answersScope(s, form, x, true, catalog), f)
		}
		check(&out.Narrow, a.Narrow, narrow)
		out.Rules = make([]*expr.Checked, len(a.Rules))
		for i, r := range a.Rules {
			check(&out.Rules[i], r.Holds, b.answersScope(s, form, x, true, catalog))
		}
		if err == nil && a.Start != "" {
			s.Form = nil
			out.Start, err = expr.CheckAs(a.Start, b.ListScope(s, "", catalog), f.ExprType())
		}
		return out, err
	})
}

// resultConditions checks what a result is, and the conditions of its bands.
func (b *Blueprint) resultConditions(s Spot, form *FormBlock, x *ResultBlock, out Conditions, err error, catalog *expr.Catalog) (
	Conditions, error,
) {
	if err == nil {
		out.Value, err = expr.Check(x.Value, b.answersScope(s, form, x, false, catalog))
	}
	out.Rules = make([]*expr.Checked, len(x.Bands))
	with := b.answersScope(s, form, x, true, catalog)
	for i := 0; i < len(x.Bands) && err == nil; i++ {
		out.Rules[i], err = expr.CheckCondition(x.Bands[i].Holds, with)
	}
	return out, err
}
