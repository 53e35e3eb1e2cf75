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
	Tone  string `json:"tone,omitempty"` // of a band
}

// RulesValue are rules, each of which has to hold.
type RulesValue struct{ cell[[]Rule] }

// Rules are conditions over the scope.
func Rules(at *[]Rule, scope expr.Scope) RulesValue {
	return RulesValue{cell[[]Rule]{at, Control{Kind: RulesControl, Scope: scope, Want: WantCondition}}}
}

// Bands are conditions over the scope, each with what is said where it is the first that holds, in one of
// the tones.
func Bands(at *[]Rule, scope expr.Scope, tones ...Option) RulesValue {
	return RulesValue{cell[[]Rule]{at, Control{Kind: BandsControl, Scope: scope, Want: WantCondition, To: Of("tone", tones...)}}}
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
		if wrong := v.wrongBand((*v.at)[i]); wrong != nil {
			return wrong
		}
		if wrong := (TextValue{cell: cell[string]{&(*v.at)[i].Says, Control{}}, Most: 200}).Wrong(); wrong != nil {
			return wrong
		}
	}
	return nil
}

// wrongBand tells of a band that says nothing, and of a tone that there is not.
func (v RulesValue) wrongBand(r Rule) *words.Problem {
	if v.control.Kind != BandsControl {
		if r.Tone != "" {
			return words.New("not-formed")
		}
		return nil
	}
	if strings.TrimSpace(r.Says) == "" {
		return words.New("band-nothing")
	}
	if _, known := v.control.To.Find(r.Tone); !known {
		return words.New("not-formed")
	}
	return nil
}
