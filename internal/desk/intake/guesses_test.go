package intake

import (
	"encoding/csv"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"aftermath/core/survey"
	"aftermath/internal/files"
)

// meant is a column of a made-up file, with what it was made to mean.
type meant struct {
	name    string
	cells   []string
	role    survey.Role
	numbers []float64 // what the cells are worth, NaN where missing; nil where they are no numbers
}

// maker makes columns in the manner of one file.
type maker struct {
	r     *rand.Rand
	rows  int
	comma bool   // the decimal sign
	group string // what parts thousands, if anything
	dates string // a layout
}

func (m *maker) pick(of ...string) string { return of[m.r.IntN(len(of))] }

// write writes a number with so many decimals in the manner of the file.
func (m *maker) write(x float64, decimals int) string {
	s := strconv.FormatFloat(math.Abs(x), 'f', decimals, 64)
	whole, fraction, _ := strings.Cut(s, ".")
	if m.group != "" {
		for i := len(whole) - 3; i > 0; i -= 3 {
			whole = whole[:i] + m.group + whole[i:]
		}
	}
	if fraction != "" {
		sign := "."
		if m.comma {
			sign = ","
		}
		whole += sign + fraction
	}
	if x < 0 {
		whole = "-" + whole
	}
	return whole
}

func (m *maker) texts(name string, role survey.Role, cell func(i int) string) meant {
	c := meant{name: name, role: role}
	for i := range m.rows {
		c.cells = append(c.cells, cell(i))
	}
	return c
}

func (m *maker) numbers(name string, role survey.Role, cell func(i int) (string, float64)) meant {
	c := meant{name: name, role: role}
	for i := range m.rows {
		s, x := cell(i)
		c.cells, c.numbers = append(c.cells, s), append(c.numbers, x)
	}
	return c
}

// column makes one of the kinds of columns.
func (m *maker) column(kind int) meant {
	rounded := func(x float64, decimals int) (string, float64) {
		p := math.Pow10(decimals)
		x = math.Round(x*p) / p
		return m.write(x, decimals), x
	}
	switch kind {
	case 0:
		return m.texts(m.pick("id", "Respondent ID", "case no"), survey.Identifier, func(i int) string { return fmt.Sprintf("R%04d", i) })
	case 1:
		from := 10_000 + m.r.IntN(90_000)
		return m.texts("id", survey.Identifier, func(i int) string { return strconv.Itoa(from + max(i, 1)) }) // one stands twice
	case 2:
		return m.texts("quarter", survey.Segment, func(int) string { return "Q" + strconv.Itoa(1+m.r.IntN(4)) })
	case 3:
		return m.texts("cell", survey.Segment, func(int) string { return m.pick("A1", "A2", "B1", "X012") })
	case 4:
		return m.texts("route", survey.Segment, func(int) string { return m.pick("Northern", "Southern", "Sound", "") })
	case 5:
		d := m.pick(";", "|", "; ")
		return m.texts("channels", survey.Several, func(i int) string {
			if i < 2 {
				return []string{"App", "App" + d + "Phone"}[i]
			}
			return m.pick("App", "Desk", "App"+d+"Phone", "Desk"+d+"App"+d+"Post", "Phone")
		})
	case 6:
		return m.numbers("recommend", survey.Number, func(int) (string, float64) { x := m.r.IntN(11); return strconv.Itoa(x), float64(x) })
	case 7:
		return m.numbers("score", survey.Number, func(int) (string, float64) { return rounded(m.r.Float64()*100-20, 2) })
	case 8:
		return m.numbers("spent", survey.Number, func(int) (string, float64) { return rounded(m.r.ExpFloat64()*3000, 2) })
	case 9:
		return m.numbers("income", survey.Number, func(int) (string, float64) { return rounded(math.Floor(m.r.Float64()*400)*500+500, 0) })
	case 10:
		unit := m.pick(" min", "min", " km", "%", " hours")
		return m.numbers("length", survey.Number, func(int) (string, float64) {
			s, x := rounded(m.r.Float64()*90, m.r.IntN(2))
			return s + unit, x
		})
	case 11:
		sign := m.pick("£", "€", "$", "EUR ")
		return m.numbers("fare", survey.Number, func(int) (string, float64) {
			s, x := rounded(m.r.Float64()*2500, 2)
			return sign + s, x
		})
	case 12:
		return m.numbers("balance", survey.Number, func(int) (string, float64) {
			s, x := rounded(m.r.Float64()*500, 2)
			if m.r.IntN(3) == 0 && x != 0 {
				return []string{"(" + s + ")", "−" + s}[m.r.IntN(2)], -x
			}
			return s, x
		})
	case 13:
		decimals := 2 + m.r.IntN(3)
		return m.numbers(m.pick("weight", "Gewicht", "poids", "survey wt"), survey.Weight, func(int) (string, float64) {
			return rounded(0.2+m.r.ExpFloat64()*0.8, decimals)
		})
	case 14:
		// Weights of which all are above one, and have three decimals: thousands by their looks.
		return m.numbers("weight", survey.Weight, func(int) (string, float64) { return rounded(1.001+m.r.Float64()*2, 3) })
	case 15:
		return m.numbers("ratio", survey.Number, func(int) (string, float64) { return rounded(1.001+m.r.Float64()*8, 3) })
	case 16:
		layout := m.dates
		return m.numbers(m.pick("sailed", "date"), survey.Date, func(int) (string, float64) {
			day := 20_400 + m.r.IntN(300)
			return survey.DateOf(float64(day)).Format(layout), float64(day)
		})
	case 17:
		return m.numbers("age", survey.Number, func(int) (string, float64) {
			if m.r.IntN(12) == 0 {
				return m.pick("refused", "n/a"), math.NaN()
			}
			x := 18 + m.r.IntN(60)
			return strconv.Itoa(x), float64(x)
		})
	case 18:
		return m.numbers("rating", survey.Number, func(i int) (string, float64) {
			if i%15 == 3 {
				return "99", math.NaN()
			}
			x := 1 + m.r.IntN(5)
			return strconv.Itoa(x), float64(x)
		})
	case 19:
		return m.texts("reach me", survey.LeftOut, func(int) string {
			return fmt.Sprintf("%s %03d %04d", m.pick("0300", "+44 300", "(0300)"), m.r.IntN(1000), m.r.IntN(10_000))
		})
	case 20:
		return m.texts("contact", survey.LeftOut, func(i int) string { return fmt.Sprintf("passenger%d@mail.example", i) })
	case 21:
		return m.texts("post code", survey.Segment, func(int) string { return fmt.Sprintf("%05d", 1000+17*m.r.IntN(12)) })
	case 22:
		return m.texts("party", survey.Segment, func(int) string { return m.pick("1 child", "2 children", "none", "3 or more") })
	case 23:
		return m.texts("seat", survey.Segment, func(int) string { return m.pick("12B", "12C", "3A", "14F") })
	case 24:
		return m.numbers("born", survey.Number, func(int) (string, float64) { x := 1950 + m.r.IntN(55); return strconv.Itoa(x), float64(x) })
	case 25:
		return m.texts("place", survey.Segment, func(int) string { return m.pick("1st", "2nd", "3rd", "4th") })
	case 26:
		return m.texts("agrees", survey.Segment, func(int) string { return m.pick("yes", "no", "don’t know") })
	case 27:
		return m.texts("name", survey.LeftOut, func(i int) string {
			return m.pick("Ann", "Ben", "Cem", "Dora", "Eli") + " " + m.pick("Ash", "Birch", "Elm", "Oak") + fmt.Sprintf("ley%c", 'a'+i%26)
		})
	case 28:
		return m.numbers("share", survey.Number, func(int) (string, float64) {
			s, x := rounded(m.r.Float64()*100, 1)
			return s + m.pick(" %", "%"), x
		})
	case 29:
		return m.texts("recorded", survey.Segment, func(int) string { return fmt.Sprintf("%02d:%02d", 8+m.r.IntN(3), 15*m.r.IntN(4)) })
	}
	return m.texts(m.pick("answer", "What should we change?", "comment"), survey.OpenEnded, func(i int) string {
		return m.pick("more boats", "the queue was far too long", "nothing", "late again", "cold tea and rude staff, never again!") + m.pick("", " please", fmt.Sprintf(" on my trip no %d", i))
	})
}

// What a file was made to mean is what is guessed, or what is asked; numbers and dates are never read as others than they are.
func TestGuessesOfMadeUpFiles(t *testing.T) {
	right, asked, wrong := 0, 0, 0
	for seed := range uint64(300) {
		m := &maker{r: rand.New(rand.NewPCG(seed, 1)), rows: []int{6, 15, 40, 100, 160}[seed%5]}
		m.comma = m.r.IntN(2) == 0
		if m.r.IntN(2) == 0 {
			m.group = map[bool]string{false: m.pick(",", " "), true: m.pick(".", " ", "’")}[m.comma]
		}
		m.dates = m.pick("2006-01-02", "02/01/2006", "01/02/2006", "02.01.2006", "2 Jan 2006", "2006-01-02 15:04:05", "20060102", "2/1/06")
		columns := []meant{m.column(30)}
		names := map[string]bool{columns[0].name: true}
		for range 3 + m.r.IntN(6) {
			if c := m.column(m.r.IntN(30)); !names[c.name] {
				names[c.name] = true
				columns = append(columns, c)
			}
		}
		path := filepath.Join(t.TempDir(), "x.csv")
		f, err := os.Create(path)
		require.NoError(t, err)
		w := csv.NewWriter(f)
		w.Comma = []rune{',', ';', '\t'}[m.r.IntN(3)]
		for row := -1; row < m.rows; row++ {
			var cells []string
			for _, c := range columns {
				if row < 0 {
					cells = append(cells, c.name)
				} else {
					cells = append(cells, c.cells[row])
				}
			}
			require.NoError(t, w.Write(cells))
		}
		w.Flush()
		require.NoError(t, f.Close())
		found, err := files.Recognise(t.Context(), path, "x.csv", "")
		require.NoError(t, err)
		table, err := files.ReadTable(t.Context(), path, found.Recipe, 0)
		require.NoError(t, err)
		require.Len(t, table.Columns, len(columns), "seed %d: %+v", seed, found.Recipe)
		for i, g := range Guesses(table) {
			c := columns[i]
			ok := func(spec survey.Spec) bool {
				if spec.Role != c.role && !(c.role == survey.Segment && spec.Role == survey.LeftOut) {
					return false
				}
				if c.numbers == nil {
					return true
				}
				v, err := survey.NewVariable(spec, table.Column(i))
				if err != nil {
					return false
				}
				for row, x := range c.numbers {
					if got := v.Numbers[row]; math.Abs(got-x) > 1e-9 || (got == got) != (x == x) {
						return false
					}
				}
				return true
			}
			switch {
			case g.Ask == "" && ok(g.Spec):
				right++
			case g.Ask != "" && (ok(g.Choices[0].Spec) || ok(g.Choices[1].Spec)):
				asked++
			default:
				wrong++
				t.Logf("seed %d, %s made as %s: guessed %+v; %v", seed, c.name, c.role, g, c.cells[:6])
			}
		}
	}
	t.Logf("%d right, %d asked, %d wrong", right, asked, wrong)
	assert.GreaterOrEqual(t, float64(right+asked), 0.99*float64(right+asked+wrong))
	assert.Zero(t, wrong, "none is wrong without asking")
	assert.Less(t, float64(asked), 0.1*float64(right), "one is not asked about everything")
}
