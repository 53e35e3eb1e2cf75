package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"slices"
	"sync"
	"time"
)

// tally is how long something took, each time, and what went wrong.
type tally struct {
	mu     sync.Mutex
	took   map[string][]time.Duration
	wrong  map[string]int
	refuse map[string]int // answered with words that there is too much to do
}

func newTally() *tally {
	return &tally{took: map[string][]time.Duration{}, wrong: map[string]int{}, refuse: map[string]int{}}
}

func (t *tally) note(what string, took time.Duration, status int, err error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	switch {
	case status == http.StatusServiceUnavailable:
		t.refuse[what]++
	case err != nil || status >= 400:
		t.wrong[fmt.Sprintf("%s %d", what, status)]++
	default:
		t.took[what] = append(t.took[what], took)
	}
}

// at gives the time below which so many of a hundred were.
func at(list []time.Duration, percent int) time.Duration {
	if len(list) == 0 {
		return 0
	}
	list = slices.Clone(list)
	slices.Sort(list)
	return list[min(len(list)-1, len(list)*percent/100)]
}

// browser asks a site for somebody.
type browser struct {
	site   string
	cookie *http.Cookie
	tally  *tally
	client *http.Client
}

// ask sends a request and notes how long the answer took.
func (b *browser) ask(ctx context.Context, what, method, path string, body, into any) error {
	var r io.Reader
	switch body := body.(type) {
	case nil:
	case string:
		r = bytes.NewReader([]byte(body))
	default:
		raw, err := json.Marshal(body)
		if err != nil {
			return err
		}
		r = bytes.NewReader(raw)
	}
	request, err := http.NewRequestWithContext(ctx, method, b.site+path, r)
	if err != nil {
		return err
	}
	request.Header.Set("Content-Type", "application/json")
	request.Header.Set("Accept-Encoding", "identity")
	if b.cookie != nil {
		request.AddCookie(b.cookie)
	}
	began := time.Now()
	answer, err := b.client.Do(request)
	if err != nil {
		if ctx.Err() == nil {
			b.tally.note(what, 0, 0, err)
		}
		return err
	}
	raw, err := io.ReadAll(answer.Body)
	_ = answer.Body.Close() // it was only read
	if ctx.Err() != nil {
		return ctx.Err()
	}
	for _, c := range answer.Cookies() {
		b.cookie = c
	}
	b.tally.note(what, time.Since(began), answer.StatusCode, err)
	if err == nil && answer.StatusCode >= 400 {
		return fmt.Errorf("%s: %d %.300s", what, answer.StatusCode, raw)
	}
	if err == nil && into != nil {
		err = json.Unmarshal(raw, into)
	}
	return err
}
