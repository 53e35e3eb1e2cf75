// Package watch tells those who run the servers how they are: figures in the text
// format of Prometheus, and traces over OpenTelemetry's protocol.
package watch

import (
	"context"
	"fmt"
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"
	"go.opentelemetry.io/otel"
	"go.opentelemetry.io/otel/attribute"
	"go.opentelemetry.io/otel/codes"
	"go.opentelemetry.io/otel/propagation"
	"go.opentelemetry.io/otel/trace"

	"pinegate/store"
)

// Watch counts what a server does.
type Watch struct {
	registry   *prometheus.Registry
	requests   *prometheus.HistogramVec
	statements *prometheus.HistogramVec
	failed     *prometheus.CounterVec
}

// New makes one that has counted nothing yet.
func New() *Watch {
	w := &Watch{registry: prometheus.NewRegistry(),
		requests: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "pinegate_request_seconds",
			Help: "How long requests took, by route and class of answer.", Buckets: buckets()}, []string{"method", "route", "answer"}),
		statements: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "pinegate_statement_seconds",
			Help: "How long statements took, by kind of work.", Buckets: buckets()}, []string{"kind"}),
		failed: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "pinegate_statements_failed_total",
			Help: "Statements that failed or were stopped, by kind of work."}, []string{"kind"}),
	}
	w.registry.MustRegister(w.requests, w.statements, w.failed, collectors.NewGoCollector(),
		collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	return w
}

// buckets are in seconds: from a statement that finds one record to the longest
// that is allowed.
func buckets() []float64 {
	return []float64{.0005, .001, .0025, .005, .01, .025, .05, .1, .25, .5, 1, 2.5, 5, 10, 30, 60}
}

// Statement counts a statement; it is a [store.Observer].
func (w *Watch) Statement(of store.Work, took time.Duration, failed bool) {
	w.statements.WithLabelValues(of.Kind.String()).Observe(took.Seconds())
	if failed {
		w.failed.WithLabelValues(of.Kind.String()).Inc()
	}
}

// Request counts a request, and is the root of its trace, or a part of that which
// it comes with.
func (w *Watch) Request(g *gin.Context) {
	began, route := time.Now(), g.FullPath()
	if route == "" { // pages and built files
		route = "/…"
	}
	ctx := propagation.TraceContext{}.Extract(g.Request.Context(), propagation.HeaderCarrier(g.Request.Header))
	ctx, span := otel.Tracer("pinegate/server").Start(ctx, g.Request.Method+" "+route, trace.WithSpanKind(trace.SpanKindServer),
		trace.WithAttributes(attribute.String("http.request.method", g.Request.Method), attribute.String("http.route", route),
			attribute.String("pinegate.request", store.WorkOf(ctx).Request)))
	g.Request = g.Request.WithContext(ctx)
	defer func() {
		status := g.Writer.Status()
		span.SetAttributes(attribute.Int("http.response.status_code", status),
			attribute.String("pinegate.app", store.WorkOf(g.Request.Context()).App))
		if status >= http.StatusInternalServerError {
			span.SetStatus(codes.Error, http.StatusText(status))
		}
		span.End()
		if !strings.HasSuffix(route, "/events") { // a stream lasts as long as somebody looks
			w.requests.WithLabelValues(g.Request.Method, route, strconv.Itoa(status/100)+"xx").Observe(time.Since(began).Seconds())
		}
	}()
	g.Next()
}

// Store adds the figures of the connections and the queues of a store.
func (w *Watch) Store(s *store.Store) { w.registry.MustRegister(&ofStore{s}) }

// Handler answers with the figures, at /metrics.
func (w *Watch) Handler() http.Handler {
	mux := http.NewServeMux()
	o := promhttp.HandlerOpts{ErrorHandling: promhttp.ContinueOnError, Registry: w.registry}
	mux.Handle("GET /metrics", promhttp.HandlerFor(w.registry, o))
	return mux
}

// ofStore collects the figures of a store when they are asked for.
type ofStore struct{ store *store.Store }

var (
	connections = prometheus.NewDesc("pinegate_connections", "Connections to the database, by kind of work and state.",
		[]string{"kind", "state"}, nil)
	waited = prometheus.NewDesc("pinegate_connections_waited_total", "Times that work had to wait for a connection, by kind.",
		[]string{"kind"}, nil)
	jobs = prometheus.NewDesc("pinegate_jobs", "Jobs that are not over, by queue and state.", []string{"queue", "state"}, nil)
)

// Describe names the figures.
func (*ofStore) Describe(to chan<- *prometheus.Desc) {
	for _, d := range []*prometheus.Desc{connections, waited, jobs} {
		to <- d
	}
}

// countTime is how long counting the jobs may take.
const countTime = 2 * time.Second

// Collect gives the figures.
func (c *ofStore) Collect(to chan<- prometheus.Metric) {
	for kind, s := range c.store.Stats() {
		for state, n := range map[string]int32{"busy": s.AcquiredConns(), "idle": s.IdleConns(), "most": s.MaxConns()} {
			to <- prometheus.MustNewConstMetric(connections, prometheus.GaugeValue, float64(n), kind.String(), state)
		}
		to <- prometheus.MustNewConstMetric(waited, prometheus.CounterValue, float64(s.EmptyAcquireCount()), kind.String())
	}
	ctx, cancel := context.WithTimeout(context.Background(), countTime)
	defer cancel()
	if err := c.jobs(ctx, to); err != nil {
		slog.WarnContext(ctx, "count jobs", "error", err)
		to <- prometheus.NewInvalidMetric(jobs, err)
	}
}

func (c *ofStore) jobs(ctx context.Context, to chan<- prometheus.Metric) error {
	rows, err := c.store.Pool.Query(ctx, `SELECT queue, state::text, count(*) FROM river_job
		WHERE state IN ('available', 'running', 'retryable', 'scheduled', 'pending') GROUP BY queue, state`)
	if err != nil {
		return fmt.Errorf("count jobs: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var queue, state string
		var n float64
		if err := rows.Scan(&queue, &state, &n); err != nil {
			return fmt.Errorf("count jobs: %w", err)
		}
		to <- prometheus.MustNewConstMetric(jobs, prometheus.GaugeValue, n, queue, state)
	}
	return rows.Err()
}
