package text

import (
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func pipeline(t testing.TB, steps ...Step) *Pipeline {
	p, err := NewPipeline("en", steps)
	require.NoError(t, err)
	return p
}

func surfaces(c Cleaned) string {
	var out []string
	for _, w := range c.Words {
		out = append(out, w.Surface)
	}
	return strings.Join(out, " ")
}

// sentences joins the words of each sentence, sentences parted by a bar.
func sentences(c Cleaned) string {
	var b strings.Builder
	for i, w := range c.Words {
		switch {
		case i == 0:
		case w.Sentence != c.Words[i-1].Sentence:
			b.WriteString(" | ")
		default:
			b.WriteString(" ")
		}
		b.WriteString(w.Surface)
	}
	return b.String()
}

func TestEachStep(t *testing.T) {
	for _, c := range []struct {
		step     Step
		in, text string
	}{
		{Step{ID: "markup"}, "<p>We waited</p>price < 20 &amp; caf&eacute;", "\nWe waited\nprice < 20 & café"},
		{Step{ID: "markup"}, "a<br/>b<b class='x>y'>c</b> <3 <script>var a = '<p>'</script>d <!-- no -->e", "a\nbc <3 \nd e"},
		{Step{ID: "markup"}, "tea&nbsp;was &amp;nbsp;cold R&B AT&T fish&chips &#39;x&#39;", "tea\u00a0was \u00a0cold R&B AT&T fish&chips 'x'"},
		{Step{ID: "markup"}, "if <b and then <c> it", "if <b and then  it"},
		{Step{ID: "links"}, "see https://pics.example/a.jpg, or mail me.x@larkmoor.example. Ok", "see  , or mail  . Ok"},
		{Step{ID: "links", Mode: "mask", Phones: true}, "call 01632 960123 or www.larkmoor.example/x!", "call ••• or •••!"},
		{Step{ID: "links"}, "It was rude.Food was cold", "It was rude.Food was cold"},
		{Step{ID: "typography"}, "“it’s”\u00a0late – e\u0301tape… so\u00adft", "\"it's\" late - étape... soft"},
		{Step{ID: "replace", Rules: []Replacement{{Find: `\[ref \d+\] ?`, Regex: true}, {Find: "The Boat", With: "ferry"}, {Find: "ferry", With: "ship"}}},
			"[ref 12] the boat, the boats", "ship, the boats"},
		{Step{ID: "replace", Rules: []Replacement{{Find: `(\d+)min`, With: "$1 minutes", Regex: true}}}, "10min late", "10 minutes late"},
		{Step{ID: "letters", Letters: map[string]string{"ё": "е"}}, "Ёлка и ёж", "Елка и еж"},
		{Step{ID: "contractions"}, "It's the crew's job, they didn't; DON'T, wont dont I'd let's can't", "It is the crew job, they did not; DO NOT, wont do not I'd let us can not"},
		{Step{ID: "accents"}, "Café naïve Straße øl йод", "Cafe naive Strasse ol йод"},
		{Step{ID: "glued"}, "bus42 at 10am, the 2nd deck7b 4G", "bus 42 at 10am, the 2nd deck 7 b 4G"},
		{Step{ID: "repeats"}, "Sooooo SLOooow 1000 off!!!!", "Soo SLOow 1000 off!!!!"},
		{Step{ID: "numbers"}, "12 cars at 3.50 each, A1 1,000", " cars at  each, A1 "},
		{Step{ID: "emoji", Mode: "drop"}, "great 👍🏽 trip", "great  trip"},
	} {
		got := pipeline(t, c.step).Clean(c.in)
		assert.Equal(t, c.text, got.Text, "%s of %q", c.step.ID, c.in)
		assert.Equal(t, c.in != c.text, got.Touched == 1, "%s of %q: touched", c.step.ID, c.in)
	}
}

func TestElisions(t *testing.T) {
	p, err := NewPipeline("fr", DefaultSteps())
	require.NoError(t, err)
	assert.Equal(t, "l equipage n etait pas la aujourd'hui", surfaces(p.Clean("L’équipage n'était pas là aujourd'hui")))
}

func TestBadStepsAreRefused(t *testing.T) {
	for _, steps := range [][]Step{
		{{ID: "polish"}}, {{ID: "markup"}, {ID: "markup"}}, {{ID: "links", Mode: "hide"}},
		{{ID: "replace", Rules: []Replacement{{Find: "(", Regex: true}}}}, {{ID: "replace", Rules: []Replacement{{Find: "x*", Regex: true}}}},
		{{ID: "replace", Rules: []Replacement{{Find: ""}}}}, {{ID: "letters", Letters: map[string]string{"ab": "c"}}},
	} {
		_, err := NewPipeline("en", steps)
		assert.ErrorIs(t, err, ErrStep, "%v", steps)
	}
}

func TestWordsAndSentences(t *testing.T) {
	p := pipeline(t, DefaultSteps()...)
	for in, want := range map[string]string{
		"Staff were not friendly. The car-deck crew, however, were kind and helpful! Queue? Long queues.": "staff were not friendly | the car deck crew however were kind and helpful | queue | long queues",
		"rude.Food cold":                     "rude | food cold",
		"waited 3.5 hrs at approx. 10 a.m. ": "waited 3.5 hrs at approx 10 a m",
		"Mr. Smith said no. Then no. 4 came": "mr smith said no | then no 4 came",
		"So did I. It rained":                "so did i | it rained",
		"late (again!) and “cold.” Never":    "late again | and cold | never",
		"one<br>two\nthree":                  "one | two | three",
		"£20 is 50% more 😀 x_y":              "£ 20 is 50 % more 😀 x y",
		"the passengers' car":                "the passengers car",
		"well... maybe":                      "well | maybe",
	} {
		assert.Equal(t, want, sentences(p.Clean(in)), in)
	}
}

func TestPlacesInTheOriginal(t *testing.T) {
	p := pipeline(t, DefaultSteps()...)
	in := "<p>We didn’t like the caf&eacute; on deck2</p>"
	var got []string
	for _, w := range p.Clean(in).Words {
		got = append(got, w.Surface+"="+in[w.Start:w.End])
	}
	assert.Equal(t, []string{"we=We", "did=didn’t", "not=didn’t", "like=like", "the=the", "cafe=caf&eacute;", "on=on", "deck=deck", "2=2"}, got)
	c := p.Clean("Café isn't")
	assert.Equal(t, "café", c.Words[0].Spelling)
	assert.Equal(t, []Mark{{3, 5, "e"}, {6, 11, "is not"}}, c.Marks())
}

func TestStatuses(t *testing.T) {
	p := pipeline(t, DefaultSteps()...)
	n := NewNoAnswers(p, DefaultNoAnswers("en"))
	for in, want := range map[string]Status{"  \n": Missing, "???": Empty, "-": Empty, "N/A.": NoAnswer, "no comment!!": NoAnswer, "Nothing!!": Answered, "don't know": Answered, "": Missing} {
		assert.Equal(t, want, n.Status(in, p.Clean(in).Words), in)
	}
}

// anySteps draws any set of steps in any order.
func anySteps(t *rapid.T) []Step {
	ids := rapid.Permutation(StepIDs).Draw(t, "order")
	ids = ids[:rapid.IntRange(0, len(ids)).Draw(t, "steps")]
	var steps []Step
	for _, id := range ids {
		s := Step{ID: id}
		switch id {
		case "replace":
			s.Rules = []Replacement{{Find: "'", With: ""}, {Find: "a.b", With: "x y z", Regex: true}, {Find: "the", With: "le la"}}
		case "letters":
			s.Letters = map[string]string{"q": "é", "é": "k"}
		case "links":
			s.Phones = rapid.Bool().Draw(t, "phones")
		case "emoji":
			s.Mode = "drop"
		}
		steps = append(steps, s)
	}
	return steps
}

// checkMap holds the promise of the map: words in order, inside the original, on rune boundaries, apart unless they
// share their whole place; and the marks, carried out on the original, give the reading.
func checkMap(t require.TestingT, in string, c Cleaned) {
	for i, w := range c.Words {
		require.True(t, 0 <= w.Start && w.Start < w.End && w.End <= len(in), "%+v lies outside %q", w, in)
		require.NotEmpty(t, w.Surface)
		require.True(t, utf8.RuneStart(in[w.Start]) && (w.End == len(in) || utf8.RuneStart(in[w.End])) || !utf8.ValidString(in), "%+v cuts a rune of %q", w, in)
		if i > 0 {
			before := c.Words[i-1]
			same := before.Start == w.Start && before.End == w.End
			require.True(t, same || before.End <= w.Start, "%+v overlaps %+v in %q", before, w, in)
			require.True(t, w.Sentence == before.Sentence || w.Sentence == before.Sentence+1)
		}
	}
	var b strings.Builder
	at := 0
	for _, m := range c.Marks() {
		require.True(t, at <= m.Start && m.Start <= m.End && m.End <= len(in))
		b.WriteString(in[at:m.Start])
		b.WriteString(m.With)
		at = m.End
	}
	b.WriteString(in[at:])
	require.Equal(t, c.Text, b.String(), "marks of %q", in)
}

var awkward = []string{"<p>", "</p>", "&amp;", "&nbsp;", "didn't", "didn’t", "a.b", "https://x.example", "bus42", "soooo",
	"é", "e\u0301", "👍🏽", " ", "\n", ". ", "…", "£", "50%", "'s", "the", "\xff", "<", "-", "ß", "İ", "q", "1.5", "_"}

func TestMapToTheOriginal(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		steps := anySteps(t)
		p, err := NewPipeline(rapid.SampledFrom([]string{"en", "fr", "de"}).Draw(t, "language"), steps)
		require.NoError(t, err)
		parts := rapid.SliceOfN(rapid.OneOf(rapid.SampledFrom(awkward), rapid.StringN(0, 6, -1)), 0, 12).Draw(t, "parts")
		in := strings.Join(parts, "")
		checkMap(t, in, p.Clean(in))
	})
}

func FuzzClean(f *testing.F) {
	for _, s := range awkward {
		f.Add(s + " x " + s)
	}
	p := pipeline(f, DefaultSteps()...)
	f.Fuzz(func(t *testing.T, in string) { checkMap(t, in, p.Clean(in)) })
}

func BenchmarkClean(b *testing.B) {
	p := pipeline(b, DefaultSteps()...)
	in := "We didn't mind the delay but nobody could say why the boat was late, and the café on deck 2 had run out of tea again."
	b.SetBytes(int64(len(in)))
	for b.Loop() {
		p.Clean(in)
	}
}
