package flow

import (
	"encoding/json"
	"fmt"

	"github.com/shopspring/decimal"

	"pinegate/core/expr"
)

// Value is a value that is kept with a run, as JSON: null for empty, else its kind and its text,
// or its items.
type Value struct{ expr.Value }

type kept struct {
	Kind  expr.Kind `json:"k,omitempty"`
	Text  string    `json:"v,omitempty"`
	Items []Value   `json:"i,omitempty"`
}

// MarshalJSON writes the value.
func (v Value) MarshalJSON() ([]byte, error) {
	if len(v.Items) > 0 {
		out := kept{}
		for _, x := range v.Items {
			out.Items = append(out.Items, Value{x})
		}
		return json.Marshal(out)
	}
	if v.IsEmpty() {
		return []byte("null"), nil
	}
	return json.Marshal(kept{Kind: v.Kind, Text: v.String()})
}

// UnmarshalJSON reads the value.
func (v *Value) UnmarshalJSON(raw []byte) error {
	var k kept
	if err := json.Unmarshal(raw, &k); err != nil {
		return err
	}
	v.Value = expr.Empty()
	switch {
	case len(k.Items) > 0:
		var items []expr.Value
		for _, x := range k.Items {
			items = append(items, x.Value)
		}
		v.Value = expr.ListValue(items)
	case k.Kind == expr.Number:
		d, err := decimal.NewFromString(k.Text)
		if err != nil {
			return fmt.Errorf("read a number: %w", err)
		}
		v.Value = expr.NumberOf(d)
	case k.Kind == expr.YesNo:
		v.Value = expr.YesNoOf(k.Text == "true")
	case k.Kind != "":
		v.Value = expr.Value{Kind: k.Kind, Text: k.Text}
	}
	return nil
}

// Values are values by ids, as they are kept.
type Values map[string]Value

// ValuesOf makes values of those of expressions.
func ValuesOf(values map[string]expr.Value) Values {
	out := Values{}
	for id, v := range values {
		out[id] = Value{v}
	}
	return out
}

// Get gives a value, empty where there is none.
func (vs Values) Get(id string) expr.Value { return vs[id].Value }
