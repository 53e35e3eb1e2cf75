package intake

import (
	"pinegate/core/blueprint"
)

// ColumnPlan says what a column of a sheet is to become. Format says how its texts
// are read.
type ColumnPlan struct {
	Header string              `json:"header"`
	Name   string              `json:"name"`
	Skip   bool                `json:"skip,omitempty"`  // it is left out
	Field  string              `json:"field,omitempty"` // id of the field that it fills, in a table that is there
	Type   blueprint.FieldType `json:"type"`
	Format Format              `json:"format"`
	// Choices are those of a new choice list.
	Choices []string  `json:"choices,omitempty"`
	Link    *LinkPlan `json:"link,omitempty"`
	Reason  string    `json:"reason"`
	Unique  bool      `json:"unique"`  // every row has a value of its own
	Filled  int       `json:"filled"`  // rows in which there is something
	Bad     int       `json:"bad"`     // of these, rows that cannot be read as the type
	Samples []string  `json:"samples"` // some of the values
	// Ask is what could not be decided; what is planned is what was taken for now.
	Ask *Question `json:"ask,omitempty"`
}

// Question is what a founder has to say about a column.
type Question struct {
	About   string   `json:"about" enum:"order,comma,currency,link"`
	Text    string   `json:"text"`
	Answers []Answer `json:"answers"`
}

// Answer is what can be said. Value is what is set by it: of a format, or of a link the sheet or table, and the column.
type Answer struct {
	Value string    `json:"value"`
	Text  string    `json:"text"`
	Link  *LinkPlan `json:"link,omitempty"`
}

// Format says how the texts of a column are read.
type Format struct {
	Comma     bool     `json:"comma,omitempty"`                            // decimals behind a comma
	Order     string   `json:"order,omitempty" enum:"day,month,year,name"` // of dates
	Currency  string   `json:"currency,omitempty"`                         // of money
	Unit      string   `json:"unit,omitempty" maxLength:"12"`              // that stands behind numbers
	Nothing   []string `json:"nothing,omitempty"`                          // words that stand for nothing
	BlankNo   bool     `json:"blankNo,omitempty"`                          // an empty cell is no
	Separator string   `json:"separator,omitempty" maxLength:"4"`          // of several values in a cell
	Auto      *Auto    `json:"auto,omitempty"`                             // of numbers that go on
}

// Auto says how numbers are made that go on.
type Auto struct {
	Prefix string `json:"prefix"`
	Width  int    `json:"width"`
	First  int    `json:"first"`
}

// LinkPlan says to what the values of a column point.
type LinkPlan struct {
	Sheet int    `json:"sheet"`           // index of the sheet among those brought, or -1
	Table string `json:"table,omitempty"` // id of a table that is there
	By    string `json:"by"`              // header of the column, or id of the field, that is matched; "" for the label
	Many  bool   `json:"many,omitempty"`  // several, parted by the separator of the format
	// Sampled tells that there are so many values that what is said of them is what a share of them lets expect.
	Sampled bool `json:"sampled,omitempty"`
	// Matched, Missing and Ambiguous count the values that point to one record,
	// to none and to several.
	Matched   int     `json:"matched"`
	Missing   int     `json:"missing"`
	Ambiguous int     `json:"ambiguous"`
	Unmatched Outcome `json:"unmatched"`
}

// Outcome says what becomes of values that point to nothing.
type Outcome string

// The outcomes for values that point to nothing.
const (
	LeaveOut Outcome = "leave out"
	Create   Outcome = "create"
)
