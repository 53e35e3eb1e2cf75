package builder

import (
	"context"
	"strings"

	"pinegate/core/words"
	"pinegate/store"
)

// deed is something done.
type deed struct {
	by *string // whoever did it, by the name of then
	id *string // of who did it, as [store.Work] has it, or nil
}

// builder gives the id of the builder who did it, if it was one.
func (d deed) builder() (string, bool) {
	if d.id == nil {
		return "", false
	}
	return store.BuilderWho(*d.id)
}

// today tells of builders who did something what they are called now, where they were
// called something else then or another of them is called so as well.
func (h *Handlers) today(ctx context.Context, deeds []deed) error {
	var ids []string
	for _, d := range deeds {
		if id, ok := d.builder(); ok {
			ids = append(ids, id)
		}
	}
	called, err := h.Accounts.Called(ctx, ids)
	if err != nil {
		return err
	}
	named := map[string]int{}
	for _, b := range called {
		named[b.Name]++
	}
	for _, d := range deeds {
		id, _ := d.builder()
		b, there := called[id]
		switch {
		case !there: // the account is closed, or nothing is known of whose it was
		case !wasCalled(*d.by, b.Name):
			*d.by = words.Say("history-today", words.Args{"name": *d.by, "today": b.Name, "email": b.Email})
		case named[b.Name] > 1:
			*d.by = words.Say("history-of-two", words.Args{"name": *d.by, "email": b.Email})
		}
	}
	return nil
}

// wasCalled tells whether what stands in a history is that name, or says as whom
// somebody of that name did something.
func wasCalled(by, name string) bool {
	rest, ok := strings.CutPrefix(by, name)
	return ok && (rest == "" || strings.HasPrefix(rest, " as ") || strings.HasPrefix(rest, ", "))
}
