package blueprint

import (
	"pinegate/core/prop"
	"pinegate/core/words"
)

// Called says which page it is.
func (p *Page) Called(Context) string { return words.Say("called-page", words.Args{"page": p.Name}) }

// Core is the sentence that tells the page.
func (p *Page) Core(Context) string {
	if p.Audience == SomeRole {
		return "{roles} can open it"
	}
	return "{audience} can open it"
}

// Props lists the settings of the page.
func (p *Page) Props(c Context) []prop.Prop {
	audiences := []prop.Option{
		{Value: string(Everyone), Words: "Everyone"},
		{Value: string(SignedIn), Words: "Everyone signed in"},
		{Value: string(SomeRole), Words: "Some roles"},
	}
	out := []prop.Prop{
		{Name: "name", Label: "Name", Noun: "the name", Must: true, Asked: true, Value: named(&p.Name)},
		{
			Name:  "record",
			Label: "It shows",
			Noun:  "the table of its record",
			Fixed: true,
			Asked: true,
			Say:   ". It shows one record in {}",
			Value: prop.One(&p.Record, c.Tables()).OrNone("no record in particular"),
			Lost:  takesOut,
		},
		{
			Name:   "audience",
			Label:  "Who can open it",
			Noun:   "who can open it",
			Must:   true,
			Resets: true,
			Value:  prop.Pick(&p.Audience, audiences...),
		},
	}
	if p.Audience == SomeRole {
		out = append(
			out,
			prop.Prop{
				Name:  "roles",
				Label: "These roles",
				Noun:  "who can open it",
				With:  "audience",
				Must:  true,
				Value: prop.Many(&p.Roles, c.Roles()),
			},
		)
	}
	if p.Record == "" {
		out = append(
			out,
			prop.Prop{
				Name:  "offMenu",
				Label: "Not in the menu",
				Noun:  "whether it is in the menu",
				Help:  "Its address works all the same",
				Group: "Menu",
				Say:   ". {|It is not in the menu}, but its address works",
				Value: prop.Switch(&p.OffMenu),
			},
		)
	}
	if p.InMenu() {
		group := named(&p.Group)
		group.Quoted = true
		out = append(out, prop.Prop{
			Name:  "group",
			Label: "In the menu under",
			Noun:  "under what it is in the menu",
			Help:  "Pages with the same words stand together there",
			Group: "Menu",
			Say:   ". In the menu it is under {}",
			Value: group,
		}, icon(&p.Icon))
	}
	if p.Audience == Everyone && p.Record == "" {
		out = append(out, p.publicProps()...)
	}
	return append(out, prop.Prop{
		Name:  "when",
		Label: "Shown only when",
		Noun:  "when it is shown",
		Help:  "Others do not get it, nor its row in the menu. To keep records from people, use the rules under People",
		Group: "When",
		Say:   ". It is shown only when {}",
		Value: prop.Condition(&p.When, c.Here()),
	})
}

// publicProps lists the settings of a page that is open to everyone.
func (p *Page) publicProps() []prop.Prop {
	description := prop.Text(&p.Description)
	description.Most, description.Quoted = 300, true
	return []prop.Prop{
		{
			Name:  "description",
			Label: "Description",
			Noun:  "the description",
			Help:  "What search engines and links that are sent say of it; its first words unless you say",
			Group: "Search engines",
			Say:   ". Search engines say of it {}",
			Value: description,
		},
		{
			Name:  "preview",
			Label: "Preview picture",
			Noun:  "the preview picture",
			Help:  "The picture beside links that are sent; the icon of the app unless you say",
			Group: "Search engines",
			Say:   ". Links that are sent show {}",
			Value: prop.Held(prop.Control{Kind: prop.PictureControl}, func() string { return p.Preview }, func(id string) { p.Preview = id },
				wrongUnless(picturePattern.MatchString)).Shown(func(string) string { return "a picture" }),
		},
	}
}

// Reset drops the roles where the page is not open to roles.
func (p *Page) Reset(Context, string) {
	if p.Audience != SomeRole {
		p.Roles = nil
	}
}

// Rename gives the page another name and address.
func (p *Page) Rename(c Context, name string) error {
	p.Name, p.Path = name, c.b.pagePath(name, p.ID)
	return nil
}

// Check refuses an address that there cannot be.
func (p *Page) Check(Context) *words.Problem {
	if !pathPattern.MatchString(p.Path) {
		return words.New("key", "key", p.Path)
	}
	return nil
}

// InMenu tells whether the menu leads to the page; to one about a record it
// cannot.
func (p *Page) InMenu() bool { return p.Record == "" && !p.OffMenu }
