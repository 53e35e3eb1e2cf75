package act

import (
	"context"

	"pinegate/core/blueprint"
	"pinegate/core/sentence"
	"pinegate/store"
	"pinegate/store/apps"
)

// Apply makes changes to the draft: the blueprint, its tables, and a line in
// the list of changes. They are made on whatever the draft is now, and refused
// with a [*words.Problem] where they no longer fit.
func (a *Acts) Apply(ctx context.Context, id, by string, changes ...blueprint.Change) (store.App, error) {
	var app store.App
	err := a.Do(ctx, func(u *Unit) (err error) {
		if app, err = apps.Locked(u.Tx, id); err != nil {
			return err
		}
		before, err := a.apps.Revision(u.Tx, app.ID, app.Revision)
		if err != nil {
			return err
		}
		after, sentences := before, []string{}
		for _, c := range changes {
			next, err := blueprint.Apply(after, c)
			if err != nil {
				return err
			}
			sentences = append(sentences, sentence.OfChange(after, next, c))
			after = next
		}
		was := app.Revision
		if err := apps.Follow(ctx, u.Tx, &app, before, after); err != nil {
			return err
		}
		now := app.Revision
		return apps.Note(u.Tx, &store.Activity{AppID: app.ID, MadeBy: by, Sentences: sentences, BeforeRevision: &was, AfterRevision: &now})
	})
	return app, err
}
