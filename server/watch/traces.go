package watch

import (
	"context"
	"fmt"

	"go.opentelemetry.io/otel"
	"go.opentelemetry.io/otel/attribute"
	"go.opentelemetry.io/otel/exporters/otlp/otlptrace/otlptracehttp"
	"go.opentelemetry.io/otel/sdk/resource"
	"go.opentelemetry.io/otel/sdk/trace"
)

// Traces sends traces to an address that takes OpenTelemetry's protocol over HTTP,
// such as http://127.0.0.1:4318, until the end that it gives. Statements are part
// of them; values in those are not.
func Traces(ctx context.Context, address string) (end func(context.Context) error, err error) {
	exporter, err := otlptracehttp.New(ctx, otlptracehttp.WithEndpointURL(address+"/v1/traces"))
	if err != nil {
		return nil, fmt.Errorf("send traces: %w", err)
	}
	provider := trace.NewTracerProvider(trace.WithBatcher(exporter),
		trace.WithResource(resource.NewSchemaless(attribute.String("service.name", "pinegate"))))
	otel.SetTracerProvider(provider)
	return provider.Shutdown, nil
}
