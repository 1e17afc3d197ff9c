package demo

import (
	"regexp"
	"strings"
)

// texting is how some write common words.
var texting = strings.NewReplacer(" you ", " u ", " your ", " ur ", " please", " pls", " because ", " cos ", " people ", " ppl ",
	" are ", " r ", " and ", " n ", " to ", " 2 ", " for ", " 4 ")

var glueable = regexp.MustCompile(`\b(deck|bus|lane) (\d)`)

// mess does to a text what respondents, their keyboards and the survey's export do to it.
func (g *generator) mess(v voice, text string) string {
	if g.Float64() < 0.16 {
		text = g.typo(text)
	}
	if v.name == "Student" && g.Float64() < 0.5 || g.Float64() < 0.02 {
		text = strings.ToLower(texting.Replace(text))
	}
	switch x := g.Float64(); {
	case x < v.shout:
		text = strings.ToUpper(text)
	case x < v.shout+0.12:
		text = strings.ToLower(text)
	case x < v.shout+0.15:
		text = strings.NewReplacer(".", "", ",", "", "'", "").Replace(text)
	}
	if g.Float64() < 0.05 {
		text = g.stretch(text)
	}
	if g.Float64() < 0.3 {
		text = glueable.ReplaceAllString(text, "$1$2")
	}
	if g.Float64() < 0.28 { // phones write curly quotes and long dashes
		text = strings.NewReplacer("'", "’", " - ", " – ", "...", "…").Replace(text)
	}
	if g.Float64() < 0.07 {
		text += " " + pick(g, []string{"😡", "🙄", "👍", "😀", "⛴️", "🐶", "🤢", "❤️"})
	}
	if g.Float64() < 0.012 {
		text += " " + pick(
			g,
			[]string{"see https://pics.example/larkmoor/", "http://www.mysnaps.example/a", "photos at www.ferrypics.example/q"},
		) + g.digits(4)
	}
	if g.Float64() < 0.006 {
		text += " " + pick(g, []string{"contact me: ", "reply to ", "email "}) + "passenger" + g.digits(3) + "@mail.example"
	}
	if g.Float64() < 0.012 {
		text = "[re: booking " + g.digits(5) + "] " + text
	}
	switch x := g.Float64(); {
	case x < 0.025:
		text = "<p>" + strings.ReplaceAll(escape(text), "\n", "<br/>") + "</p>"
	case x < 0.035:
		text = strings.ReplaceAll(escape(text), " and ", " &amp; ")
	case x < 0.042:
		text = strings.Replace(text, " ", "&nbsp;", 2)
	case x < 0.048:
		text = text + "\n\nSent from my phone"
	}
	if g.Float64() < 0.04 {
		text = strings.Replace(text, ". ", ".", 1)
	}
	return text
}

func escape(s string) string { return strings.NewReplacer("'", "&#39;", `"`, "&quot;").Replace(s) }

func (g *generator) digits(n int) string {
	b := make([]byte, n)
	for i := range b {
		b[i] = byte('1' + g.IntN(9))
	}
	return string(b)
}

// typo spoils one longer word: letters swapped, left out, doubled or struck beside the right key.
func (g *generator) typo(text string) string {
	words := strings.Split(text, " ")
	for range 6 {
		i := g.IntN(len(words))
		w := []rune(words[i])
		if len(w) < 5 || strings.ContainsAny(words[i], "0123456789<>&@/£") {
			continue
		}
		at := 1 + g.IntN(len(w)-3)
		switch g.IntN(4) {
		case 0:
			w[at], w[at+1] = w[at+1], w[at]
		case 1:
			w = append(w[:at], w[at+1:]...)
		case 2:
			w = append(w[:at+1], w[at:]...)
		case 3:
			keys := "qwertyuiopasdfghjklzxcvbnm"
			if k := strings.IndexRune(keys, w[at]); k > 0 {
				w[at] = rune(keys[k-1])
			}
		}
		meant := strings.ToLower(strings.Trim(words[i], ".,!?;:'\"()"))
		words[i] = string(w)
		if typed := strings.ToLower(strings.Trim(words[i], ".,!?;:'\"()")); typed != meant {
			g.typos[typed] = meant
		}
		break
	}
	return strings.Join(words, " ")
}

// stretch draws one vowel out: "soooo".
func (g *generator) stretch(text string) string {
	for _, w := range []string{"so ", "too ", "please", "really", "late", "slow", "long"} {
		if i := strings.Index(text, w); i >= 0 {
			for j := i; j < i+len(w); j++ {
				if strings.IndexByte("aeo", text[j]) >= 0 {
					return text[:j] + strings.Repeat(string(text[j]), 2+g.IntN(4)) + text[j:]
				}
			}
		}
	}
	return text
}
