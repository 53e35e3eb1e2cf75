package form

import (
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/words"
)

// Form is what stands in a form that adds a record or changes one, in its order.
type Form struct {
	Blueprint *blueprint.Blueprint
	Catalog   *expr.Catalog
	Table     *blueprint.Table
	Parts     []Part
}

// Part is a question, a section, what goes with the form or, where it is none of these, words.
type Part struct {
	ID    string
	In    string // id of the section in which it stands, which comes before it; or ""
	Block blueprint.Block
	blueprint.Conditions
	Question blueprint.Asker
	Field    *blueprint.Field // that it asks for
	Section  *blueprint.SectionBlock
	With     *With
	Result   *blueprint.ResultBlock
	Course   *blueprint.CourseBlock
	// Unasked tells that whoever looks is not asked: its value is that of the record, for those below.
	// Unchanged tells so of records that are there, where it is part of what goes with the form.
	Unasked, Unchanged bool
	// Told tells that whoever looks is shown its value, and may not change it.
	Told bool
	// Fixed is the value in a new record, which is known, so that nobody is asked.
	Fixed *expr.Value
}

// With is what goes with a form: a record, or several.
type With struct {
	*blueprint.WithBlock
	Table *blueprint.Table
	Leads bool   // a field of the form's table leads to it
	Name  string // the id by which answers name it
	Parts []Part
}

// Free tells that the part asks for something that no field holds.
func (p Part) Free() bool {
	_, free := p.Question.(*blueprint.FreeBlock)
	return free
}

// Between tells that the part is words between others, which see all answers.
func (p Part) Between() bool {
	return p.Section == nil && p.Question == nil && p.With == nil && p.Result == nil
}

// Shows tells that the part only shows a value, that of a record as it would be.
func (p Part) Shows() bool {
	return p.Question != nil && p.Field != nil && !p.Free() && (p.Told || p.Question.How().ReadOnly || !p.Field.Type.Entered())
}

// State is what a form is for somebody who has answered so far, by the ids of its parts.
type State map[string]PartState

// PartState is how one part is. Missing tells that an answer is needed that there is not;
// people are told when they send. Cleared tells that what was chosen is not offered any more.
type PartState struct {
	Shown    bool
	Required bool
	Missing  bool
	Cleared  bool
	Wrong    *words.Problem
	Value    expr.Value
	Fixed    bool // its value is known, and it is not shown
	// Offers is the condition over a record that can be chosen, in which no answers are named.
	Offers *expr.Checked
	// Choices are the ids of the choices that can be chosen, where these are fewer by what is answered; nil for all.
	Choices []string
	Lines   []LineState // of what goes with the form
	Result  *Result     // of what is calculated
	Course  []Point     // of a chart of results
}

// LineState is how a record is that goes with the form. One that is there already has an id.
type LineState struct {
	Key     string // that of the answers
	Record  string
	Removed bool
	Parts   State
}

// Ready tells whether the form can be sent.
func (s State) Ready() bool {
	for _, p := range s {
		if p.Missing || p.Cleared || p.Wrong != nil {
			return false
		}
		for _, l := range p.Lines {
			if !l.Removed && !l.Parts.Ready() {
				return false
			}
		}
	}
	return true
}
