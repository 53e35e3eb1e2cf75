package run

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"pinegate/app/act"
	"pinegate/core/blueprint"
	"pinegate/core/flow"
	"pinegate/core/service"
	"pinegate/core/words"
	"pinegate/store"
	"pinegate/store/apps"
	"pinegate/store/runs"
)

// For how long a call that came in is known: one that has something of its own by which it is told from
// others, and another, which may be the same as one that is meant.
const (
	knownCall = 400 * 24 * time.Hour
	knownBody = 10 * time.Minute
)

// HookSecret says for what the secret in the address of a workflow is kept.
func HookSecret(place apps.Environment, workflow string) string {
	return "address " + string(place) + " " + workflow
}

// SignSecret says for what the secret is kept with which calls of a workflow are signed.
func SignSecret(workflow string) string { return "signature " + workflow }

// Address gives a workflow a new secret for its address, and gives it; one that it had opens nothing
// from then on.
func (r *Runs) Address(ctx context.Context, app store.App, place apps.Environment, workflow, by string) (string, error) {
	secret := strings.ToLower(rand.Text())
	err := r.Acts.Do(ctx, func(u *act.Unit) error {
		return runs.In(u.Tx).SetHook(ctx, runs.Hook{AppID: app.ID, Place: string(place), Workflow: workflow}, secret)
	})
	if err != nil {
		return "", err
	}
	return secret, r.Services.Seals.Set(ctx, app.ID, HookSecret(place, workflow), secret, by)
}

// Incoming takes a call that came in at an address: header gives what stands in its headers.
// [store.ErrNotFound] tells that there is no such address; words, that the call is refused. A call that
// came before is taken, and starts nothing.
func (r *Runs) Incoming(ctx context.Context, secret string, body []byte, header func(name string) string) error {
	hook, err := r.Book.HookAt(ctx, secret)
	if err != nil {
		return err
	}
	app, err := r.Apps.Find(ctx, hook.AppID)
	if err != nil {
		return err
	}
	env := apps.Environment(hook.Place)
	b, err := r.Apps.Blueprint(ctx, app, env)
	if err != nil {
		return err
	}
	w := b.Workflow(hook.Workflow)
	if w == nil || w.Off || w.Incoming() == nil {
		return store.ErrNotFound
	}
	if err := r.signed(ctx, app, w, body, header); err != nil {
		return err
	}
	rows, err := service.Read(w.Incoming().Call(), body)
	if err != nil {
		return err
	}
	seat := apps.FounderSeat(app, env, b, words.Say("flow-called", nil))
	job := act.Started{Schema: seat.Schema, Workflow: w.ID, Person: act.PersonOf(seat), Answers: flow.ValuesOf(rows[0])}
	key, known, err := keyOfCall(w.Incoming(), body)
	if err != nil {
		return err
	}
	job.ID = uuid.NewSHA1(uuid.NameSpaceOID, fmt.Appendf(nil, "%s %s %s", seat.Schema, w.ID, key)).String()
	return r.Acts.Do(ctx, func(u *act.Unit) error {
		first, err := runs.In(u.Tx).Hear(ctx, job.ID, time.Now().Add(known))
		if err != nil || !first {
			return err
		}
		if known == knownBody { // the same can be meant again later
			job.ID = uuid.NewString()
		}
		return u.Enqueue(ctx, job)
	})
}

// signed refuses a call that is not signed as the workflow says.
func (r *Runs) signed(ctx context.Context, app store.App, w *blueprint.Workflow, body []byte, header func(string) string) error {
	name := w.Incoming().Signed
	if name == "" {
		return nil
	}
	secret, err := r.Services.Seals.Open(ctx, app.ID, SignSecret(w.ID))
	if errors.Is(err, store.ErrNotFound) {
		return words.New("incoming-no-secret")
	}
	if err != nil {
		return err
	}
	mac := hmac.New(sha256.New, []byte(secret))
	mac.Write(body)
	given, err := hex.DecodeString(strings.TrimPrefix(strings.TrimSpace(header(name)), "sha256="))
	if err != nil || !hmac.Equal(given, mac.Sum(nil)) {
		return words.New("incoming-unsigned")
	}
	return nil
}

// keyOfCall gives that by which a call is told from others, and for how long it is known.
func keyOfCall(x *blueprint.IncomingTrigger, body []byte) (key string, known time.Duration, err error) {
	if x.Once == "" {
		return fmt.Sprintf("body %x", sha256.Sum256(body)), knownBody, nil
	}
	d := json.NewDecoder(bytes.NewReader(body))
	d.UseNumber()
	var whole any
	if err := d.Decode(&whole); err != nil {
		return "", 0, words.New("service-nonsense")
	}
	switch v := service.At(whole, x.Once).(type) {
	case string:
		key = v
	case json.Number:
		key = v.String()
	}
	if key == "" {
		return "", 0, words.New("incoming-once", "at", x.Once)
	}
	return "once " + key, knownCall, nil
}

// Comes gives what would set a workflow off where some JSON came in.
func Comes(w *blueprint.Workflow, body string) (flow.Input, error) {
	rows, err := service.Read(w.Incoming().Call(), []byte(body))
	if err != nil {
		return flow.Input{}, err
	}
	return flow.Input{Answers: flow.ValuesOf(rows[0])}, nil
}
