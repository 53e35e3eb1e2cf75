// Package runtime serves the apps that founders build, to whoever sits in the
// seat: live to their people, and on the stage to builders.
package runtime

import (
	"context"
	"encoding/json"
	"errors"
	"reflect"

	"github.com/danielgtaylor/huma/v2"

	"pinegate/app/page"
	"pinegate/core/blueprint"
	"pinegate/core/look"
	"pinegate/core/words"
	"pinegate/server/gate"
	"pinegate/server/seats"
	"pinegate/store"
	"pinegate/store/accounts"
	"pinegate/store/apps"
	"pinegate/store/kept"
	"pinegate/store/records"
)

// Place is where a request sits: the app, and the seat in it. The server puts
// it into the request.
type Place struct {
	App   store.App
	Seat  *records.Seat
	Stage bool
	From  gate.From // where the request comes from
	Agent string    // what the browser says of itself
	Token string    // of the session, or ""
	// Session is the session that the request carries, or nil.
	Session *accounts.Session
	// Kept are values that the browser keeps for whoever uses it.
	Kept kept.Values
	// Locked tells that nothing can be written from here.
	Locked bool
}

// person gives the address of who is signed in, or "".
func (p *Place) person() string {
	if p.Session == nil || !p.Seat.Viewer.SignedIn() {
		return ""
	}
	return p.Session.Email + " " + p.Session.RecordID
}

// asker names who asks for something here, and of which records.
func (p *Place) asker() string { return p.Seat.Schema + " " + p.Seat.By + " " + p.person() }

// open finds the page for the path, and tells in words why it is not shown.
func (p *Place) open(ctx context.Context, a *apps.Apps, path, record string) (*page.View, error) {
	v, err := page.Open(ctx, a.Road(ctx), p.Seat, path, record)
	switch {
	case errors.Is(err, page.ErrSignIn):
		return nil, huma.Error401Unauthorized(words.Say("page-sign-in", nil))
	case errors.Is(err, page.ErrNotYours):
		return nil, huma.Error403Forbidden(words.Say("page-not-yours", nil))
	case errors.Is(err, page.ErrNotNow):
		return nil, huma.Error404NotFound(words.Say("page-not-now", nil))
	case err != nil:
		return nil, err
	}
	v.Sources = p.Stage
	return v, nil
}

func (p *Place) app(ctx context.Context, a *apps.Apps) (App, error) {
	b := p.Seat.Blueprint
	out := App{Name: b.Name, Theme: string(b.Theme), Menu: []MenuItem{}, SignedIn: p.Seat.Viewer.SignedIn(), Person: p.Seat.Viewer.Name, Email: p.Seat.Viewer.Email,
		Stage: p.Stage, Locked: p.Locked}
	out.Look, out.Faces, out.Region = look.Tokens(b.Theme, b.Look), []string{}, b.Look.Region
	out.Logo, out.Behind = b.Look.Logo, b.Look.Behind
	for _, face := range []blueprint.Face{b.Look.Heading, b.Look.Text} {
		if face != "" {
			out.Faces = append(out.Faces, string(face))
		}
	}
	if out.SignedIn && out.Person == "" {
		out.Person = seats.RoleName(b, p.Seat.Viewer)
	}
	menu, err := page.Menu(ctx, a.Road(ctx), p.Seat)
	for _, at := range menu {
		out.Menu = append(out.Menu, MenuItem{at.Path, at.Name, at.Icon, at.Group})
	}
	out.MenuAt, out.Phone = string(b.Look.Menu), string(b.Look.Phone)
	for _, r := range b.Roles {
		out.CanSignIn = out.CanSignIn || r.People != ""
		out.CanSignUp = out.CanSignUp || r.SignUp.Mode == blueprint.Open || r.SignUp.Mode == blueprint.Approved
	}
	return out, err
}

// Block is a block as it is shown: one of several kinds, which its kind tells
// apart.
type Block struct{ page.Block }

// MarshalJSON writes what the block is.
func (b Block) MarshalJSON() ([]byte, error) { return json.Marshal(b.Block) }

// Schema describes the block as one of the kinds. The mapping says which kind is
// which type.
func (Block) Schema(r huma.Registry) *huma.Schema {
	const name, prefix = "Block", "#/components/schemas/"
	ref := &huma.Schema{Ref: prefix + name}
	if r.Map()[name] != nil {
		return ref
	}
	out := &huma.Schema{Discriminator: &huma.Discriminator{PropertyName: "kind", Mapping: map[string]string{}}}
	r.Map()[name] = out // a block may hold blocks
	for kind, blank := range page.Kinds {
		of := r.Schema(reflect.TypeOf(blank), true, "")
		properties := r.SchemaFromRef(of.Ref).Properties
		properties["kind"] = &huma.Schema{Type: "string", Enum: []any{kind}}
		if properties["blocks"] != nil { // it holds blocks
			properties["blocks"] = &huma.Schema{Type: huma.TypeArray, Items: ref}
		}
		if properties["state"] != nil { // a form has some between its questions
			held := r.SchemaFromRef(properties["state"].Ref)
			held.Properties["blocks"] = &huma.Schema{Type: huma.TypeArray, Items: ref}
		}
		if properties["inside"] != nil { // its rows hold some
			properties["inside"] = &huma.Schema{Type: huma.TypeObject, AdditionalProperties: &huma.Schema{Type: huma.TypeArray, Items: ref}}
		}
		out.OneOf = append(out.OneOf, of)
		out.Discriminator.Mapping[kind] = of.Ref
	}
	return ref
}
