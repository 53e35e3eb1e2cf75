package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
)

// The types of field whose values are files.
const (
	File    FieldType = "file"
	Picture FieldType = "picture"
)

// filed is a type whose values are files.
type filed struct{ base }

var (
	file    = filed{base{TypeRow{Name: File, Words: "a file", Label: "File", Group: "Files", Column: "text[]", Filed: true, Whole: true}}}
	picture = filed{
		base{TypeRow{Name: Picture, Words: "a picture", Label: "Picture", Group: "Files", Column: "text[]", Filed: true, Whole: true}},
	}
)

// Value is a list also where a field holds one file at most, so that allowing
// several changes no expression.
func (filed) Value(*Field) expr.Type { return expr.Type{Kind: expr.File, Many: true} }

func (filed) Props(f *Field, _ Context) []prop.Prop {
	return []prop.Prop{
		{
			Name:  "several",
			Label: "Several allowed",
			Noun:  "whether several are allowed",
			Say:   ", {|several allowed}",
			Value: prop.Switch(&f.Several),
		},
		{
			Name:  "largest",
			Label: "Largest size of each, in MB (10 if empty)",
			Noun:  "the largest size",
			Say:   ", at most {} MB each",
			Value: prop.Number(&f.Largest, 1, MostLargest),
		},
	}
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
