// Package blueprint defines what an app is: one typed document with its
// tables, choice lists, roles, access rules and pages.
//
// Everything in it has a short stable id; names are free to change. A
// blueprint changes only by a [Change], which gives a new, valid blueprint or
// an error in words for the person who asked for it.
package blueprint

import (
	"pinegate/core/expr"
)

// Format is the number of the document format that this package writes.
const Format = 1

// Blueprint is the whole definition of an app.
type Blueprint struct {
	Format int          `json:"format"`
	Name   string       `json:"name"`
	Theme  Theme        `json:"theme"`
	Zone   string       `json:"zone,omitempty"` // IANA time zone; "" means UTC
	Lists  []ChoiceList `json:"lists"`
	Tables []Table      `json:"tables"`
	Roles  []Role       `json:"roles"`
	Pages  []Page       `json:"pages"`
	Gate   Gate         `json:"gate,omitzero"`
	// Expectations are what must hold whatever the rules come to say.
	Expectations []Expectation `json:"expectations,omitempty"`

	catalog *expr.Catalog // once it is frozen
	// What was found out about it, once it is frozen. Each is kept by itself, as
	// one that grows full forgets everything.
	conditions, statements *Memo
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
	Label  string  `json:"label"` // expression: the text by which a record is known
	Fields []Field `json:"fields"`
	// Uniques are sets of ids of fields whose values together are in one
	// record only.
	Uniques [][]string `json:"uniques,omitempty"`
}

// FieldType says what a field holds.
type FieldType string

// The types of field.
const (
	Text       FieldType = "text"
	LongText   FieldType = "long text"
	RichText   FieldType = "rich text" // Markdown
	Number     FieldType = "number"
	Money      FieldType = "money"
	Percent    FieldType = "percentage" // kept as a fraction: 20 % is 0.2
	YesNo      FieldType = "yes/no"
	Date       FieldType = "date"
	TimeStamp  FieldType = "time stamp"
	Duration   FieldType = "duration" // kept in hours
	Choose     FieldType = "choice"
	ChooseMany FieldType = "several choices"
	Email      FieldType = "e-mail"
	Phone      FieldType = "phone"
	Web        FieldType = "web address"
	Link       FieldType = "link"
	Links      FieldType = "links"
	File       FieldType = "file"
	Picture    FieldType = "picture"
	AutoNumber FieldType = "auto number"
	Lookup     FieldType = "lookup"
	RollUp     FieldType = "roll-up"
	Formula    FieldType = "formula"
	CreatedAt  FieldType = "created at"
	CreatedBy  FieldType = "created by"
	ChangedAt  FieldType = "changed at"
	ChangedBy  FieldType = "changed by"
)

// FieldTypes lists the types in the order in which they are offered.
func FieldTypes() []FieldType {
	return []FieldType{Text, LongText, RichText, Number, Money, Percent, YesNo, Date, TimeStamp, Duration, Choose, ChooseMany,
		Email, Phone, Web, File, Picture, Link, Links, AutoNumber, Lookup, RollUp, Formula, CreatedAt, CreatedBy, ChangedAt, ChangedBy}
}

// Computed tells whether the values of such a field are found by reckoning.
func (t FieldType) Computed() bool { return t == Lookup || t == RollUp || t == Formula }

// Recorded tells whether the values of such a field are written down by the
// system when a record is added or changed.
func (t FieldType) Recorded() bool {
	switch t {
	case CreatedAt, CreatedBy, ChangedAt, ChangedBy:
		return true
	}
	return false
}

// Entered tells whether people fill such a field in.
func (t FieldType) Entered() bool { return !t.Computed() && !t.Recorded() && t != AutoNumber }

// Numeric tells whether the values of such a field are numbers.
func (t FieldType) Numeric() bool {
	return t == Number || t == Money || t == Percent || t == Duration
}

// Filed tells whether such a field holds files.
func (t FieldType) Filed() bool { return t == File || t == Picture }

// Textual tells whether people write the values of such a field as text.
func (t FieldType) Textual() bool {
	switch t {
	case Text, LongText, RichText, Email, Phone, Web:
		return true
	}
	return false
}

// Field is one field of a table. Key is the name of its column.
type Field struct {
	ID       string    `json:"id"`
	Key      string    `json:"key"`
	Name     string    `json:"name"`
	Type     FieldType `json:"type"`
	List     string    `json:"list,omitempty"`   // id of the choice list, for Choose and ChooseMany
	Target   string    `json:"target,omitempty"` // id of the table linked to, for Link and Links
	Required bool      `json:"required,omitempty"`
	Help     string    `json:"help,omitempty"`
	FieldSettings
}

// FieldSettings are the settings that belong to some types of field.
type FieldSettings struct {
	Unique    bool   `json:"unique,omitempty"`
	Default   string `json:"default,omitempty"`   // expression over me
	Least     string `json:"least,omitempty"`     // the least number that is accepted, a decimal
	Most      string `json:"most,omitempty"`      // the greatest
	MaxLength int    `json:"maxLength,omitempty"` // characters of a text
	Decimals  *int   `json:"decimals,omitempty"`  // decimal places of a number; nil keeps all
	Unit      string `json:"unit,omitempty"`      // what stands behind a number
	Currency  string `json:"currency,omitempty"`  // ISO 4217 code, for Money
	// Several tells that a File or Picture field holds more than one, and
	// Largest how many megabytes each may have; 0 means [DefaultLargest].
	Several bool `json:"several,omitempty"`
	Largest int  `json:"largest,omitempty"`
	// Of is the link on the target table of which these Links are the other
	// side; "" where they are kept by themselves.
	Of string `json:"of,omitempty"`
	// Via is the link that a Lookup or RollUp goes through, Take the field at
	// its end, Total what is made of the values, and Where the condition that
	// the records must meet.
	Via   string `json:"via,omitempty"`
	Take  string `json:"take,omitempty"`
	Total Total  `json:"total,omitempty"`
	Where string `json:"where,omitempty"`
	// Formula is the expression of a Formula.
	Formula string `json:"formula,omitempty"`
	// Prefix, Width and First make an auto number: "INV-", 4 and 1 begin with
	// INV-0001.
	Prefix string `json:"prefix,omitempty"`
	Width  int    `json:"width,omitempty"`
	First  int    `json:"first,omitempty"`
}

// How many megabytes a file may have, unless its field says otherwise, and how
// many a field can allow.
const (
	DefaultLargest = 10
	MostLargest    = 100
)

// LargestFile is how many bytes a file of the field may have.
func (f Field) LargestFile() int64 {
	if f.Largest == 0 {
		return DefaultLargest << 20
	}
	return int64(f.Largest) << 20
}

// Total is what a roll-up makes of the values that it finds.
type Total string

// The totals of roll-ups.
const (
	CountTotal    Total = "count"
	SumTotal      Total = "sum"
	AverageTotal  Total = "average"
	LeastTotal    Total = "least"
	GreatestTotal Total = "greatest"
	JoinedTotal   Total = "joined"
)

// Totals lists the totals in the order in which they are offered.
func Totals() []Total {
	return []Total{CountTotal, SumTotal, AverageTotal, LeastTotal, GreatestTotal, JoinedTotal}
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
	Match   []Match    `json:"match,omitempty"` // for [FieldsWay]
	Homes   []Home     `json:"homes,omitempty"`
	SignUp  SignUp     `json:"signUp,omitzero"`
	Profile Profile    `json:"profile,omitzero"`
	Rules   []Rule     `json:"rules"`
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
	Hidden []string `json:"hidden,omitempty"`
	Fixed  []string `json:"fixed,omitempty"`
	Given  []Preset `json:"given,omitempty"`
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
	Sort    string   `json:"sort,omitempty"`   // id of a field, and behind a dot that of a column of its choice list
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
