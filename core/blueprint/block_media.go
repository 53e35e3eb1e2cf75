package blueprint

import (
	"pinegate/core/prop"
	"pinegate/core/words"
)

var pictureKind = BlockKind{
	Name:  "picture",
	Label: "A picture",
	Noun:  "picture",
	Help:  "A picture of the app, or one of the record",
	Forms: AlsoInForms,
	New:   func() Block { return &PictureBlock{} },
}

// PictureBlock shows a picture of the app or, with a field, that of the record in hand.
type PictureBlock struct {
	BlockHead
	Picture string `json:"picture,omitempty"` // id of one of the app
	Field   string `json:"field,omitempty"`   // id of a field of pictures
	Text    string `json:"text,omitempty"`    // what it shows, for those who cannot see it
}

// Row gives the kind.
func (*PictureBlock) Row() *BlockKind { return &pictureKind }

// Called says which block it is.
func (*PictureBlock) Called(c Context) string { return calledBlock(&pictureKind, c) }

// Core is the sentence that tells it.
func (x *PictureBlock) Core(Context) string {
	if x.Field != "" {
		return "A picture shows {field}"
	}
	return "{picture} stands here"
}

// Props lists its settings.
func (x *PictureBlock) Props(c Context) []prop.Prop {
	text := prop.Text(&x.Text)
	text.Most, text.Quoted = 200, true
	return []prop.Prop{
		{
			Name:  "field",
			Label: "Picture of the record",
			Noun:  "the field of its picture",
			Help:  "A field of the record whose picture it shows",
			Asked: c.record() != "",
			Group: "Picture",
			Value: prop.One(&x.Field, c.Fields(c.record(), func(f *Field) bool { return f.Type == Picture })).OrNone("none"),
			Lost:  prop.Lost{Words: "it is taken off the page", TakeOut: true},
		},
		{
			Name:  "picture",
			Label: "Picture",
			Noun:  "the picture",
			Help:  "A picture of the app",
			Asked: c.record() == "",
			Group: "Picture",
			Value: prop.Held(prop.Control{Kind: prop.PictureControl}, func() string { return x.Picture }, func(id string) { x.Picture = id },
				wrongUnless(picturePattern.MatchString)).Shown(func(id string) string {
				if id == "" {
					return "No picture yet"
				}
				return "A picture"
			}),
		},
		{
			Name:  "text",
			Label: "What it shows",
			Noun:  "what it shows",
			Help:  "For those who cannot see it, and while it is loading",
			Asked: true,
			Group: "Picture",
			Say:   " of {}",
			Value: text,
		},
	}
}

var videoKind = BlockKind{
	Name:  "video",
	Label: "A video",
	Noun:  "video",
	Help:  "A video that is kept in a file field of the record",
	About: true,
	New:   func() Block { return &VideoBlock{} },
}

// VideoBlock shows the videos that a file field of the record in hand holds.
type VideoBlock struct {
	BlockHead
	Field string `json:"field"`
}

// Row gives the kind.
func (*VideoBlock) Row() *BlockKind { return &videoKind }

// Called says which block it is.
func (*VideoBlock) Called(c Context) string { return calledBlock(&videoKind, c) }

// Core is the sentence that tells it.
func (*VideoBlock) Core(Context) string { return "The video in {field} is shown" }

// Props lists its settings.
func (x *VideoBlock) Props(c Context) []prop.Prop {
	return []prop.Prop{{
		Name:  "field",
		Label: "Video in",
		Noun:  "the field of the video",
		Must:  true,
		Asked: true,
		Value: prop.One(&x.Field, c.Fields(c.record(), func(f *Field) bool { return f.Type == File })),
		Lost:  prop.Lost{Words: "it is taken off the page", TakeOut: true},
	}}
}

var stepsKind = BlockKind{
	Name:   "steps",
	Label:  "Steps of a process",
	Noun:   "line of steps",
	Help:   "The choices of a field in a line, with the present one marked",
	About:  true,
	InRows: true,
	New:    func() Block { return &StepsBlock{} },
}

// StepsBlock shows the choices of a field of the record in hand as a line of steps.
type StepsBlock struct {
	BlockHead
	Field string `json:"field"`
	// Without are ids of choices that are no steps, such as that something was declined; a
	// record with one of them shows that alone.
	Without []string `json:"without,omitempty"`
}

// Row gives the kind.
func (*StepsBlock) Row() *BlockKind { return &stepsKind }

// Called says which block it is.
func (*StepsBlock) Called(c Context) string { return calledBlock(&stepsKind, c) }

// Core is the sentence that tells it.
func (*StepsBlock) Core(Context) string { return "A line of steps shows {field}" }

// Props lists its settings.
func (x *StepsBlock) Props(c Context) []prop.Prop {
	return []prop.Prop{{
		Name:  "field",
		Label: "Steps of",
		Noun:  "the field of the steps",
		Must:  true,
		Asked: true,
		Value: prop.One(&x.Field, c.Fields(c.record(), func(f *Field) bool { return f.Type == Choose })),
		Lost:  prop.Lost{Words: "it is taken off the page", TakeOut: true},
	}, {
		Name:  "without",
		Label: "Choices that are no steps",
		Noun:  "the choices that are no steps",
		Help:  "Such as “Declined”: a record that has one shows it alone",
		Group: "Steps",
		Say:   ", without {}",
		Value: prop.Many(&x.Without, c.choicesOf(x.Field)),
	}}
}

// choicesOf offers the choices of a field of the record in hand.
func (c Context) choicesOf(field string) prop.To {
	f := c.field(c.record(), field)
	if f == nil || c.b.List(f.List) == nil {
		return prop.To{What: "choice"}
	}
	return offers("choice", c.b.List(f.List).Choices, func(ch *Choice) (prop.Option, bool) {
		return prop.Option{Value: ch.ID, Words: ch.Label}, true
	})
}

var embedKind = BlockKind{
	Name:  "embed",
	Label: "A page of another site",
	Noun:  "embedded page",
	Help:  "A map, a film or a form of another site, in a frame",
	New:   func() Block { return &EmbedBlock{} },
}

// EmbedBlock shows a page of another site.
type EmbedBlock struct {
	BlockHead
	Address string `json:"address"`
	Title   string `json:"title"`
	Height  int    `json:"height,omitempty"` // pixels; 0 for the default
}

// Row gives the kind.
func (*EmbedBlock) Row() *BlockKind { return &embedKind }

// Called says which block it is.
func (*EmbedBlock) Called(c Context) string { return calledBlock(&embedKind, c) }

// Core is the sentence that tells it.
func (*EmbedBlock) Core(Context) string { return "A frame titled {title} shows {address}" }

// Props lists its settings.
func (x *EmbedBlock) Props(Context) []prop.Prop {
	address, title := prop.Text(&x.Address), prop.Text(&x.Title)
	address.Most, title.Most, title.Quoted = 500, 80, true
	address.Right = func(s string) *words.Problem {
		if _, ok := OriginOf(s); !ok {
			return words.New("embed-address")
		}
		return nil
	}
	return []prop.Prop{
		{Name: "address", Label: "Address", Noun: "the address", Must: true, Asked: true, Value: address},
		{Name: "title", Label: "Title", Noun: "the title", Must: true, Asked: true, Value: title},
		{
			Name:  "height",
			Label: "Height",
			Noun:  "the height",
			Help:  "In points; 420 unless you say",
			Group: "Look",
			Say:   ", {} points high",
			Value: prop.Number(&x.Height, 80, 2000),
		},
	}
}
