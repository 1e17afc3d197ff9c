package text

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/nyaruka/phonenumbers"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// form is a text with personal data that it was made with, or without any.
type form struct {
	text, data string
	kind       PersonalKind
}

// forms are personal data as people of twelve countries write it, and what only looks like it.
func forms() (with []form, without []string) {
	r := rand.New(rand.NewPCG(7, 7))
	around := []string{"you can reach me on %s after six", "%s", "my number: %s", "Nobody rang back (%s).", "Email or %s, please!", "the crew took %s and never wrote"}
	add := func(kind PersonalKind, data string) {
		with = append(with, form{fmt.Sprintf(around[len(with)%len(around)], data), data, kind})
	}
	digit := func() string { return fmt.Sprint(r.IntN(10)) }
	digits := func(n int) (s string) {
		for range n {
			s += digit()
		}
		return s
	}
	for _, region := range []string{"GB", "IE", "US", "CA", "AU", "DE", "AT", "FR", "ES", "IT", "NL", "PT"} {
		for _, kind := range []phonenumbers.PhoneNumberType{phonenumbers.FIXED_LINE, phonenumbers.MOBILE} {
			example := phonenumbers.GetExampleNumberForType(region, kind)
			for made := 0; made < 6; {
				text := phonenumbers.Format(example, phonenumbers.E164)
				n, err := phonenumbers.Parse(text[:len(text)-4]+digits(4), region)
				if err != nil || !phonenumbers.IsValidNumber(n) {
					continue
				}
				made++
				national, abroad := phonenumbers.Format(n, phonenumbers.NATIONAL), phonenumbers.Format(n, phonenumbers.INTERNATIONAL)
				switch made {
				case 1:
					add(PhoneNumber, abroad)
				case 2:
					add(PhoneNumber, phonenumbers.Format(n, phonenumbers.E164))
				case 3:
					add(PhoneNumber, national)
				case 4:
					add(PhoneNumber, "00"+strings.TrimPrefix(abroad, "+"))
				case 5:
					add(PhoneNumber, strings.ReplaceAll(abroad, " ", "-"))
				case 6:
					add(PhoneNumber, strings.ReplaceAll(national, " ", "\u00a0"))
				}
			}
		}
	}
	for range 30 {
		add(MailAddress, fmt.Sprintf("%s.%s@%s.%s", []string{"ann", "Ben", "c", "dora_e"}[r.IntN(4)], []string{"ash", "o-elm", "birch7"}[r.IntN(3)],
			[]string{"mail", "post.larkmoor", "x-y"}[r.IntN(3)], []string{"example", "org", "co.uk"}[r.IntN(3)]))
		add(CardNumber, card(r, digits))
		add(BankAccount, iban(r, digits))
	}
	for range 12 {
		add(Postcode, fmt.Sprintf("%s%d %d%s", []string{"LS", "B", "SW", "ZE", "N"}[r.IntN(5)], 1+r.IntN(9), r.IntN(10), []string{"AB", "JH", "QE", "WX"}[r.IntN(4)]))
		add(Postcode, fmt.Sprintf("K%dA %dB%d", r.IntN(10), r.IntN(10), r.IntN(10)))
		add(Postcode, fmt.Sprintf("D-%05d", 10_000+r.IntN(80_000)))
		add(Postcode, fmt.Sprintf("%04d %s", 1000+r.IntN(8999), []string{"AB", "KL", "XZ"}[r.IntN(3)]))
		add(Postcode, fmt.Sprintf("%05d-%04d", r.IntN(99_999), r.IntN(9999)))
		add(ProfileLink, "https://pages.example/in/"+[]string{"ann-ash", "ben.birch", "dora_elm"}[r.IntN(3)])
		add(ProfileLink, "www.larkmoor.example/@"+[]string{"annash", "benbirch", "dora"}[r.IntN(3)])
	}
	never := func(format string, args ...any) { without = append(without, fmt.Sprintf(format, args...)) }
	for range 20 {
		never("sailed on %02d/%02d/%d at %02d:%02d", 1+r.IntN(28), 1+r.IntN(12), 2019+r.IntN(8), r.IntN(24), r.IntN(60))
		never("since %d-%02d-%02d %02d:%02d it is late", 2019+r.IntN(8), 1+r.IntN(12), 1+r.IntN(28), r.IntN(24), r.IntN(60))
		never("%02d.%02d.%d was the worst", 1+r.IntN(28), 1+r.IntN(12), 2019+r.IntN(8))
		never("paid £%d,%03d.%02d for it", 1+r.IntN(9), r.IntN(1000), r.IntN(100))
		never("it cost %d.%02d and then %d.%02d EUR", r.IntN(900), r.IntN(100), r.IntN(900), r.IntN(100))
		never("order %08d never came", r.IntN(99_999_999))
		never("booking ref. 0%09d was lost", r.IntN(999_999_999))
		never("an order of %d x %d x %d mm", 100+r.IntN(900), 100+r.IntN(900), 10+r.IntN(90))
		never("the years %d-%d were good", 1990+r.IntN(10), 2005+r.IntN(15))
		never("%d %03d passengers a year", 100+r.IntN(800), r.IntN(1000))
		never("ISBN %s", isbn(r, digits))
		never("version %d.%d.%d.%d of the app", r.IntN(20), r.IntN(20), r.IntN(200), r.IntN(200))
		never("scored %d/%d, %d%% and %d out of 10", r.IntN(10), 10, r.IntN(100), r.IntN(10))
		never("seat %d%c, gate V%d, deck B%d", 1+r.IntN(40), 'A'+r.IntN(6), r.IntN(12), r.IntN(12))
		never("at %02d:%02d, %02d:%02d and %02d:%02d", r.IntN(24), r.IntN(60), r.IntN(24), r.IntN(60), r.IntN(24), r.IntN(60))
		never("%d GB, %dW, %d mph and %d000 steps", r.IntN(500), r.IntN(3000), r.IntN(90), 1+r.IntN(20))
	}
	return with, without
}

func card(r *rand.Rand, digits func(int) string) string {
	for {
		bare := []string{"4" + digits(15), "5" + fmt.Sprint(1+r.IntN(5)) + digits(14), "37" + digits(13)}[r.IntN(3)]
		sum := 0
		for i := range bare { // the rule of the check digit, from the left
			d := int(bare[i] - '0')
			if (len(bare)-i)%2 == 0 {
				d = d*2/10 + d*2%10
			}
			sum += d
		}
		if sum%10 != 0 {
			continue
		}
		if len(bare) == 15 {
			return bare[:4] + " " + bare[4:10] + " " + bare[10:]
		}
		return []string{bare, bare[:4] + " " + bare[4:8] + " " + bare[8:12] + " " + bare[12:], bare[:4] + "-" + bare[4:8] + "-" + bare[8:12] + "-" + bare[12:]}[r.IntN(3)]
	}
}

func iban(r *rand.Rand, digits func(int) string) string {
	country, account := "DE", digits(18)
	if r.IntN(2) == 0 {
		country, account = "GB", "LARK"+digits(14)
	}
	rest := 0
	for _, c := range account + country + "00" {
		if c >= 'A' {
			rest = (rest*100 + int(c-'A') + 10) % 97
		} else {
			rest = (rest*10 + int(c-'0')) % 97
		}
	}
	whole := fmt.Sprintf("%s%02d%s", country, 98-rest, account)
	if r.IntN(2) == 0 {
		return whole
	}
	var groups []string
	for i := 0; i < len(whole); i += 4 {
		groups = append(groups, whole[i:min(i+4, len(whole))])
	}
	return strings.Join(groups, " ")
}

func isbn(r *rand.Rand, digits func(int) string) string {
	bare := "978" + digits(9)
	sum := 0
	for i, c := range bare {
		sum += int(c-'0') * (1 + 2*(i%2))
	}
	bare += fmt.Sprint((10 - sum%10) % 10)
	return []string{bare, bare[:3] + "-" + bare[3:4] + "-" + bare[4:7] + "-" + bare[7:12] + "-" + bare[12:]}[r.IntN(2)]
}

// Of what people write, at least 97 in 100 are found whole, as what they are; of what is found, at least 97 in 100 are
// personal data.
func TestPersonalDataIsFound(t *testing.T) {
	with, without := forms()
	require.Greater(t, len(with)+len(without), 400)
	found, right := map[PersonalKind]int{}, map[PersonalKind]int{}
	made := map[PersonalKind]int{}
	for _, f := range with {
		made[f.kind]++
		for _, p := range NewMasker(nil).Find(f.text) {
			found[p.Kind]++
			if p.Kind == f.kind && f.text[p.Start:p.End] == f.data {
				right[p.Kind]++
			} else {
				t.Logf("%s: found %q as %s, made as %q", f.text, f.text[p.Start:p.End], PersonalKinds[p.Kind], f.data)
			}
		}
		if !strings.Contains(f.text, f.data) || NewMasker(nil).Mask(f.text) == f.text {
			t.Logf("not found: %s (%s)", f.text, PersonalKinds[f.kind])
		}
	}
	for _, s := range without {
		for _, p := range NewMasker(nil).Find(s) {
			found[p.Kind]++
			t.Logf("%s: found %q as %s", s, s[p.Start:p.End], PersonalKinds[p.Kind])
		}
	}
	for kind, n := range made {
		assert.GreaterOrEqual(t, float64(right[kind]), 0.97*float64(n), "recall of %s: %d of %d", PersonalKinds[kind], right[kind], n)
		assert.GreaterOrEqual(t, float64(right[kind]), 0.97*float64(found[kind]), "precision of %s: %d of %d", PersonalKinds[kind], right[kind], found[kind])
	}
}

func TestMasking(t *testing.T) {
	for in, want := range map[string]string{
		"mail me.x@larkmoor.example or 01632 960123.": "mail ••• or •••.", "+44 (0)1632 960123": "•••", "booked 2026-03-14, 3 of 10": "booked 2026-03-14, 3 of 10",
		"a@b": "a@b", "0300 555 0188 / 0300 555 0199": "••• / •••", "on 12/03/2026 0300 555 0188 rang": "on 12/03/2026 ••• rang", "call 123456": "call 123456",
		"tel 123 456": "tel •••", "(0300) 555 0188": "•••", "0300&nbsp;555&nbsp;0188": "•••",
	} {
		assert.Equal(t, want, NewMasker(nil).Mask(in))
	}
	assert.Equal(t, "ring 0300 555 0188 or •••", NewMasker([]string{"0300555 0188"}).Mask("ring 0300 555 0188 or 0300 555 0199"))
}

// Stretches are in order, apart, and inside the text; what was looked at and passed over is found no more.
func TestPersonalDataIsMasked(t *testing.T) {
	words := rapid.SampledFrom([]string{"call ", "0300 555 0188", " ", "ann@mail.example", "<b>", "&#64;", "4111 1111 1111 1111", "LS1 4AB", ",", "12/03/2026", "+44 20 7946 0018", "é", "\n", "/", "-"})
	rapid.Check(t, func(t *rapid.T) {
		s := strings.Join(rapid.SliceOfN(words, 0, 10).Draw(t, "words"), ", ")
		m, at := NewMasker(nil), 0
		masked := m.Mask(s)
		for _, p := range m.Find(s) {
			require.LessOrEqual(t, at, p.Start)
			require.Less(t, p.Start, p.End)
			require.LessOrEqual(t, p.End, len(s))
			at = p.End
			for _, q := range NewMasker([]string{strings.ToUpper(s[p.Start:p.End])}).Find(s) {
				require.NotEqual(t, p, q)
			}
		}
		for _, data := range []string{"0300 555", "ann@", "4111", "LS1", "7946"} {
			require.NotContains(t, masked, data)
		}
	})
}

func BenchmarkFindPersonalData(b *testing.B) {
	answers := []string{
		"The queue at the pier was far too long and nobody told us why, so we left", "10/10 would sail again on 12/03/2026, gate 4",
		"Please call me on 0300 555 0188 about order 123456", "nothing",
	}
	m := NewMasker(nil)
	for i := 0; b.Loop(); i++ {
		m.Find(answers[i%len(answers)])
	}
}
