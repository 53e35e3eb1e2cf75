package page

import (
	"pinegate/core/blueprint"
	"pinegate/core/expr"
	"pinegate/core/form"
	"pinegate/core/words"
	"pinegate/store/kept"
	"pinegate/store/records"
)

// Keep asks for values that are kept, with what is kept now.
type Keep struct {
	Head
	Kept   []Kept  `json:"kept"`
	Submit string  `json:"submit"`
	To     *Target `json:"to,omitempty"`
}

// Kept is a value that is kept for whoever looks, or nil.
type Kept struct {
	Column Column `json:"column"`
	Value  any    `json:"value"`
}

// kept gives the value with the id as it is now.
func (v *View) kept(id string) Kept {
	b := v.Seat.Blueprint
	k := b.KeptValue(id)
	f := k.Field()
	out := Kept{Column: columnOf(b, f, expr.KeptTable, f.ExprType())}
	if text := v.Seat.Kept[id]; text != "" {
		out.Value = text
		if k.Type == blueprint.YesNo {
			out.Value = text == "true"
		}
	}
	return out
}

func showKeep(v *View, x *blueprint.KeepBlock, _ []records.Result) (*Keep, error) {
	out := &Keep{Kept: []Kept{}, Submit: x.Text, To: v.target(x.Page)}
	for _, id := range x.Values {
		out.Kept = append(out.Kept, v.kept(id))
	}
	return out, nil
}

// remembered gives the condition of a list by kept values, and these; nil while one of them is
// not there.
func (l *list) remembered() (*expr.Checked, []Kept, error) {
	c, err := l.Seat.Blueprint.KeptFilter(l.spot(), l.RecordsBlock, l.Seat.Catalog)
	if err != nil || c == nil {
		return nil, nil, err
	}
	var out []Kept
	seen := map[string]bool{}
	for _, id := range c.Kept() {
		if l.Seat.Kept[id] == "" {
			return nil, nil, nil
		}
		if !seen[id] {
			seen[id] = true
			out = append(out, l.kept(id))
		}
	}
	return l.boundListed(c), out, nil
}

// KeptNow leaves of kept values those that can be: browsers send what they like.
func KeptNow(b *blueprint.Blueprint, values map[string]string) map[string]string {
	out := map[string]string{}
	for id, text := range values {
		k := b.KeptValue(id)
		if k == nil {
			continue
		}
		if k.Type == blueprint.YesNo {
			if text == "true" || text == "false" {
				out[id] = text
			}
			continue
		}
		if v, wrong := form.Read(b, k.Field(), text); wrong == nil && !v.IsEmpty() {
			out[id] = v.String()
		}
	}
	return out
}

// Keeps reads values that are to be kept, by their ids; "" forgets one.
func Keeps(b *blueprint.Blueprint, entered records.Values) (map[string]string, error) {
	out, wrong := map[string]string{}, records.FieldErrors{}
	for id, raw := range entered {
		k := b.KeptValue(id)
		if k == nil {
			return nil, words.New("gone", "thing", "kept value")
		}
		v, problem := form.Accept(b, k.Field(), raw)
		switch {
		case problem != nil:
			wrong[id] = problem
		case len(v.String()) > kept.MostText:
			wrong[id] = words.New("text-long", "n", kept.MostText)
		case v.IsEmpty():
			out[id] = ""
		default:
			out[id] = v.String()
		}
	}
	if len(wrong) > 0 {
		return nil, wrong
	}
	return out, nil
}
