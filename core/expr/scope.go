package expr

// Catalog is what names can mean: the tables and choice lists of an app.
type Catalog struct {
	Tables map[string]*Table
	Lists  map[string]*List
}

// Table is a table as the language sees it.
type Table struct {
	ID     string
	Key    string
	Name   string
	Fields []*Field
}

// Field is a field as the language sees it.
type Field struct {
	ID    string
	Key   string
	Name  string
	Table string // id of the table that the field belongs to
	Type  Type
}

// List is a choice list as the language sees it.
type List struct {
	ID      string
	Name    string
	Choices []ListChoice
}

// ListChoice is one choice of a list.
type ListChoice struct{ ID, Label string }

// Label gives the label of the choice with the id, or "".
func (l *List) Label(id string) string {
	for _, c := range l.Choices {
		if c.ID == id {
			return c.Label
		}
	}
	return ""
}

// PersonTable is the id of the table that stands for a signed-in person when
// the place does not say in which table that person is. Its fields are email
// and name.
const PersonTable = "person"

// Scope says what the bare names of an expression refer to.
type Scope struct {
	Catalog *Catalog
	Row     string // id of the table of the record in hand, or ""
	Me      string // id of the signed-in person's table, or "" where nobody can be signed in
	Page    string // id of the table of the page's record, or ""
}

func (s Scope) table(id string) *Table {
	if id == PersonTable {
		return personTable()
	}
	if s.Catalog == nil {
		return nil
	}
	return s.Catalog.Tables[id]
}

func personTable() *Table {
	return &Table{ID: PersonTable, Key: "person", Name: "The signed-in person", Fields: []*Field{
		{ID: "email", Key: "email", Name: "E-mail", Table: PersonTable, Type: Type{Kind: Text}},
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
