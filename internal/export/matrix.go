package export

import (
	"cmp"
	"context"

	"aftermath/internal/desk/focus"
	"aftermath/internal/desk/state"
	"aftermath/internal/view/termview"

	"archive/zip"
	"bufio"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"

	"github.com/RoaringBitmap/roaring/v2"

	"aftermath/core/terms"
	"aftermath/internal/files"
)

// Matrix is the answers of a focus by terms.
type Matrix struct {
	Counter *terms.Counter
	Focus   *roaring.Bitmap
	Chosen  []terms.Row // single terms, with their figures in the focus: the columns
	Values  string      // counts, binary, share or tfidf
	ID      func(row int) string
}

// NewMatrix is the matrix of a focus: of its most frequent terms that are not hidden, those with at least so many answers.
func NewMatrix(ctx context.Context, s *state.State, f focus.Focus, values string, least, limit int) (Matrix, error) {
	set, chosen, err := termview.MatrixTerms(ctx, s, f, least, limit)
	return Matrix{Counter: s.Counter, Focus: set, Chosen: chosen, Values: values, ID: s.Called}, err
}

// ErrMatrix is behind every error about a matrix.
var ErrMatrix = errors.New("matrix")

// maxCells is how many cells a matrix may have as a table: most are 0, and Matrix Market writes none of those.
const maxCells = 300_000_000

// cell is a term that stands in an answer.
type cell struct {
	column int
	value  float64
}

// rows visits the answers of the focus with the cells that are not 0, in the order of the columns; what is given holds
// until visit returns. Tf-idf is occurrences ×
// (ln((1+N)/(1+df)) + 1) with N and df of the focus, each row scaled to length 1.
func (m Matrix) rows(ctx context.Context, visit func(answer int, cells []cell) error) error {
	column := make([]int, len(m.Counter.View.Terms)) // plus one
	idf := make([]float64, len(m.Chosen))
	n := float64(m.Focus.GetCardinality())
	for i, r := range m.Chosen {
		column[r.Terms[0]] = i + 1
		idf[i] = math.Log((1+n)/(1+float64(r.Answers))) + 1
	}
	var cells []cell
	var err error
	failed := m.Counter.Bags(ctx, m.Focus, func(b terms.Bag) {
		if err != nil {
			return
		}
		cells = cells[:0]
		length := 0.0
		for i, t := range b.Terms {
			if column[t] == 0 {
				continue
			}
			c := cell{column[t] - 1, float64(b.Times[i])}
			switch m.Values {
			case "binary":
				c.value = 1
			case "share":
				c.value /= float64(b.Words)
			case "tfidf":
				c.value *= idf[c.column]
				length += c.value * c.value
			}
			cells = append(cells, c)
		}
		slices.SortFunc(cells, func(a, b cell) int { return a.column - b.column })
		if m.Values == "tfidf" {
			for i := range cells {
				cells[i].value /= math.Sqrt(length)
			}
		}
		err = visit(int(b.Answer), cells)
	})
	return cmp.Or(err, failed)
}

func (m Matrix) label(column int) string {
	return m.Counter.View.Terms[m.Chosen[column].Terms[0]].Label
}

// Check says whether the matrix is too large for a table.
func (m Matrix) Check() error {
	if n := m.Focus.GetCardinality() * uint64(len(m.Chosen)); n > maxCells {
		return fmt.Errorf(
			"%w: %d answers by %d terms are too many cells for a table; ask for Matrix Market, or for fewer terms", ErrMatrix,
			m.Focus.GetCardinality(), len(m.Chosen),
		)
	}
	return nil
}

// CSV writes the matrix as a table: a row per answer, a column per term.
func (m Matrix) CSV(ctx context.Context, w io.Writer) error {
	if err := m.Check(); err != nil {
		return err
	}
	out := files.NewWriter(w)
	header := []string{"respondent"}
	for c := range m.Chosen {
		header = append(header, m.label(c))
	}
	if err := out.Write(header); err != nil {
		return err
	}
	row := make([]string, len(header))
	err := m.rows(ctx, func(answer int, cells []cell) error {
		for i := range row {
			row[i] = "0"
		}
		row[0] = m.ID(answer)
		for _, c := range cells {
			row[c.column+1] = plain(c.value)
		}
		return out.Write(row)
	})
	if err != nil {
		return err
	}
	return out.Flush()
}

func plain(x float64) string { return strconv.FormatFloat(x, 'g', -1, 64) }

// MatrixMarket writes a ZIP file with the matrix in the exchange format of that name (coordinate, general), and what its
// rows and columns are.
func (m Matrix) MatrixMarket(ctx context.Context, w io.Writer) error {
	pack := zip.NewWriter(w)
	table := func(name string, header []string, n int, row func(i int) string) error {
		f, err := pack.Create(name)
		if err != nil {
			return err
		}
		out := files.NewWriter(f)
		if err := out.Write(header); err != nil {
			return err
		}
		for i := range n {
			if err := out.Write([]string{strconv.Itoa(i + 1), row(i)}); err != nil {
				return err
			}
		}
		return out.Flush()
	}
	answers := m.Focus.ToArray()
	if err := table("columns.csv", []string{"column", "term"}, len(m.Chosen), m.label); err != nil {
		return err
	}
	if err := table("rows.csv", []string{"row", "respondent"}, len(answers), func(i int) string { return m.ID(int(answers[i])) }); err != nil {
		return err
	}
	f, err := pack.Create("matrix.mtx")
	if err != nil {
		return err
	}
	kind, filled := "integer", 0
	if m.Values == "share" || m.Values == "tfidf" {
		kind = "real"
	}
	for _, r := range m.Chosen {
		filled += r.Answers
	}
	out := bufio.NewWriter(f)
	fmt.Fprintf(
		out, "%%%%MatrixMarket matrix coordinate %s general\n%% answers by terms: %s; rows.csv and columns.csv say which\n%d %d %d\n",
		kind, m.Values, len(answers), len(m.Chosen), filled,
	)
	row := 0
	err = m.rows(ctx, func(_ int, cells []cell) error {
		row++
		for _, c := range cells {
			if _, err := fmt.Fprintln(out, row, c.column+1, plain(c.value)); err != nil {
				return err
			}
		}
		return nil
	})
	return errors.Join(err, out.Flush(), pack.Close())
}
