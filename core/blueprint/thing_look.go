package blueprint

import (
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Look is what of its theme an app changes; the zero value is nothing.
type Look struct {
	Accent  string  `json:"accent,omitempty"` // as #rrggbb
	Ground  string  `json:"ground,omitempty"` // as #rrggbb, what cards stand on
	Heading Face    `json:"heading,omitempty"`
	Text    Face    `json:"text,omitempty"`
	Corners Corners `json:"corners,omitempty"`
	Density Density `json:"density,omitempty"`
	Logo    string  `json:"logo,omitempty"` // id of a picture
	// Behind is the id of the picture behind the sign-in and the pages that go with it.
	Behind string `json:"behind,omitempty"`
	// Region says how dates, numbers and money are written, as a tag of BCP 47; "" for as
	// each browser does.
	Region string    `json:"region,omitempty"`
	Menu   MenuPlace `json:"menu,omitempty"`
	Phone  PhoneMenu `json:"phone,omitempty"`
}

// MenuPlace is where the menu stands on a wide screen, PhoneMenu how it is reached on a
// phone.
type (
	MenuPlace string
	PhoneMenu string
)

// The places of the menu.
const (
	TopMenu    MenuPlace = ""
	SideMenu   MenuPlace = "side"
	DrawerMenu PhoneMenu = ""
	BarMenu    PhoneMenu = "bar"
)

// Face is the name of a type face.
type Face string

// Faces lists the faces that ship with the product.
func Faces() []Face {
	return []Face{"Bricolage Grotesque", "Instrument Sans", "Fraunces", "Source Serif 4", "Figtree", "Nunito", "Archivo", "JetBrains Mono"}
}

// Corners is how round corners are.
type Corners string

// The corners.
const (
	ThemeCorners  Corners = ""
	SquareCorners Corners = "square"
	SoftCorners   Corners = "soft"
	RoundCorners  Corners = "round"
)

// Density is how much room there is.
type Density string

// The densities.
const (
	UsualDensity Density = ""
	Compact      Density = "compact"
	Roomy        Density = "roomy"
)

// Region is how dates, numbers and money are written somewhere. Weeks begin there on First,
// counted from Sunday.
type Region struct {
	Tag, Name string
	First     int
}

// Regions lists those that can be chosen.
func Regions() []Region {
	return []Region{
		{"en-GB", "United Kingdom", 1}, {"en-IE", "Ireland", 1}, {"en-US", "United States", 0},
		{"en-CA", "Canada", 0}, {"fr-CA", "Canada, French", 0}, {"en-AU", "Australia", 1},
		{"en-NZ", "New Zealand", 1}, {"en-IN", "India", 0}, {"en-ZA", "South Africa", 0},
		{"de-DE", "Germany", 1}, {"de-AT", "Austria", 1}, {"de-CH", "Switzerland, German", 1},
		{"fr-CH", "Switzerland, French", 1}, {"it-CH", "Switzerland, Italian", 1}, {"fr-FR", "France", 1},
		{"fr-BE", "Belgium, French", 1}, {"nl-BE", "Belgium, Dutch", 1}, {"nl-NL", "Netherlands", 1},
		{"es-ES", "Spain", 1}, {"es-MX", "Mexico", 0}, {"pt-PT", "Portugal", 0},
		{"pt-BR", "Brazil", 0}, {"it-IT", "Italy", 1}, {"da-DK", "Denmark", 1},
		{"nb-NO", "Norway", 1}, {"sv-SE", "Sweden", 1}, {"fi-FI", "Finland", 1},
		{"pl-PL", "Poland", 1}, {"cs-CZ", "Czechia", 1}, {"el-GR", "Greece", 1},
		{"tr-TR", "Türkiye", 1}, {"ja-JP", "Japan", 0},
	}
}

// FirstDay gives the day on which weeks begin, counted from Sunday; Monday where no region
// is chosen.
func (b *Blueprint) FirstDay() int {
	for _, r := range Regions() {
		if r.Tag == b.Look.Region {
			return r.First
		}
	}
	return 1
}

// lookProps lists the settings of the look.
func (b *Blueprint) lookProps() []prop.Prop {
	faces := []prop.Option{{Value: "", Words: "the theme’s"}}
	for _, f := range Faces() {
		faces = append(faces, prop.Option{Value: string(f), Words: string(f)})
	}
	var regions []prop.Option
	for _, r := range Regions() {
		regions = append(regions, prop.Option{Value: r.Tag, Words: r.Name})
	}
	return []prop.Prop{
		{
			Name:  "look.accent",
			Label: "Accent",
			Noun:  "the accent",
			Help:  "The colour of what can be pressed. It is made darker or lighter where it could not be read",
			Group: "Look",
			Say:   ". Its accent is {}",
			Value: lookColour(&b.Look.Accent),
		},
		{
			Name:  "look.ground",
			Label: "Ground",
			Noun:  "the ground",
			Help:  "The colour behind everything. It is made lighter or darker where words on it could not be read",
			Group: "Look",
			Say:   ". Its ground is {}",
			Value: lookColour(&b.Look.Ground),
		},
		{
			Name:  "look.logo",
			Label: "Logo",
			Noun:  "the logo",
			Help:  "A picture beside its name",
			Group: "Look",
			Say:   ". It has {}",
			Value: lookPicture(&b.Look.Logo, "a logo"),
		},
		{
			Name:  "look.behind",
			Label: "Picture behind the sign-in",
			Noun:  "the picture behind the sign-in",
			Help:  "It fills the page behind signing in and signing up",
			Group: "Look",
			Say:   ". Behind the sign-in is {}",
			Value: lookPicture(&b.Look.Behind, "a picture"),
		},
		{
			Name:  "look.heading",
			Label: "Face of headings",
			Noun:  "the face of headings",
			Help:  "The letters of headings",
			Group: "Look",
			Say:   ". Headings are set in {}",
			Value: prop.Pick(&b.Look.Heading, faces...),
		},
		{
			Name:  "look.text",
			Label: "Face of texts",
			Noun:  "the face of texts",
			Help:  "The letters of everything else",
			Group: "Look",
			Say:   ". Texts are set in {}",
			Value: prop.Pick(&b.Look.Text, faces...),
		},
		{
			Name:  "look.corners",
			Label: "Corners",
			Noun:  "the corners",
			Help:  "How round cards and buttons are",
			Group: "Look",
			Say:   ". Its corners are {}",
			Value: prop.Pick(&b.Look.Corners, prop.Option{Value: "", Words: "the theme’s"},
				prop.Option{Value: string(SquareCorners), Words: "square"},
				prop.Option{Value: string(SoftCorners), Words: "soft"}, prop.Option{Value: string(RoundCorners), Words: "round"}),
		},
		{
			Name:  "look.density",
			Label: "Density",
			Noun:  "the density",
			Help:  "How much fits on a page",
			Group: "Look",
			Say:   ". It is {}",
			Value: prop.Pick(&b.Look.Density, prop.Option{Value: "", Words: "neither compact nor roomy", Label: "As usual"},
				prop.Option{Value: string(Compact), Words: "compact"}, prop.Option{Value: string(Roomy), Words: "roomy"}),
		},
		{
			Name:  "look.menu",
			Label: "Menu",
			Noun:  "the place of the menu",
			Help:  "Where it stands on a wide screen",
			Group: "Menu",
			Say:   ". Its menu stands {}",
			Value: prop.Pick(&b.Look.Menu, prop.Option{Value: "", Words: "on top"},
				prop.Option{Value: string(SideMenu), Words: "at the side"}),
		},
		{
			Name:  "look.phone",
			Label: "Menu on a phone",
			Noun:  "the menu on a phone",
			Help:  "A drawer that a button opens, or a bar with the first pages at the bottom",
			Group: "Menu",
			Say:   ". On a phone its menu is {}",
			Value: prop.Pick(&b.Look.Phone, prop.Option{Value: "", Words: "a drawer"},
				prop.Option{Value: string(BarMenu), Words: "a bar at the bottom"}),
		},
		{
			Name:  "look.region",
			Label: "Dates, numbers and money as in",
			Noun:  "the region",
			Help:  "How they are written, and on which day weeks begin; as in each person’s browser unless you say",
			Group: "Place",
			Say:   ". Dates, numbers and money are written as in {}",
			Value: prop.One(&b.Look.Region, prop.Of("", regions...)).OrNone("each person’s browser"),
		},
	}
}

// lookColour is a setting that holds a colour.
func lookColour(at *string) prop.Value {
	return prop.Held(prop.Control{Kind: prop.ColourControl}, func() string { return *at }, func(s string) { *at = s },
		wrongUnless(colourPattern.MatchString))
}

// lookPicture is a setting that holds a picture, and is told as given.
func lookPicture(at *string, told string) prop.Value {
	return prop.Held(prop.Control{Kind: prop.PictureControl}, func() string { return *at }, func(s string) { *at = s },
		wrongUnless(picturePattern.MatchString)).Shown(func(string) string { return told })
}

// wrongUnless refuses a text that is none of those that can be.
func wrongUnless(right func(string) bool) func(string) *words.Problem {
	return func(s string) *words.Problem {
		if !right(s) {
			return words.New("not-offered", "value", s)
		}
		return nil
	}
}
