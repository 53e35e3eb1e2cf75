package blueprint

import (
	"github.com/shopspring/decimal"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Goal is what a measure is to come to: a number, or what a table of targets holds for its days.
type Goal struct {
	Goal GoalKind `json:"goal,omitempty"`
	At   string   `json:"at,omitempty"` // a decimal
	To   string   `json:"to,omitempty"` // the upper end, between two
	// Goals is the id of a table of targets, GoalsOf of its field of numbers, which are summed, and GoalsBy of the one that says
	// for which day each is.
	Goals   string `json:"goals,omitempty"`
	GoalsOf string `json:"goalsOf,omitempty"`
	GoalsBy string `json:"goalsBy,omitempty"`
	// Ring tells that a figure shows as a ring how far it is.
	Ring bool `json:"ring,omitempty"`
}

// GoalKind is on which side of its target a measure is to be.
type GoalKind string

// The sides.
const (
	NoGoal      GoalKind = ""
	AtLeast     GoalKind = "least"
	AtMost      GoalKind = "most"
	BetweenGoal GoalKind = "between"
)

// ByTable tells whether targets stand in a table.
func (g *Goal) ByTable() bool { return g.Goal != NoGoal && g.Goals != "" }

// goalProps lists the settings of a target.
func (g *Goal) goalProps(c Context) []prop.Prop {
	out := []prop.Prop{{
		Name:   "goal",
		Label:  "Target",
		Noun:   "its target",
		Group:  "Target",
		Resets: true,
		Help:   "What it is to come to: at least, at most, or between two numbers",
		Say:    ". Its target is {}",
		Value: prop.Pick(&g.Goal, prop.Option{Value: "", Words: "anything"}, prop.Option{Value: string(AtLeast), Words: "at least"},
			prop.Option{Value: string(AtMost), Words: "at most"}, prop.Option{Value: string(BetweenGoal), Words: "between"}),
	}}
	if g.Goal == NoGoal && c.b != nil {
		return out
	}
	if g.Goals == "" || c.b == nil {
		out = append(out, prop.Prop{Name: "at", Label: "The target", Noun: "the target", Group: "Target", With: "goal", Say: " {}",
			Value: decimalText(&g.At)})
	}
	if g.Goal == BetweenGoal || c.b == nil {
		out = append(out, prop.Prop{Name: "to", Label: "And", Noun: "the upper end of the target", Group: "Target", With: "goal",
			Say: " and {}", Value: decimalText(&g.To)})
	}
	if g.Goal == BetweenGoal && c.b != nil {
		return out
	}
	return append(append(out, g.tableProps(c)...), prop.Prop{
		Name:  "ring",
		Label: "As a ring",
		Noun:  "whether it is shown as a ring",
		Group: "Target",
		With:  "goal",
		Help:  "How far a figure is, as a ring instead of a bar",
		Say:   ", {|shown as a ring}",
		Value: prop.Switch(&g.Ring),
	})
}

// tableProps lists the settings of targets that stand in a table.
func (g *Goal) tableProps(c Context) []prop.Prop {
	lost := prop.Lost{Do: func() string { *g = Goal{}; return words.Say("goal-lost", nil) }}
	out := []prop.Prop{{
		Name:   "goals",
		Label:  "Targets are in",
		Noun:   "the table of targets",
		Group:  "Target",
		With:   "goal",
		Resets: true,
		Help:   "A table with a number and a day for each period, such as the hours of each month",
		Say:    " what {} says",
		Value:  prop.One(&g.Goals, c.Tables()).OrNone("no table"),
		Lost:   lost,
	}}
	if g.Goals == "" && c.b != nil {
		return out
	}
	return append(out, prop.Prop{
		Name: "goalsOf", Label: "The number", Noun: "the number of the targets", Group: "Target", With: "goals", Say: ", as {}",
		Value: prop.One(&g.GoalsOf, c.typed(g.Goals, func(t expr.Type) bool { return t == expr.Type{Kind: expr.Number} })), Lost: lost,
	}, prop.Prop{
		Name: "goalsBy", Label: "Its day", Noun: "the day of the targets", Group: "Target", With: "goals", Say: " by {}",
		Value: prop.One(&g.GoalsBy, c.typed(g.Goals, func(t expr.Type) bool { return t == expr.Type{Kind: expr.Date} })), Lost: lost,
	})
}

// decimalText is a number that is written as a text, so that it stays as it is.
func decimalText(at *string) prop.TextValue {
	v := prop.Text(at)
	v.Most = 20
	v.Right = func(s string) *words.Problem {
		if _, err := decimal.NewFromString(s); err != nil {
			return words.New("goal-number")
		}
		return nil
	}
	return v
}

// resetGoal drops what another kind of target does not have, and starts what it needs.
func (g *Goal) resetGoal(c Context, setting string) {
	switch setting {
	case "goal":
		if g.Goal == NoGoal {
			*g = Goal{}
		}
		if g.Goal != BetweenGoal {
			g.To = ""
		}
		if g.Goal == BetweenGoal {
			g.Goals, g.GoalsOf, g.GoalsBy, g.Ring = "", "", "", false
		}
	case "goals":
		g.GoalsOf, g.GoalsBy = "", ""
		if g.Goals != "" {
			g.At = ""
		}
	}
	t := c.tableOf(g.Goals)
	if t == nil {
		return
	}
	if f := find(t.Fields, func(f *Field) bool { return f.Type.Numeric() }); f != nil && g.GoalsOf == "" {
		g.GoalsOf = f.ID
	}
	if f := find(t.Fields, func(f *Field) bool { return f.Type == Date }); f != nil && g.GoalsBy == "" {
		g.GoalsBy = f.ID
	}
}

// checkGoal refuses a target without a number, and one that ends before it begins.
func (g *Goal) checkGoal(c Context) *words.Problem {
	if g.Goal == NoGoal || c.report == nil {
		return nil
	}
	at, err := decimal.NewFromString(g.At)
	if g.Goals == "" && err != nil {
		return words.New("goal-number")
	}
	if g.Goals != "" && (g.GoalsOf == "" || g.GoalsBy == "") {
		return words.New("goal-table")
	}
	if g.Goal == BetweenGoal {
		to, err := decimal.NewFromString(g.To)
		if err != nil || to.LessThan(at) {
			return words.New("goal-between")
		}
	}
	return nil
}
