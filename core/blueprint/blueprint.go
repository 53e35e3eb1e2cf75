// Package blueprint defines what an app is: one typed document with its
// tables, choice lists, roles, access rules and pages.
//
// Everything in it has a short stable id; names are free to change. A
// blueprint changes only by a [Change], which gives a new, valid blueprint or
// an error in words for the person who asked for it.
package blueprint

// Format is the number of the document format that this package writes.
const Format = 1

// Blueprint is the whole definition of an app.
type Blueprint struct {
	Format int          `json:"format"`
	Name   string       `json:"name"`
	Theme  Theme        `json:"theme"`
	Lists  []ChoiceList `json:"lists"`
	Tables []Table      `json:"tables"`
	Roles  []Role       `json:"roles"`
	Pages  []Page       `json:"pages"`
}

// Theme names one of the looks that an app can wear.
type Theme string

// Themes lists the looks that ship with the product.
func Themes() []Theme {
	return []Theme{"Harbour", "Meadow", "Slate", "Clay", "Paper", "Night ferry"}
}

// ChoiceList is a named, ordered, shared list of choices.
type ChoiceList struct {
	ID      string   `json:"id"`
	Name    string   `json:"name"`
	Choices []Choice `json:"choices"`
}

// Choice is one choice of a list. Records store its id.
type Choice struct {
	ID    string `json:"id"`
	Label string `json:"label"`
}

// Table is a kind of record. Key is the name of its table in the database.
type Table struct {
	ID     string  `json:"id"`
	Key    string  `json:"key"`
	Name   string  `json:"name"`
	Label  string  `json:"label"` // expression: the text by which a record is known
	Fields []Field `json:"fields"`
}

// FieldType says what a field holds.
type FieldType string

// The types of field.
const (
	Text     FieldType = "text"
	LongText FieldType = "long text"
	Number   FieldType = "number"
	YesNo    FieldType = "yes/no"
	Date     FieldType = "date"
	Choose   FieldType = "choice"
	Email    FieldType = "e-mail"
	Link     FieldType = "link"
)

// FieldTypes lists the types in the order in which they are offered.
func FieldTypes() []FieldType {
	return []FieldType{Text, LongText, Number, YesNo, Date, Choose, Email, Link}
}

// Field is one field of a table. Key is the name of its column.
type Field struct {
	ID       string    `json:"id"`
	Key      string    `json:"key"`
	Name     string    `json:"name"`
	Type     FieldType `json:"type"`
	List     string    `json:"list,omitempty"`   // id of the choice list, for Choose
	Target   string    `json:"target,omitempty"` // id of the table linked to, for Link
	Required bool      `json:"required,omitempty"`
	Help     string    `json:"help,omitempty"`
}

// VisitorRole is the id of the role of people who are not signed in. Every
// app has it.
const VisitorRole = "visitor"

// Role is what a person is to the app. People and Email say which table holds
// the role's people and which of its fields their e-mail; the visitors have
// none.
type Role struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	People string `json:"people,omitempty"`
	Email  string `json:"email,omitempty"`
	Rules  []Rule `json:"rules"`
}

// Rule says what a role may do with the records of one table.
type Rule struct {
	Table  string     `json:"table"`
	See    Permission `json:"see"`
	Add    Permission `json:"add"`
	Change Permission `json:"change"`
	Delete Permission `json:"delete"`
	// Hidden fields are not seen, Fixed ones seen but not set.
	Hidden []string `json:"hidden,omitempty"`
	Fixed  []string `json:"fixed,omitempty"`
}

// Extent says to which records a permission reaches.
type Extent string

// The extents of a permission.
const (
	NoRecords  Extent = "none"
	AllRecords Extent = "all"
	Where      Extent = "where"
)

// Permission is an extent, with a condition where it is [Where]. The zero
// value allows nothing.
type Permission struct {
	Extent    Extent `json:"extent,omitempty"`
	Condition string `json:"condition,omitempty"`
}

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
	Roles    []string `json:"roles,omitempty"` // for SomeRole
	InMenu   bool     `json:"inMenu"`
	Blocks   []Block  `json:"blocks"`
}

// BlockKind says what a block shows.
type BlockKind string

// The kinds of block.
const (
	HeadingBlock BlockKind = "heading"
	TextBlock    BlockKind = "text"
	ListBlock    BlockKind = "list"
	DetailsBlock BlockKind = "details"
	FormBlock    BlockKind = "form"
	ButtonBlock  BlockKind = "button"
)

// BlockKinds lists the kinds in the order in which they are offered.
func BlockKinds() []BlockKind {
	return []BlockKind{HeadingBlock, TextBlock, ListBlock, DetailsBlock, FormBlock, ButtonBlock}
}

// Block is a piece of a page. Text is the words of a heading, a text or a
// button, with {{ }} placeholders; the other settings belong to the kind that
// they are named after.
type Block struct {
	ID      string    `json:"id"`
	Kind    BlockKind `json:"kind"`
	Text    string    `json:"text,omitempty"`
	Page    string    `json:"page,omitempty"` // id of the page that a button goes to
	List    *List     `json:"list,omitempty"`
	Details *Details  `json:"details,omitempty"`
	Form    *Form     `json:"form,omitempty"`
}

// List shows records of a table.
type List struct {
	Table   string   `json:"table"`
	Columns []string `json:"columns"`          // ids of fields
	Filter  string   `json:"filter,omitempty"` // condition over the record
	Sort    string   `json:"sort,omitempty"`   // id of a field
	Falling bool     `json:"falling,omitempty"`
	Open    string   `json:"open,omitempty"` // id of the page that a row opens
	Empty   string   `json:"empty,omitempty"`
}

// Details shows fields of the page's record.
type Details struct {
	Fields []string `json:"fields"`
}

// Form asks for the fields of a new record, or of the page's record when
// Changes is set.
type Form struct {
	Table   string      `json:"table"`
	Changes bool        `json:"changes,omitempty"`
	Fields  []FormField `json:"fields"`
	Presets []Preset    `json:"presets,omitempty"`
	Submit  string      `json:"submit,omitempty"`
	Then    string      `json:"then,omitempty"` // id of the page that is shown afterwards
	Thanks  string      `json:"thanks,omitempty"`
}

// FormField is a question of a form.
type FormField struct {
	Field    string `json:"field"`
	Required bool   `json:"required,omitempty"`
}

// Preset is a field that the server fills in from an expression over me and
// the page's record, whatever the browser sends.
type Preset struct {
	Field string `json:"field"`
	Value string `json:"value"`
}
