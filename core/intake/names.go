package intake

import (
	"slices"
	"strings"
	"unicode"
)

// tokens parts a name into its words, small and without what marks plurals: "boat_ID", "BoatId" and "Boats id" are alike.
func tokens(name string) []string {
	var out []string
	var word []rune
	end := func() {
		if len(word) > 0 {
			out = append(out, singular(strings.ToLower(string(word))))
			word = nil
		}
	}
	runes := []rune(name)
	for i, r := range runes {
		switch {
		case !unicode.IsLetter(r) && !unicode.IsDigit(r):
			end()
			continue
		case i > 0 && unicode.IsUpper(r) && unicode.IsLower(runes[i-1]):
			end()
		}
		word = append(word, r)
	}
	end()
	return out
}

// singular takes off a word what marks plurals in the languages that mark them with an s, and the commonest irregular ones.
func singular(w string) string {
	if s, is := map[string]string{"people": "person", "children": "child", "men": "man", "women": "woman", "staff": "staff",
		"mice": "mouse", "geese": "goose", "categories": "category"}[w]; is {
		return s
	}
	switch {
	case len(w) > 4 && strings.HasSuffix(w, "ies"):
		return w[:len(w)-3] + "y"
	case len(w) > 5 && (strings.HasSuffix(w, "lves") || strings.HasSuffix(w, "aves") && w != "waves" || w == "knives" || w == "wives"):
		return strings.TrimSuffix(w[:len(w)-3], "i") + map[bool]string{true: "ife", false: "f"}[w[len(w)-4] == 'i']
	case len(w) > 4 && (strings.HasSuffix(w, "sses") || strings.HasSuffix(w, "xes") || strings.HasSuffix(w, "ches") ||
		strings.HasSuffix(w, "shes")):
		return w[:len(w)-2]
	case slices.Contains([]string{"buses", "campuses", "bonuses", "viruses", "lenses", "canvases", "atlases"}, w):
		return w[:len(w)-2]
	case slices.Contains([]string{"menus", "skis", "taxis", "kiwis", "saris", "emus"}, w),
		len(w) > 3 && strings.HasSuffix(w, "s") && !strings.ContainsAny(w[len(w)-2:len(w)-1], "sui"):
		return w[:len(w)-1]
	}
	return w
}

// isPlural tells whether the last word of a name is of several.
func isPlural(name string) bool {
	words := strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return !unicode.IsLetter(r) })
	return len(words) > 0 && singular(words[len(words)-1]) != words[len(words)-1]
}

// alike tells whether two words are the same but for an ending that marks plurals where no s does: Kunde, Kunden; Boot, Boote.
func alike(a, b string) bool {
	if len(a) > len(b) {
		a, b = b, a
	}
	rest, longer := strings.CutPrefix(b, a)
	return a == b || longer && len(a) >= 4 && slices.Contains([]string{"n", "en", "e"}, rest)
}

func areAlike(a, b []string) bool { return slices.EqualFunc(a, b, alike) }

// keyWords are words behind the name of a thing that say by what it is known.
var keyWords = []string{"id", "ids", "no", "nr", "num", "number", "code", "key", "ref", "reference", "name", "email", "mail", "e",
	"title", "sku", "isbn"}

// towards are words at the end of what says of whom or what it is: reports to, part of, led by.
var towards = []string{"to", "of", "by"}

// bareWords say nothing of what a column is of.
var bareWords = []string{"id", "no", "nr", "number", "code", "key", "name", "title", "label", "description", "e", "mail", "email", "phone",
	"date", "day", "note", "type", "kind", "state", "status", "total", "sum", "price", "count"}

// leadWords name whoever or whatever is above something of the same kind.
var leadWords = []string{"manager", "boss", "parent", "supervisor", "lead", "leader", "head", "chief", "mentor", "belong", "within",
	"part", "successor", "predecessor", "previous", "next", "replace", "report",
	"superior", "sponsor", "mother", "father", "dam", "sire", "follow", "vorgesetzter", "chef", "père", "above", "under"}

// isLabel tells whether a column is by its name what its own rows are called.
func isLabel(header string) bool {
	h := tokens(header)
	return len(h) > 0 && slices.Contains([]string{"name", "title", "label", "id", "code", "key"}, h[len(h)-1]) &&
		(len(h) == 1 || slices.Contains([]string{"full", "display", "short", "first", "last"}, h[0]))
}

// nearness is what the name of a column tells of whether it points to a table.
type nearness struct {
	table bool // it names the table, and nothing else
	last  bool // its last word does, but for what says by what a thing is known
	other bool // it names the table, and then something of it: Course fee
	same  bool // it is named as the column to which it would point
	key   bool // it says that it holds what things are known by
	lead  bool // it names what is above
}

// near compares the name of a column with that of a table, and of the column to which it would point.
func near(header, table, by string) nearness {
	h, t := tokens(header), tokens(table)
	out := nearness{lead: slices.ContainsFunc(h, func(w string) bool { return slices.Contains(leadWords, w) })}
	telling := func(w string) bool { return !slices.Contains(bareWords, w) }
	out.same = by != "" && slices.Equal(h, tokens(by)) && slices.ContainsFunc(h, telling)
	thing := h
	for len(thing) > 1 && (slices.Contains(keyWords, thing[len(thing)-1]) || slices.Contains(towards, thing[len(thing)-1])) {
		thing, out.key = thing[:len(thing)-1], true
	}
	if len(t) == 0 || len(thing) == 0 || len(thing) == 1 && slices.Contains(bareWords, thing[0]) && !slices.Equal(thing, t) {
		return out
	}
	head := t[len(t)-1] // work orders are orders
	switch {
	case areAlike(thing, t), len(thing) == 1 && alike(thing[0], head):
		out.table = true
	case hasSuffix(thing, t), alike(thing[len(thing)-1], head):
		out.last = true
	case slices.ContainsFunc(thing, func(w string) bool { return alike(w, head) }):
		out.other = true
	}
	return out
}

func hasSuffix(words, end []string) bool {
	return len(words) >= len(end) && areAlike(words[len(words)-len(end):], end)
}
