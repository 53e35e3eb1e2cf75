package blueprint

import "pinegate/core/prop"

// Icons lists the names of the pictures that can stand in a menu.
func Icons() []string {
	return []string{"home", "list", "table", "board", "calendar", "clock", "people", "person", "boat", "anchor", "wrench", "hammer", "box",
		"truck", "car", "bicycle", "building", "key", "lock", "money", "receipt", "cart", "tag", "gift", "chart", "star", "heart", "flag",
		"pin", "mail", "phone", "message", "bell", "book", "file", "folder", "picture", "camera", "music", "tree", "leaf", "sun", "cloud",
		"drop", "flame", "bolt", "cog", "question", "info", "check"}
}

// iconOffers offers these.
func iconOffers() prop.To {
	var options []prop.Option
	for _, name := range Icons() {
		options = append(options, prop.Option{Value: name, Words: name})
	}
	return prop.Of("icon", options...)
}

// icon is the setting of a picture in a menu.
func icon(at *string) prop.Prop {
	return prop.Prop{
		Name:  "icon",
		Label: "Icon",
		Noun:  "the icon",
		Help:  "A small picture before its name in the menu",
		Group: "Menu",
		Say:   ". Its icon is {}",
		Value: prop.One(at, iconOffers()).OrNone("none"),
	}
}
