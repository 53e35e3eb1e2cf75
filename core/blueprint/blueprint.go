// Package blueprint defines what an app is: one typed document with its
// tables, choice lists, roles, access rules and pages.
//
// Everything in it has a short stable id; names are free to change. A
// blueprint changes only by a [Change], which gives a new, valid blueprint or
// an error in words for the person who asked for it.
package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
)

// Format is the number of the document format that this package writes.
const Format = 4

// Blueprint is the whole definition of an app.
type Blueprint struct {
	Format int          `json:"format"`
	Name   string       `json:"name"`
	Theme  Theme        `json:"theme"`
	Look   Look         `json:"look,omitzero"`
	Zone   string       `json:"zone,omitempty"` // IANA time zone; "" means UTC
	Lists  []ChoiceList `json:"lists"`
	Tables []Table      `json:"tables"`
	Roles  []Role       `json:"roles"`
	Pages  []Page       `json:"pages"`
	Parts  []Part       `json:"parts,omitempty"`
	Kept   []Kept       `json:"kept,omitempty"`
	// Workflows are what the app does by itself, or when somebody asks for it.
	Workflows []Workflow `json:"workflows,omitempty"`
	// Connections are services elsewhere that it calls.
	Connections []Connection `json:"connections,omitempty"`
	Gate        Gate         `json:"gate,omitzero"`
	// Expectations are what must hold whatever the rules come to say.
	Expectations []Expectation `json:"expectations,omitempty"`

	catalog *expr.Catalog // once it is frozen
	// What was found out about it, once it is frozen. Each is kept by itself, as
	// one that grows full forgets everything.
	checked, statements *Memo
}

// Theme names one of the looks that an app can wear.
type Theme string

// Themes lists the looks that ship with the product.
func Themes() []Theme {
	return []Theme{"Harbour", "Meadow", "Slate", "Clay", "Paper", "Night ferry"}
}

// ChoiceList is a named, ordered, shared list of choices. Columns are what is
// kept of each choice beside its label.
type ChoiceList struct {
	ID      string       `json:"id"`
	Name    string       `json:"name"`
	Columns []ListColumn `json:"columns,omitempty"`
	Choices []Choice     `json:"choices"`
	// Merged says, by id, into which choice one that is no longer there was
	// merged.
	Merged map[string]string `json:"merged,omitempty"`
}

// ColumnType says what an extra column of a choice list holds.
type ColumnType string

// The types of columns of choice lists.
const (
	TextColumn   ColumnType = "text"
	NumberColumn ColumnType = "number"
	YesNoColumn  ColumnType = "yes/no"
	ColourColumn ColumnType = "colour"
	// PictureColumn holds the id of a picture of the app.
	PictureColumn ColumnType = "picture"
)

// ColumnTypes lists the types in the order in which they are offered.
func ColumnTypes() []ColumnType {
	return []ColumnType{TextColumn, NumberColumn, YesNoColumn, ColourColumn, PictureColumn}
}

// ListColumn is an extra column of a choice list.
type ListColumn struct {
	ID   string     `json:"id"`
	Key  string     `json:"key"`
	Name string     `json:"name"`
	Type ColumnType `json:"type"`
}

// Choice is one choice of a list. Records store its id. A retired choice stays
// on the records that have it and is not offered any more. Values are those of
// the extra columns by their ids, as texts.
type Choice struct {
	ID      string            `json:"id"`
	Label   string            `json:"label"`
	Retired bool              `json:"retired,omitempty"`
	Values  map[string]string `json:"values,omitempty"`
}

// Table is a kind of record. Key is the name of its table in the database.
type Table struct {
	ID     string  `json:"id"`
	Key    string  `json:"key"`
	Name   string  `json:"name"`
	Word   string  `json:"word,omitempty"` // what one record is called; "" for what the name proposes
	Label  string  `json:"label"`          // expression: the text by which a record is known
	Fields []Field `json:"fields"`
	// Uniques are sets of ids of fields whose values together are in one
	// record only.
	Uniques [][]string `json:"uniques,omitempty"`
}

// VisitorRole is the id of the role of people who are not signed in. Every
// app has it.
const VisitorRole = "visitor"

// Role is what a person is to the app. People and Email say which table holds
// the role's people and which of its fields their e-mail; the visitors have
// none. Several roles may share a table: Where is the condition by which a
// record there has the role.
type Role struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	People string `json:"people,omitempty"`
	Email  string `json:"email,omitempty"`
	Where  string `json:"where,omitempty"`
	// Admit is the condition by which people of the role are let in, Refusal
	// what the others read.
	Admit   string     `json:"admit,omitempty"`
	Refusal string     `json:"refusal,omitempty"`
	Second  SecondStep `json:"second,omitempty"`
	// Match are the fields by which somebody is found, for [FieldsWay]: ids, or two
	// of them with a dot between for a field of records that link to the person.
	Match []string    `json:"match,omitempty"`
	Homes []prop.Path `json:"homes,omitempty"` // where people begin
	// HomeField is the field of a person in which a page is named, at which they begin.
	HomeField string  `json:"homeField,omitempty"`
	SignUp    SignUp  `json:"signUp,omitzero"`
	Profile   Profile `json:"profile,omitzero"`
	Rules     []Rule  `json:"rules"`
}

// Rule says what a role may do with the records of one table.
type Rule struct {
	Table  string     `json:"table"`
	See    Permission `json:"see"`
	Add    Permission `json:"add"`
	Change Permission `json:"change"`
	Delete Permission `json:"delete"`
	// Hidden fields are not seen, Fixed ones seen but not set. Given are what the
	// server fills in when a record is added, whatever the browser says.
	Hidden []string     `json:"hidden,omitempty"`
	Fixed  []string     `json:"fixed,omitempty"`
	Given  []prop.Given `json:"given,omitempty"`
}

// Permission is to which records something that a rule allows reaches.
type Permission = prop.Reach

// The extents of a permission.
const (
	NoRecords  = prop.NoRecords
	AllRecords = prop.AllRecords
	Where      = prop.Where
)

// Action is something that a rule allows.
type Action string

// The actions that rules speak of.
const (
	See    Action = "see"
	Add    Action = "add"
	Modify Action = "change"
	Delete Action = "delete"
)

// Actions lists the actions in the order in which they are shown.
func Actions() []Action { return []Action{See, Add, Modify, Delete} }

// Permission gives the rule's permission for the action.
func (r Rule) Permission(a Action) Permission {
	switch a {
	case See:
		return r.See
	case Add:
		return r.Add
	case Modify:
		return r.Change
	case Delete:
		return r.Delete
	}
	return Permission{}
}

// Expectation says what the people of a role must not do: see, add, change or
// delete records of a table. With an Except, a condition over the record, they
// may see those where it holds; with a Field, it is only about seeing that.
type Expectation struct {
	ID     string `json:"id"`
	Role   string `json:"role"`
	Action Action `json:"action"`
	Table  string `json:"table"`
	Except string `json:"except,omitempty"`
	Field  string `json:"field,omitempty"`
}

// Audience says who may open a page.
type Audience string

// The audiences of a page.
const (
	Everyone Audience = "everyone"
	SignedIn Audience = "signed in"
	SomeRole Audience = "roles"
)

// Page is a page of the app. A page with a Record table is about one record of
// it. Path is the last part of its address.
type Page struct {
	ID       string   `json:"id"`
	Path     string   `json:"path"`
	Name     string   `json:"name"`
	Record   string   `json:"record,omitempty"`
	Audience Audience `json:"audience"`
	Roles    []string `json:"roles,omitempty"`   // for SomeRole
	OffMenu  bool     `json:"offMenu,omitempty"` // its address works all the same
	Icon     string   `json:"icon,omitempty"`    // in the menu, one of [Icons]
	Group    string   `json:"group,omitempty"`   // words under which it stands there
	// Description and Preview, the id of a picture, are what search engines and links that are
	// sent show of a page that is open to everyone.
	Description string `json:"description,omitempty"`
	Preview     string `json:"preview,omitempty"`
	// When is the condition by which it is shown; it fits what is shown to who looks, and
	// protects nothing.
	When   string `json:"when,omitempty"`
	Blocks Blocks `json:"blocks"`
}
