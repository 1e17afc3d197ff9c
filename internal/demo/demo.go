// Package demo makes up the answers of the Larkmoor Ferries study: seeded, so that every run gives the same.
package demo

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode"
)

// The open-ended questions.
const (
	Change = "What one thing should we change about your crossing?"
	Enjoy  = "What did you enjoy?"
)

// Columns of the data file.
var Columns = []string{"respondent", "route", "passenger type", "ticket", "age band", "sailing date", "wave", "recommend",
	"channels", "weight", Change, Enjoy}

// Study is the made-up data: rows as in Columns, and what each answer was meant to say.
type Study struct {
	Rows  [][]string
	Truth [][]string        // respondent, question, topics joined by ";"
	Typos map[string]string // what was typed, to the word that was meant; in small letters, signs around it aside
}

// TruthColumns of the truth file.
var TruthColumns = []string{"respondent", "question", "categories"}

type generator struct {
	*rand.Rand
	said  []string // earlier answers, some of which come again
	typos map[string]string
}

// Make makes up a study of n respondents.
func Make(seed uint64, n int) Study {
	g := &generator{Rand: rand.New(rand.NewPCG(seed, 1895)), typos: map[string]string{}}
	s := Study{Typos: g.typos}
	for i := range n {
		s.add(g, i)
	}
	return s
}

func (s *Study) add(g *generator, i int) {
	v := g.voice()
	id := fmt.Sprintf("R%05d", 10_000+i)
	wave, first := "Spring 2026", time.Date(2026, 3, 2, 0, 0, 0, 0, time.UTC)
	if g.Float64() < 0.52 {
		wave, first = "Autumn 2026", time.Date(2026, 8, 3, 0, 0, 0, 0, time.UTC)
	}
	route := pick(g, []string{"Northern", "Northern", "Northern", "Sound", "Sound", "Southern"})
	age := pick(g, v.ages)
	bias := func(own map[string]float64) func(string) float64 {
		return func(topic string) float64 {
			w := 1.0
			for _, m := range []map[string]float64{own, routeTopics[route], waveTopics[wave]} {
				if x, ok := m[topic]; ok {
					w *= x
				}
			}
			return w
		}
	}
	recommend := min(10, max(0, int(g.NormFloat64()*2+7)))
	change, meant := g.answer(v, changes, nothings, "Nothing to change", 0.07+0.012*float64(recommend), bias(v.changes))
	recommend = min(10, max(0, recommend-len(meant)+1))
	enjoy, liked := g.answer(v, joys, noJoys, "Nothing enjoyed", 0.13-0.01*float64(recommend), bias(v.joys))
	if g.Float64() < 0.12 {
		enjoy, liked = "", nil
	}
	weight := strconv.FormatFloat(0.4+g.ExpFloat64()*0.6, 'f', 2, 64)
	row := []string{id, route, v.name, pick(g, v.tickets), age, first.AddDate(0, 0, g.IntN(100)).Format(time.DateOnly), wave,
		strconv.Itoa(recommend), g.channels(v), weight, change, enjoy}
	if g.Float64() < 0.03 { // people leave things out
		row[4] = ""
	}
	if g.Float64() < 0.02 {
		row[7] = ""
	}
	s.Rows = append(s.Rows, row)
	s.Truth = append(s.Truth, []string{id, Change, strings.Join(meant, ";")}, []string{id, Enjoy, strings.Join(liked, ";")})
}

func (g *generator) voice() voice {
	x := g.Float64()
	for _, v := range voices {
		if x -= v.share; x < 0 {
			return v
		}
	}
	return voices[len(voices)-1]
}

func (g *generator) channels(v voice) string {
	all := []string{"App", "Website", "Ticket office", "Phone", "On board"}
	odds := map[string][]float64{"Commuter": {.7, .3, .1, .05, .1}, "Islander": {.3, .3, .5, .4, .1}, "Student": {.9, .3, .05, 0, .1}, "Freight": {.2, .3, .2, .7, 0}}[v.name]
	if odds == nil {
		odds = []float64{.3, .6, .35, .1, .15}
	}
	var used []string
	for i, c := range all {
		if g.Float64() < odds[i] {
			used = append(used, c)
		}
	}
	return strings.Join(used, ";")
}

func pick[T any](g *generator, from []T) T { return from[g.IntN(len(from))] }

// answer makes up what a passenger wrote, and which topics it is about.
func (g *generator) answer(
	v voice, topics []topic, nothing []string, none string, noneShare float64, bias func(string) float64,
) (string, []string) {
	switch x := g.Float64(); {
	case x < 0.012:
		return "", nil
	case x < 0.03:
		return pick(g, refusals), nil
	case x < 0.036 && topics[0].name == changes[0].name:
		f := pick(g, foreign)
		return f.line, []string{f.topic}
	}
	if g.Float64() < noneShare {
		return g.mess(v, g.ending(capital(g, pick(g, nothing)))), []string{none}
	}
	if len(g.said) > 50 && g.Float64() < 0.02 { // the same again, to the letter
		again := strings.SplitN(pick(g, g.said), "\x00", 3)
		if again[0] == topics[0].name {
			return again[2], strings.Split(again[1], ";")
		}
	}
	n := 1
	if g.Float64() < 0.22+v.ramble {
		n = 2
	}
	if g.Float64() < v.ramble/3 {
		n = 3
	}
	var meant, parts []string
	for len(meant) < n {
		t := g.topic(topics, bias)
		if slices.Contains(meant, t.name) {
			continue
		}
		meant = append(meant, t.name)
		line := pick(g, t.lines)
		parts = append(parts, g.fill(line))
		if more := pick(g, t.lines); more != line && g.Float64() < v.ramble/2 {
			parts = append(parts, g.fill(more))
		}
	}
	if topics[0].name == joys[0].name {
		v.openers, v.closers = v.glad, v.glad
	}
	text := g.mess(v, g.join(v, parts))
	if len(text) < 60 {
		g.said = append(g.said, topics[0].name+"\x00"+strings.Join(meant, ";")+"\x00"+text)
	}
	return text, meant
}

func (g *generator) topic(topics []topic, bias func(string) float64) topic {
	total := 0.0
	for _, t := range topics {
		total += bias(t.name)
	}
	x := g.Float64() * total
	for _, t := range topics {
		if x -= bias(t.name); x < 0 {
			return t
		}
	}
	return topics[0]
}

// fill puts something in for every {slot}.
func (g *generator) fill(line string) string {
	for {
		start := strings.IndexByte(line, '{')
		if start < 0 {
			return line
		}
		end := start + strings.IndexByte(line[start:], '}')
		line = line[:start] + pick(g, slots[line[start+1:end]]) + line[end+1:]
	}
}

// join makes one answer of several remarks, in the passenger's voice.
func (g *generator) join(v voice, parts []string) string {
	var b strings.Builder
	if g.Float64() < 0.3 {
		b.WriteString(g.fill(pick(g, v.openers)) + " " + parts[0])
	} else {
		b.WriteString(parts[0])
	}
	text := capital(g, b.String())
	for _, p := range parts[1:] {
		switch g.IntN(6) {
		case 0:
			text += " and " + p
		case 1:
			text += ", " + pick(g, []string{"also ", "plus ", "oh and ", ""}) + p
		case 2:
			text += "\n" + capital(g, p)
		case 3:
			text += " - " + p
		default:
			text += g.stop(text) + capital(g, pick(g, []string{"", "", "also ", "and "})+p)
		}
	}
	if g.Float64() < 0.25 {
		text = strings.TrimRight(text, ".,:") + pick(g, []string{", ", ". ", " "}) + strings.TrimRight(pick(g, v.closers), ",:")
	}
	return g.ending(text)
}

// stop ends a sentence that more comes after.
func (g *generator) stop(text string) string {
	if strings.HasSuffix(text, "!") || strings.HasSuffix(text, "?") {
		return " "
	}
	return pick(g, []string{". ", ". ", "! ", "... "})
}

func (g *generator) ending(text string) string {
	if strings.HasSuffix(text, "!") || strings.HasSuffix(text, "?") {
		return text
	}
	return text + pick(g, []string{"", "", "", ".", ".", ".", "!", "!!", "...", " :("})
}

func capital(g *generator, s string) string {
	if s == "" || g.Float64() < 0.35 {
		return s
	}
	r := []rune(s)
	r[0] = unicode.ToUpper(r[0])
	return string(r)
}
