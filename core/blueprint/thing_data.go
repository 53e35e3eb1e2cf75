package blueprint

import (
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Core is the sentence that tells the app.
func (b *Blueprint) Core(Context) string {
	return "The app is called {name} and uses the {theme} theme"
}

// Called says that it is the app.
func (b *Blueprint) Called(Context) string { return words.Say("called-app", nil) }

// Props lists the settings of the app itself.
func (b *Blueprint) Props(Context) []prop.Prop {
	var themes []prop.Option
	for _, t := range Themes() {
		themes = append(themes, prop.Option{Value: string(t), Words: string(t)})
	}
	return append([]prop.Prop{
		{Name: "name", Label: "Name", Noun: "the name", Must: true, Value: named(&b.Name)},
		{Name: "theme", Label: "Theme", Noun: "the theme", Must: true, Value: prop.Pick(&b.Theme, themes...)},
		{
			Name:  "zone",
			Label: "Time zone",
			Noun:  "the time zone",
			Help:  "Which time its clocks show; UTC unless you say",
			Group: "Place",
			Say:   ". Its time zone is {}",
			Value: prop.One(&b.Zone, zones(b.Zone)).OrNone("UTC"),
		},
	}, b.lookProps()...)
}

// zones offers time zones, the one that is set among them.
func zones(now string) prop.To {
	names := strings.Fields(
		`Europe/Lisbon Europe/London Europe/Dublin Europe/Madrid Europe/Paris Europe/Brussels Europe/Amsterdam Europe/Berlin Europe/Zurich
		Europe/Vienna Europe/Rome Europe/Copenhagen Europe/Oslo Europe/Stockholm Europe/Helsinki Europe/Warsaw Europe/Prague Europe/Athens Europe/Bucharest
		Europe/Kyiv Europe/Istanbul Africa/Casablanca Africa/Lagos Africa/Cairo Africa/Nairobi Africa/Johannesburg Asia/Jerusalem Asia/Dubai Asia/Karachi Asia/Kolkata
		Asia/Dhaka Asia/Bangkok Asia/Jakarta Asia/Singapore Asia/Hong_Kong Asia/Shanghai Asia/Manila Asia/Seoul Asia/Tokyo Australia/Perth Australia/Sydney Pacific/Auckland
		America/St_Johns America/Halifax America/New_York America/Toronto America/Chicago America/Denver America/Los_Angeles America/Vancouver America/Anchorage Pacific/Honolulu
		America/Mexico_City America/Bogota America/Lima America/Santiago America/Sao_Paulo America/Argentina/Buenos_Aires`,
	)
	if _, err := time.LoadLocation(now); err == nil && now != "" && now != "Local" && !slices.Contains(names, now) {
		names = append(names, now)
	}
	var out []prop.Option
	for _, n := range names {
		out = append(out, prop.Option{Value: n, Words: strings.ReplaceAll(n, "_", " ")})
	}
	return prop.Of("", out...)
}

// Core is the sentence that tells the list.
func (l *ChoiceList) Core(Context) string { return "{name}" }

// Called says which list it is.
func (l *ChoiceList) Called(Context) string {
	return words.Say("called-list", words.Args{"name": l.Name})
}

// Props lists the settings of the list.
func (l *ChoiceList) Props(Context) []prop.Prop {
	return []prop.Prop{{Name: "name", Label: "Name", Noun: "the name", Must: true, Asked: true, Value: named(&l.Name)}}
}

// Core is the sentence that tells the column.
func (col *ListColumn) Core(Context) string { return "Each choice has {name}, {type}" }

// Called says which column it is.
func (col *ListColumn) Called(c Context) string { return c.inList(col.Name) }

func (c Context) inList(name string) string {
	if c.list == nil {
		return name
	}
	return words.Say("called-in", words.Args{"name": name, "in": c.list.Name})
}

// Props lists the settings of the column.
func (col *ListColumn) Props(Context) []prop.Prop {
	var kinds []prop.Option
	for _, k := range columnKinds {
		kinds = append(kinds, prop.Option{Value: string(k.ColumnType), Words: k.words, Label: k.label})
	}
	return []prop.Prop{
		{Name: "name", Label: "Name, such as Day rate", Noun: "the name", Must: true, Asked: true, Value: named(&col.Name)},
		{
			Name:  "type",
			Label: "It holds",
			Noun:  "what it holds",
			Must:  true,
			Asked: true,
			Fixed: true,
			Value: prop.Pick(&col.Type, kinds...),
		},
	}
}

// columnKinds are the rows of the types of columns: how each is said, chosen and
// entered, and what a text means in it.
var columnKinds = []struct {
	ColumnType
	words, label string
	control      prop.Control
	kind         expr.Kind
	read         func(text string) (expr.Value, bool)
}{
	{
		TextColumn,
		"text",
		"Text",
		prop.Control{Kind: prop.TextControl},
		expr.Text,
		func(s string) (expr.Value, bool) { return expr.TextOf(s), len(s) <= 500 },
	},
	{NumberColumn, "a number", "Number", prop.Control{Kind: prop.TextControl}, expr.Number, func(s string) (expr.Value, bool) {
		d, err := decimal.NewFromString(s)
		return expr.NumberOf(d), err == nil && len(s) < 40
	}},
	{
		YesNoColumn,
		"yes or no",
		"Yes or no",
		prop.Control{
			Kind:  prop.PickControl,
			To:    prop.Of("", prop.Option{Value: "yes", Words: "yes"}, prop.Option{Value: "no", Words: "no"}),
			Empty: "nothing",
		},
		expr.YesNo,
		func(s string) (expr.Value, bool) { return expr.YesNoOf(s == "yes"), s == "yes" || s == "no" },
	},
	{
		ColourColumn,
		"a colour",
		"Colour",
		prop.Control{Kind: prop.ColourControl},
		expr.Text,
		func(s string) (expr.Value, bool) { return expr.TextOf(s), colourPattern.MatchString(s) },
	},
	{
		PictureColumn,
		"a picture",
		"Picture",
		prop.Control{Kind: prop.PictureControl},
		"",
		func(s string) (expr.Value, bool) { return expr.FileOf(s), picturePattern.MatchString(s) },
	},
}

// columnValue reads what a column holds for a choice; false where the text is no
// value of the type.
func columnValue(t ColumnType, text string) (expr.Value, bool) {
	if text == "" {
		return expr.Empty(), true
	}
	for _, k := range columnKinds {
		if k.ColumnType == t {
			return k.read(text)
		}
	}
	return expr.Value{}, false
}

// Core is the sentence that tells the choice.
func (ch *Choice) Core(Context) string { return "{label}" }

// Called says which choice it is.
func (ch *Choice) Called(c Context) string { return c.inList(ch.Label) }

// Props lists the settings of the choice, among them its values in the extra
// columns.
func (ch *Choice) Props(c Context) []prop.Prop {
	out := []prop.Prop{{Name: "label", Label: "Choice", Noun: "the words", Must: true, Asked: true, Value: named(&ch.Label)}}
	if c.list != nil {
		for _, col := range c.list.Columns {
			out = append(out, ch.columnProp(col))
		}
	}
	return append(
		out,
		prop.Prop{
			Name:  "retired",
			Label: "Retired",
			Noun:  "whether it can be chosen",
			Help:  "Records keep it, but no one can choose it",
			Group: "Choosing",
			Say:   ", {|retired}: records keep it",
			Value: prop.Switch(&ch.Retired),
		},
	)
}

func (ch *Choice) columnProp(col ListColumn) prop.Prop {
	p := prop.Prop{Name: col.ID, Label: col.Name, Group: "Columns", Say: "; {=" + col.ID + "|" + col.Name + "} {}"}
	control := prop.Control{Kind: prop.TextControl}
	for _, k := range columnKinds {
		if k.ColumnType == col.Type {
			control = k.control
		}
	}
	held := prop.Held(control, func() string { return ch.Values[col.ID] }, func(text string) {
		if ch.Values == nil {
			ch.Values = map[string]string{}
		}
		ch.Values[col.ID] = text
		if text == "" {
			delete(ch.Values, col.ID)
		}
		if len(ch.Values) == 0 {
			ch.Values = nil
		}
	}, func(text string) *words.Problem {
		if _, ok := columnValue(col.Type, text); !ok {
			return words.New("column-"+string(col.Type), "value", text, "column", col.Name)
		}
		return nil
	})
	if col.Type == PictureColumn {
		held = held.Shown(func(string) string { return "a picture" })
	}
	p.Value = held
	return p
}

// Rename gives the column another name and key; expressions follow.
func (col *ListColumn) Rename(c Context, name string) error {
	return c.b.renames(
		func(r expr.Ref) bool { return r.Table == c.list.ID && r.Field == col.ID },
		name,
		c.list.columnKey(name, col.ID),
		&col.Name,
		&col.Key,
	)
}

// Rename gives the choice other words. Records keep it, and expressions follow.
func (ch *Choice) Rename(c Context, label string) error {
	return c.b.renameChoice(ch.ID, label, &ch.Label)
}

// OneWord is what one of the table's records is called.
func (t *Table) OneWord() string {
	if t.Word != "" {
		return t.Word
	}
	return words.Singular(t.Name)
}

// Core is the sentence that tells the table.
func (t *Table) Core(Context) string { return "Each record’s label is {label}" }

// Called says which table it is.
func (t *Table) Called(Context) string { return t.Name }

// Props lists the settings of the table.
func (t *Table) Props(c Context) []prop.Prop {
	word := named(&t.Word)
	word.Most = 40
	single := func(f *Field) bool { return f.Type.Row().Single }
	return []prop.Prop{
		{Name: "name", Label: "Name", Noun: "the name", Must: true, Asked: true, Value: named(&t.Name)},
		{
			Name:  "label",
			Label: "Label",
			Noun:  "the label",
			Must:  true,
			Value: prop.Label(&t.Label, c.Rows(t.ID)),
			Lost:  prop.Lost{Do: func() string { return t.mendLabel(c) }},
		},
		{
			Name:  "word",
			Label: "One record is called",
			Noun:  "what a record is called",
			Help:  "Used in buttons and sentences: “Add a …”",
			Group: "Words",
			Say:   ". A record is called {}",
			Value: word,
		},
		{
			Name:   "uniques",
			Label:  "No duplicates across fields",
			Noun:   "which duplicates are prevented",
			Help:   "Two records can’t have the same values in all of these fields",
			Group:  "Filling in",
			Say:    ". No two records have the same {}",
			Stores: true,
			Value:  prop.Sets(&t.Uniques, c.Fields(t.ID, single), 2, 8),
		},
	}
}

// Rename gives the table another name and key; expressions follow.
func (t *Table) Rename(c Context, name string) error {
	return c.b.renames(func(r expr.Ref) bool { return r.Table == t.ID && r.Field == "" }, name, c.b.tableKey(name, t.ID), &t.Name, &t.Key)
}

// Check refuses a key that the database could not have.
func (t *Table) Check(Context) *words.Problem {
	if !keyPattern.MatchString(t.Key) {
		return words.New("key", "key", t.Key)
	}
	return nil
}

// Check refuses a key that an expression could not name.
func (col *ListColumn) Check(Context) *words.Problem {
	if !keyPattern.MatchString(col.Key) || expr.Reserved(col.Key) {
		return words.New("key", "key", col.Key)
	}
	return nil
}

// mendLabel labels the records of a table by its first text field, or by what
// they are called.
func (t *Table) mendLabel(c Context) string {
	if f := find(t.Fields, func(f *Field) bool { return f.Type == Text }); f != nil {
		t.Label = f.Key
		return words.Say("label-is", words.Args{"field": f.Name})
	}
	t.Label = `"` + strings.ReplaceAll(t.Name, `"`, `""`) + `"`
	return words.Say("label-all", words.Args{"name": t.Name})
}
