package desk_test

import (
	. "aftermath/internal/desk"
	"bufio"
	"context"
	"encoding/csv"
	"os"
	"path/filepath"
	"runtime"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"aftermath/core/playbook"
	"aftermath/internal/demo"
	"aftermath/internal/desk/intake"
	"aftermath/internal/files"
	"aftermath/internal/pg/pgtest"
	"aftermath/internal/store"
	"aftermath/internal/view/data"
)

const million = 1_000_000

// respondents gives n rows of the demo, made of the rows of fewer; each has its own identifier.
func respondents(n int) [][]string {
	made := demo.Make(11, 50_000).Rows
	rows := make([][]string, n)
	for i := range rows {
		rows[i] = made[i%len(made)]
	}
	return rows
}

// millionAnswers gives n texts of about 20 words: what two respondents of the demo said.
func millionAnswers(n int) []string {
	made := demo.Make(11, 50_000).Rows
	out := make([]string, n)
	for i := range out {
		a, b := made[i%len(made)], made[(i*7919+i/len(made))%len(made)]
		out[i] = a[10] + " " + b[11]
	}
	return out
}

// held is the memory that is in use, in MiB.
func held() float64 {
	runtime.GC()
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return float64(m.HeapInuse) / (1 << 20)
}

// peak is the most memory that this process ever had, in MiB.
func peak(b *testing.B) float64 {
	data, err := os.ReadFile("/proc/self/status")
	require.NoError(b, err)
	_, line, _ := strings.Cut(string(data), "VmHWM:")
	kib, err := strconv.ParseFloat(strings.Fields(line)[0], 64)
	require.NoError(b, err)
	return kib / 1024
}

func connect(b *testing.B) *pgx.Conn {
	conn, err := pgx.Connect(context.Background(), pgtest.Database(b))
	require.NoError(b, err)
	b.Cleanup(func() { _ = conn.Close(context.Background()) })
	return conn
}

// BenchmarkMillionRead cleans, splits and indexes a million answers, beside PostgreSQL's own text search on the same.
func BenchmarkMillionRead(b *testing.B) {
	ctx := context.Background()
	texts := millionAnswers(million)
	words := 0
	for _, t := range texts[:10_000] {
		words += len(strings.Fields(t))
	}
	conn := connect(b)
	_, err := conn.Exec(ctx, "create unlogged table said (answer text)")
	require.NoError(b, err)
	_, err = conn.CopyFrom(
		ctx, pgx.Identifier{"said"}, []string{"answer"},
		pgx.CopyFromSlice(million, func(i int) ([]any, error) { return []any{texts[i]}, nil }),
	)
	require.NoError(b, err)
	start := time.Now()
	for _, q := range []string{"create unlogged table found as select to_tsvector('english', answer) as v from said", "create index on found using gin (v)"} {
		_, err = conn.Exec(ctx, q)
		require.NoError(b, err)
	}
	theirs := time.Since(start).Seconds()
	before := held()
	var reading playbook.Reading
	for b.Loop() {
		start = time.Now()
		reading, err = playbook.New("en").Read(ctx, texts, runtime.GOMAXPROCS(0), nil)
		require.NoError(b, err)
	}
	ours := b.Elapsed().Seconds() / float64(b.N)
	b.ReportMetric(million/ours, "answers/s")
	b.ReportMetric(theirs, "s-PostgreSQL")
	b.ReportMetric(theirs/ours, "times-faster")
	b.ReportMetric(before, "MiB-text")
	b.ReportMetric(held(), "MiB-text-and-index")
	b.ReportMetric(peak(b), "MiB-peak")
	b.ReportMetric(float64(words)/10_000, "words/answer")
	require.Equal(b, million, reading.Index.Len())
	runtime.KeepAlive(texts)
	runtime.KeepAlive(reading)
}

// BenchmarkMillionInspect looks for hazards of the order of steps.
func BenchmarkMillionInspect(b *testing.B) {
	texts := millionAnswers(million)
	for b.Loop() {
		_, err := playbook.New("en").Inspect(context.Background(), texts, runtime.GOMAXPROCS(0), nil)
		require.NoError(b, err)
	}
}

// BenchmarkMillionLoad loads a CSV file of a million rows and twelve columns, beside PostgreSQL's own COPY of the file.
func BenchmarkMillionLoad(b *testing.B) {
	ctx := context.Background()
	path := filepath.Join(b.TempDir(), "million.csv")
	f, err := os.Create(path)
	require.NoError(b, err)
	w := csv.NewWriter(bufio.NewWriter(f))
	require.NoError(b, w.Write(demo.Columns))
	require.NoError(b, w.WriteAll(respondents(million)))
	require.NoError(b, f.Close())

	conn := connect(b)
	// PostgreSQL's own COPY is timed before and after, since machines are not equally quick all the time.
	copied := func() float64 {
		_, err := conn.Exec(
			ctx,
			"drop table if exists plain; create table plain (c0 text, c1 text, c2 text, c3 text, c4 text, c5 text, c6 text, c7 text, c8 text, c9 text, c10 text, c11 text)",
		)
		require.NoError(b, err)
		f, err := os.Open(path)
		require.NoError(b, err)
		defer f.Close()
		start := time.Now()
		_, err = conn.PgConn().CopyFrom(ctx, f, "copy plain from stdin csv header")
		require.NoError(b, err)
		return time.Since(start).Seconds()
	}
	theirs := copied() / 2

	s, err := store.Open(ctx, pgtest.Database(b))
	require.NoError(b, err)
	defer s.Close()
	d := New(s)
	info, err := os.Stat(path)
	require.NoError(b, err)
	for b.Loop() {
		found, err := files.Recognise(ctx, path, path, "text/csv")
		require.NoError(b, err)
		from := intake.Source{Path: path, Size: info.Size(), Recipe: found.Recipe}
		_, notes, err := d.Load(ctx, "Million", demo.Specs(), from, "en")
		require.NoError(b, err)
		require.Equal(b, million, notes.Rows)
	}
	ours := b.Elapsed().Seconds() / float64(b.N)
	theirs += copied() / 2
	b.ReportMetric(million/ours, "rows/s")
	b.ReportMetric(theirs, "s-COPY")
	b.ReportMetric(ours/theirs, "times-COPY")
	b.ReportMetric(float64(info.Size())/(1<<20), "MiB")
}

// BenchmarkOpen opens a stored study of 100,000 respondents with nothing in memory, to the figures of its first question.
func BenchmarkOpen(b *testing.B) {
	ctx := context.Background()
	s, err := store.Open(ctx, pgtest.Database(b))
	require.NoError(b, err)
	defer s.Close()
	book, err := demo.Playbook(demo.Change)
	require.NoError(b, err)
	study, err := New(s).LoadTable(
		ctx, "Bench", demo.Specs(), &files.Table{Columns: demo.Columns, Rows: respondents(100_000)},
		func(int) playbook.Playbook { return book },
	)
	require.NoError(b, err)
	for b.Loop() {
		q, err := New(s).Question(ctx, study.Questions[0].ID)
		require.NoError(b, err)
		_, err = data.OverviewOf(ctx, q.State(), nil)
		require.NoError(b, err)
	}
}
