package blueprint

import (
	"slices"
	"strings"

	"pinegate/core/expr"
	"pinegate/core/prop"
	"pinegate/core/words"
)

var recordsKind = BlockKind{
	Name:  "records",
	Label: "A list of records",
	Noun:  "list",
	Help:  "The records in a table that each person can see",
	New:   func() Block { return &RecordsBlock{} },
}

// ListWay is how records are shown.
type ListWay string

// The ways.
const (
	TableWay    ListWay = "table"
	CardsWay    ListWay = "cards"
	BoardWay    ListWay = "board"
	CalendarWay ListWay = "calendar"
	GalleryWay  ListWay = "gallery"
	LinesWay    ListWay = "lines"
)

// ListWays lists the ways in which records can be shown.
func ListWays() []prop.Option {
	return []prop.Option{{Value: string(TableWay), Words: "a table"}, {Value: string(CardsWay), Words: "cards"},
		{Value: string(BoardWay), Words: "a board"}, {Value: string(CalendarWay), Words: "a calendar"},
		{Value: string(GalleryWay), Words: "a gallery"}, {Value: string(LinesWay), Words: "lines"}}
}

// OpenAs is where what a row opens is shown.
type OpenAs string

// The places in which a row opens a page.
const (
	OpenPage   OpenAs = ""
	OpenPanel  OpenAs = "panel"
	OpenDialog OpenAs = "dialog"
)

// RecordsBlock shows records of a table.
type RecordsBlock struct {
	BlockHead
	Table       string    `json:"table"`
	Title       string    `json:"title,omitempty"`   // with placeholders
	Ways        []ListWay `json:"ways,omitempty"`    // the first is how it begins; none is a table
	Board       string    `json:"board,omitempty"`   // id of the choice or link whose choices or records are the columns of a board
	From        string    `json:"from,omitempty"`    // ids of the fields that say when a record is, on a calendar
	Until       string    `json:"until,omitempty"`   // the last day or moment of it
	Picture     string    `json:"picture,omitempty"` // id of the field whose picture is shown on cards and in galleries
	Badge       string    `json:"badge,omitempty"`   // id of the choice field that stands out on cards
	Filter      string    `json:"filter,omitempty"`  // condition over the record
	Filters     []string  `json:"filters,omitempty"` // ids of fields by which people can narrow it
	Columns     []string  `json:"columns,omitempty"` // ids of fields
	Sort        string    `json:"sort,omitempty"`    // id of a field, and behind a dot that of a column of its choice list
	Falling     bool      `json:"falling,omitempty"`
	Then        string    `json:"then,omitempty"` // what sorts those that are equal in that
	ThenFalling bool      `json:"thenFalling,omitempty"`
	Last        string    `json:"last,omitempty"` // what sorts those that are equal in both
	LastFalling bool      `json:"lastFalling,omitempty"`
	Group       string    `json:"group,omitempty"`  // id of the field by which rows are parted
	Totals      []string  `json:"totals,omitempty"` // ids of fields of numbers that are summed
	Open        string    `json:"open,omitempty"`   // id of the page that a row opens
	OpenAs      OpenAs    `json:"openAs,omitempty"`
	Edit        []string  `json:"edit,omitempty"`   // ids of fields that are changed where they stand
	Add         string    `json:"add,omitempty"`    // id of the page that adds one
	Export      bool      `json:"export,omitempty"` // people can take it away as a file
	Empty       string    `json:"empty,omitempty"`
	Size        int       `json:"size,omitempty"` // records at a time; 0 for the default
	// Tint is the id of the choice field in whose colour a record stands where no tone fits.
	Tint string `json:"tint,omitempty"`
	// Tones are conditions over a record by which it is toned, of which the first counts, and
	// Shown those by which columns are shown. Both have ids or tones as fields.
	Tones []prop.Given `json:"tones,omitempty"`
	Shown []prop.Given `json:"shown,omitempty"`
	// Kept is a condition that counts while the kept values that it names are there.
	Kept string `json:"kept,omitempty"`
	// Bar is the id of the filter bar that it follows, and Dated that of the field by which its days count.
	Bar   string `json:"bar,omitempty"`
	Dated string `json:"dated,omitempty"`
	// Whole tells that all records are shown at once, up to [MostWhole].
	Whole bool `json:"whole,omitempty"`
	// Unfold is the id of the page about a record that a row unfolds to, beneath it.
	Unfold string `json:"unfold,omitempty"`
	// Blocks stand in each row, about its record.
	Blocks Blocks `json:"blocks,omitempty"`
}

// Inside gives the blocks that stand in each row.
func (x *RecordsBlock) Inside() *Blocks { return &x.Blocks }

// Row gives the kind.
func (*RecordsBlock) Row() *BlockKind { return &recordsKind }

// Called says which block it is.
func (x *RecordsBlock) Called(c Context) string { return calledBlock(&recordsKind, c) }

// Core is the sentence that tells it.
func (*RecordsBlock) Core(Context) string { return "A list shows {table}" }

// Props lists its settings.
func (x *RecordsBlock) Props(c Context) []prop.Prop {
	return slices.Concat(x.which(c), x.looks(c), x.order(c), x.actions(c), x.nothing())
}

// which lists the settings that say which records it shows.
func (x *RecordsBlock) which(c Context) []prop.Prop {
	return append([]prop.Prop{
		{
			Name:   "table",
			Label:  "Records of",
			Noun:   "the table",
			Must:   true,
			Asked:  true,
			Resets: true,
			Value:  prop.One(&x.Table, c.Tables()),
			Lost:   prop.Lost{Words: "it is taken off the page", TakeOut: true},
		},
		{
			Name:   "ways",
			Label:  "Shown as",
			Noun:   "how it is shown",
			Help:   "A table, cards, a board, a calendar… With several, people choose, and it begins with the first",
			Group:  "Look",
			Asked:  true,
			Resets: true,
			Say:    " as {}",
			Value:  prop.Many(&x.Ways, prop.Of("", ListWays()...)).Else(TableWay).Joined(" or "),
		},
		{
			Name:  "filter",
			Label: "Only records where",
			Noun:  "the condition",
			Help:  "Only some of the records",
			Group: "Which records",
			Say:   " where {}",
			Value: prop.Condition(
				&x.Filter,
				c.Listed(x.Table),
			),
			Lost: prop.Lost{Words: "the list is taken off the page", TakeOut: true},
		}, // else it would show more
		{
			Name:  "kept",
			Label: "While kept values are there, only records where",
			Noun:  "the condition by kept values",
			Help:  "It counts once the kept values that it names are chosen; until then all are shown",
			Group: "Which records",
			Say:   "; while kept values are there, only where {}",
			Value: prop.Condition(&x.Kept, c.Listed(x.Table)),
		},
		{
			Name:  "filters",
			Label: "People can filter by",
			Noun:  "what people can filter by",
			Help:  "Filters above the list, for choices, links, yes or no, dates and numbers",
			Group: "Which records",
			Say:   ", which people can filter by {}",
			Value: prop.Many(&x.Filters, c.typed(x.Table, filterable)),
		},
	}, x.following(c)...)
}

// following lists the settings by which it follows a filter bar.
func (x *RecordsBlock) following(c Context) []prop.Prop {
	out := c.follows(&x.Bar)
	for i := range out {
		out[i].Group = "Which records"
	}
	if x.Bar == "" && c.b != nil {
		return out
	}
	return append(out, prop.Prop{
		Name:  "dated",
		Label: "Day of a record",
		Noun:  "the day of a record",
		Help:  "By which the days of the filter bar count",
		Group: "Which records",
		Say:   " by {}",
		Value: prop.One(&x.Dated, c.typed(x.Table, func(t expr.Type) bool {
			return !t.Many && (t.Kind == expr.Date || t.Kind == expr.Time)
		})).OrNone("no day"),
	})
}

// looks lists the settings that say what of them is shown.
func (x *RecordsBlock) looks(c Context) []prop.Prop {
	out := []prop.Prop{
		{
			Name:  "title",
			Label: "Title",
			Noun:  "the title",
			Help:  "Words above it",
			Group: "Look",
			Say:   ", titled {}",
			Value: prop.Template(&x.Title, c.Here()),
		},
		{
			Name:  "columns",
			Label: "Fields, in this order",
			Noun:  "the fields",
			Help:  "The fields it shows",
			Group: "Look",
			Say:   ", with {}",
			Value: prop.Many(&x.Columns, c.Fields(x.Table, nil)),
		},
	}
	out = append(out, prop.Prop{
		Name:  "shown",
		Label: "Fields shown only when",
		Noun:  "when its fields are shown",
		Help:  "A field is left out while its condition does not hold. To keep it from people, use the rules under People",
		Group: "When",
		Say:   "; it shows {}",
		Value: prop.Whens(&x.Shown, c.Fields(x.Table, nil), c.Here()),
	}, prop.Prop{
		Name:  "tones",
		Label: "Tone of a record",
		Noun:  "the tones of records",
		Help:  "Records for which a condition holds stand out; the first that holds counts",
		Group: "Look",
		Say:   "; records look {}",
		Value: prop.Whens(&x.Tones, prop.Of("", toneOptions()[1:]...), c.Listed(x.Table)),
	}, prop.Prop{
		Name:  "tint",
		Label: "Coloured by",
		Noun:  "the colour of its records",
		Help:  "Records stand in the colour of a choice, where no tone fits",
		Group: "Look",
		Say:   "; records have the colour of {}",
		Value: prop.One(&x.Tint, c.typed(x.Table, func(t expr.Type) bool { return t.Kind == expr.Choice && !t.Many })).OrNone("nothing"),
	})
	none := func(words string) prop.Lost {
		return prop.Lost{Words: words, Do: func() string { x.dropWays(); return words }}
	}
	if x.offers(BoardWay) {
		out = append(out, prop.Prop{
			Name:  "board",
			Label: "Columns of the board",
			Noun:  "the columns of the board",
			Help:  "A column for each choice of a field, or for each record or person that it links to",
			Group: "Look",
			Say:   ", in columns by {}",
			Value: prop.One(&x.Board, c.Fields(x.Table, func(f *Field) bool { return f.Type == Choose || f.Type == Link })),
			Lost:  none("it is no board any more"),
		})
	}
	if x.offers(CalendarWay) {
		times := c.typed(x.Table, func(t expr.Type) bool { return !t.Many && (t.Kind == expr.Date || t.Kind == expr.Time) })
		out = append(out, prop.Prop{
			Name:  "from",
			Label: "On the calendar at",
			Noun:  "its day on the calendar",
			Help:  "The date or time that says where it stands on the calendar",
			Group: "Look",
			Say:   ", on the calendar at {}",
			Value: prop.One(&x.From, times),
			Lost:  none("it is no calendar any more"),
		}, prop.Prop{
			Name:  "until",
			Label: "Until",
			Noun:  "its end on the calendar",
			Help:  "Its last day or moment, where it takes longer",
			Group: "Look",
			With:  "from",
			Say:   " until {}",
			Value: prop.One(&x.Until, times).OrNone("the same day"),
		})
	}
	return append(out, prop.Prop{
		Name:  "picture",
		Label: "Picture",
		Noun:  "the picture",
		Help:  "The field whose picture stands on cards and in galleries",
		Group: "Look",
		Say:   ", pictured by {}",
		Value: prop.One(&x.Picture, c.Fields(x.Table, func(f *Field) bool { return f.Type == Picture })).OrNone("none"),
	}, prop.Prop{
		Name:  "badge",
		Label: "Badge",
		Noun:  "the badge",
		Help:  "A choice that stands out on cards, in its colour",
		Group: "Look",
		Say:   ", with {} as a badge",
		Value: prop.One(&x.Badge, c.typed(x.Table, func(t expr.Type) bool { return t.Kind == expr.Choice && !t.Many })).OrNone("none"),
	})
}

// order lists the settings that say in which order they come, and how many.
func (x *RecordsBlock) order(c Context) []prop.Prop {
	return slices.Concat(
		c.sorting(x.Table, &x.Sort, "falling", &x.Falling, prop.Prop{Name: "sort", Label: "Sorted by",
			Noun: "the order", Help: "In which order they come", Say: ", sorted by {}"}),
		c.sorting(x.Table, &x.Then, "thenFalling", &x.ThenFalling, prop.Prop{Name: "then", Label: "Then by",
			Noun: "the order of those that are equal", Help: "In which order those come that are equal in the first", Say: ", then by {}"}),
		c.sorting(x.Table, &x.Last, "lastFalling", &x.LastFalling, prop.Prop{Name: "last", Label: "Last by",
			Noun: "the order of those that are equal in both", Help: "In which order those come that are equal in both",
			Say: ", and last by {}"}),
		x.amount(c),
	)
}

// sorting lists a field by which records are sorted, and which way round.
func (c Context) sorting(table string, by *string, turned string, falling *bool, p prop.Prop) []prop.Prop {
	p.Group, p.Value = "Which records", prop.One(by, c.sortings(table)).OrNone("when they were added")
	return []prop.Prop{p, {
		Name:  turned,
		Label: "Reverse order",
		Noun:  p.Noun,
		With:  p.Name,
		Say:   ", {|" + c.lastFirst(table, *by) + "}",
		Value: prop.Switch(falling),
	}}
}

// amount lists the settings that say how they are grouped and summed, and how many come at a time.
func (x *RecordsBlock) amount(c Context) []prop.Prop {
	return []prop.Prop{
		{
			Name:  "group",
			Label: "Grouped by",
			Noun:  "the groups",
			Help:  "Rows of a table are parted by the values of a field",
			Group: "Which records",
			Say:   ", grouped by {}",
			Value: prop.One(&x.Group, c.typed(x.Table, func(t expr.Type) bool {
				return !t.Many && (t.Kind == expr.Choice || t.Kind == expr.Record || t.Kind == expr.YesNo)
			})).OrNone("nothing"),
		},
		{
			Name:  "totals",
			Label: "Totals of",
			Noun:  "the totals",
			Help:  "Numbers that are added up, over all records and for each group",
			Group: "Which records",
			Say:   ", with totals of {}",
			Value: prop.Many(&x.Totals, c.typed(x.Table, func(t expr.Type) bool { return t.Kind == expr.Number && !t.Many })),
		},
		{
			Name:  "size",
			Label: "Records at a time",
			Noun:  "how many records it shows at a time",
			Help:  "25 unless you say; “Show more” brings the next ones",
			Group: "Look",
			Say:   ", {} at a time",
			Value: prop.Number(&x.Size, 1, 200),
		},
		{
			Name:  "whole",
			Label: "All at once",
			Noun:  "whether it shows all at once",
			Help:  "Up to 1,000 records; “Show more” brings the next ones",
			Group: "Look",
			Say:   ", {|all at once}",
			Value: prop.Switch(&x.Whole),
		},
	}
}

// MostWhole is how many records a list shows that shows all at once.
const MostWhole = 1000

// filterable tells whether people can narrow a list by values of a type.
func filterable(t expr.Type) bool {
	switch t.Kind {
	case expr.Choice, expr.Record:
		return true
	case expr.YesNo, expr.Date, expr.Time, expr.Number:
		return !t.Many
	}
	return false
}

// typed offers the fields of a table whose values are of certain types.
func (c Context) typed(table string, only func(expr.Type) bool) prop.To {
	return c.Fields(table, func(f *Field) bool { return only(c.catalog.TypeOf(table, f.ID)) })
}

// Offered lists the ways in which it is shown, the first of which it begins with.
func (x *RecordsBlock) Offered() []ListWay {
	if len(x.Ways) == 0 {
		return []ListWay{TableWay}
	}
	return x.Ways
}

func (x *RecordsBlock) offers(w ListWay) bool { return slices.Contains(x.Offered(), w) }

// dropWays leaves out the ways for which there is no field any more.
func (x *RecordsBlock) dropWays() {
	x.Ways = slices.DeleteFunc(x.Ways, func(w ListWay) bool { return w == BoardWay && x.Board == "" || w == CalendarWay && x.From == "" })
	if len(x.Ways) == 0 || len(x.Ways) == 1 && x.Ways[0] == TableWay {
		x.Ways = nil
	}
}

// Check refuses a board without columns, a calendar without days, and one of which all
// end before they begin.
func (x *RecordsBlock) Check(Context) *words.Problem {
	switch {
	case x.offers(BoardWay) && x.Board == "":
		return words.New("board-by")
	case x.offers(CalendarWay) && x.From == "":
		return words.New("calendar-start")
	case x.Until != "" && x.Until == x.From:
		return words.New("calendar-end")
	}
	return nil
}

// lastFirst says how records are sorted the other way round.
func (c Context) lastFirst(table, sort string) string {
	id, _, column := strings.Cut(sort, ".")
	f := c.field(table, id)
	if f == nil {
		return "newest first"
	}
	t := c.catalog.TypeOf(table, id)
	switch {
	case column:
		return "largest first"
	case t.Kind == expr.Choice:
		return "in reverse list order"
	case t.Kind == expr.Date, t.Kind == expr.Time:
		return "newest first"
	case t.Kind == expr.Number:
		return "largest first"
	case t.Kind == expr.YesNo:
		return "yes first"
	}
	return "Z to A"
}

// Reset begins anew with another table; other ways need other fields.
func (x *RecordsBlock) Reset(c Context, setting string) {
	if setting == "table" {
		*x = RecordsBlock{BlockHead: x.BlockHead, Table: x.Table, Ways: x.Ways, OpenAs: x.OpenAs, Export: x.Export, Empty: x.Empty,
			Size: x.Size} // what stands in rows is about records of the other table
		x.start(c)
		x.dropWays()
		return
	}
	x.start(c)
}

// Start chooses columns, and a page for its rows to open.
func (x *RecordsBlock) Start(c Context) { x.start(c) }

func (x *RecordsBlock) start(c Context) {
	t := c.tableOf(x.Table)
	if t == nil {
		return
	}
	if len(x.Columns) == 0 {
		x.Columns = t.firstFields(4)
	}
	if i := slices.IndexFunc(c.b.Pages, func(p Page) bool { return p.Record == x.Table }); i >= 0 && x.Open == "" {
		x.Open = c.b.Pages[i].ID
	}
	first := func(at *string, wanted bool, only func(*Field) bool) {
		if f := find(t.Fields, only); !wanted {
			*at = ""
		} else if *at == "" && f != nil {
			*at = f.ID
		}
	}
	first(&x.Board, x.offers(BoardWay), func(f *Field) bool { return f.Type == Choose })
	first(&x.Board, x.offers(BoardWay), func(f *Field) bool { return f.Type == Link }) // where there is no choice
	first(&x.From, x.offers(CalendarWay), func(f *Field) bool { return f.Type == Date || f.Type == TimeStamp })
	if !x.offers(CalendarWay) {
		x.Until = ""
	}
	if x.offers(CardsWay) || x.offers(GalleryWay) {
		first(&x.Picture, true, func(f *Field) bool { return f.Type == Picture })
	}
}
