package runtime

// App is what every page shows of the app, and of who looks at it.
type App struct {
	Name string `json:"name"`
	// Look are custom properties of CSS that differ from those of the theme, by their names.
	Look      map[string]string `json:"look"`
	Faces     []string          `json:"faces"`            // that are used besides those of the theme
	Logo      string            `json:"logo,omitempty"`   // id of a picture
	Behind    string            `json:"behind,omitempty"` // id of the one behind the sign-in
	Region    string            `json:"region,omitempty"` // a tag of BCP 47
	Theme     string            `json:"theme"`
	Menu      []MenuItem        `json:"menu"`
	MenuAt    string            `json:"menuAt,omitempty" enum:"side"` // on top without
	Phone     string            `json:"phone,omitempty" enum:"bar"`   // a drawer without
	SignedIn  bool              `json:"signedIn"`
	Person    string            `json:"person"`
	Email     string            `json:"email,omitempty"` // of whoever is signed in
	CanSignIn bool              `json:"canSignIn"`
	CanSignUp bool              `json:"canSignUp"`
	Locked    bool              `json:"locked"` // nothing can be changed from here
	Stage     bool              `json:"stage"`  // looked at by a builder, words can be edited
}

// MenuItem is a page in the menu.
type MenuItem struct {
	Path string `json:"path"`
	Name string `json:"name"`
	Icon string `json:"icon,omitempty"`
	// Group are words under which it stands.
	Group string `json:"group,omitempty"`
}

// Page is everything that a page shows.
type Page struct {
	App    App     `json:"app"`
	ID     string  `json:"id"`
	Path   string  `json:"path"`
	Name   string  `json:"name"`
	Record string  `json:"record,omitempty"`
	Blocks []Block `json:"blocks"`
}
