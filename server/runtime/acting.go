package runtime

import (
	"context"
	"errors"

	"pinegate/app/act"
	"pinegate/app/page"
	"pinegate/store/once"
	"pinegate/store/records"
)

// Ticked says that something on a checklist is done, or that it is not.
type Ticked struct {
	OnPage
	Item     string `json:"item" maxLength:"64"`
	Revision int    `json:"revision" minimum:"1"`
	Done     bool   `json:"done"`
}

type tickInput struct {
	Block string `path:"block"`
	Body  Ticked
}

// OnPage says on which page something is done.
type OnPage struct {
	Path   string `json:"path"`
	Record string `json:"record,omitempty" doc:"That the page is about"`
}

// acting opens the page on which somebody does something, where they may now.
func (h *Handlers) acting(ctx context.Context, p *Place, at OnPage) (*page.View, error) {
	if err := p.writable(); err != nil {
		return nil, err
	}
	v, err := p.open(ctx, h.Apps, at.Path, at.Record)
	if err != nil || h.Gate == nil {
		return v, err
	}
	return v, h.Gate.AllowForm(ctx, p.App, p.From, p.person())
}

// tick ticks something off on a checklist.
func (h *Handlers) tick(ctx context.Context, p *Place, in *tickInput) (*struct{}, error) {
	v, err := h.acting(ctx, p, in.Body.OnPage)
	if err != nil {
		return nil, err
	}
	return nil, h.Acts.EditMany(ctx, p.App, p.Seat, func(unit *act.Unit) ([]*records.Write, string, error) {
		w, sentence, err := v.Tick(ctx, unit.Road, in.Block, in.Body.Item, in.Body.Done, in.Body.Revision)
		if err != nil {
			return nil, "", err
		}
		return []*records.Write{w}, sentence, nil
	})
}

// Begun begins a checklist: the first where Round is 0, else another after that. With Gained it adds to that one what
// its steps have gained.
type Begun struct {
	OnPage
	Key    string `json:"key" minLength:"16" maxLength:"64" pattern:"^[A-Za-z0-9_-]+$" doc:"Drawn for each press; sent twice, it is one"`
	Round  int    `json:"round" minimum:"0"`
	Gained bool   `json:"gained,omitempty"`
}

type beginInput struct {
	Block string `path:"block"`
	Body  Begun
}

// begin makes a checklist, once for each key.
func (h *Handlers) begin(ctx context.Context, p *Place, in *beginInput) (*struct{}, error) {
	v, err := h.acting(ctx, p, in.Body.OnPage)
	if err != nil {
		return nil, err
	}
	var nothing struct{}
	ask, err := h.Once.Ask(p.App.ID, in.Body.Key, p.asker(), *in)
	if err != nil {
		return nil, err
	}
	if is, err := ask.Before(ctx, &nothing); err != nil || is {
		return nil, err
	}
	err = h.Acts.EditMany(ctx, p.App, p.Seat, func(unit *act.Unit) ([]*records.Write, string, error) {
		if err := ask.Begin(ctx, unit.Tx); err != nil {
			return nil, "", err
		}
		writes, sentence, err := v.Begin(ctx, unit.Road, in.Block, in.Body.Round, in.Body.Gained)
		if err != nil {
			return nil, "", err
		}
		return writes, sentence, ask.End(ctx, unit.Tx, nothing)
	})
	if errors.Is(err, once.ErrBefore) {
		return nil, nil
	}
	return nil, err
}

// Timed is what somebody does with a timer.
type Timed struct {
	OnPage
	Do    page.TimerAct `json:"do" enum:"start,pause,stop,end"`
	Kind  string        `json:"kind,omitempty" maxLength:"64" doc:"Of work, for which it starts"`
	Entry string        `json:"entry,omitempty" maxLength:"64" doc:"That was forgotten"`
	At    string        `json:"at,omitempty" maxLength:"40" doc:"When that ended, as in RFC 3339"`
}

type timeInput struct {
	Block string `path:"block"`
	Body  Timed
}

// time does something with a timer. Done again it does nothing more, so that it needs no key.
func (h *Handlers) time(ctx context.Context, p *Place, in *timeInput) (*struct{}, error) {
	v, err := h.acting(ctx, p, in.Body.OnPage)
	if err != nil {
		return nil, err
	}
	what := page.Timing{Do: in.Body.Do, Kind: in.Body.Kind, Entry: in.Body.Entry, At: in.Body.At}
	return nil, h.Acts.EditMany(ctx, p.App, p.Seat, func(unit *act.Unit) ([]*records.Write, string, error) {
		return v.Time(ctx, unit.Road, in.Block, what)
	})
}

type awardInput struct {
	Block string `path:"block"`
	Body  OnPage
}

type awardOutput struct{ Body page.Celebrated }

// award gives whoever asks the badge of a figure where its targets are reached, and takes it back where they are not any more. Asked
// again it does nothing more, so that it needs no key.
func (h *Handlers) award(ctx context.Context, p *Place, in *awardInput) (*awardOutput, error) {
	v, err := h.acting(ctx, p, in.Body)
	if err != nil {
		return nil, err
	}
	out := &awardOutput{}
	err = h.Acts.EditMany(ctx, p.App, p.Seat, func(unit *act.Unit) (writes []*records.Write, sentence string, err error) {
		out.Body, writes, sentence, err = v.Award(ctx, unit.Road, in.Block)
		return writes, sentence, err
	})
	return out, err
}
