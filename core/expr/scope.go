package expr

import (
	"pinegate/core/words"
)

// Catalog is what names can mean: the tables and choice lists of an app.
type Catalog struct {
	Tables map[string]*Table
	Lists  map[string]*ChoiceList
	Kept   *Table // the values that are kept for people, or nil
	// Answers are what services answer, by the ids of calls. What stands for a record is none of a table.
	Answers map[string]*Table
}

// Table is a table as the language sees it.
type Table struct {
	ID     string
	Key    string
	Name   string
	Fields []*Field
	Label  *Checked // the text by which a record is known, once it is checked
}

// Field is a field as the language sees it. A computed field has a Source,
// from which [Catalog.Resolve] finds its Type and Computed.
type Field struct {
	ID       string
	Key      string
	Name     string
	Table    string // id of the table that the field belongs to
	Type     Type
	Source   string
	Computed *Checked
	// Of is the link on the other table of which this list of records is the
	// other side; nil where the list is kept by itself.
	Of *Field
	// Recorded tells that the system writes the value down.
	Recorded bool

	err  *Error
	busy bool
}

// ChoiceList is a choice list as the language sees it. Columns are what is kept of
// each choice beside its label.
type ChoiceList struct {
	ID      string
	Name    string
	Choices []ListChoice
	Columns []ListColumn
}

// ListColumn is an extra column of a choice list.
type ListColumn struct {
	ID, Key, Name string
	Type          Type // text, number or yes/no
}

// ListChoice is one choice of a list, with the values of the extra columns by
// their ids.
type ListChoice struct {
	ID, Label string
	Values    map[string]Value
}

// Value gives what a column holds for the choice with the id.
func (l *ChoiceList) Value(choice, column string) Value {
	for _, c := range l.Choices {
		if c.ID == choice {
			return c.Values[column]
		}
	}
	return Value{}
}

// Label gives the label of the choice with the id, or "".
func (l *ChoiceList) Label(id string) string {
	for _, c := range l.Choices {
		if c.ID == id {
			return c.Label
		}
	}
	return ""
}

// Resolve finds the types of all computed fields, and checks the labels given
// by the ids of their tables. What is wrong with a computed field is told by
// [Field.Err] and by every expression that uses the field.
func (c *Catalog) Resolve(labels map[string]string) {
	for _, t := range c.Tables {
		for _, f := range t.Fields {
			c.resolve(f)
		}
	}
	for id, src := range labels {
		if t := c.Tables[id]; t != nil {
			if checked, err := CheckAs(src, Scope{Catalog: c, Row: id}, Type{Kind: Text}); err == nil {
				t.Label = checked
			}
		}
	}
}

// TypeOf gives the type of the values of a field, also of one that is computed; the zero
// type where there is no such field.
func (c *Catalog) TypeOf(table, field string) Type {
	if c == nil || c.Tables[table] == nil {
		return Type{}
	}
	for _, f := range c.Tables[table].Fields {
		if f.ID == field {
			return f.Type
		}
	}
	return Type{}
}

// Err tells what is wrong with the source of a computed field, if anything.
func (f *Field) Err() error {
	if f.err == nil {
		return nil
	}
	return f.err
}

// resolve checks the source of a computed field when its type is first asked
// for.
func (c *Catalog) resolve(f *Field) *Error {
	if f.Source == "" || f.Computed != nil || f.err != nil {
		return f.err
	}
	if f.busy {
		return &Error{Problem: *words.New("expr-circle", "path", f.Name), cycle: []*Field{f}}
	}
	f.busy = true
	checked, err := Check(f.Source, Scope{Catalog: c, Row: f.Table})
	f.busy = false
	if err == nil && checked.Type().Kind == None {
		err = errorAt(Span{0, len(f.Source)}, "expr-nothing")
	}
	if err == nil && checked.Type().Many {
		err = errorAt(Span{0, len(f.Source)}, "expr-is-list")
	}
	if err != nil {
		e := err.(*Error)
		if len(e.cycle) > 0 {
			e = e.through(f)
		}
		f.err = e
		return e
	}
	f.Computed, f.Type = checked, checked.Type()
	return nil
}

// PersonTable is the id of the table that stands for a signed-in person when
// the place does not say in which table that person is. Its fields are email
// and name.
const PersonTable = "person"

// Scope says what the bare names of an expression refer to.
type Scope struct {
	Catalog *Catalog
	Row     string // id of the table of the record in hand, or ""
	Inner   string // id of the table of the records of a list about which a condition is; Row is outside then
	Me      string // id of the signed-in person's table, or "" where nobody can be signed in
	Page    string // id of the table of the page's record, or ""
	Kept    bool   // the values that are kept for whoever looks can be named
	Vars    *Table // what is given to the part in which the expression stands, or nil
	Answers *Table // the answers of the form in which the expression stands, as far as it knows them, or nil
	Made    *Table // what earlier steps of the workflow made, or nil
	Was     *Table // what the record that set the workflow off held before, or nil
}

func (s Scope) table(id string) *Table {
	if id == PersonTable {
		return personTable()
	}
	switch {
	case id == VarsTable:
		return s.Vars
	case id == AnswersTable:
		return s.Answers
	case id == MadeTable:
		return s.Made
	case id == WasTable:
		return s.Was
	case s.Catalog == nil:
		return nil
	case id == KeptTable:
		return s.Catalog.Kept
	}
	if t := s.Catalog.Answers[id]; t != nil {
		return t
	}
	return s.Catalog.Tables[id]
}

func personTable() *Table {
	return &Table{ID: PersonTable, Key: "person", Name: "The signed-in person", Fields: []*Field{
		{ID: "email", Key: "email", Name: "Email", Table: PersonTable, Type: Type{Kind: Text}},
		{ID: "name", Key: "name", Name: "Name", Table: PersonTable, Type: Type{Kind: Text}},
	}}
}

// Reserved tells whether a key would be read as something other than a field.
func Reserved(key string) bool {
	switch key {
	case "and", "or", "not", "true", "false", "empty", "me", "this", "form", "page", "kept", "vars":
		return true
	}
	return false
}
