package blueprint

import (
	"encoding/json"
	"fmt"

	"pinegate/core/prop"
)

// Decode reads a blueprint from JSON, in this format or an older one, and refuses
// what it does not know. It does not validate.
func Decode(raw []byte) (*Blueprint, error) {
	var head struct {
		Format int `json:"format"`
	}
	if err := json.Unmarshal(raw, &head); err != nil {
		return nil, fmt.Errorf("read blueprint: %w", err)
	}
	if head.Format < Format {
		var err error
		if raw, err = upgrade(raw, head.Format); err != nil {
			return nil, fmt.Errorf("upgrade blueprint from format %d: %w", head.Format, err)
		}
	}
	return decode(raw)
}

func decode(raw []byte) (*Blueprint, error) {
	var b Blueprint
	if err := prop.Strictly(raw, &b); err != nil {
		return nil, fmt.Errorf("read blueprint: %w", err)
	}
	return &b, nil
}

// object is a JSON object of an older format.
type object = map[string]any

// upgrades are the steps from each format to the next. They read tolerantly: what
// a step does not know, it leaves.
var upgrades = map[int]func(object){1: fromFormat1, 2: fromFormat2, 3: fromFormat3}

func upgrade(raw []byte, from int) ([]byte, error) {
	var doc object
	if err := json.Unmarshal(raw, &doc); err != nil {
		return nil, err
	}
	for ; from < Format; from++ {
		step := upgrades[from]
		if step == nil {
			return nil, fmt.Errorf("there is no step from format %d", from)
		}
		step(doc)
		doc["format"] = from + 1
	}
	return json.Marshal(doc)
}

// fromFormat1 makes blocks flat, counts pages that the menu leaves out instead of
// those that it has, and writes the fields by which people are found as texts.
func fromFormat1(doc object) {
	types := map[string]string{} // of fields, by their ids
	for _, t := range objects(doc["tables"]) {
		for _, f := range objects(t["fields"]) {
			types[text(f["id"])] = text(f["type"])
		}
	}
	for _, p := range objects(doc["pages"]) {
		if in, _ := p["inMenu"].(bool); !in && text(p["record"]) == "" {
			p["offMenu"] = true
		}
		delete(p, "inMenu")
		for _, x := range objects(p["blocks"]) {
			flatten(x, types)
		}
	}
	for _, r := range objects(doc["roles"]) {
		var match []any
		for _, m := range objects(r["match"]) {
			id := text(m["field"])
			if via := text(m["via"]); via != "" {
				id = via + "." + id
			}
			match = append(match, id)
		}
		delete(r, "match")
		if match != nil {
			r["match"] = match
		}
		if signUp, ok := r["signUp"].(object); ok {
			keepEntered(signUp, "questions", types)
		}
	}
}

// flatten brings the settings of a block beside its id.
func flatten(x object, types map[string]string) {
	for _, of := range []string{"list", "details", "form"} {
		if inner, ok := x[of].(object); ok {
			for name, value := range inner {
				x[name] = value
			}
		}
		delete(x, of)
	}
	switch text(x["kind"]) {
	case "list":
		x["kind"] = "records"
		fallthrough
	case "details", "form":
		delete(x, "text")
		delete(x, "page")
	case "heading", "text":
		delete(x, "page")
	}
	if text(x["kind"]) == "form" {
		keepEntered(x, "fields", types)
		keepEntered(x, "presets", types)
	}
}

// keepEntered leaves out questions about fields that nobody can fill in; they were
// never asked.
func keepEntered(of object, name string, types map[string]string) {
	if of[name] == nil {
		return
	}
	kept := []any{}
	for _, q := range objects(of[name]) {
		if t := FieldType(types[text(q["field"])]); t == "" || t.Entered() {
			kept = append(kept, q)
		}
	}
	of[name] = kept
}

func objects(list any) []object {
	all, _ := list.([]any)
	var out []object
	for _, x := range all {
		if o, ok := x.(object); ok {
			out = append(out, o)
		}
	}
	return out
}

func text(x any) string {
	s, _ := x.(string)
	return s
}

// fromFormat2 makes blocks of the questions of forms.
func fromFormat2(doc object) {
	for _, what := range []string{"pages", "parts"} {
		for _, p := range objects(doc[what]) {
			askInBlocks(p)
		}
	}
}

func askInBlocks(of object) {
	for _, x := range objects(of["blocks"]) {
		if text(x["kind"]) != formKind.Name {
			askInBlocks(x)
			continue
		}
		asked := []any{}
		for _, q := range objects(x["fields"]) {
			q["id"], q["kind"] = questionID(text(x["id"]), text(q["field"])), questionKind.Name
			asked = append(asked, q)
		}
		delete(x, "fields")
		x["blocks"] = asked
	}
}

// fromFormat3 makes blocks of what sign-up asks for and of what a profile shows.
func fromFormat3(doc object) {
	for _, r := range objects(doc["roles"]) {
		if signUp, is := r["signUp"].(object); is {
			asked := []any{}
			for _, q := range objects(signUp["questions"]) {
				q["id"], q["kind"] = questionID(text(r["id"])+signUpForm, text(q["field"])), questionKind.Name
				asked = append(asked, q)
			}
			delete(signUp, "questions")
			if len(asked) > 0 {
				signUp["blocks"] = asked
			}
		}
		if profile, is := r["profile"].(object); is {
			shown := []any{}
			fields, _ := profile["fields"].([]any)
			for _, f := range fields {
				shown = append(shown, object{"id": questionID(text(r["id"])+profileForm, text(f)), "kind": questionKind.Name,
					"field": f})
			}
			delete(profile, "fields")
			if len(shown) > 0 {
				profile["blocks"] = shown
			}
		}
	}
}
