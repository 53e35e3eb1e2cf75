// Package prop describes settings: what a thing in an app can be told, which
// values fit, and how it is said in a sentence.
//
// A thing lists its settings by a method, each a [Prop] that points to the field
// which holds it. Everything that has to know of settings walks that list:
// changing, validation, renaming, removal, sentences, the differences of
// versions.
package prop

import (
	"encoding/json"
	"iter"

	"pinegate/core/expr"
	"pinegate/core/words"
)

// Prop is a setting of a thing.
type Prop struct {
	Name  string // in JSON
	Label string // of its control
	Noun  string // in sentences about it: "the condition"; the label in small letters for ""
	Use   string // where something is used: "the condition by which Crew can see Boats"; made of Noun and the thing for ""
	Help  string // a line in the list of what else can be said
	Group string // under which it stands in that list
	// Say is the clause that tells the setting while it is not at its default. In
	// it, {} is the value and {|words} words that stand for it; {name} and
	// {name|words} are those of another setting, {=id|words} the name of another
	// thing.
	Say string
	// Off is said while the setting is at its default, where that has to be told.
	Off string
	// With names the setting that is changed together with this one.
	With  string
	Must  bool // it has no default
	Asked bool // it is asked for when a thing is added
	// Fixed settings are said when a thing is added, and stay.
	Fixed bool
	// Resets tells that what depends on the setting begins anew when it changes.
	Resets bool
	// Stores tells that values of records depend on it, so that the effects of a
	// change are told before it is made.
	Stores bool
	// Opens tells that it depends on the setting who can add people, which is told
	// before it is changed, too.
	Opens bool
	Hint  string // the code of what to do where nothing fits
	Value
	Lost Lost
}

// Lost says what becomes of a setting when what it names is removed. Without
// words it is left out quietly; with them, the removal is refused until somebody
// agrees.
type Lost struct {
	Words   string // "its rows open no page any more"
	TakeOut bool   // the whole thing goes
	Whole   bool   // it is told of the thing, not of the setting
	// Do puts the thing right in a way of its own, and says what it did.
	Do func() string
}

// Option is a value that can be chosen, with its words.
type Option struct {
	Value string
	Words string
	Label string // in a picker, where it is not the words
}

// Shown gives the words of the option in a picker.
func (o Option) Shown() string {
	if o.Label != "" {
		return o.Label
	}
	return o.Words
}

// To is what a setting can name: what is offered is what is allowed.
type To struct {
	What string // "table", "field", "page"
	All  iter.Seq[Option]
}

// Find gives the option with the value.
func (t To) Find(value string) (Option, bool) {
	if t.All == nil {
		return Option{}, false
	}
	for o := range t.All {
		if o.Value == value {
			return o, true
		}
	}
	return Option{}, false
}

// Of offers the options given.
func Of(what string, options ...Option) To {
	return To{what, func(yield func(Option) bool) {
		for _, o := range options {
			if !yield(o) {
				return
			}
		}
	}}
}

// Ref is something that a value names.
type Ref struct {
	ID  string
	To  To
	Cut func() // takes it out of the value
}

// Expr is an expression, or a text with placeholders, in a value.
type Expr struct {
	Source   *string
	Scope    expr.Scope
	Want     expr.Type // zero: any
	Template bool
	// Cut takes what the expression belongs to out of the value; nil where that
	// is the whole value.
	Cut func()
	// About is what the expression is given to, where a value has several.
	About string
}

// Check checks the expression, or those of the placeholders. Where there is
// nothing to check it gives nothing.
func (e Expr) Check() ([]*expr.Checked, error) {
	if *e.Source == "" {
		return nil, nil
	}
	if e.Template {
		t, err := expr.CheckTemplate(*e.Source, e.Scope)
		return t.Checked(), err
	}
	var c *expr.Checked
	var err error
	if e.Want == (expr.Type{}) {
		c, err = expr.Check(*e.Source, e.Scope)
	} else {
		c, err = expr.CheckAs(*e.Source, e.Scope, e.Want)
	}
	if err != nil {
		return nil, err
	}
	return []*expr.Checked{c}, nil
}

// Value is what a setting holds.
type Value interface {
	// Control says by what it is changed.
	Control() Control
	// Get gives the value as it stands in JSON.
	Get() any
	// Set reads a value strictly, from JSON, into a fresh one; null gives the
	// default.
	Set(json.RawMessage) error
	// Zero tells whether it is at its default, which is neither stored nor said.
	Zero() bool
	// Clear puts it to its default.
	Clear()
	// Wrong gives what is wrong with the value by itself, or nil. What the setting
	// and its thing are called is added by whoever tells it.
	Wrong() *words.Problem
	// Refs lists what it names, Exprs its expressions.
	Refs() []Ref
	Exprs() []Expr
	// At is the address of the field that holds it, nil where there is none.
	At() any
}

// Control says what kind of input fits a value.
type Control struct {
	Kind   string
	Long   bool             // a text of several lines
	To     To               // what can be chosen
	Scope  expr.Scope       // of an expression
	Want   string           // what an expression must be
	Offers iter.Seq[Option] // expressions that are offered
	Last   string           // what joins the last of several; " and " for ""
	Empty  string           // what it is called when nothing is chosen; a value must be chosen for ""
}

// The kinds of control.
const (
	TextControl       = "text"
	PickControl       = "pick"
	ManyControl       = "many"
	QuestionsControl  = "questions"
	RulesControl      = "rules" // conditions with words
	BandsControl      = "bands" // conditions with words, of which the first that holds counts
	GivenControl      = "given"
	ExpressionControl = "expression"
	SwitchControl     = "switch"
	NumberControl     = "number"
	ColourControl     = "colour"
	PictureControl    = "picture"
	AddressControl    = "form address" // the last piece of the address of a form
	SetsControl       = "sets"
	PathsControl      = "paths"
	ReachControl      = "reach"
)

// What an expression can be asked to be.
const (
	WantText      = "text"
	WantCondition = "condition"
	WantTemplate  = "template"
	WantValue     = "value"
)

// Thing is what has settings.
type Thing interface{ Props() []Prop }
