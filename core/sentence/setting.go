package sentence

import (
	"slices"

	"pinegate/core/blueprint"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Setting says how something can be changed: fill the slots, and set them.
type Setting struct {
	Title string `json:"title"`
	Of    string `json:"of,omitempty"`  // id of the thing; none where one is added
	Add   *Adds  `json:"add,omitempty"` // what is added
	Slots []Slot `json:"slots"`
	// Unsays names the settings that are left unsaid to leave this one unsaid.
	Unsays []string `json:"unsays,omitempty"`
	// Asks tells that the effects of the change are to be asked for first.
	Asks bool `json:"asks,omitempty"`
}

// Slot is one value that a setting takes.
type Slot struct {
	Name    string   `json:"name"`
	Label   string   `json:"label"`
	Help    string   `json:"help,omitempty"`
	Control string   `json:"control"`
	Long    bool     `json:"long,omitempty"`
	Value   any      `json:"value"`
	Options []Option `json:"options,omitempty"`
	Scope   *Scope   `json:"scope,omitempty"`
	// Renews tells that other slots depend on the value, so that the setting is to
	// be read anew when it changes.
	Renews bool `json:"renews,omitempty"`
}

// Option is a value that can be picked. For an expression it is an offer.
type Option struct {
	Value string `json:"value"`
	Label string `json:"label"`
	Help  string `json:"help,omitempty"`
}

// Scope says by ids what the names in an expression refer to.
type Scope struct {
	Row   string `json:"row,omitempty"`
	Me    string `json:"me,omitempty"`
	Page  string `json:"page,omitempty"`
	Inner string `json:"inner,omitempty"` // the table of the records of a list that a condition is about
	Kept  bool   `json:"kept,omitempty"`  // kept values can be named
	Part  string `json:"part,omitempty"`  // the part whose inputs can be named
	// Answers is the id of the block in a form that sees the answers before it and, with Own, its own.
	Answers string `json:"answers,omitempty"`
	Own     bool   `json:"own,omitempty"`
	// Flow is the id of the workflow, or of the step in one, whose names can be named.
	Flow string `json:"flow,omitempty"`
	In   string `json:"in,omitempty"` // in what a step stands that is being added
	Want string `json:"want"`
}

// Clause is something that can be said of a thing and is not said yet.
type Clause struct {
	Name  string `json:"name"`
	Label string `json:"label"`
	Help  string `json:"help,omitempty"`
	Group string `json:"group,omitempty"`
}

// Clauses lists what else can be said of a thing.
func Clauses(p blueprint.Place) []Clause {
	out := []Clause{}
	for _, x := range unsaid(p) {
		out = append(out, Clause{x.Name, x.Label, x.Help, x.Group})
	}
	return out
}

// Of gives a setting of a thing, with the values that it has.
func Of(p blueprint.Place, name string) (Setting, bool) {
	head, ok := p.Prop(name)
	if !ok || head.Fixed {
		return Setting{}, false
	}
	out := Setting{Title: words.Capital(words.Say("setting-title", words.Args{"setting": head.Label, "thing": p.Called()})), Of: p.ID}
	for _, x := range p.Props() {
		if x.Name != name && x.With != name || x.Fixed {
			continue
		}
		out.Slots = append(out.Slots, slot(p, x))
		out.Asks = out.Asks || x.Stores || x.Opens
		if !x.Must && !x.Zero() && (head.Say != "" || head.Off != "") {
			out.Unsays = append(out.Unsays, x.Name)
		}
	}
	if head.Must {
		out.Unsays = nil
	}
	return out, true
}

// ForNew gives what is asked for a thing that is being added, as it is so far.
func ForNew(p blueprint.Place, c *blueprint.AddThing) Setting {
	out := forNew(c)
	if kind := c.Values.Text("kind"); kind != "" {
		out.Slots = append(out.Slots, kindSlot(p.Context, c.What, kind))
	}
	for _, x := range p.Props() {
		if !x.Asked {
			continue
		}
		s := slot(p, x)
		out.Asks = out.Asks || x.Opens
		if c.What == "rule" && x.Name == "table" { // one rule for each table
			rules := p.Context.Role().Rules
			s.Options = slices.DeleteFunc(s.Options, func(o Option) bool {
				return slices.ContainsFunc(rules, func(r blueprint.Rule) bool { return r.Table == o.Value && o.Value != s.Value })
			})
			s.Renews = true
		}
		out.Slots = append(out.Slots, s)
	}
	long := func(name string) {
		out.Slots = append(out.Slots, Slot{Name: name, Label: words.Say("slot-"+name, nil), Help: words.Say("slot-"+name+"-help", nil),
			Control: prop.TextControl, Long: true, Value: c.Values.Text(name)})
	}
	switch x := p.Thing.(type) {
	case *blueprint.Table:
		long("fields")
	case *blueprint.ChoiceList:
		long("choices")
	case *blueprint.Field:
		if t := p.Context.Blueprint().Table(x.Target); t != nil && x.Of == "" {
			label := words.Say("slot-back", words.Args{"table": t.Name})
			out.Slots = append(out.Slots, Slot{Name: "back", Label: label, Control: prop.TextControl, Value: c.Values.Text("back")})
		}
	}
	return out
}

func forNew(c *blueprint.AddThing) Setting {
	return Setting{Title: words.Say("offer-"+c.What, nil), Add: &Adds{c.What, c.Into}}
}

// ForKind gives the choice of the kind of what is being added: a block, a step, or a workflow by
// what starts it. The context is that of what it becomes part of.
func ForKind(c blueprint.Context, add *blueprint.AddThing) Setting {
	out := forNew(add)
	out.Slots = []Slot{kindSlot(c, add.What, "")}
	return out
}

func kindSlot(c blueprint.Context, what, now string) Slot {
	out := Slot{Name: "kind", Label: words.Say("slot-kind", nil), Control: prop.PickControl, Value: now, Renews: true}
	offer := func(name, label, help string) {
		out.Options = append(out.Options, Option{Value: name, Label: label, Help: help})
	}
	switch what {
	case "block":
		for _, k := range blueprint.BlockKinds() {
			if c.Takes(k) {
				offer(k.Name, k.Label, k.Help)
			}
		}
	case "step":
		for _, k := range blueprint.StepKinds() {
			if c.TakesStep(k) {
				offer(k.Name, k.Label, k.Help)
			}
		}
	case "workflow":
		out.Label = words.Say("slot-starts", nil)
		for _, k := range blueprint.TriggerKinds() {
			offer(k.Name, k.Label, k.Help)
		}
	}
	return out
}

func slot(p blueprint.Place, x prop.Prop) Slot {
	c := x.Control()
	out := Slot{Name: x.Name, Label: x.Label, Control: c.Kind, Long: c.Long, Value: x.Get(), Renews: x.Resets, Help: slotHelp(x, c)}
	if c.Kind == prop.PickControl && c.Empty != "" {
		out.Options = append(out.Options, Option{Label: c.Empty})
	}
	if c.To.All != nil {
		for o := range c.To.All {
			out.Options = append(out.Options, Option{Value: o.Value, Label: o.Shown()})
		}
	}
	if c.Want != "" {
		out.Scope = &Scope{Row: c.Scope.Row, Me: c.Scope.Me, Page: c.Scope.Page, Inner: c.Scope.Inner, Kept: c.Scope.Kept, Want: c.Want}
		if c.Scope.Vars != nil {
			out.Scope.Part = p.Context.Part().ID
		}
		if p.What == "workflow" || p.What == "step" {
			out.Scope.Flow, out.Scope.In = p.ID, p.In
		} else if c.Scope.Answers != nil {
			out.Scope.Answers, out.Scope.Own = p.ID, c.Kind == prop.RulesControl || c.Kind == prop.BandsControl
		}
	}
	if c.Offers != nil {
		for o := range c.Offers {
			out.Options = append(out.Options, Option{Value: o.Value, Label: plain(conditionWords(o.Value, c.Scope))})
		}
	}
	return out
}

// slotHelp gives the help of a setting where its control can need one.
func slotHelp(x prop.Prop, c prop.Control) string {
	if c.Kind == prop.SwitchControl || c.Kind == prop.TextControl && !c.Long {
		return ""
	}
	return x.Help
}

// Merges lists the choices into which one can be merged.
func Merges(p blueprint.Place) []Option {
	out := []Option{}
	b := p.Context.Blueprint()
	if l := b.List(p.In); l != nil {
		for _, ch := range l.Choices {
			if ch.ID != p.ID {
				out = append(out, Option{Value: ch.ID, Label: ch.Label})
			}
		}
	}
	return out
}
