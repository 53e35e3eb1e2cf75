package blueprint

import (
	"pinegate/core/prop"
	"pinegate/core/words"
)

var calculatorKind = BlockKind{
	Name:  "calculator",
	Label: "A calculator",
	Noun:  "calculator",
	Help:  "Asks questions and shows results at once. Its answers can be kept as records, too",
	New:   func() Block { return &FormBlock{} },
}

// Calculates tells that it is a calculator: a form that may keep nothing.
func (x *FormBlock) Calculates() bool { return x.Kind == calculatorKind.Name }

// Sends tells that its answers are kept as a record.
func (x *FormBlock) Sends() bool { return x.Table != "" }

// calculatorProps lists the settings of a calculator: those of its form, as far as it keeps answers.
func (x *FormBlock) calculatorProps(c Context, all []prop.Prop) []prop.Prop {
	out := []prop.Prop{}
	for _, p := range all {
		switch p.Name {
		case "table":
			p.Label, p.Must, p.Asked, p.Group = "Its answers are kept in", false, false, "Saving"
			p.Help, p.Say = "A record of this table is added when people send it. Without one, it only calculates", ". It keeps answers in {}"
			p.Value, p.Lost = prop.One(&x.Table, c.Tables()).OrNone("nothing"), prop.Lost{Words: "its answers are not kept any more"}
		case "fields":
			p.With, p.Say = "table", " and asks for {}"
		}
		if p.Name == "table" || p.Name == "opens" || x.Sends() || c.b == nil {
			out = append(out, p)
		}
	}
	return append(out, prop.Prop{
		Name:  "compare",
		Label: "People can compare",
		Noun:  "whether people can compare",
		Help:  "They can keep answers aside with their results, and see them beside others",
		Group: "Look",
		Say:   ". {|People can compare} scenarios",
		Value: prop.Switch(&x.Compare),
	})
}

// checkCalculator refuses what only a form that keeps its answers can hold.
func (x *FormBlock) checkCalculator(c Context) *words.Problem {
	if !x.Calculates() || x.Sends() {
		return nil
	}
	for y := range x.Blocks.All {
		switch y.(type) {
		case *QuestionBlock, *WithBlock:
			return words.New("calculator-keeps")
		}
	}
	return nil
}
