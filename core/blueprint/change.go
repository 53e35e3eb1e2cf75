package blueprint

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
)

// Change is a small typed edit of a blueprint.
type Change interface {
	// apply edits a blueprint that is the caller's own copy.
	apply(b *Blueprint) error
}

// Apply gives the blueprint after the changes, leaving the one it is given as
// it was. An error of type [*Problem] says in words why a change cannot be
// made.
func Apply(b *Blueprint, changes ...Change) (*Blueprint, error) {
	next, err := b.clone()
	if err != nil {
		return nil, err
	}
	for _, c := range changes {
		if err := c.apply(next); err != nil {
			return nil, err
		}
		if err := next.Validate(); err != nil {
			return nil, err
		}
	}
	return next, nil
}

func (b *Blueprint) clone() (*Blueprint, error) {
	raw, err := json.Marshal(b)
	if err != nil {
		return nil, fmt.Errorf("copy blueprint: %w", err)
	}
	return Decode(raw)
}

// Decode reads a blueprint from JSON and refuses what it does not know. It
// does not validate.
func Decode(raw []byte) (*Blueprint, error) {
	var b Blueprint
	if err := strictly(raw, &b); err != nil {
		return nil, fmt.Errorf("read blueprint: %w", err)
	}
	return &b, nil
}

func strictly(raw []byte, into any) error {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	return d.Decode(into)
}

// kinds lists an example of every change; a change is known by the name of its
// Go type.
func kinds() []Change {
	return []Change{
		&RenameApp{}, &SetTheme{}, &SetZone{},
		&AddChoiceList{}, &RenameChoiceList{}, &RemoveChoiceList{}, &AddChoice{}, &RenameChoice{}, &RemoveChoice{}, &MoveChoice{}, &RetireChoice{}, &MergeChoice{},
		&AddListColumn{}, &RenameListColumn{}, &RemoveListColumn{}, &SetChoiceValue{},
		&AddTable{}, &RenameTable{}, &RemoveTable{}, &SetLabel{},
		&AddField{}, &RenameField{}, &RemoveField{}, &SetFieldType{}, &SetFieldSettings{}, &SetUniques{}, &SetRequired{}, &SetHelp{}, &MoveField{},
		&AddRole{}, &RenameRole{}, &RemoveRole{}, &SetPeople{}, &SetPermission{}, &SetFieldAccess{}, &SetGiven{},
		&SetRoleCondition{}, &SetAdmission{}, &SetSecondStep{}, &SetMatch{}, &SetHome{}, &RemoveHome{}, &SetSignUp{}, &SetProfile{},
		&SetWays{}, &SetSession{}, &SetSender{}, &SetGateWords{}, &SetGateMail{}, &SetTerms{},
		&AddExpectation{}, &RemoveExpectation{},
		&AddPage{}, &RenamePage{}, &RemovePage{}, &MovePage{}, &SetAudience{}, &SetInMenu{},
		&AddBlock{}, &SetBlock{}, &RemoveBlock{}, &MoveBlock{},
	}
}

// Kind gives the name of the change's type, as it stands in JSON.
func Kind(c Change) string { return reflect.TypeOf(c).Elem().Name() }

// Encode writes a change as JSON, with its kind.
func Encode(c Change) (json.RawMessage, error) {
	raw, err := json.Marshal(c)
	if err != nil {
		return nil, fmt.Errorf("write change: %w", err)
	}
	kind := []byte(`{"kind":"` + Kind(c) + `"`)
	if len(raw) > 2 {
		kind = append(kind, ',')
	}
	return append(kind, raw[1:]...), nil
}

// DecodeChange reads a change from JSON. New things get ids from newID where
// the change does not carry them.
func DecodeChange(raw []byte, newID func() string) (Change, error) {
	var head map[string]json.RawMessage
	var kind string
	if err := json.Unmarshal(raw, &head); err != nil {
		return nil, problem("A change must be a JSON object.")
	}
	if err := json.Unmarshal(head["kind"], &kind); err != nil {
		return nil, problem("A change must say its kind.")
	}
	delete(head, "kind")
	rest, err := json.Marshal(head)
	if err != nil {
		return nil, fmt.Errorf("read change: %w", err)
	}
	for _, example := range kinds() {
		if Kind(example) != kind {
			continue
		}
		if err := strictly(rest, example); err != nil {
			return nil, problem("The change %s is not well formed: %v.", kind, err)
		}
		if n, ok := example.(interface{ fill(func() string) }); ok {
			n.fill(newID)
		}
		return example, nil
	}
	return nil, problem("There is no change %q.", kind)
}

// fillID sets an id that is not set yet.
func fillID(id *string, newID func() string) {
	if *id == "" {
		*id = newID()
	}
}

// move puts the element at from before or after so that it stands at to.
func move[T any](list []T, from, to int) {
	if to < 0 {
		to = 0
	}
	if to >= len(list) {
		to = len(list) - 1
	}
	x := list[from]
	copy(list[from:], list[from+1:])
	copy(list[to+1:], list[to:len(list)-1])
	list[to] = x
}
