package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"strconv"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"aftermath/internal/api"
	"aftermath/internal/desk"
)

func oneIf(is bool) float64 {
	if is {
		return 1
	}
	return 0
}

// serveMetrics serves what the server counts on an address of its own, and gives what is to be told of every request; nil for
// nobody.
func (o *serveOptions) serveMetrics(ctx context.Context, d *desk.Desk) (api.Observe, error) {
	if o.metrics == "" {
		return nil, nil
	}
	listener, err := net.Listen("tcp", o.metrics)
	if err != nil {
		return nil, fmt.Errorf("--metrics: %w", err)
	}
	requests := prometheus.NewHistogramVec(prometheus.HistogramOpts{
		Name: "aftermath_request_seconds", Help: "How long requests took, by route.", Buckets: []float64{0.01, 0.05, 0.1, 0.3, 1, 3, 10, 60},
	}, []string{"method", "route", "status"})
	gauge := func(name, help string, value func() float64) prometheus.Collector {
		return prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: name, Help: help}, value)
	}
	r := prometheus.NewRegistry()
	r.MustRegister(
		requests, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}),
		gauge("aftermath_open_questions", "Questions in memory.", func() float64 { n, _ := d.InMemory(); return float64(n) }),
		gauge("aftermath_open_answers", "Answers in memory.", func() float64 { _, n := d.InMemory(); return float64(n) }),
		gauge("aftermath_database_up", "1 while the database can be reached.", func() float64 {
			e, any := d.Trouble()
			return oneIf(!any || e.Since == nil)
		}),
		gauge("aftermath_backup_timestamp_seconds", "When the last back-up was made on schedule; 0 if none was, or it failed.", func() float64 {
			if b := d.BackedUp(); b.Problem == "" && !b.At.IsZero() {
				return float64(b.At.Unix())
			}
			return 0
		}),
		gauge("aftermath_backup_read_back", "1 if the last back-up on schedule was read back and restored on trial.", func() float64 {
			return oneIf(d.BackedUp().Whole)
		}),
	)
	if o.secure.cert != "" {
		r.MustRegister(
			gauge("aftermath_certificate_days_left", "Days until the TLS certificate ends.", func() float64 {
				ends, _ := o.secure.state()
				return time.Until(ends).Hours() / 24
			}),
			gauge("aftermath_certificate_well", "1 while the TLS certificate can be read and was renewed in time.", func() float64 {
				_, err := o.secure.state()
				return oneIf(err == nil)
			}),
		)
	}
	if free := d.Free; free != nil {
		r.MustRegister(gauge("aftermath_free_bytes", "Space left on the disk of the data.", func() float64 { n, _ := free(); return float64(n) }))
	}
	h := &http.Server{Handler: promhttp.HandlerFor(r, promhttp.HandlerOpts{}), ReadHeaderTimeout: 10 * time.Second}
	go func() {
		if err := h.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			slog.Error("metrics are served no more", "error", err)
		}
	}()
	context.AfterFunc(ctx, func() { _ = h.Close() })
	return func(method, route string, status int, took time.Duration) {
		requests.WithLabelValues(method, route, strconv.Itoa(status/100)+"xx").Observe(took.Seconds())
	}, nil
}
