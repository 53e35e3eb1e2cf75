package blueprint

import "strings"

// New gives the blueprint of an app that has nothing yet but its visitors and
// a page that welcomes them.
func New(name string, newID func() string) *Blueprint {
	name = strings.TrimSpace(name)
	return &Blueprint{
		Format: Format, Name: name, Theme: "Harbour",
		Lists: []ChoiceList{}, Tables: []Table{},
		Roles: []Role{{ID: VisitorRole, Name: "Visitors"}},
		Pages: []Page{{ID: newID(), Path: "welcome", Name: "Welcome", Audience: Everyone,
			Blocks: Blocks{&HeadingBlock{BlockHead: BlockHead{ID: newID(), Kind: headingKind.Name}, Text: "Welcome to " + name}}}},
	}
}
