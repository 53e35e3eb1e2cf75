package blueprint

import (
	"net/url"
	"regexp"
	"strings"

	"pinegate/core/prop"
	"pinegate/core/words"
)

// publicName is what the last piece of the address of a form that stands by itself can be.
var publicName = regexp.MustCompile(`^[a-z0-9]+(-[a-z0-9]+)*$`)

// paramName is by what an address can fill in the answer to a question.
var paramName = regexp.MustCompile(`^[a-z][a-z0-9_]{0,39}$`)

// publicProps lists the settings of a form that stands by itself, at an address of its own.
func (x *FormBlock) publicProps(c Context) []prop.Prop {
	if (c.page == nil || c.part != nil) && x.Public == "" {
		return nil
	}
	name, sites := prop.Address(&x.Public), prop.Words(&x.Sites)
	name.Right = wrongUnless(publicName.MatchString)
	sites.Most, sites.Quoted = 2000, false
	sites.Right = wrongUnless(func(text string) bool { _, ok := siteList(text); return ok })
	out := []prop.Prop{{
		Name:  "public",
		Label: "An address of its own",
		Noun:  "its own address",
		Help:  "It can be opened by itself, without the menu: small letters, digits and hyphens",
		Group: "Sharing",
		Say:   ". It stands by itself at {}",
		Value: name,
	}}
	if x.Public != "" || x.Sites != "" {
		out = append(out, prop.Prop{
			Name:  "sites",
			Label: "Sites in whose pages it may stand",
			Noun:  "the sites in which it may stand",
			Help:  "One in each line, such as https://www.club.example. All others are refused",
			Group: "Sharing",
			With:  "public",
			Say:   ", and may stand in pages of {}",
			Value: sites,
		})
	}
	return out
}

// siteList reads the origins of sites; false where one cannot be read.
func siteList(text string) ([]string, bool) {
	var out []string
	for _, l := range strings.FieldsFunc(text, func(r rune) bool { return r == '\n' || r == ',' || r == ' ' || r == '\r' }) {
		u, err := url.Parse(l)
		local := err == nil && (u.Hostname() == "localhost" || u.Hostname() == "127.0.0.1")
		whole := err == nil && u.Host != "" && (u.Scheme == "https" || u.Scheme == "http" && local)
		more := whole && (strings.Trim(u.Path, "/") != "" || u.RawQuery != "" || u.Fragment != "" || u.User != nil)
		if !whole || more || strings.ContainsAny(u.Host, `*;'"`) {
			return nil, false
		}
		out = append(out, u.Scheme+"://"+strings.ToLower(u.Host))
	}
	return out, true
}

// MayStandIn lists the origins of the sites in whose pages the form may stand.
func (x *FormBlock) MayStandIn() []string {
	list, _ := siteList(x.Sites)
	return list
}

// checkPublic tells why a form cannot stand by itself, or nil.
func (x *FormBlock) checkPublic(c Context) *words.Problem {
	switch {
	case x.Public == "" && x.Sites != "":
		return words.New("public-sites")
	case x.Public == "" || c.b == nil:
		return nil
	case c.page == nil || c.page.Record != "":
		return words.New("public-record")
	case c.page.Audience != Everyone:
		return words.New("public-page", "page", c.page.Name)
	}
	if _, other := c.b.PublicForm(x.Public); other != nil && other != x {
		return words.New("public-taken", "name", x.Public)
	}
	return nil
}

// PublicForm gives the form that stands by itself under a name, with its page; nil where there is
// none.
func (b *Blueprint) PublicForm(name string) (*Page, *FormBlock) {
	for i := range b.Pages {
		for y := range b.Pages[i].Blocks.All {
			if x, ok := y.(*FormBlock); ok && name != "" && x.Public == name {
				return &b.Pages[i], x
			}
		}
	}
	return nil, nil
}
