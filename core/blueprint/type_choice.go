package blueprint

import (
	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// The types of field whose values are choices of a list.
const (
	Choose     FieldType = "choice"
	ChooseMany FieldType = "several choices"
)

// choosing is a type whose values are choices of a list.
type choosing struct {
	base
	many bool
}

var (
	oneChoice = choosing{
		base{TypeRow{Name: Choose, Words: "one choice", Label: "One choice from a list", Group: "Choices", Column: "text", Single: true}},
		false,
	}
	someChoices = choosing{
		base{
			TypeRow{
				Name:   ChooseMany,
				Words:  "several choices",
				Label:  "Several choices from a list",
				Group:  "Choices",
				Column: "text[]",
				Whole:  true,
			},
		},
		true,
	}
)

func (t choosing) Value(f *Field) expr.Type {
	return expr.Type{Kind: expr.Choice, List: f.List, Many: t.many}
}

func (choosing) Core(*Field) string { return "{name} is {type} from {list}" }

func (choosing) Props(f *Field, c Context) []prop.Prop {
	return []prop.Prop{
		{Name: "list", Label: "Choices from", Noun: "the choice list", Must: true, Value: prop.One(&f.List, c.Lists()), Hint: "no-lists",
			Lost: prop.Lost{Words: "it becomes text", Do: func() string {
				*f = Field{ID: f.ID, Key: f.Key, Name: f.Name, Type: Text, Required: f.Required, Help: f.Help}
				return "it becomes text"
			}}},
	}
}

// Read reads the id of a choice; several are read one by one.
func (choosing) Read(b *Blueprint, f *Field, s string) (expr.Value, *words.Problem) {
	if l := b.List(f.List); l == nil || l.Choice(s) == nil {
		return expr.Value{}, words.New("read-choice")
	}
	return expr.ChoiceOf(s), nil
}
