package text

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/clipperhouse/uax29/v2/words"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"aftermath/core/oneof/oneoftest"
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

// sentences joins the words of each sentence, sentences separated by a bar.
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
		{Step{MarkupStep{}}, "<p>We waited</p>price < 20 &amp; caf&eacute;", "\nWe waited\nprice < 20 & café"},
		{Step{MarkupStep{}}, "a<br/>b<b class='x>y'>c</b> <3 <script>var a = '<p>'</script>d <!-- no -->e", "a\nbc <3 \nd e"},
		{Step{MarkupStep{}}, "tea&nbsp;was &amp;nbsp;cold R&B AT&T fish&chips &#39;x&#39;", "tea\u00a0was \u00a0cold R&B AT&T fish&chips 'x'"},
		{Step{MarkupStep{}}, "if <b and then <c> it", "if <b and then  it"},
		{Step{LinksStep{}}, "see https://pics.example/a.jpg, or mail me.x@larkmoor.example. Ok", "see  , or mail  . Ok"},
		{Step{LinksStep{Mode: "mask", Phones: true}}, "call 01632 960123 or www.larkmoor.example/x!", "call ••• or •••!"},
		{Step{LinksStep{}}, "It was rude.Food was cold", "It was rude.Food was cold"},
		{Step{TypographyStep{}}, "“it’s”\u00a0late – e\u0301tape… so\u00adft", "\"it's\" late - étape... soft"},
		{Step{ReplaceStep{Rules: []Replacement{{Find: `\[ref \d+\] ?`, Regex: true}, {Find: "The Boat", With: "ferry"}, {Find: "ferry", With: "ship"}}}},
			"[ref 12] the boat, the boats", "ship, the boats"},
		{Step{ReplaceStep{Rules: []Replacement{{Find: `(\d+)min`, With: "$1 minutes", Regex: true}}}}, "10min late", "10 minutes late"},
		{Step{LettersStep{Letters: map[string]string{"ё": "е"}}}, "Ёлка и ёж", "Елка и еж"},
		{Step{ContractionsStep{}}, "It's the crew's job, they didn't; DON'T, wont dont I'd let's can't", "It is the crew job, they did not; DO NOT, wont do not I'd let us can not"},
		{Step{AccentsStep{}}, "Café naïve Straße øl йод", "Cafe naive Strasse ol йод"},
		{Step{GluedStep{}}, "bus42 at 10am, the 2nd deck7b 4G", "bus 42 at 10am, the 2nd deck 7 b 4G"},
		{Step{GluedStep{}}, "V8 B12 PB2 a4 USB3 10oz 3lb 5yrs at5", "V8 B12 PB2 a4 USB 3 10oz 3lb 5yrs at 5"},
		{Step{TypographyStep{}}, "oﬃce ﬁne １２ＡＢ！ ｔea", "office fine 12AB! tea"},
		{Step{LinksStep{}}, "Larkmoor.com was slow, see larkmoor.com/help and pics.example/a", "Larkmoor.com was slow, see   and  "},
		{Step{LinksStep{Bare: true}}, "larkmoor.com, larkmoor.co.uk and x-y.shop were slow.late and rude.Food e.g. 3.5", " ,   and   were slow.late and rude.Food e.g. 3.5"},
		{Step{RepeatsStep{}}, "Sooooo SLOooow 1000 off!!!!", "Soo SLOow 1000 off!!!!"},
		{Step{NumbersStep{}}, "12 cars at 3.50 each, A1 1,000", " cars at  each, A1 "},
		{Step{EmojiStep{Mode: "drop"}}, "great 👍🏽 trip", "great  trip"},
	} {
		got := pipeline(t, c.step).Clean(c.in)
		assert.Equal(t, c.text, got.Text, "%s of %q", c.step.Kind(), c.in)
		assert.Equal(t, c.in != c.text, got.Touched == 1, "%s of %q: touched", c.step.Kind(), c.in)
	}
}

// A replacement that names a group which is not there would put nothing in its place: it is refused, with what to write.
func TestReplacementsNameGroupsThatAreThere(t *testing.T) {
	for with, want := range map[string]string{
		"$1TEA": `sign 1 names the group "1TEA", which is not there; write ${1}TEA`, "x $2": "sign 3 names a group that is not there; the expression has 1",
		"${name}": "not there", "${1}TEA": "", "$1": "", "$$5": "", "no $ at all": "",
	} {
		_, err := NewPipeline("en", []Step{{ReplaceStep{Rules: []Replacement{{Find: "(a)b", With: with, Regex: true}}}}})
		if want == "" {
			assert.NoError(t, err, with)
		} else {
			assert.ErrorContains(t, err, want)
		}
	}
}

// Mends of left-overs change what is one, and nothing that somebody wrote.
func TestMendsOfLeftovers(t *testing.T) {
	mended := func(in string) string {
		var rules []Replacement
		for _, l := range Leftovers("en") {
			rules = append(rules, l.Mend)
		}
		return pipeline(t, Step{ReplaceStep{Rules: rules}}).Clean(in).Text
	}
	for _, same := range []string{
		"LT.", "Lt. Blender", "not a amp different", "they re-filled it", "re-filled", "an I D card", "we re-open", "gt cars", "I M F", "a div.", "can't",
	} {
		assert.Equal(t, same, mended(same))
	}
	for in, want := range map[string]string{
		"& amp ; tea": "  tea", "nbsp; late": "  late", "slow< br >again": "slow again", "don t know": "don't know", "they re late": "they're late", "I m.": "I'm.", "didn ’ t": "didn't",
	} {
		assert.Equal(t, want, mended(in), in)
	}
}

func TestElisions(t *testing.T) {
	p, err := NewPipeline("fr", DefaultSteps())
	require.NoError(t, err)
	assert.Equal(t, "l equipage n etait pas la aujourd'hui", surfaces(p.Clean("L’équipage n'était pas là aujourd'hui")))
}

// hazards writes what an inspector finds: "first>second", with a "!" where the second comes too late for the first.
func hazards(t *testing.T, in string, steps ...Step) (out []string) {
	i, err := NewInspector("en", steps)
	require.NoError(t, err)
	var c Cleaned
	for _, h := range i.Inspect(in, &c) {
		out = append(out, fmt.Sprint(steps[h.First].Kind(), ">", steps[h.Second].Kind(), strings.Repeat("!", map[bool]int{true: 1}[h.Late])))
	}
	return out
}

func TestHazardsOfTheOrderOfSteps(t *testing.T) {
	find := func(find, with string) Step {
		return Step{ReplaceStep{Rules: []Replacement{{Find: find, With: with, Regex: true}}}}
	}
	contractions, typography, markup := Step{ContractionsStep{}}, Step{TypographyStep{}}, Step{MarkupStep{}}
	accents, letters := Step{AccentsStep{}}, Step{LettersStep{map[string]string{"é": "i"}}}
	for _, c := range []struct {
		in    string
		steps []Step
		want  []string
	}{
		{"I can't go", []Step{find("'", " "), contractions}, []string{"replace>contractions"}},
		{"I can't go", []Step{contractions, find("'", " ")}, nil},
		{"they didn't", []Step{find("'", ""), contractions}, nil}, // "didnt" is written out all the same
		{"I can’t go", []Step{contractions, typography}, []string{"contractions>typography!"}},
		{"I can’t go", []Step{contractions, typography, find("'", " ")}, []string{"contractions>typography!"}},
		{"I can&#39;t go", []Step{contractions, markup}, []string{"contractions>markup!"}},
		{"I can't go", []Step{contractions, find("can't", "won't")}, []string{"contractions>replace"}},
		{"[re: it's 12] late", []Step{find(`\[re.*\]`, ""), contractions, {NumbersStep{}}}, nil}, // taken out on purpose
		{"café", []Step{accents, letters}, []string{"accents>letters"}},
		{"café", []Step{letters, accents}, nil},
	} {
		assert.Equal(t, c.want, hazards(t, c.in, c.steps...), "%q", c.in)
	}
	rapid.Check(t, func(rt *rapid.T) {
		parts := rapid.SliceOfN(rapid.SampledFrom(awkward), 0, 12).Draw(rt, "parts")
		assert.Empty(rt, hazards(t, strings.Join(parts, " "), DefaultSteps()...), "the usual order spoils nothing")
	})
}

func TestTraceTellsWhatEachStepDid(t *testing.T) {
	p := pipeline(t, DefaultSteps()...)
	in := "<p>We didn’t see https://x.example</p>"
	c, stages := p.Trace(in)
	assert.Equal(t, p.Clean(in).Words, c.Words)
	for i, want := range map[int][]Mark{0: {{0, 3, "\n"}, {36, 40, "\n"}}, 1: {{19, 36, " "}}, 2: {{10, 13, "'"}}, 3: {{6, 14, "did not"}}, 4: {}} {
		assert.Equal(t, want, stages[i].Edits, stages[i].Step.Kind())
	}
	assert.Equal(t, []int{2, 3}, StepsOf(Mark{6, 14, "did not"}, stages))
}

func TestDivisions(t *testing.T) {
	for _, c := range []struct {
		d    Division
		in   string
		want []string
	}{
		{Division{By: "paragraph"}, "one\ntwo\n\n \r\n three ", []string{"one\ntwo", "three"}},
		{Division{By: "paragraph"}, "<p>one</p><P class='x'>two<br>more</P> three<br /><br>four", []string{"one", "two\nmore", "three", "four"}},
		{Division{By: "line"}, "one\r\n\ntwo", []string{"one", "two"}},
		{Division{By: "line"}, "one<br/>two <b>bold</b>", []string{"one", "two <b>bold</b>"}},
		{Division{By: "sentence"}, "It was late! “Never again.” Mr. Smith said so.Rude too", []string{"It was late!", "“Never again.”", "Mr. Smith said so.", "Rude too"}},
		{Division{By: "parts", N: 2}, "a b c d e", []string{"a b", "c d e"}},
		{Division{By: "parts", N: 4}, "a b", []string{"a", "b"}},
		{Division{By: "delimiter", At: "***"}, "one *** two***", []string{"one", "two"}},
		{Division{By: "pattern", At: `-{3,}`}, "one --- two ----- three", []string{"one", "two", "three"}},
		{Division{By: "line"}, " \n ", nil},
	} {
		divide, err := NewDivider(c.d)
		require.NoError(t, err)
		assert.Equal(t, c.want, divide(c.in), "%+v", c.d)
	}
	for _, d := range []Division{{By: "chapter"}, {By: "parts", N: 1}, {By: "delimiter"}, {By: "pattern", At: "("}, {By: "pattern", At: "x*"}} {
		_, err := NewDivider(d)
		assert.ErrorIs(t, err, ErrDivision)
	}
	// Nothing but white space, and tags that break lines, is lost, whatever the text.
	bare := func(s string) string { return strings.Join(strings.Fields(broken(s, false)), "") }
	rapid.Check(t, func(t *rapid.T) {
		in := strings.Join(rapid.SliceOfN(rapid.SampledFrom(awkward), 0, 20).Draw(t, "parts"), "")
		for _, d := range []Division{{By: "paragraph"}, {By: "line"}, {By: "sentence"}, {By: "parts", N: 3}} {
			divide, err := NewDivider(d)
			require.NoError(t, err)
			require.Equal(t, bare(in), bare(strings.Join(divide(in), "")), "%+v", d)
		}
	})
}

// Words of ASCII text are found by a shorter way; it finds what the segmenter finds, also where the two are mixed.
func TestWordsAgainstTheSegmenter(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := rapid.StringOfN(rapid.SampledFrom([]rune("ab1 2'.,;:_-%$\"\n\r\t&@A")), 0, 30, -1).Draw(t, "plain")
		require.Equal(t, allPieces(nil, s), asciiPieces(nil, s), "%q", s)
		s = rapid.StringOfN(rapid.SampledFrom([]rune("a1  '.,_%$\n£é’…\u0301\u200d\u00adא👍🏽🇫🇷カ๐")), 0, 30, -1).Draw(t, "mixed")
		require.Equal(t, allPieces(nil, s), appendWords(nil, s), "%q", s)
	})
}

func TestMailAddressesAgainstTheExpression(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := rapid.StringOfN(rapid.SampledFrom([]rune("ab1@@@..-_%+ é")), 0, 24, -1).Draw(t, "text")
		require.Equal(t, mailAddress.FindAllStringIndex(s, -1), mailAddresses(s), "%q", s)
	})
}

// The segmenter without our tailoring agrees with Unicode's own test of word boundaries.
func TestUnicodeWordBreaks(t *testing.T) {
	data, err := os.ReadFile("testdata/WordBreakTest.txt")
	require.NoError(t, err)
	tested := 0
	for line := range strings.SplitSeq(string(data), "\n") {
		line, _, _ = strings.Cut(line, "#")
		if line = strings.TrimSpace(line); line == "" {
			continue
		}
		var want []string
		for _, sign := range strings.Fields(line) {
			switch sign {
			case "÷":
				want = append(want, "")
			case "×":
			default:
				code, err := strconv.ParseInt(sign, 16, 32)
				require.NoError(t, err)
				want[len(want)-1] += string(rune(code))
			}
		}
		want = want[:len(want)-1] // the last boundary is the end
		var got []string
		for it := words.FromString(strings.Join(want, "")); it.Next(); {
			got = append(got, it.Value())
		}
		require.Equal(t, want, got, line)
		tested++
	}
	require.Greater(t, tested, 1000)
}

func TestBadStepsAreRefused(t *testing.T) {
	for _, steps := range [][]Step{
		{{}}, {{MarkupStep{}}, {MarkupStep{}}}, {{LinksStep{Mode: "hide"}}},
		{{ReplaceStep{Rules: []Replacement{{Find: "(", Regex: true}}}}}, {{ReplaceStep{Rules: []Replacement{{Find: "x*", Regex: true}}}}},
		{{ReplaceStep{Rules: []Replacement{{Find: ""}}}}}, {{LettersStep{Letters: map[string]string{"ab": "c"}}}},
	} {
		_, err := NewPipeline("en", steps)
		assert.ErrorIs(t, err, ErrStep, "%v", steps)
	}
	for data, says := range map[string]string{
		`{"step":"polish"}`:                             `no cleaning step "polish"`,
		`{"step":"markup","mode":"mask"}`:               `the cleaning step "markup" has no "mode"`,
		`{"step":"replace","rules":[{"finds":"a"}]}`:    `"finds"`,
		`{"step":"links","mode":"mask","phones":"yes"}`: `the cleaning step "links" can't be read`,
	} {
		var s Step
		err := json.Unmarshal([]byte(data), &s)
		require.ErrorIs(t, err, ErrStep)
		assert.ErrorContains(t, err, says)
	}
}

func TestKindsOfSteps(t *testing.T) { oneoftest.Complete(t, StepKinds) }

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
	assert.Equal(
		t, []string{"we=We", "did=didn’t", "not=didn’t", "like=like", "the=the", "cafe=caf&eacute;", "on=on", "deck=deck", "2=2"},
		got,
	)
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
	kinds := rapid.Permutation(StepKinds).Draw(t, "order")
	kinds = kinds[:rapid.IntRange(0, len(kinds)).Draw(t, "steps")]
	var steps []Step
	for _, kind := range kinds {
		steps = append(steps, setStep(kind, rapid.Bool().Draw(t, "phones")))
	}
	return steps
}

// checkMap holds the promise of the map: words in order, inside the original, on rune boundaries, apart unless they
// share their whole place; and the marks, carried out on the original, give the reading.
func checkMap(t require.TestingT, in string, c Cleaned) {
	for i, w := range c.Words {
		require.True(t, 0 <= w.Start && w.Start < w.End && w.End <= len(in), "%+v lies outside %q", w, in)
		require.NotEmpty(t, w.Surface)
		require.True(
			t, utf8.RuneStart(in[w.Start]) && (w.End == len(in) || utf8.RuneStart(in[w.End])) || !utf8.ValidString(in),
			"%+v cuts a rune of %q", w, in,
		)
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

// Any bytes, any steps, any order: the map holds, tracing tells the same story, and looking for hazards finds its way.
func FuzzClean(f *testing.F) {
	for i, s := range awkward {
		f.Add(s+" x "+s, uint64(0))
		f.Add(s+" x "+s, uint64(i)*7919+1)
	}
	f.Fuzz(func(t *testing.T, in string, order uint64) {
		p := pipeline(t, stepsOf(order)...)
		c := p.Clean(in)
		checkMap(t, in, c)
		traced, stages := p.Trace(in)
		require.Equal(t, c.Words, traced.Words)
		require.Equal(t, c.Touched, traced.Touched)
		for _, m := range c.Marks() {
			if m.Start < m.End || m.With != "" {
				require.NotEmpty(t, StepsOf(m, stages), "nobody made the mark %+v of %q", m, in)
			}
		}
		i, err := NewInspector("en", stepsOf(order))
		require.NoError(t, err)
		i.Inspect(in, &c)
		NewMasker(nil).Mask(in)
	})
}

// stepsOf makes steps in an order of their own of a number; 0 gives the default ones.
func stepsOf(order uint64) []Step {
	if order == 0 {
		return DefaultSteps()
	}
	r := rand.New(rand.NewPCG(order, 1))
	var steps []Step
	for _, i := range r.Perm(len(StepKinds))[:r.IntN(len(StepKinds)+1)] {
		steps = append(steps, setStep(StepKinds[i], r.IntN(2) == 0))
	}
	return steps
}

// setStep gives a step with settings that do something.
func setStep(kind StepKind, phones bool) Step {
	switch kind.(type) {
	case ReplaceStep:
		kind = ReplaceStep{[]Replacement{{Find: "'", With: ""}, {Find: "a.b", With: "x y z", Regex: true}, {Find: "the", With: "le la"}}}
	case LettersStep:
		kind = LettersStep{map[string]string{"q": "é", "é": "k"}}
	case LinksStep:
		kind = LinksStep{Phones: phones}
	case EmojiStep:
		kind = EmojiStep{Mode: "drop"}
	}
	return Step{kind}
}

func BenchmarkClean(b *testing.B) {
	p := pipeline(b, DefaultSteps()...)
	in := "We didn't mind the delay but nobody could say why the boat was late, and the café on deck 2 had run out of tea again."
	b.SetBytes(int64(len(in)))
	for b.Loop() {
		p.Clean(in)
	}
}

// Letters are swapped all at once: what one swap makes, another does not change, and so the order does not matter.
func TestLetterSwapsDoNotFeedEachOther(t *testing.T) {
	p, err := NewPipeline("en", []Step{{LettersStep{Letters: map[string]string{"x": "y", "y": "z", "z": "x"}}}})
	require.NoError(t, err)
	for range 20 {
		require.Equal(t, "yzx", surfaces(p.Clean("xyz")))
	}
	_, err = NewPipeline("en", slices.Repeat([]Step{{RepeatsStep{}}}, MaxSteps+1))
	assert.ErrorIs(t, err, ErrStep, "a step that would not be applied is refused")
}

// What begins like a tag and never ends is text or is taken out, but never holds up what comes after it.
func TestTagsThatNeverClose(t *testing.T) {
	p, err := NewPipeline("en", []Step{{MarkupStep{}}})
	require.NoError(t, err)
	for _, sign := range []string{"<b>", "&amp;", "</p>", "<br/>"} {
		assert.Equal(t, "late boat", surfaces(p.Clean("late "+strings.Repeat(sign, 20000)+" boat")), sign)
	}
	assert.Equal(t, "late boat", surfaces(p.Clean("late <script>rude crew</script> <!-- cold tea --> boat")))
	for _, sign := range []string{"<script>", "<!--", "<!a", "<a b='"} {
		c := p.Clean("late " + strings.Repeat(sign, 20000))
		require.Equal(t, "late", c.Words[0].Surface, sign)
	}
}

func ExamplePipeline() {
	p, _ := NewPipeline("en", []Step{{MarkupStep{}}, {RepeatsStep{}}, {NumbersStep{}}})
	original := "<b>Sooooo</b> late, 40 minutes!"
	for _, w := range p.Clean(original).Words {
		fmt.Printf("%s: %s\n", w.Surface, original[w.Start:w.End])
	}
	// Output:
	// soo: Sooooo
	// late: late
	// minutes: minutes
}

// A time of day in figures is one word; what only looks like one is parted as the standard has it.
func TestTimesAreWords(t *testing.T) {
	p, err := NewPipeline("en", DefaultSteps())
	require.NoError(t, err)
	for said, want := range map[string][]string{
		"the 07:15 left":     {"the", "07:15", "left"},
		"at 7:30pm, 9:05 AM": {"at", "7:30pm", "9:05", "am"},
		"score 10:1":         {"score", "10", "1"},
		"12:345":             {"12", "345"},
		"123:45":             {"123", "45"},
		"food:cold 7 : 30":   {"food", "cold", "7", "30"},
		"é 07:15":            {"e", "07:15"},
	} {
		assert.Equal(t, want, p.Surfaces(said), said)
	}
	words := p.Clean("é at 07:15!").Words
	assert.Equal(t, [2]int{6, 11}, [2]int{words[2].Start, words[2].End})
}
