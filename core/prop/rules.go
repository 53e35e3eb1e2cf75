package prop

import (
	"slices"
	"strings"

	"pinegate/core/expr"
	"pinegate/core/words"
)

// Rule is a condition that an answer has to meet, and what is said where it does not; "" for
// words of our own.
type Rule struct {
	Holds string `json:"holds"`
	Says  string `json:"says,omitempty"`
}

// RulesValue are rules, each of which has to hold.
type RulesValue struct{ cell[[]Rule] }

// Rules are conditions over the scope.
func Rules(at *[]Rule, scope expr.Scope) RulesValue {
	return RulesValue{cell[[]Rule]{at, Control{Kind: RulesControl, Scope: scope, Want: WantCondition}}}
}

// Zero tells whether there are none.
func (v RulesValue) Zero() bool { return len(*v.at) == 0 }

// Get gives the rules; the list is never null.
func (v RulesValue) Get() any { return append([]Rule{}, *v.at...) }

// All lists the rules.
func (v RulesValue) All() []Rule { return *v.at }

// Exprs gives the conditions.
func (v RulesValue) Exprs() []Expr {
	var out []Expr
	for i, r := range *v.at {
		out = append(out, Expr{Source: &(*v.at)[i].Holds, Scope: v.control.Scope, Want: expr.Type{Kind: expr.YesNo},
			Cut: func() { *v.at = slices.DeleteFunc(*v.at, func(x Rule) bool { return x == r }) }})
	}
	return out
}

// Wrong tells of a rule without a condition, and of words that are too long.
func (v RulesValue) Wrong() *words.Problem {
	for i := range *v.at {
		if strings.TrimSpace((*v.at)[i].Holds) == "" {
			return words.New("rule-nothing")
		}
		if wrong := (TextValue{cell: cell[string]{&(*v.at)[i].Says, Control{}}, Most: 200}).Wrong(); wrong != nil {
			return wrong
		}
	}
	return nil
}
